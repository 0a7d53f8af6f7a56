"""A scenario repeated from the screen: pieces, what is kept of them, and a number as a scenario of its own."""

from __future__ import annotations

import json
import re
import unittest
from html import unescape
from unittest.mock import patch

from tests.app.client import AppCase
from viva_tick.core.repeats import repeat
from viva_tick.core.study import study
from viva_tick.demo import demo_bench


class Repeating(AppCase):
    def asked(self, **more: str) -> tuple[str, int]:
        answer = self.client.get("/api/benches/1/repeat", query_string={"scenario": "One print", **more})
        self.assertEqual(answer.status_code, 200)
        return unescape(answer.get_json()["html"]), answer.get_json()["runs"]

    def test_pieces_are_counted_once_kept_and_forgotten_with_the_bench(self) -> None:
        whole = repeat(demo_bench("print-timer"), demo_bench("print-timer").scenario("One print"), range(100))
        self.asked(piece="1")
        shown, many = self.asked(piece="0")
        self.assertEqual(many, 100)
        self.assertIn(f"{whole.rows['press foot-pedal'][1]} of 100", shown)
        with patch("viva_tick.web.repeating.repeat", side_effect=AssertionError):
            self.assertEqual(self.asked(piece="1"), (shown, 100))
        self.assertIn(
            "changed by drawing anew: how contacts bounce", re.sub("<[^>]*>", "", self.asked(on="press foot-pedal")[0])
        )
        self.edit([{"op": "replace", "path": "/firmware/debounce/foot-pedal/interval_us", "value": 12_000}])
        shown, many = self.asked()
        self.assertEqual(many, 0)
        self.assertIn("press counts once", shown)
        self.assertEqual(self.client.get("/api/benches/1/repeat?scenario=x").status_code, 404)

    def test_a_number_in_which_a_check_does_not_hold_is_a_scenario_that_shows_it(self) -> None:
        shown, _ = self.asked(piece="0")
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
