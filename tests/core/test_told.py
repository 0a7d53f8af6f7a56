"""What a board's trace tells, against the programs themselves: what one printed on the double is read and laid over the
bench that it was made from, and over another."""

from __future__ import annotations

import tempfile
import unittest
from functools import cache
from pathlib import Path

from tests.core.on_host import run_sketch
from tests.core.test_targets import traced
from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.told import compared, in_words, named, read_lines
from viva_tick.demo import demo_bench


@cache
def printed(name: str, interval_us: int = 0) -> tuple[Bench, str]:
    """A bench, and what its program printed when its first scenario was done to it; with another interval in the
    program than the bench has."""
    bench = traced(demo_bench(name))
    data = bench_data(bench)
    for method in data["firmware"]["debounce"].values() if interval_us else ():
        method["interval_us"] = interval_us
    other = bench_from_data(data)
    with tempfile.TemporaryDirectory() as folder:
        written = run_sketch(other, other.scenarios[0], Path(folder))
    return bench, "".join(chr(code) for _, code in written[-3])


class WhatTheBoardTold(unittest.TestCase):
    def test_a_program_of_the_bench_tells_what_the_bench_does(self) -> None:
        for name in ("quiz-table", "parcel-box"):
            bench, text = printed(name)
            read = read_lines(text, bench)
            self.assertEqual((read.strangers, read.starts), ((), 0))
            self.assertGreater(len(read.rows), 10)
            found = compared(bench, read.rows, "From the board")
            assert found is not None
            with self.subTest(name):
                self.assertEqual(found.differences, ())
                self.assertEqual(found.agree, len(read.rows))
                # What counted of what was done to it, in its order.
                done = iter([one.input for one in bench.scenarios[0].stimuli if one.kind == "press"])
                told = [one.input for one in found.scenario.stimuli if one.kind == "press"]
                self.assertGreater(len(told), 0)
                self.assertTrue(all(ident in done for ident in told), told)

    def test_a_program_that_counts_otherwise_differs_where_it_does(self) -> None:
        bench, text = printed("quiz-table", 1_000)
        found = compared(bench, read_lines(text, bench).rows, "From the board")
        assert found is not None
        self.assertTrue(found.differences)
        self.assertGreater(found.agree, 5)
        same, _ = printed("quiz-table")
        self.assertEqual(bench, same)

    def test_a_change_more_a_change_less_and_one_that_is_late(self) -> None:
        bench, text = printed("quiz-table")
        rows = read_lines(text, bench).rows
        at = next(n for n, row in enumerate(rows) if row.what == "state" and n > 8)
        lines = text.splitlines()[: len(rows)]
        cases = (
            ("less", [*lines[:at], *lines[at + 1 :]], "On the bench only"),
            ("late", [*lines[:at], lines[at].replace(str(rows[at].at_us), str(rows[at].at_us + 40_000)), *lines[at + 1 :]],
             "ms later on the board"),
        )  # fmt: skip
        for case, changed, sentence in cases:
            with self.subTest(case):
                changed.sort(key=lambda line: int(line.split(",")[0]))
                found = compared(bench, read_lines("\n".join(changed), bench).rows, "From the board")
                assert found is not None
                said = [one.sentence for one in found.differences if one.of == rows[at].of]
                self.assertTrue(any(sentence in one for one in said), said)
                words = in_words(bench, "state", rows[at].of, rows[at].value)
                self.assertTrue(any(one.endswith(f": {words}.") for one in said), said)

    def test_lines_among_others_and_starts_anew(self) -> None:
        bench, text = printed("quiz-table")
        first = text.splitlines()[0]
        said = f"hello\n12:00:01.250 -> {first}\n\n5000,state,nobody,1\n900000,output,ann-lamp,101\n"
        read = read_lines(said, bench)
        self.assertEqual(len(read.rows), 1)
        self.assertEqual(read.others, ((1, "hello"),))
        self.assertEqual([line for line, _ in read.strangers], [4, 5])
        twice = read_lines(f"90000000,{first.split(',', 1)[1]}\n{text}", bench)
        self.assertEqual((twice.starts, twice.rows[0].line), (1, 2))
        self.assertIsNone(compared(bench, read_lines("nothing\n", bench).rows, "From the board"))
        self.assertTrue(read_lines("x\n" * 100_001, bench).more)

    def test_it_is_kept_under_a_name_of_its_own(self) -> None:
        bench, text = printed("quiz-table")
        found = compared(bench, read_lines(text, bench).rows, bench.scenarios[0].name)
        assert found is not None
        kept = named(bench, found.scenario)
        self.assertEqual(kept.name, f"{bench.scenarios[0].name} 2")
        data = bench_data(bench)
        data["scenarios"].append(kept.model_dump(mode="json"))
        self.assertEqual(bench_from_data(data).scenarios[-1], kept)


if __name__ == "__main__":
    unittest.main()
