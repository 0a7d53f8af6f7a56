"""Figures that stand in the program, each against the table that it was taken from; and what a pass is made of."""

from __future__ import annotations

import unittest
from typing import Any

import eseries

from tests.core.finding_cases import LEVEL, with_parts
from tests.core.pace_benches import PRESS as PRESSED
from tests.core.pace_benches import bench_of, with_hold
from tests.core.pace_benches import task as a_task
from tests.core.pace_cases import between, body, do
from viva_tick.core.arithmetic import SUMS, first_values, problem, said, worked
from viva_tick.core.arithmetic.times import crossings_a_s
from viva_tick.core.contacts import source_bouncer
from viva_tick.core.edits import apply_patch
from viva_tick.core.edits import words as edit_words
from viva_tick.core.electrics.series import E12, E24
from viva_tick.core.emit import TARGETS
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.findings.serial import BAUDS
from viva_tick.core.findings.switching import CARRIES_UA
from viva_tick.core.guard.hangs import fault_at, hang_run
from viva_tick.core.pace.anatomy import longest_of
from viva_tick.core.program import idle_pass_us
from viva_tick.core.study import study
from viva_tick.core.switches import SWITCH_CLASSES
from viva_tick.demo import ORDER, demo_bench


class Tables(unittest.TestCase):
    def test_series_are_those_of_iec_60063(self) -> None:
        for series, name in ((E12, eseries.E12), (E24, eseries.E24)):
            self.assertEqual(list(series), [round(one) for one in eseries.series(name)])

    def test_wires_carry_what_iec_60335_1_table_11_gives_them(self) -> None:
        table = {0.5: 3, 0.75: 6, 1.0: 10, 1.5: 16, 2.5: 25}
        self.assertEqual(dict(CARRIES_UA), {area: amps * 1_000_000 for area, amps in table.items()})

    def test_bauds_and_how_wide_a_band_is(self) -> None:
        self.assertEqual(BAUDS, (*(9_600 * k for k in (1, 2, 4, 6, 12)), 250_000, 500_000, 1_000_000))
        bench = with_parts({**LEVEL, "stands_at": 20.0, "noise_mv": 100}, above=50.0, below=48.7654)
        (told,) = [one for one in study(bench, None).findings if one.code == "clean.thin-hysteresis"]
        self.assertEqual(dict(told.numbers)["hysteresis"].split()[0], f"{50 - 48.7654:.3g}")
        far = with_parts({**LEVEL, "least": 1.23456, "most": 98.7654}, above=5_000.0, below=4_000.0)
        (told,) = [one for one in study(far, None).findings if one.code == "clean.unreachable"]
        self.assertEqual(dict(told.numbers)["reaches"].split()[:3], ["1.235", "to", "98.77"])

    def test_through_a_base_and_through_a_wire(self) -> None:
        base = SUMS["base"]
        found = worked(base, first_values(base) | {"U_p": 5.0, "R_E": 1_000.0}).values
        self.assertAlmostEqual(found["I_pin"], (5 - 0.7) / 1_000)
        wire = SUMS["wire"]
        for area, allowed in ((100.0, True), (100.5, False)):
            self.assertEqual(problem(wire, first_values(wire) | {"A": area}) == "", allowed)

    def test_the_kernels_task_that_feeds_the_watchdog_feeds_it(self) -> None:
        tasks = [a_task("work", 50, 2_000, priority=3)]
        dog = {"mode": "reset", "timeout_us": 120_000, "feed": "task", "feed_task": "work"}
        for bench in (
            bench_of(school="kernel", tasks=tasks, watchdog=dog), with_hold(333, school="kernel", tasks=tasks, watchdog=dog)
        ):  # fmt: skip
            run = SkippingEngine().run(bench, bench.scenarios[0])
            self.assertEqual(run.trace.signal(Kind.RESET).times_us, [])

    def test_a_task_that_is_changed_is_called_by_its_name(self) -> None:
        bench = bench_of(tasks=[a_task("one", 50, 2_000), a_task("two", 70, 2_000)])
        patch: Any = [{"op": "replace", "path": "/firmware/tasks/1/period_us", "value": 90_000}]
        self.assertRegex(edit_words(bench, apply_patch(bench, patch), patch), "^Two: .*90 ms")

    def test_what_a_machine_signals_is_given_as_a_task_gives_it(self) -> None:
        has = {"flags": [{"id": "jobs", "name": "Jobs"}, {"id": "done", "name": "Done"}], "mutexes": []}
        work = body("first", do("take", "jobs"), do("give", "done"))
        signalled = [
            {"source": "off", "on": PRESSED, "target": "on", "actions": [{"do": "signal", "of": "jobs"}]},
            {"source": "on", "on": {"kind": "taken", "signal": "done"}, "target": "off"},
        ]
        bench = between(work, has=has, transitions=signalled, board="two-core-32bit-3v3")
        text = "\n".join(file.text for file in TARGETS["kernel"].emit(bench, []).files)
        self.assertIn("xSemaphoreGive(", text)
        self.assertNotIn("FromISR", text)

    def test_contacts_bounce_as_their_class_says(self) -> None:
        # (fewest, most) bounces of a press and the longest it takes, of FACTS: a few ms, 10 to 20 ms, hundreds of ms.
        for name, fewest, most, longest_us in (
            ("small-button", 0, 5, 4_000), ("worn-button", 2, 9, 18_000), ("foot-pedal", 2, 6, 10_500),
            ("toggle-switch", 1, 5, 6_200), ("relay-contact", 1, 4, 5_000), ("float-contact", 2, 10, 420_000),
            ("encoder-contacts", 0, 4, 2_500), ("logic-signal", 0, 0, 0),
        ):  # fmt: skip
            bouncer = source_bouncer(name)
            bursts = [bouncer.burst(True, number) for number in range(3_000)]
            with self.subTest(name):
                self.assertEqual(min(map(len, bursts)), 2 * fewest)
                self.assertEqual(max(map(len, bursts)), 2 * most)
                ends = [burst[-1] for burst in bursts if burst]
                self.assertLessEqual(max(ends, default=0), longest_us * 1.01)
                self.assertGreaterEqual(max(ends, default=0), longest_us * 0.98)
        self.assertEqual(len(SWITCH_CLASSES), 8)

    def test_times_in_words(self) -> None:
        for seconds, words in ((600, "10 min"), (119, "119 s"), (7_200, "2 h"), (172_800, "2 days"), (5_400, "90 min"),
                               (63_115_200, "2 years"), (0.02, "20 ms")):  # fmt: skip
            self.assertEqual(said(seconds, "s", 3), words)
        one = SUMS["hysteresis"]
        values = first_values(one) | {"b": 0.5, "U_pp": 0.01, "band": 0.005}
        rate = crossings_a_s(0.005, 0.01 / 6, 0.5)
        self.assertLess(rate, 1)
        self.assertAlmostEqual(worked(one, values).values["every"], 1 / rate)


