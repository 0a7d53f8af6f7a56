"""The watchdog in its modes, hang tests, what outlives a reset, the timeout chosen, sleep and the cell."""

from __future__ import annotations

import itertools
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.pace_benches import READY_US, bench_of, rows, run_of, task, with_hold
from tests.depth import DEPTH
from viva_tick.core.boards import boards
from viva_tick.core.document import Bench, Cell, DocumentError, Sleep, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch, words
from viva_tick.core.engine import Fault, Kind
from viva_tick.core.findings import Evidence
from viva_tick.core.findings.guard import timeout
from viva_tick.core.guard import (
    FAULTS,
    choose,
    corners,
    fault_at,
    faults_of,
    hang_row,
    hang_rows,
    hang_tests,
    life_days,
    sleep_study,
    starts,
    wear,
)
from viva_tick.core.program import idle_pass_us
from viva_tick.core.study import study
from viva_tick.demo import demo_bench

MAINS = {"loads": ["mains"]}
DOG = {"mode": "reset", "timeout_us": 250_000}
AT = 500_000
COUNT = {
    "variables": [{"id": "count", "name": "Count", "least": 0, "most": 999}],
    "transitions": [
        {"source": one, "on": {"kind": "press", "input": "button"}, "target": other, "actions": [add]}
        for one, other in (("off", "on"), ("on", "off"))
        for add in [{"do": "add", "variable": "count", "number": 1}]
    ],
}


def guarded(mode: str = "reset", timeout_us: int = 250_000, presses: Any = ((300, 100),), **more: Any) -> Bench:
    """A lamp on mains, switched on at 0.3 s, and a watchdog."""
    dog = {"mode": mode, "timeout_us": timeout_us, **more.pop("dog", {})}
    return bench_of(presses=list(presses), lamp=more.pop("lamp", MAINS), watchdog=dog, **more)


