"""The loop: tasks as they keep their beat, the serial line, the pass taken apart, schools, time across the wrap."""

from __future__ import annotations

import subprocess
import tempfile
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.pace_benches import READY_US, bench_of, rows, run_of, task, with_hold
from tests.depth import DEPTH
from viva_tick.core.boards import boards
from viva_tick.core.clock import as_kept
from viva_tick.core.document import Bench
from viva_tick.core.engine import Kind
from viva_tick.core.pace import (
    across_the_wrap,
    anatomy,
    best_divider,
    divider,
    fires_since,
    fires_until,
    line_study,
    longest_of,
    off_a_day_s,
    piled,
    reach,
    spread,
)
from viva_tick.core.program import idle_pass_us
from viva_tick.core.study import study
from viva_tick.core.timing import job_tallies
from viva_tick.demo import demo_bench

HOLD = [{"kind": "press", "input": "button"}]
ONCE = {"kind": "pulse", "length_us": 0, "blocking": True}


def starts(bench: Bench, ident: str = "work") -> list[float]:
    """When a task's jobs began, in ms after set-up."""
    return [(at - READY_US) / 1000 for at, value in rows(run_of(bench), Kind.JOB, ident) if value[1] >= 0]


class Beats(unittest.TestCase):
    def test_where_a_beat_falls(self) -> None:
        for offset_us, first in ((None, 100), (0, 0), (30_000, 30), (250_000, 250)):
            found = starts(bench_of(tasks=[task("work", 100, 500, offset_us=offset_us)], length_ms=800))
            for place, at in enumerate(found[:4]):
                self.assertLess(abs(at - first - 100 * place), 1.1)

    def test_last_plus_period_holds_and_now_plus_period_drifts(self) -> None:
        other = task("other", 50, 9_500, priority=5)  # in whose way “work” comes every second time
        for keeps, drifts in (("last", False), ("now", True)):
            bench = bench_of(tasks=[task("work", 53, 100, keeps=keeps), other], length_ms=20_000)
            run = run_of(bench)
            tally = job_tallies(bench, run)["work"]
            # By hand: what the last beat is behind the grid, in an hour's worth.
            at = [at for at, _ in rows(run, Kind.JOB, "work")]
            lost_us = at[-1] - at[0] - (len(at) - 1) * 53_000
            self.assertEqual(bool(tally.drift_us), drifts)
            if drifts:
                self.assertLess(abs((tally.drift_us or 0) / 3_600e6 * (at[-1] - at[0]) - lost_us), 12_000)
            else:
                self.assertLess(abs(lost_us), 12_000)

    def test_what_becomes_of_late_jobs(self) -> None:
        # The loop stands still from 185 to 535 ms after set-up; work is due at 50, 100, 150 …
        for late, expected in (
            ("catch-up", [150, *[535] * 7, 550]),
            ("run-late", [150, 535, 550]),
            ("skip", [150, 550, 600]),
        ):
            found = starts(with_hold(350, tasks=[task("work", 50, 10, late=late)], length_ms=1_000))
            after = [at for at in found if at >= 149][: len(expected)]
            for at, wanted in zip(after, expected, strict=True):
                self.assertLess(abs(at - wanted), 2, f"{late}: {after}")
        tally = job_tallies(
            b := with_hold(350, tasks=[task("work", 50, 10, late="run-late")], length_ms=1_000), run_of(b)
        )
        self.assertEqual(tally["work"].missed, 7)

    def test_slices_hold_the_pass_no_longer_than_one_of_them(self) -> None:
        for blocking, longest in ((True, 40_000), (False, 2_000)):
            bench = bench_of(tasks=[task("work", 200, 40_000, blocking=blocking, slice_us=2_000)], length_ms=900)
            run = run_of(bench)
            lengths = [length for length, _ in run.trace.signal(Kind.PASS).values]
            self.assertEqual(max(lengths), longest + idle_pass_us(bench))
            self.assertEqual(job_tallies(bench, run)["work"].longest_us, 40_000)

    def test_the_higher_priority_goes_first_in_a_pass(self) -> None:
        bench = bench_of(
            tasks=[task("low", 100, 5_000, priority=1), task("high", 100, 3_000, priority=8)], length_ms=300
        )
        run = run_of(bench)
        self.assertLess(rows(run, Kind.JOB, "high")[0][0], rows(run, Kind.JOB, "low")[0][0])


