"""A scenario repeated from the screen: beside an edit and when asked, what is kept of it, a number's run on the strip."""

from __future__ import annotations

import json
import re
import unittest
from html import unescape
from typing import Any
from unittest.mock import patch

from tests.app.client import AppCase
from viva_tick.core.repeats import drawn, flips, repeat, varied
from viva_tick.core.study import study
from viva_tick.demo import demo_bench
from viva_tick.web.so_far import count, so_far
from viva_tick.web.turns import Left


class Repeating(AppCase):
    def setUp(self) -> None:
        super().setUp()
        self.bench = demo_bench("print-timer")
        self.scenario = self.bench.scenario("One print")

    def asked(self, **more: Any) -> tuple[str, int, int]:
        answer = self.client.get("/api/benches/1/repeat", query_string={"scenario": "One print", **more})
        self.assertEqual(answer.status_code, 200)
        said = answer.get_json()
        return unescape(said["html"]), said["runs"], said["from"]

    def sure(self) -> dict[str, Any]:
        said = self.client.get("/api/benches/1/sure?station=behave&scenario=One print").get_json()
        assert isinstance(said, dict)
        return said

    def test_stretches_are_counted_once_grow_together_and_are_forgotten_with_the_bench(self) -> None:
        whole = repeat(self.bench, self.scenario, range(100))
        self.asked(begin=50, end=100)
        self.asked(begin=0, end=50)
        shown, many, at = self.asked(begin=0, end=100)
        self.assertEqual((many, at), (100, 100))
        self.assertIn(f"{whole.rows['press foot-pedal'][1]} of 100", shown)
        with patch("viva_tick.web.so_far.repeat", side_effect=AssertionError):
            self.assertEqual(self.asked(begin=30, end=60), (shown, 100, 60))
        with self.app.test_request_context():
            self.assertEqual(list(so_far(self.bench, self.scenario).stretches), [(0, 100)])
            self.assertEqual(so_far(self.bench, self.scenario).repeats.tally.text(), whole.text())
        self.assertIn("how contacts bounce", self.asked(on="press foot-pedal")[0])
        self.edit([{"op": "replace", "path": "/firmware/debounce/foot-pedal/interval_us", "value": 12_000}])
        shown, many, _ = self.asked()
        self.assertEqual(many, 0)
        self.assertIn("press counts once", shown)
        self.assertEqual(self.client.get("/api/benches/1/repeat?scenario=x").status_code, 404)

    def test_a_stretch_ends_where_time_is_up_or_another_begins(self) -> None:
        with self.app.test_request_context():
            self.assertEqual(count(self.bench, self.scenario, 45, 10_000, 0), 50)
            self.assertEqual(count(self.bench, self.scenario, 0, 10_000, 60), 40)
            self.assertEqual(count(self.bench, self.scenario, 0, 10_000, 0), 50)
            known = so_far(self.bench, self.scenario)
            self.assertEqual((list(known.stretches), known.repeats.tally.runs), ([(0, 50)], 50))

    def test_beside_an_edit_twenty_say_what_does_not_always_hold(self) -> None:
        said = self.sure()
        rows = repeat(self.bench, self.scenario, range(20)).rows
        self.assertEqual(said["runs"], 20)
        ident, (_, so, first) = next((name, row) for name, row in rows.items() if row[2] and name.startswith("check"))
        outs, scenarios = unescape(said["fragments"]["outs"]), unescape(said["fragments"]["scenarios"])
        self.assertIn(f"Holds in {so} of 20 repeats", outs)
        self.assertIn(f'data-number="{first}"', outs)
        self.assertIn(f"{so} of 20", scenarios)
        bounces = flips(self.bench, self.scenario, ident, 20).effects()["bounce"]
        self.assertEqual(bounces > 0, "how contacts bounce" in outs)
        # It stands in the bench's own view from then on, until an edit.
        page = self.client.get("/api/benches/1/view?station=behave&scenario=One print").get_json()
        self.assertIn(f"Holds in {so} of 20 repeats", page["fragments"]["outs"])
        with patch("viva_tick.web.so_far.repeat", side_effect=AssertionError):
            self.sure()
        self.edit([{"op": "replace", "path": "/firmware/debounce/foot-pedal/interval_us", "value": 12_000}])
        self.assertNotIn("of 20 repeats", self.sure()["fragments"]["outs"])
        self.assertEqual(self.client.get("/api/benches/1/sure?scenario=x").get_json()["runs"], 0)

    def test_it_makes_room_and_is_asked_again_later(self) -> None:
        with patch("viva_tick.web.repeating.stop_if_left", side_effect=Left):
            self.assertEqual(self.sure()["later"], True)
        with patch("viva_tick.web.repeating.beside", side_effect=Left):
            self.assertEqual(self.sure()["later"], True)
        self.assertEqual(self.sure()["runs"], 20)

    def test_a_number_is_shown_on_the_strip_with_its_parts_and_passes(self) -> None:
        place = {"station": "behave", "scenario": "One print"}
        own = self.client.get("/api/benches/1/view", query_string=place).get_json()
        other = self.client.get("/api/benches/1/view", query_string={**place, "number": 13}).get_json()
        self.assertEqual((own["number"], other["number"]), (None, 13))
        bench, scenario, seed = varied(self.bench, self.scenario, drawn(13))
        run = study(bench, scenario, seed, mends=False).run
        assert run is not None
        self.assertEqual(other["strip"]["length_us"], run.trace.length_us)
        self.assertEqual(other["strip"]["ghost"], own["strip"]["key"])
        self.assertEqual(other["strip"]["doing"], {})
        for wrong in ("0", "x", "-3", "999999999"):
            shown = self.client.get("/api/benches/1/view", query_string={**place, "number": wrong}).get_json()
            self.assertEqual(shown["strip"]["key"], own["strip"]["key"])
        body = {"base": self.head()["revision"], "patch": [{"op": "replace", "path": "/note", "value": "x"}]}
        edited = self.post("/api/benches/1/edit", {**body, "place": {**place, "number": "13"}}).get_json()
        self.assertIsNone(edited["number"])

    def test_a_number_in_which_a_check_does_not_hold_is_a_scenario_that_shows_it(self) -> None:
        shown, _, _ = self.asked(begin=0, end=50)
        found = re.search(r"""data-patch=['"](\[.*?\])['"] data-then""", shown)
        assert found
        self.edit(json.loads(found[1]))
        bench = self.app.extensions["benches"].head(1).bench
        added = bench.scenarios[-1]
        self.assertIn("One print: number ", added.name)
        answers = study(bench, added, mends=False).answers
        assert answers is not None
        self.assertTrue([one for one in answers.expected if not one.met])


if __name__ == "__main__":
    unittest.main()