class Modes(unittest.TestCase):
    def test_when_each_mode_acts_on_a_hang(self) -> None:
        stuck = Fault("stuck", AT)
        for mode, barks, resets in (
            ("off", [], []),
            ("reset", [], [250]),
            ("interrupt", [250, 500, 750], []),
            ("interrupt-reset", [250], [500]),
        ):
            run = run_of(guarded(mode), stuck)
            found = [round((at - AT) / 1000) for at, _ in rows(run, Kind.RESET)]
            called = [at for s in run.trace.signals if s.kind is Kind.BARK for at in s.times_us]
            self.assertEqual(found, resets, mode)
            self.assertEqual([round((at - AT) / 1000) for at in called][:3], barks, mode)
            lamp = rows(run, Kind.OUTPUT, "lamp")
            self.assertEqual(lamp[-1][1], 0 if resets else 1)

    def test_where_it_is_fed_decides_what_it_sees(self) -> None:
        fed: list[tuple[dict[str, Any], bool]] = [
            ({"feed": "start"}, True),
            ({"feed": "end"}, True),
            ({"feed": "interrupt"}, False),
            ({"feed": "end", "also": ["wait"]}, False),
            ({"feed": "task", "feed_task": "beat"}, True),
        ]
        for dog, bites in fed:
            run = run_of(guarded(dog=dog, tasks=[task("beat", 100, 10)]), Fault("stuck", AT))
            self.assertEqual(bool(rows(run, Kind.RESET)), bites, dog)
        # Fed by a task that comes round too seldom, it bites a healthy loop; fed by nobody, again and again.
        for feed_task, period in (("beat", 400), ("nobody", 100)):
            dog = {"feed": "task", "feed_task": feed_task}
            run = run_of(guarded(dog=dog, tasks=[task("beat", period, 10)]))
            at = [at for at, _ in rows(run, Kind.RESET)]
            self.assertEqual(at[0], READY_US + 250_000)
            self.assertGreater(len(at), 3)

    def test_a_wait_feeds_it_where_it_may_and_work_does_not(self) -> None:
        dog = {**DOG, "also": ["wait"]}
        for bench, bites in (
            (with_hold(700, watchdog=dog), False),
            (bench_of(watchdog=dog, loop={"tail_delay_us": 400_000}), False),
            (bench_of(watchdog=dog, tasks=[task("work", 500, 400_000)]), True),
            (bench_of(watchdog=dog, tasks=[task("talk", 900, 0, does="print", characters=500)]), True),
        ):
            self.assertEqual(bool(rows(run_of(bench), Kind.RESET)), bites)

    def test_its_handler_makes_work_longer_and_no_wait(self) -> None:
        # Called once in 300 ms: nothing differs from what is kept, so that nothing is written.
        more = {"keeps": [{"of": "count", "where": "store", "when": "interrupt"}], "variables": COUNT["variables"]}
        dog = {**DOG, "mode": "interrupt"}
        works = bench_of(watchdog=dog, tasks=[task("work", 1_500, 300_000)], **more)
        for bench, held_us in ((with_hold(300, watchdog=dog, **more), 300_000), (works, 300_002)):
            self.assertEqual([us for _, (us, _) in rows(run_of(bench), Kind.BLOCKED)], [held_us])

    def test_left_on_it_bites_during_set_up_for_ever(self) -> None:
        run = run_of(guarded(dog={"off_at_start": False}), Fault("stuck", AT))
        at = [at for at, _ in rows(run, Kind.RESET)]
        self.assertEqual({other - one for one, other in itertools.pairwise(at)}, {16_000})
        self.assertGreater(at[-1], 1_980_000)
        self.assertEqual(rows(run, Kind.OUTPUT, "lamp")[-1][1], -1)  # it floats

    def test_what_is_kept_outlives_the_reset_that_its_memory_stands(self) -> None:
        for where, cause, kept in (("ram", "stuck", True), ("ram", "dip", False), ("store", "dip", True)):
            keeps = [{"of": "count", "where": where}]
            bench = guarded(presses=[(150, 60), (300, 60)], keeps=keeps, **COUNT)
            after = rows(run_of(bench, fault_at(bench, cause, "", AT)), Kind.VALUE, "count")  # type: ignore[arg-type]
            self.assertEqual(after[-1][1], 2 if kept else 0, (where, cause))
        self.assertEqual(rows(run_of(guarded(**COUNT), Fault("stuck", AT)), Kind.VALUE, "count")[-1][1], 0)
        states = guarded(keeps=[{"of": "toggle"}])
        self.assertEqual(rows(run_of(states, Fault("stuck", AT)), Kind.STATE, "toggle")[-1][1], "on")

    def test_writes_take_their_time_and_are_counted(self) -> None:
        for when, writes in (("change", 2), ("interrupt", 0), ("every", 2)):
            keeps = [{"of": "count", "where": "store", "when": when, "every_us": 100_000}]
            bench = guarded(presses=[(150, 60), (300, 60)], keeps=keeps, length_ms=2_065, **COUNT)
            run = run_of(bench)
            found = [of for s in run.trace.signals if s.kind is Kind.WRITE for of in s.values]
            self.assertEqual(len(found), writes, when)
            if found:
                held = [value for _, value in rows(run, Kind.BLOCKED) if value[1] == "keeping"]
                self.assertEqual({us for us, _ in held}, {3_400})  # of two bytes the one that differs
        self.assertEqual([bench.kept_bytes(of) for of in ("count", "toggle")], [2, 1])
        each = wear(bench, run)[0]
        a_day = 2 * 86_400 / 2.065  # as in this run: what does not differ is not written
        self.assertAlmostEqual(each.a_day, a_day)
        self.assertAlmostEqual(each.years or 0, 100_000 / a_day / 365.25)
        beats = [("count", 100_000, 1), ("toggle", 400_000, 1)]  # each keeps its own beat
        keeps = [{"of": of, "where": "store", "when": "every", "every_us": us} for of, us, _ in beats]
        run = run_of(guarded(keeps=keeps, length_ms=2_065, **COUNT))
        found = [of for s in run.trace.signals if s.kind is Kind.WRITE for of in s.values]
        self.assertEqual([found.count(of) for of, _, _ in beats], [many for _, _, many in beats])
        called = guarded("interrupt-reset", keeps=[{"of": "count", "where": "store", "when": "interrupt"}], **COUNT)
        run = run_of(called, Fault("stuck", AT))
        self.assertEqual(rows(run, Kind.BARK)[0][1], 3_402)
        self.assertEqual(rows(run, Kind.VALUE, "count")[-1][1], 1)


