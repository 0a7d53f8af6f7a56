"""What the user has written into a program stays when it is made again."""

from __future__ import annotations

import re
import unittest

from tests.core.pace_benches import STATES, TRANSITIONS, bench_of, task
from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.emit import TARGETS, kept
from viva_tick.core.emit.yours import PLACE, own_lines


def made_on(board: str, *tasks: str) -> Bench:
    """A bench with some tasks on a board."""
    data = bench_data(bench_of(states=STATES, transitions=TRANSITIONS, tasks=[task(name, 100, 500) for name in tasks]))
    if board != "mid-8bit-5v":
        data["board"] = board
        for part, pin in zip((*data["inputs"], *data["outputs"]), ("P16", "P17"), strict=True):
            part["pin"] = pin
    return bench_from_data(data)


class OwnLines(unittest.TestCase):
    def test_they_stay_in_every_place_of_every_target(self) -> None:
        for target, board in (("cpp", "mid-8bit-5v"), ("c", "mid-8bit-5v"), ("micropython", "two-core-32bit-3v3")):
            with self.subTest(target=target):
                bench = made_on(board, "work", "rest")
                first = TARGETS[target].emit(bench, ())
                names = [match["name"] for match in PLACE.finditer(first.text)]
                self.assertEqual(names[0], "top")
                self.assertEqual({*names}, {"top", "work", "rest"})
                self.assertEqual(own_lines(first.text), {})  # nobody has written anything yet

                def mine(match: re.Match[str]) -> str:
                    begins, ends = match[0].split(match["lines"]) if match["lines"] else match[0].split("\n")
                    written = f"  mine({match['name']});\n\n"
                    return f"{begins.rstrip()}\n{written}{ends}"

                old = PLACE.sub(mine, first.text)
                again, left = kept(first, old)
                self.assertEqual(again.text, old)
                self.assertEqual(left, {})
                # From a file that was saved with other line ends, too.
                self.assertEqual(kept(first, old.replace("\n", "\r\n"))[0].text, old)
                # A task has gone: its lines are given back, the others stay.
                fewer = TARGETS[target].emit(made_on(board, "work"), ())
                again, left = kept(fewer, old)
                self.assertEqual([*left], ["rest"])
                self.assertIn("  mine(work);", again.text)
                self.assertEqual(again.text.count("mine(rest);"), 1)
                self.assertEqual(kept(fewer, fewer.text), (fewer, {}))

    def test_a_place_whose_end_has_gone_is_given_back(self) -> None:
        bench = made_on("mid-8bit-5v", "work")
        made = TARGETS["cpp"].emit(bench, ())
        old = made.text.replace("  // Your lines to here: work", "  mine();")
        again, left = kept(made, old)
        self.assertEqual([*left], ["work (its end is missing)"])
        self.assertIn("//     mine();", again.text)