class Passes(unittest.TestCase):
    def test_the_blocks_of_the_longest_pass_add_up_to_it(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for scenario in bench.scenarios:
                run = SkippingEngine().run(bench, scenario)
                if bench.firmware.school == "kernel" or run.stopped:
                    continue
                begun_us, anatomy = longest_of(bench, run)
                signal = run.trace.signal(Kind.PASS)
                longest = max(length for length, _ in signal.values)
                self.assertEqual(signal.values[signal.times_us.index(begun_us)][0], longest)
                self.assertEqual(sum(block.usual_us for block in anatomy.blocks), idle_pass_us(bench))

    def test_a_fault_is_a_block_of_its_own_that_no_usual_pass_has(self) -> None:
        bench = bench_of()
        run = hang_run(bench, bench.scenarios[0], fault_at(bench, "starve", "", 400_000))
        _, anatomy = longest_of(bench, run)
        (block,) = [one for one in anatomy.blocks if one.kind == "fault"]
        self.assertEqual((block.usual_us, block.longest_us), (0, 200_000))

    def test_a_watchdog_that_ends_a_hold_leaves_it_in_the_trace_up_to_its_bite(self) -> None:
        bench = with_hold(333, watchdog={"mode": "reset", "timeout_us": 120_000})
        run = SkippingEngine().run(bench, bench.scenarios[0])
        (bite_us,) = run.trace.signal(Kind.RESET).times_us
        blocked = run.trace.signal(Kind.BLOCKED)
        self.assertIn(bite_us, [at + one[0] for at, one in zip(blocked.times_us, blocked.values, strict=True)])
