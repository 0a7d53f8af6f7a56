"""A run that nobody would wait for stops, says so, and can be run further."""

from __future__ import annotations

import unittest
from itertools import pairwise
from typing import Any

from tests.app.client import AppCase
from viva_tick.core.study import AT_ONCE

HOUR = [{"op": "replace", "path": "/scenarios/0/length_us", "value": 3_600_000_000}]


class Further(AppCase):
    def strip(self, bench: int, **more: Any) -> Any:
        return self.client.get(f"/api/benches/{bench}/view", query_string={"station": "pace", **more}).get_json()[
            "strip"
        ]

    def test_it_is_run_as_far_as_anything_is_and_kept_so(self) -> None:
        self.assertFalse(self.strip(2)["further"])
        self.assertEqual(self.edit(HOUR, bench=2).status_code, 200)
        first = self.strip(2)
        self.assertTrue(first["further"])
        self.assertIn("budget of", first["stopped_why"])
        self.assertLess(first["length_us"], 3_600_000_000)
        on = self.strip(2, further=1)
        self.assertGreater(on["length_us"], 2 * first["length_us"])
        self.assertFalse(on["further"])
        again = self.strip(2)
        self.assertEqual((again["key"], again["length_us"]), (on["key"], on["length_us"]))
        window = self.client.get(f"/api/runs/{on['key']}/window?lane=watchdog").get_json()
        self.assertEqual(window["to_us"], on["length_us"])
        self.assertEqual(
            self.edit([{"op": "replace", "path": "/firmware/loop/tail_delay_us", "value": 1000}], bench=2).status_code,
            200,
        )
        self.assertNotEqual(self.strip(2)["key"], on["key"])

    def test_a_lane_of_more_jobs_than_columns_is_shown_to_its_end(self) -> None:
        self.edit(HOUR, bench=2)
        strip = self.strip(2)
        query = f"lane=job+gauge&lane=loop&columns=300&to={strip['length_us']}"
        lanes = self.client.get(f"/api/runs/{strip['key']}/window?{query}").get_json()["lanes"]
        for spans in (lanes["job gauge"]["jobs"], lanes["loop"]["blocked"]):
            self.assertLessEqual(len(spans), 300)
            self.assertLess(max(b[0] - a[0] for a, b in pairwise(spans)), strip["length_us"] / 100)
            self.assertGreater(spans[-1][0], strip["length_us"] * 0.99)

    def test_other_schools_are_not_compared_with_a_run_that_stopped(self) -> None:
        self.edit(HOUR, bench=2)
        page = self.client.get("/benches/2/pace?picked=_schools").text
        self.assertIn("they are not compared", page)
        self.assertEqual(page.count('class="school '), 1)

    def test_what_a_page_waits_for_is_less_than_what_is_run_at_all(self) -> None:
        self.assertLess(AT_ONCE.passes, 60_000)
        self.assertEqual(
            self.client.get("/api/benches/2/view?station=wire&further=1&scenario=nothing").status_code, 200
        )


if __name__ == "__main__":
    unittest.main()