class Hangs(unittest.TestCase):
    def verdict(self, kind: str, of: str = "", **more: Any) -> tuple[str, Any]:
        bench = guarded(**more)
        row = hang_row(bench, bench.scenarios[0], kind, of, 4)  # type: ignore[arg-type]
        return row.verdict, row

    def test_what_becomes_of_each_fault(self) -> None:
        relay = {"kind": "relay", **MAINS}
        sampling = [task("probe", 200, 1000, does="sample")]
        for kind, of, more, verdict in (
            ("stuck", "", {}, "reset"),
            ("stuck", "", {"mode": "off"}, "hangs"),
            ("stuck", "", {"mode": "interrupt"}, "hangs"),
            ("stuck", "", {"dog": {"feed": "interrupt"}}, "hangs"),
            ("stuck", "", {"dog": {"off_at_start": False}}, "boot-loop"),
            ("bus", "probe", {"tasks": sampling}, "boot-loop"),
            ("bus", "probe", {"tasks": sampling, "mode": "off"}, "hangs"),
            ("starve", "", {}, "unnoticed"),
            ("storm", "", {}, "reset"),
            ("storm", "", {"mode": "off"}, "by-itself"),
            ("counter", "", {}, "unnoticed"),
            ("dip", "", {}, "reset"),
            ("closed", "button", {}, "outside"),
            ("welded", "lamp", {"lamp": relay}, "outside"),
        ):
            found, _ = self.verdict(kind, of, **more)
            self.assertEqual(found, verdict, (kind, more))

    def test_a_fault_befalls_what_it_names(self) -> None:
        tasks = [task("probe", 200, 1000, does="sample"), task("rare", 5_000, 1000, does="sample"), task("sum", 50, 10)]
        bench = guarded(tasks=tasks, debounce={"button": {"method": "interrupt", "interval_us": 20_000}})
        named = {(fault.id, of) for fault, of, _ in faults_of(bench)}
        self.assertEqual({of for kind, of in named if kind == "bus"}, {"probe", "rare"})
        self.assertEqual({of for kind, of in named if kind == "storm"}, {"button"})
        self.assertEqual({of for fault, of, _ in faults_of(guarded()) if fault.id == "storm"}, {""})
        verdicts = [hang_row(bench, bench.scenarios[0], "bus", of, 4).verdict for of in ("probe", "rare")]
        self.assertEqual(verdicts, ["boot-loop", "unmet"])

    def test_the_numbers_of_a_reset(self) -> None:
        _, row = self.verdict("stuck")
        boot = READY_US
        self.assertLess(abs((row.slowest_us or 0) - 250_000 - boot), 300)
        self.assertEqual((row.runs, row.recovered), (4, 4))
        self.assertEqual(row.stayed[0], "Lamp")
        self.assertLess(abs(row.stayed[1] - 250_000), 300)
        self.assertEqual(row.lost, ("Toggle",))
        _, row = self.verdict("welded", "lamp", lamp={"kind": "relay", **MAINS}, presses=[(300, 60), (700, 60)])
        self.assertTrue(row.stayed[2])
        _, kept = self.verdict("stuck", keeps=[{"of": "toggle"}])
        self.assertEqual(kept.worst.kept, ("Toggle",))

    def test_all_of_them_in_a_row_and_a_stop(self) -> None:
        bench = guarded(lamp={"kind": "relay", **MAINS}, tasks=[task("probe", 200, 1000, does="sample")])
        runs = hang_tests(bench, bench.scenarios[0], 2)
        self.assertEqual({run.fault.kind for run in runs}, set(FAULTS))
        self.assertEqual(len(hang_rows(bench, runs)), len(FAULTS))
        stopped = hang_tests(bench, bench.scenarios[0], 2, go_on=lambda done, of: done < 5)
        self.assertEqual(len(stopped), 5)

    def test_a_counter_that_stands_still_defeats_a_longest_time(self) -> None:
        bench = guarded(limits={"lamp": {"longest_us": 400_000}}, length_ms=3_000)
        self.assertEqual(rows(run_of(bench), Kind.OUTPUT, "lamp")[-1][1], 0)
        self.assertEqual(rows(run_of(bench, Fault("counter", AT)), Kind.OUTPUT, "lamp")[-1][1], 1)

    def test_outputs_from_power_on(self) -> None:
        for hold, before in (("none", "floats"), ("down", "off"), ("up", "on")):
            bench = guarded(lamp={"hold": hold, **MAINS})
            run = run_of(bench)
            row = starts(bench, run, *run.boots[0])[0]
            self.assertEqual((row.levels, row.unsafe), ((before, before, "off"), before != "off"))


