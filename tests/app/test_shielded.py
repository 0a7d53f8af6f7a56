"""A fault in one part of a page takes down one card: the edit is kept, the rest stands, undo works."""

from __future__ import annotations

import unittest
from typing import Any
from unittest.mock import patch

from tests.app.client import AppCase, interval
from viva_tick.core.document.parts import Commands, Encoder, LevelSensor
from viva_tick.web.stations import STATIONS


def fails(*_: Any, **__: Any) -> Any:
    raise OverflowError("a fault of ours")


class Shielded(AppCase):
    def assert_kept(self, answer: Any, *cards: str) -> dict[str, Any]:
        self.assertEqual(answer.status_code, 200, answer.get_json())
        view = answer.get_json()
        self.assertEqual(self.head()["revision"], view["revision"])
        for what in cards:
            self.assertIn(f"{what} could not be worked out", view["fragments"]["outs"])
        return dict(view)

    def test_whatever_fails_after_an_edit_is_kept(self) -> None:
        for place, what, stands in (
            ("viva_tick.core.findings.clean.too_short", "A check", "editor"),
            ("viva_tick.web.stations.clean.decide", "Clean", "outs"),
            ("viva_tick.web.stations.clean.sweep_chart", "Clean", "outs"),
            ("viva_tick.web.strip_shown._strip", "The strip", "editor"),
            ("viva_tick.web.view.before_it", "The run before", "editor"),
            ("viva_tick.core.study.answers", "The run", "editor"),
            ("viva_tick.web.view.doings", "The scenario", "editor"),
        ):
            with self.subTest(place), self.assertLogs(level="ERROR") as log:
                rules = "viva_tick.core.findings.RULES"
                with patch(rules, (fails,)) if what == "A check" else patch(place, fails):
                    view = self.assert_kept(self.edit(interval(22_000)), what)
                    page = self.client.get("/benches/1/clean?picked=foot-pedal")
                    self.assertEqual(page.status_code, 200)
                    self.assertNotIn("Our mistake", page.text)
                self.assertGreater(len(view["fragments"][stands]), 800)
                self.assertTrue(any("a fault of ours" in str(one) for one in log.output))
                undone = self.post("/api/benches/1/undo", {"base": view["revision"], "place": {"station": "clean"}})
                self.assertEqual(undone.status_code, 200)

    def test_a_template_that_fails_is_a_card_in_its_place(self) -> None:
        for name in ("title", "path", "side", "editor", "scenarios"):
            with self.subTest(name), patch.dict("viva_tick.web.view.FRAGMENTS", {name: "no-such-thing.html"}):
                with self.assertLogs(level="ERROR"):
                    view = self.assert_kept(self.edit(interval(23_000)))
                self.assertIn("could not be worked out", view["fragments"][name])

    def test_benches_that_shut_themselves_once_open(self) -> None:
        # An hour's delay at the end of the loop; an hour's sleep; an output on more often than a check may ask for.
        hour_us = 3_600_000_000
        for path, value in (
            ("/firmware/loop/tail_delay_us", hour_us),
            ("/firmware/sleep", {"wakes": "timer", "every_us": hour_us}),
        ):
            with self.subTest(path):
                answer = self.edit([{"op": "replace", "path": path, "value": value}])
                if answer.status_code == 422:
                    continue  # refused with a sentence: nothing was kept
                view = self.assert_kept(answer)
                self.assertNotIn("could not be worked out", " ".join(view["fragments"].values()))
                for station in ("wire", "clean", "behave", "pace", "guard", "build"):
                    self.assertEqual(self.client.get(f"/benches/1/{station}").status_code, 200)
                undone = self.post("/api/benches/1/undo", {"base": view["revision"], "place": {"station": "clean"}})
                self.assertEqual(undone.status_code, 200)

    def test_what_is_wired_and_not_yet_read_takes_nothing_down(self) -> None:
        for part in (
            LevelSensor(id="new", name="New", pin="A3", stands_at=50.0),
            Encoder(id="new", name="New", a="A2", b="A3"),
            Commands(id="new", name="New", pin="D0", names=("go",)),
        ):
            with self.subTest(part.kind):
                value = part.model_dump(mode="json")
                answer = self.edit([{"op": "add", "path": "/inputs/-", "value": value}], bench=4)
                self.assertEqual(answer.status_code, 200, answer.get_json())
                for station in STATIONS:
                    page = self.client.get(f"/benches/4/{station}").text
                    self.assertNotIn("could not be worked out", page, station)
                back = {"base": answer.get_json()["revision"], "place": {"station": "wire"}}
                self.assertEqual(self.post("/api/benches/4/undo", back).status_code, 200)

    def test_nothing_fails_on_the_demos(self) -> None:
        for bench in range(1, 6):
            for station in ("wire", "clean", "behave", "pace", "guard", "build"):
                self.assertNotIn("could not be worked out", self.client.get(f"/benches/{bench}/{station}").text)


if __name__ == "__main__":
    unittest.main()
