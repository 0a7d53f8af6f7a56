"""Small files that ask for work without an end come to one, the same on every machine, and say how far they came."""

from __future__ import annotations

import re
import unittest

from tests.app.client import AppCase
from tests.core.bombs import BOMBS
from viva_tick.core.contacts import MOST_CHANGES
from viva_tick.core.engine import Budget
from viva_tick.core.engine.watchdog import MOST_BITES
from viva_tick.core.study import study

SAID = {
    "barks": "calls of the watchdog's interrupt",
    "boots": "budget of 300,000 changes",
    "boots_left_on": "200,000 resets",
    "turns": "“Dial” moves too often",
    "replays": "“Button” moves too often",
    "kernel_tasks": "the kernel is followed no longer",
    "keys": "budget of 75,000 passes",
    "blinks": "budget of 300,000 changes",
}


class Bombs(AppCase):
    def test_each_comes_to_an_end_that_is_said_and_its_pages_stand(self) -> None:
        most = Budget().changes + 2 * MOST_BITES + 4 * MOST_CHANGES
        for name, make in BOMBS.items():
            with self.subTest(name):
                bench = make()
                done = study(bench, bench.scenarios[0])
                assert done.run is not None
                self.assertLess(done.run.trace.changes, most)
                said = done.run.stopped or ""
                self.assertIn(SAID.get(name, ""), said)
                self.assertEqual(bool(said), name in SAID)
                self.assertNotIn("build.unchecked", {one.code for one in done.findings})
                if name not in ("blinks", "states"):
                    continue
                made = self.app.extensions["benches"].create(bench, "made")
                page = self.client.get(f"/benches/{made.bench_id}/build")
                self.assertEqual(page.status_code, 200)
                self.assertFalse("could not be worked out" in page.text)
                left = re.search(r"(\d+) of the scenarios, from “s(\d+)” on, were not looked at", page.text)
                self.assertEqual(left is not None, name == "blinks")
                if left:
                    self.assertEqual(int(left[1]) + int(left[2]), len(bench.scenarios))


if __name__ == "__main__":
    unittest.main()
