"""What lies behind a board that does otherwise: long passes, resets, a clock that is off, and what mends it."""

from __future__ import annotations

import unittest
from itertools import accumulate
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.depth import DEPTH
from viva_tick.core.document import Bench, bench_from_data
from viva_tick.core.document.load import bench_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Fault
from viva_tick.core.guard import fault_at, faults_of
from viva_tick.core.told import (
    Compared,
    Lines,
    Otherness,
    Told,
    arrivals,
    board_run,
    causes,
    compared,
    drift_of,
    passes,
    pins_vcd,
    read_channels,
    read_lines,
    resets,
    started_anew,
    trace_causes,
    trace_lines,
)
from viva_tick.demo import ORDER, demo_bench
from viva_tick.demo.log import BEFORE, demo_capture, demo_revisions


def laid(bench: Bench, text: str) -> tuple[Any, Compared, list[str]]:
    """The capture, the comparison, and every difference in words."""
    capture = read_channels(text, bench)
    found = compared(bench, capture.rows, "Captured", touched=True)
    assert found is not None
    more = [*found.differences, *passes(bench, capture, found)[0], *resets(bench, found)]
    return capture, found, [one.sentence for one in sorted(more, key=lambda one: one.at_us)]


class Demo(unittest.TestCase):
    def test_the_capture_disagrees_twice_and_each_mend_takes_one_away(self) -> None:
        bench = demo_bench("print-timer")
        text = demo_capture(bench)
        for left in (2, 1, 0):
            capture, found, said = laid(bench, text)
            self.assertEqual(len(said), left, said)
            mends = [one for one in causes(bench, capture, found) if one.patch]
            self.assertEqual(len(mends), left)
            if mends:
                bench = apply_patch(bench, mends[0].patch)
        self.assertAlmostEqual(bench.costs.base / demo_bench("print-timer").costs.base, 12, delta=0.5)

    def test_it_comes_from_states_of_its_own(self) -> None:
        bench = demo_bench("print-timer")
        before, last = demo_revisions("print-timer", bench)
        self.assertEqual((len(before), len(BEFORE)), (2, 2))
        self.assertEqual(last, "Foot pedal: None → Wait until stable")
        self.assertEqual(before[1][1], "watchdog: off → resets the board")
        for name in ORDER[1:]:
            self.assertEqual(demo_revisions(name, demo_bench(name)), ([], "demo bench added"))


class Passes(unittest.TestCase):
    def test_the_measured_cost_is_found_on_every_demo(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            if not bench.contacts or bench.firmware.school != "counter" or not bench.channels:
                continue
            for slower in (1.0, 3.0, 20.0):
                with self.subTest(name, slower=slower):
                    run = board_run(bench, bench.scenarios[0], Otherness(0, {}, 0.0, slower))
                    if run.stopped or len(run.boots) != 1 or not run.trace.signals:
                        continue
                    capture, found, _ = laid(bench, pins_vcd(bench, run, 0.0, run.boots[0][1], passes=True))
                    mends = passes(bench, capture, found)[1]
                    if slower == 1.0:
                        self.assertEqual(mends, [])
                        continue
                    self.assertEqual(len(mends), 1)
                    costs = apply_patch(bench, mends[0].patch).costs.model_dump()
                    for cost, was in bench.costs.model_dump().items():
                        self.assertAlmostEqual(costs[cost], was * slower, delta=1 + was * slower * 0.05)

    def test_without_such_a_channel_nothing_is_said_of_it(self) -> None:
        bench = demo_bench("print-timer")
        run = board_run(bench, bench.scenarios[0], Otherness(0, {}, 0.0, 20.0))
        capture, found, _ = laid(bench, pins_vcd(bench, run, 0.0, run.boots[0][1]))
        self.assertEqual(passes(bench, capture, found), ([], []))


class Resets(unittest.TestCase):
    def fault(self, bench: Bench, kind: str, at_us: int) -> Fault:
        of = next(ident for one, ident, _ in faults_of(bench) if one.id == kind)
        found = fault_at(bench, kind, of, at_us)
        assert found is not None
        return found

    def test_outputs_that_go_off_together_are_a_reset(self) -> None:
        data = bench_data(demo_bench("print-timer"))
        data["firmware"]["debounce"]["foot-pedal"]["interval_us"] = 25_000
        bench = bench_from_data(data)
        scenario = bench.scenario("One print")
        whole = board_run(bench, scenario, Otherness())
        self.assertEqual(laid(bench, pins_vcd(bench, whole, 0.0, whole.boots[0][1]))[2], [])
        run = board_run(bench, scenario, Otherness(0, {}, 0.0, 1.0, self.fault(bench, "dip", 900_000)))
        self.assertGreater(len(run.boots), 1)
        _, found, said = laid(bench, pins_vcd(bench, run, 0.0, run.boots[0][1]))
        self.assertIn("All outputs of the board go off at once here, as after a reset.", said)
        at = [one.at_us for one in resets(bench, found)]
        self.assertEqual(len(at), 1)

    def test_a_counter_that_goes_back_is_one(self) -> None:
        bench = demo_bench("print-timer")
        lines = [line for _, line in trace_lines(bench, board_run(bench, bench.scenarios[0], Otherness()))]
        read = read_lines("\n".join([*lines, *lines]), bench)
        self.assertRegex(started_anew(read)[0].sentence, rf"anew once, the last time before line {len(lines) + 1}: a")
        self.assertEqual(started_anew(read_lines("\n".join(lines), bench)), [])


class Clocks(unittest.TestCase):
    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(
        st.lists(st.integers(100_000, 900_000), min_size=12, max_size=60),
        st.integers(-30_000, 30_000),
        st.integers(0, 4_000),
        st.randoms(use_true_random=False),
    )
    def test_drift_is_within_what_is_said_of_it(self, gaps: list[int], ppm: int, late: int, rng: Any) -> None:
        at = list(accumulate(gaps))
        rows = tuple(Told(one // 1000 * 1000, "output", "lamp", n & 1, n + 1) for n, one in enumerate(at))
        came = {n + 1: 5e6 + one * (1 + ppm / 1e6) + rng.uniform(0, late) for n, one in enumerate(at)}
        found = drift_of(Lines(rows, 0, (), (), False), came)
        assert found is not None
        self.assertLess(abs(found.ppm - ppm), found.unsure_ppm * (1 + abs(ppm) / 1e6) + 1)
        if found.told:
            self.assertEqual(found.ppm > 0, ppm > 0)

    def test_the_times_of_a_terminal(self) -> None:
        text = "23:59:59.500 -> 1000,output,lamp,0\nhello\n[00:00:01,250] 2000,output,lamp,1\n5,output,lamp,0\n"
        found = arrivals(text)
        self.assertEqual(list(found), [1, 3])
        self.assertAlmostEqual(found[3] - found[1], 1.75e6)
        self.assertIsNone(drift_of(read_lines(text, demo_bench("print-timer")), found))

    def test_a_trace_that_counts_twice_says_so(self) -> None:
        bench = demo_bench("print-timer")
        text = "\n".join(f"{at},cleaned,foot-pedal,{n & 1}" for n, at in enumerate((0, 900_000, 905_000, 911_000)))
        said = [one.words for one in trace_causes(bench, read_lines(text, bench), None)]
        self.assertEqual(len(said), 1)
        self.assertRegex(said[0], "Foot pedal counts again within 11 ms")
        self.assertEqual(trace_causes(bench, read_lines(text[: text.index("905")], bench), None), [])


if __name__ == "__main__":
    unittest.main()