class SerialLine(unittest.TestCase):
    def test_a_line_waits_until_its_last_character_has_room(self) -> None:
        # 100 characters in a buffer of 64: 36 must be out, ten bits each.
        for baud, characters in ((9_600, 100), (115_200, 100), (9_600, 64)):
            printing = task("work", 500, 0, does="print", characters=characters)
            run = run_of(bench_of(tasks=[printing], serial={"baud": baud}, length_ms=900))
            held = rows(run, Kind.JOB, "work")[0][1][0]
            self.assertLess(abs(held - (characters - 64) * 10_000_000 / baud), 2)
        beside = task("work", 500, 0, does="print", characters=100, blocking=False)
        run = run_of(bench_of(tasks=[beside], length_ms=900))
        self.assertFalse(rows(run, Kind.BLOCKED))

    def test_dividers_are_those_of_the_data_sheet(self) -> None:
        # DS40002061B, baud tables at 16 MHz (from memory): divider and error in percent, plain and at double speed.
        for baud, plain, double in (
            (2_400, (416, -0.1), (832, 0.0)),
            (9_600, (103, 0.2), (207, 0.2)),
            (14_400, (68, 0.6), (138, -0.1)),
            (28_800, (34, -0.8), (68, 0.6)),
            (38_400, (25, 0.2), (51, 0.2)),
            (57_600, (16, 2.1), (34, -0.8)),
            (76_800, (12, 0.2), (25, 0.2)),
            (115_200, (8, -3.5), (16, 2.1)),
            (230_400, (3, 8.5), (8, -3.5)),
            (250_000, (3, 0.0), (7, 0.0)),
            (1_000_000, (0, 0.0), (1, 0.0)),
        ):
            for fast, (number, error) in ((False, plain), (True, double)):
                found = divider(16_000_000, baud, fast)
                self.assertEqual((found.divider, round(found.error_percent, 1) + 0.0), (number, error))
        board = boards()["mid-8bit-5v"]
        chosen = best_divider(board, 115_200)
        self.assertTrue(chosen and chosen.double and chosen.divider == 16)
        self.assertIsNone(best_divider(boards()["radio-32bit-3v3"], 9_600))

    def test_two_ends(self) -> None:
        for baud, theirs, good, understood in (
            (9_600, None, True, True),
            (115_200, None, False, True),
            (9_600, 10_000, False, True),
            (9_600, 19_200, False, False),
        ):
            found = line_study(bench_of(serial={"baud": baud, "theirs": theirs}))
            self.assertEqual((found.good, found.understood), (good, understood), baud)
        self.assertEqual(line_study(bench_of(serial={"baud": 9_600}, board="radio-32bit-3v3")).line_us(80), 83_333)


