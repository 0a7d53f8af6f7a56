"""Pace and Guard as pages: what they show of a run, hang tests asked for fault by fault, schools compared with."""

from __future__ import annotations

import re
import unittest
from typing import Any

from tests.app.client import AppCase
from viva_tick.core.guard import FAULTS, faults_of
from viva_tick.demo import demo_bench
from viva_tick.web import hanging


class Pace(AppCase):
    def view(self, bench: int, **place: Any) -> Any:
        answer = self.client.get(f"/api/benches/{bench}/view", query_string=place)
        self.assertEqual(answer.status_code, 200)
        return answer.get_json()

    def change(self, bench: int, *patch: dict[str, Any], **place: Any) -> Any:
        body = {"base": self.head(bench)["revision"], "patch": list(patch), "place": place}
        answer = self.client.post(f"/api/benches/{bench}/edit", json=body, headers={"X-CSRFToken": self.token()})
        self.assertEqual(answer.status_code, 200, answer.get_json())
        return answer.get_json()

    def test_the_lanes_of_what_is_picked_come_first(self) -> None:
        for place, first in (
            ({"station": "pace", "picked": "report"}, ["loop", "job report"]),
            ({"station": "pace", "picked": "_pass"}, ["loop", "job report", "job gauge", "job rain-rate"]),
        ):
            lanes = [lane["id"] for lane in self.view(2, **place)["strip"]["lanes"]]
            self.assertEqual(lanes[: len(first)], first)
        lanes = [lane["id"] for lane in self.view(1, station="guard")["strip"]["lanes"]]
        self.assertEqual(lanes[:4], ["output focus-lamp", "output bath-heater", "loop", "watchdog"])

    def test_another_school_takes_the_ghosts_place(self) -> None:
        scenario = "Next sheet in a hurry"
        view = self.view(1, station="pace", picked="_schools", scenario=scenario, beside="delays")
        self.assertEqual(view["strip"]["beside"], "counter, against delays")
        self.assertNotEqual(view["strip"]["ghost"], view["strip"]["key"])
        plain = self.view(1, station="pace", picked="_schools", scenario=scenario, beside="nothing of the kind")
        self.assertNotIn("beside", plain["strip"])
        both = self.view(1, station="pace", picked="_schools", scenario=scenario, beside="kernel:delays")["strip"]
        self.assertEqual(both["ghost"], view["strip"]["ghost"])
        self.assertEqual(len({both["key"], both["ghost"], view["strip"]["key"]}), 3)
        # Kept so, the bench runs as the ghost did.
        kept = self.change(
            1,
            {"op": "replace", "path": "/firmware/school", "value": "delays"},
            station="pace",
            picked="_schools",
            scenario=scenario,
        )
        self.assertEqual(kept["strip"]["key"], view["strip"]["ghost"])

    def test_hang_tests_answer_fault_by_fault_and_are_forgotten_with_the_bench(self) -> None:
        place = {"station": "guard", "picked": "_hangs", "scenario": "One print"}
        page = self.view(1, **place)["fragments"]["editor"]
        self.assertEqual(page.count("not tried since the last edit"), len(faults_of(demo_bench("print-timer"))))
        query = {"scenario": "One print", "fault": "stuck", "of": ""}
        row = self.client.get("/api/benches/1/hangs", query_string=query).get_json()
        self.assertEqual((row["row"]["verdict"], row["row"]["recovered"]), ("reset", row["row"]["runs"]))
        self.assertIn("recovered by a reset", self.view(1, **place)["fragments"]["editor"])
        hanging._ROWS._values.clear()  # as another process has it
        self.assertIn("recovered by a reset", self.view(1, **place)["fragments"]["editor"])
        shown = self.view(1, **place, fault=re.search(r'data-fault="(stuck::\d+)"', row["html"])[1])  # type: ignore[index]
        self.assertEqual(shown["strip"]["ghost"], self.view(1, **place)["strip"]["key"])
        window = self.client.get(f"/api/runs/{shown['strip']['key']}/window?lane=watchdog&lane=output+focus-lamp")
        self.assertEqual(window.get_json()["lanes"]["watchdog"]["resets"][0][1], "watchdog")
        edited = self.change(1, {"op": "replace", "path": "/firmware/watchdog/timeout_us", "value": 500_000}, **place)
        self.assertNotIn("recovered by a reset", edited["fragments"]["editor"])

    def test_a_fault_that_cannot_be_is_a_sentence_or_nothing(self) -> None:
        for query in (
            {"fault": "stuck"},
            {"scenario": "One print", "fault": "worms"},
            {"scenario": "One print", "fault": "closed", "of": "no-one"},
        ):
            answer = self.client.get("/api/benches/1/hangs", query_string=query)
            self.assertEqual(answer.status_code, 404)
            self.assertIn("no such fault", answer.text)
        for fault in ("", "stuck", "stuck::x", "worms::5", "closed:no-one:5", "stuck::999999999999"):
            self.assertEqual(self.view(1, station="guard", picked="_hangs", fault=fault)["station"], "guard")

    def test_every_part_of_both_stations_shows_in_other_schools(self) -> None:
        schools = ("kernel", "delays")  # the third, on every bench, is in test_pages
        for bench, school in enumerate(schools, 1):
            self.change(bench, {"op": "replace", "path": "/firmware/school", "value": school})
            for station, parts in (
                ("pace", ("_pass", "_reach", "_schools", "_clock", "_serial")),
                ("guard", ("_watchdog", "_hangs", "_start", "_sleep")),
            ):
                for part in parts:
                    self.assertIn("<h1>", self.view(bench, station=station, picked=part)["fragments"]["editor"])
        self.assertEqual(len(FAULTS), 9)

    def test_nothing_typed_into_a_task_reaches_the_page_unescaped(self) -> None:
        name = "<img src=x onerror=alert(1)>"
        task = {"id": "evil", "name": name, "period_us": 100_000, "run_us": 500, "shares": name}
        for station in ("pace", "guard", "build"):
            view = self.change(
                1, {"op": "add", "path": "/firmware/tasks/-", "value": {**task, "id": f"e-{station}"}}, station=station
            )
            self.assertNotIn("<img", "".join(view["fragments"].values()))


if __name__ == "__main__":
    unittest.main()