class Chosen(unittest.TestCase):
    def test_the_longest_step_that_what_can_hurt_allows(self) -> None:
        # By hand: 2 s are allowed; 1 s is 1.15 s at its slowest, and 65.4 ms to start; 2 s would be 2.3 s. The longest
        # pass: 100 ms and a few µs, 0.5 % slower, half as much again is 151 ms; 15 % fast, 250 ms is 212.
        states = [
            {"id": "off", "name": "Off", "drives": {}},
            {"id": "on", "name": "On", "drives": {"lamp": {"kind": "pulse", "length_us": 100_000, "blocking": True}}},
        ]
        bench = guarded(states=states)
        found = choose(bench)
        assert found.best
        self.assertEqual(found.best.step_us, 1_000_000)
        self.assertEqual(next(step.step_us for step in found.steps if step.clears), 250_000)
        self.assertEqual(corners(bench, 250_000), (212_500, 287_500))
        self.assertEqual(found.best.hazard_us, 1_150_000 + READY_US)  # a pin that nothing holds
        held = choose(guarded(states=states, lamp={"hold": "down", **MAINS})).best
        self.assertEqual(held and held.hazard_us, 1_150_000)
        twice = choose(guarded("interrupt-reset", states=states, lamp={"hold": "down", **MAINS})).best
        self.assertEqual(twice and (twice.step_us, twice.hazard_us), (500_000, 1_150_000))
        harmless = choose(bench_of(watchdog=DOG)).best  # room for a library's call
        self.assertEqual(harmless and harmless.step_us, 500_000)

    def test_no_step_fits_says_what_to_shorten_and_by_how_much(self) -> None:
        busy = [task("work", 2_000, 900_000)]
        bench = guarded(tasks=busy, dog={"hazard_us": 500_000})
        found = choose(bench)
        self.assertIsNone(found.best)
        assert found.shorten
        self.assertEqual(found.shorten.of, "work")
        shorter = [task("work", 2_000, 900_000 - found.by_us - 6_000)]
        self.assertIsNotNone(choose(guarded(tasks=shorter, dog={"hazard_us": 500_000})).best)

    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(st.integers(0, 400), st.integers(0, 200), st.sampled_from(["start", "end"]))
    def test_a_healthy_bench_never_bites_with_the_step_chosen(self, run_ms: int, margin: int, feed: str) -> None:
        tasks = [task("work", 500, run_ms * 1000)]
        dog = {"margin_percent": margin, "feed": feed, "hazard_us": 60_000_000}
        best = choose(guarded(tasks=tasks, dog=dog)).best
        if best is None:
            return
        for corner in corners(guarded(), best.step_us):
            run = run_of(guarded(tasks=tasks, dog=dog, timeout_us=corner))
            self.assertFalse(rows(run, Kind.RESET), corner)

    def test_the_steps_of_the_8_bit_class_are_powers_of_two_of_its_oscillator(self) -> None:
        steps = boards()["mid-8bit-5v"].watchdog_steps_us
        for step, power in zip(steps, range(11, 21), strict=True):
            self.assertLess(abs(step / (2**power / 128_000 * 1e6) - 1), 0.03)

    def test_what_is_said_of_a_timeout(self) -> None:
        for us, codes in (
            (250_000, []),
            (200_000, ["guard.no-step"]),
            (8_000_000, ["guard.too-long"]),
            (16_000, ["guard.too-short"]),
        ):
            bench = guarded(timeout_us=us, tasks=[task("work", 500, 30_000)])
            done = study(bench, bench.scenarios[0], mends=False)
            evidence = Evidence(bench, bench.scenarios[0], done.run, done.answers, idle_pass_us(bench))
            self.assertEqual([one.code for one in timeout(evidence)], codes)