class Anatomies(unittest.TestCase):
    def test_the_usual_pass_is_the_idle_pass_whatever_is_on_the_bench(self) -> None:
        for name in ("print-timer", "rain-barrel", "quiz-table", "bicycle-lamp", "parcel-box"):
            bench = demo_bench(name)
            self.assertEqual(anatomy(bench).usual_us, idle_pass_us(bench))

    def test_no_pass_is_longer_than_computed_and_a_run_is_taken_apart_to_the_microsecond(self) -> None:
        for name in ("rain-barrel", "quiz-table", "bicycle-lamp"):
            bench = demo_bench(name)
            for scenario in bench.scenarios:
                done = study(bench, scenario, mends=False)
                assert done.run
                assert done.answers
                self.assertLessEqual(done.answers.longest_pass_us, anatomy(bench).longest_us)
        printing = bench_of(tasks=[task("work", 500, 3_000, does="print", characters=90)], length_ms=1_200)
        at_us, parts = longest_of(printing, run := run_of(printing))
        lengths = dict(zip(run.trace.signal(Kind.PASS).times_us, run.trace.signal(Kind.PASS).values, strict=True))
        self.assertEqual(parts.longest_us, lengths[at_us][0])
        self.assertEqual(parts.longest.of, "work")

    def test_measured_costs_take_the_place_of_the_usual_ones(self) -> None:
        bench = bench_of(measured={"read": 100, "base": 50})
        self.assertEqual(idle_pass_us(bench), 50 + 100 + 5 + 4)
        self.assertEqual(rows(run_of(bench), Kind.PASS)[0][1][0], 159)

    def test_the_surest_tap_is_never_missed(self) -> None:
        busy = [task("work", 97, 30_000)]
        debounce = {"button": {"method": "rest-first", "interval_us": 5_000}}
        bench = bench_of(tasks=busy, debounce=debounce)
        surest = reach(bench, None, None)[0].surest_us or 0
        hold = -(-surest // 1000)
        presses = [(100 + n * (hold + 91), hold) for n in range(60)]
        long = bench_of(tasks=busy, debounce=debounce, presses=presses, length_ms=presses[-1][0] + 500)
        done = study(long, long.scenarios[0], mends=False)
        assert done.answers
        self.assertEqual(done.answers.tallies["button"].missed_us, ())
        short = [(at, 12) for at, _ in presses]
        missed = bench_of(tasks=busy, debounce=debounce, presses=short, length_ms=presses[-1][0] + 500)
        said = study(missed, missed.scenarios[0], mends=False).answers
        self.assertTrue(said and said.tallies["button"].missed_us)
        reached = reach(long, done.run, done.answers)[0]
        assert reached.seen
        assert reached.output_us
        self.assertLessEqual(reached.seen.most, reached.output_us)

    def test_spreading_flattens_the_longest_pass_and_the_engine_agrees(self) -> None:
        tasks = [task("a", 100, 9_000), task("b", 200, 8_000), task("c", 400, 7_000)]
        bench = bench_of(tasks=tasks, length_ms=3_000)
        found = spread(bench)
        assert found
        self.assertEqual((found.before_us, found.after_us), (24_000, 9_000))
        better = [{**one, "offset_us": found.offsets_ms[one["id"]] * 1000} for one in tasks]
        for rows_, most in ((tasks, found.before_us), (better, found.after_us)):
            run = run_of(bench_of(tasks=rows_, length_ms=3_000))
            longest = max(length for length, _ in run.trace.signal(Kind.PASS).values)
            self.assertLess(abs(longest - most), 200)

    @settings(max_examples=40 * DEPTH, deadline=None)
    @given(
        st.lists(
            st.tuples(st.sampled_from([50, 70, 100, 130, 200]), st.integers(0, 12), st.sampled_from([None, 0, 7, 20])),
            min_size=2,
            max_size=3,
        )
    )
    def test_what_piles_up_is_the_engines_longest_pass(self, made: list[tuple[int, int, int | None]]) -> None:
        tasks = [
            task(f"t{n}", period, run_ms * 1000 + 300, offset_us=None if offset is None else offset * 1000)
            for n, (period, run_ms, offset) in enumerate(made)
        ]
        bench = bench_of(tasks=tasks, length_ms=2_500)
        longest = max(length for length, _ in run_of(bench).trace.signal(Kind.PASS).values)
        offsets = [(one.period_us if one.offset_us is None else one.offset_us) // 1000 for one in bench.firmware.tasks]
        self.assertLess(abs(longest - piled(bench.firmware.tasks, offsets, 2_434)), 1_200)


C_TIME = r"""
#include <stdint.h>
#include <stdio.h>
int main(void) {
  unsigned long now, since, wait;
  while (scanf("%lu %lu %lu", &now, &since, &wait) == 3) {
    const uint32_t n = (uint32_t)now, s = (uint32_t)since, w = (uint32_t)wait;
    const int16_t seconds = (int16_t)(wait / 1000), thousand = 1000;
    const int16_t product = (int16_t)(seconds * thousand);
    printf("%d %d %lu\n", (uint32_t)(n - s) >= w, n >= (uint32_t)(s + w), (unsigned long)(uint32_t)product);
  }
  return 0;
}
"""


class TimeAgainstC(unittest.TestCase):
    program: Path

    @classmethod
    def setUpClass(cls) -> None:
        folder = Path(tempfile.mkdtemp())
        cls.program = folder / "time"
        (folder / "time.c").write_text(C_TIME)
        command = ["cc", "-std=c11", "-Wall", "-fwrapv", str(folder / "time.c"), "-o", str(cls.program)]
        subprocess.run(command, check=True)

    @settings(max_examples=25 * DEPTH, deadline=None)
    @given(
        st.lists(
            st.tuples(
                st.integers(0, 0xFFFF_FFFF) | st.integers(0xFFFF_F000, 0xFFFF_FFFF),
                st.integers(0, 0xFFFF_FFFF) | st.integers(0xFFFF_F000, 0xFFFF_FFFF),
                st.integers(0, 130).map(lambda s: s * 1000),
            ),
            min_size=1,
            max_size=60,
        )
    )
    def test_comparisons_and_products_are_those_of_a_compiler(self, cases: list[tuple[int, int, int]]) -> None:
        text = "\n".join(" ".join(map(str, case)) for case in cases)
        done = subprocess.run([str(self.program)], input=text, capture_output=True, text=True, check=True)
        theirs = [tuple(map(int, line.split())) for line in done.stdout.splitlines()]
        mine = [
            (int(fires_since(now, since, wait)), int(fires_until(now, since, wait)), as_kept(wait, True, 16))
            for now, since, wait in cases
        ]
        self.assertEqual(mine, theirs)

    def test_a_product_of_16_bits_ends_at_32_767_s(self) -> None:
        for seconds, kept in ((32, 32_000), (33, 33_000 - 65_536 + (1 << 32)), (66, 464)):
            self.assertEqual(as_kept(seconds * 1000, True, 16), kept)
            self.assertEqual(as_kept(seconds * 1000, True, 32), seconds * 1000)
        every = {"tasks": [task("work", 66_000, 10)], "timekeeping": {"product": "int"}, "length_ms": 3_000}
        found = starts(bench_of(**every))
        self.assertEqual([round(at) for at in found[:3]], [464, 928, 1392])
        self.assertEqual(starts(bench_of(**{**every, "board": "radio-32bit-3v3"})), [])

    def test_across_the_wrap_one_comparison_is_over_at_once(self) -> None:
        rows_ = across_the_wrap(300, 150)
        self.assertEqual([row.since for row in rows_], [row.after_ms >= 300 for row in rows_])
        self.assertTrue(rows_[0].until)
        start = 0xFFFF_FFFF - 500  # wraps 0.435 s after set-up
        for compares, expected in (("since", [200, 400, 600, 800]), ("until", [200, 400])):
            timekeeping = {"compares": compares}
            bench = bench_of(tasks=[task("work", 200, 10)], timekeeping=timekeeping, counter_start_ms=start)
            found = [round(at) for at in starts(bench)]
            self.assertEqual(found[: len(expected)], expected)
            if compares == "until":  # from 400 on the sum wraps: it runs in every pass until the counter does
                self.assertGreater(sum(400 < at < 440 for at in found), 500)
                self.assertFalse(any(at > 1_100 for at in found))

    def test_a_machines_time_is_kept_in_the_same_way(self) -> None:
        transitions = [
            {"source": "off", "on": {"kind": "timeout", "after_us": 400_000}, "target": "on"},
            {"source": "on", "on": {"kind": "timeout", "after_us": 400_000}, "target": "off"},
        ]
        for compares, second in (("since", 800), ("until", 400)):
            bench = bench_of(
                transitions=transitions, timekeeping={"compares": compares}, counter_start_ms=0xFFFF_FFFF - 500
            )
            states = rows(run_of(bench), Kind.STATE, "toggle")
            self.assertLess(abs((states[3][0] - READY_US) / 1000 - second), 3)

    def test_a_clock_that_is_off(self) -> None:
        self.assertEqual((off_a_day_s(20), off_a_day_s(5_000)), (1.728, 432.0))


if __name__ == "__main__":
    unittest.main()
