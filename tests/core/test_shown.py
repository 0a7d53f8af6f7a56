"""What is shown, each once more: by a plain computation, or by a property that must hold."""

from __future__ import annotations

import math
import unittest
from bisect import bisect_right
from dataclasses import replace
from itertools import pairwise

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.pace_benches import bench_of
from tests.core.pace_benches import task as a_task
from tests.depth import DEPTH
from viva_tick.core.arithmetic import said
from viva_tick.core.emit.warnings import talks
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.formats import read_capture, reader_for
from viva_tick.core.formats.streams import HYSTERESIS
from viva_tick.core.live import happened, next_pass
from viva_tick.core.pace.anatomy import anatomy
from viva_tick.core.report import study_lines
from viva_tick.core.study import study
from viva_tick.core.timing.compare import difference
from viva_tick.core.told import Otherness, aligned, pins_vcd
from viva_tick.core.told.board import other_bench
from viva_tick.demo import ORDER, demo_bench


class Told(unittest.TestCase):
    def test_how_far_instants_lie_from_the_clocks_line(self) -> None:
        rng = np.random.default_rng(3)
        pairs = [(t * 1_000.0, t * 1_000.1 + 70 + rng.normal(0, 9)) for t in range(200)]
        clock = aligned(pairs)
        assert clock is not None
        left = [abs(v - (1 + clock.ppm / 1e6) * t - clock.offset_us) for t, v in pairs]
        self.assertAlmostEqual(clock.jitter_us, float(np.median(left)), places=6)
        self.assertAlmostEqual(clock.ppm, 100, delta=20)

    def test_another_switch_in_any_contact_of_a_simulated_board(self) -> None:
        bench = demo_bench("print-timer")
        for line in bench.contacts:
            other = other_bench(bench, Otherness(switches={line.id: "worn-button"}))
            self.assertEqual(getattr(other.contact(line.id).contact, "switch", ""), "worn-button")
            rest = [one.id for one in bench.contacts if other.contact(one.id).contact != one.contact]
            self.assertEqual(rest, [line.id])

    def test_the_pin_that_toggles_at_each_pass_runs_by_the_boards_clock(self) -> None:
        bench = demo_bench("print-timer")
        run = SkippingEngine().run(bench, bench.scenarios[0])
        from_us = run.boots[0][1]
        texts = [pins_vcd(bench, run, ppm, from_us, passes=True, only=frozenset({"D8"})) for ppm in (0.0, 20_000.0)]
        rows = []
        for text in texts:
            reader = reader_for(text)
            assert reader is not None
            found = {name.rpartition(".")[2]: at for name, (at, _) in reader.feed(text, True).items()}
            rows.append((found["D8"], found["pass"]))
        for place in (0, 1):
            self.assertEqual(len(rows[0][place]), len(rows[1][place]))
            for at_ns, later_ns in list(zip(rows[0][place], rows[1][place], strict=True))[::97]:
                self.assertLess(abs(later_ns - 1.02 * at_ns), 2_000)
        self.assertGreater(len(rows[0][1]), 10_000)

    def test_what_is_printed_for_each_sensed_part(self) -> None:
        seen = 0
        for name in ORDER:
            bench = demo_bench(name)
            for scenario in bench.scenarios:
                done = study(bench, scenario, mends=False)
                assert done.answers is not None
                lines = list(study_lines(bench, done))
                for _, part in bench.sensed:
                    if tally := done.answers.sensed.get(part.id):
                        plain = f"{part.name}: made {tally.made}, counted {tally.counted}"
                        seen += 1
                        self.assertIn(
                            plain + (f", wrong {tally.wrong}" if tally.wrong else ""), [x.strip() for x in lines]
                        )
        self.assertGreater(seen, 2)

    def test_what_happened_is_each_change_once_and_the_next_pass_is_the_next(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            run = SkippingEngine().run(bench, bench.scenarios[0])
            told = {(one.at_us, one.words) for one in happened(bench, run)}
            for channel in bench.channels:
                signal = run.trace.signal(Kind.OUTPUT, channel.id)
                stood = None
                for at_us, value in zip(signal.times_us, signal.values, strict=True):
                    if value < 0:
                        continue
                    words = f"{channel.name} {'on' if value > 0 else 'off'}"
                    changed = stood is not None and (value > 0) != stood
                    self.assertEqual((at_us, words) in told, changed, (name, words, at_us))
                    stood = value > 0
            if name == "print-timer":
                passes = run.trace.signal(Kind.PASS)
                rows = zip(passes.times_us, passes.values, strict=True)
                begun = [at_us + n * length_us for at_us, (length_us, many) in rows for n in range(many)]
                self.assertEqual(begun, sorted(begun))
                for at_us in range(0, run.trace.length_us, 9_973):
                    after = bisect_right(begun, at_us)
                    self.assertEqual(next_pass(run, at_us), begun[after] if after < len(begun) else None)

    def test_a_change_is_told_from_half_a_millisecond_on(self) -> None:
        bench = demo_bench("print-timer")
        before = study(bench, bench.scenarios[0], mends=False).answers
        assert before is not None
        for more_us, told in ((499, False), (500, True), (-499, False), (-500, True)):
            after = replace(before, longest_pass_us=before.longest_pass_us + more_us)
            self.assertEqual("longest pass" in difference(bench, before, after), told)
            wait = before.waits["foot-pedal"]
            assert wait is not None
            other = {**before.waits, "foot-pedal": replace(wait, median=wait.median + more_us)}
            self.assertEqual("wait on Foot pedal" in difference(bench, before, replace(before, waits=other)), told)
        for more_us, told in ((49_999, False), (50_000, True)):
            on = {**before.on_us, "safelight": before.on_us["safelight"] - more_us}
            self.assertEqual("Safelight on" in difference(bench, before, replace(before, on_us=on)), told)
        self.assertEqual(difference(bench, before, before), "nothing this scenario shows")

    def test_serial_line_and_quiet_outputs(self) -> None:
        talking = a_task("says", 500, 0, does="print", characters=4)
        for firmware, speaks in (({}, False), ({"serial": {"traces": True}}, True), ({"tasks": [talking]}, True)):
            self.assertEqual(talks(bench_of(**firmware)), speaks)
        idle = anatomy(bench_of(states=[{"id": one, "name": one} for one in ("off", "on")]))
        self.assertEqual([one.longest_us - one.usual_us for one in idle.blocks if one.of == "lamp"], [0])
        for name in ORDER:
            bench = demo_bench(name)
            held = {channel.id: 0 for channel in bench.channels}
            for machine in bench.firmware.machines:
                for _, output, drive in bench.drives_of(machine):
                    held[output] = max(held.get(output, 0), drive.blocks_us)
            found = {block.of: block for block in anatomy(bench).blocks if block.of in held}
            for ident, block in found.items():
                self.assertEqual(block.longest_us - block.usual_us, held[ident], (name, ident))

    def test_what_never_ends(self) -> None:
        self.assertEqual((said(math.inf, "s"), said(math.inf, "Ω")), ("never", "without end"))


class Captured(unittest.TestCase):
    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(st.lists(st.integers(0, 50), min_size=4, max_size=60))
    @example([25, 0, 50, 50, 0])
    @example([25, 50, 0, 24, 50])
    def test_volts_are_levels_with_hysteresis(self, tenths: list[int]) -> None:
        volts = [0.35 + one / 10 for one in tenths]
        low, high = min(volts), max(volts)
        band, middle = (high - low) * HYSTERESIS / 2, (low + high) / 2
        sure = [1 if one >= middle + band else 0 if one <= middle - band else None for one in volts]
        level = next((one for one in sure if one is not None), 0)
        levels = []
        for one in sure:
            level = level if one is None else one
            levels.append(level)
        changes = [n for n, (one, other) in enumerate(pairwise(levels)) if one != other]
        text = "time (us),v\n" + "\n".join(f"{1_000 * n},{one!r}" for n, one in enumerate(volts))
        if high - low < 1 or not changes:
            return  # too flat
        reader = reader_for(text + "\n")
        assert reader is not None
        ((at_ns, streamed),) = reader.feed(text + "\n", True).values()
        self.assertEqual(
            (at_ns[1:], streamed[1:]), ([1_000_000 * (n + 1) for n in changes], [levels[n + 1] for n in changes])
        )
        edges = read_capture(text).edges[1:]
        self.assertEqual([edge.level for edge in edges], [levels[n + 1] for n in changes])
        gaps = np.diff([edge.at_us for edge in edges]).tolist()
        self.assertEqual(gaps, [1_000 * gap for gap in np.diff(changes).tolist()])