class InWords(unittest.TestCase):
    def test_every_edit_of_pace_and_guard_is_a_sentence(self) -> None:
        bench = demo_bench("rain-barrel")
        task_at, dog = "/firmware/tasks/0", "/firmware/watchdog"
        for path, value, said in (
            (f"{task_at}/period_us", 250_000, "Report: every 620 ms → 250 ms"),
            (f"{task_at}/run_us", 4_500, "Report: takes 1.5 ms → 4.5 ms"),
            (f"{task_at}/offset_us", 20_000, "Report: begins one period after set-up → 20 ms after set-up"),
            (f"{task_at}/keeps", "last", "Report: counts from now on → keeps its beat"),
            (f"{task_at}/late", "skip", "Report: catches up when late → lets late jobs go"),
            (f"{task_at}/blocking", False, "Report: holds the loop → runs beside the loop"),
            (f"{task_at}/priority", 7, "Report: priority 2 → 7"),
            (f"{task_at}/ends", "spins", "Report: waits after its work → busy-waits after its work"),
            (f"{task_at}/shares", "bus", "Report: shares nothing → bus"),
            (f"{task_at}/name", "Log", "a task is called Report → Log"),
            ("/firmware/school", "kernel", "loop style: with the millisecond counter → tasks under a kernel"),
            ("/firmware/kernel/tick_us", 2_000, "kernel: tick 1 ms → 2 ms"),
            ("/firmware/measured/read", 9, "a reading takes what is usual → 9 µs, measured"),
            ("/firmware/serial/baud", 115_200, "serial line at 9600 baud → 115200 baud"),
            ("/firmware/serial/reads", "line", "lines are read whole"),
            ("/firmware/timekeeping/compares", "until", "compares the time since → with the end time"),
            ("/firmware/timekeeping/product", "int", "seconds × 1000 in a long → an int"),
            (f"{dog}/mode", "interrupt-reset", "watchdog: off → calls its interrupt, then resets the board"),
            (f"{dog}/timeout_us", 1_000_000, "watchdog 250 ms → 1 s"),
            (f"{dog}/also", ["wait"], "watchdog fed: end, wait"),
            (f"{dog}/off_at_start", False, "watchdog: turned off at start-up → left on at start-up"),
            (f"{dog}/cause", "kept", "watchdog: its cause is lost → kept"),
            (f"{dog}/hazard_us", 500_000, "a hazardous output may stay on 2 s after a hang → 500 ms after a hang"),
            ("/firmware/keeps", [{"of": "filling"}], "the state of Filling outlives a reset"),
            ("/firmware/sleep", {"wakes": "timer"}, "asleep 125 ms between passes, woken by a timer"),
            ("/cell", {"capacity_mah": 500}, "runs on a battery of 500 mAh, 80 % usable"),
        ):
            patch = [{"op": "replace", "path": path, "value": value}]
            self.assertEqual(words(bench, apply_patch(bench, patch), patch), said)
        for op, path, said in (("remove", "/firmware/tasks/1", "task Draw the gauge removed"),):
            patch = [{"op": op, "path": path}]
            self.assertEqual(words(bench, apply_patch(bench, patch), patch), said)

    def test_what_cannot_be_is_refused_with_its_place(self) -> None:
        bench = demo_bench("rain-barrel")
        for path, value, says in (
            ("/firmware/tasks/0/period_us", 0, "/firmware/tasks/0/period_us"),
            ("/firmware/tasks/0/priority", 77, "9 is the most"),
            ("/firmware/tasks/0/holds_us", 99_999, "longer than its work"),
            ("/firmware/tasks/1/id", "report", "is taken"),
            ("/firmware/keeps", [{"of": "nothing"}], "there is no variable and no machine"),
            ("/firmware/keeps", [{"of": "filling"}, {"of": "filling"}], "is taken"),
            ("/firmware/school", "waterfall", "/firmware/school"),
            ("/firmware/sleep", {"every_us": 10}, "/firmware/sleep/every_us"),
            ("/cell", {"usable_percent": 0}, "/cell/usable_percent"),
            ("/firmware/serial/baud", "fast", "/firmware/serial/baud"),
        ):
            with self.assertRaises(DocumentError) as raised:
                apply_patch(bench, [{"op": "replace", "path": path, "value": value}])
            self.assertIn(says, str(raised.exception))


class Asleep(unittest.TestCase):
    def test_how_long_a_cell_lasts(self) -> None:
        # By hand: 1600 of 2000 mAh; 0.02 ms awake at 15 mA and 125 ms asleep at 0.11 mA are 0.1128 mA on average, and
        # 3 % a year of 2000 mAh are 0.00684 mA more: 1600 / 0.1196 / 24 = 557 days.
        bench = bench_of(sleep={"wakes": "watchdog", "every_us": 125_000})
        bench = bench.model_copy(update={"cell": Cell(capacity_mah=2000, usable_percent=80, lost_a_year_percent=3)})
        found = sleep_study(bench, None, 0)
        awake_us = idle_pass_us(bench) - 125_000
        average_ma = (15 * awake_us + 0.11 * 125_000) / (awake_us + 125_000)
        self.assertAlmostEqual(found.average_ua / 1000, average_ma, 6)
        self.assertAlmostEqual(found.days or 0, 1600 / (average_ma + 2000 * 0.03 / 8766) / 24, 6)
        self.assertAlmostEqual(life_days(1000, 100, 0, 1000), 1000 / 24)  # 1 Ah at 1 mA: a thousand hours

    def test_what_outputs_take_of_it(self) -> None:
        # A lamp of 20 mA and 1 mA of its pin, on from 0.3 to 0.8 of 2 s, takes 5.25 mA on average; a display of 30 mA that
        # nothing switches, 30.
        bench = bench_of(2_000, [(300, 100), (800, 100)], lamp={"load_ua": 20_000, "fed": "module"})
        data = bench_data(bench) | {"cell": {"capacity_mah": 1000, "usable_percent": 100, "lost_a_year_percent": 0}}
        screen = {"kind": "display", "id": "screen", "name": "Screen", "data": "A4", "clock": "A5", "load_ua": 30_000}
        for outputs, taken_ma in (([], 5.25), ([screen], 35.25)):
            lit = bench_from_data({**data, "outputs": [*data["outputs"], *outputs]})
            done = study(lit, lit.scenarios[0])
            found = sleep_study(lit, done.answers, lit.scenarios[0].length_us)
            self.assertAlmostEqual(found.outputs_ua / 1000, taken_ma, delta=0.01)
            board_ma = lit.the_board.run_ua / 1000
            self.assertAlmostEqual((found.days or 0) * 24, 1000 / (board_ma + taken_ma), delta=0.05)

    def test_asleep_it_reads_nothing_and_the_watchdog_s_sleep_stops_the_clock(self) -> None:
        beat = [task("work", 500, 10)]
        for wakes, seconds in (("timer", 0.5), ("watchdog", 100)):
            sleep = {"wakes": wakes, "every_us": 100_000}
            run = run_of(bench_of(tasks=beat, sleep=sleep, length_ms=5_000))
            lengths = [length for length, _ in run.trace.signal(Kind.PASS).values]
            self.assertGreater(min(lengths), 99_000)  # a timer wakes it as the counter counts
            first = rows(run, Kind.JOB, "work")[:1]
            if seconds == 100:
                self.assertFalse(first)  # of 5 s it was awake for 2 ms
            else:
                self.assertLess(abs(first[0][0] - READY_US - 500_000), 110_000)
        self.assertEqual(Sleep(every_us=16_000).wakes, "watchdog")


if __name__ == "__main__":
    unittest.main()
