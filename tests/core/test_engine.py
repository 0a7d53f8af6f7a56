"""The engines agree with each other, and with what can be said by hand."""

from __future__ import annotations

import json
import unittest
from dataclasses import replace

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.document import Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.engine import Budget, Kind, PlainEngine, Run, SkippingEngine, Trace
from viva_tick.core.program import idle_pass_us
from viva_tick.demo import demo_bench

# Without shrinking: a failing bench is rather read whole than waited for.
NO_SHRINK = [Phase.explicit, Phase.reuse, Phase.generate]
SLOW = settings(max_examples=60 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))


def push_bench(method: str = "rest-first", interval_ms: int = 20, **scenario: object) -> Bench:
    """A clean contact that toggles a lamp."""
    press = {"kind": "press", "input": "button"}
    return bench_from_data(
        {
            "version": 1,
            "name": "push",
            "inputs": [
                {"id": "button", "name": "Button", "pin": "D2", "contact": {"kind": "model", "switch": "logic-signal"}}
            ],
            "outputs": [{"id": "lamp", "name": "Lamp", "pin": "D8"}],
            "firmware": {
                "debounce": {"button": {"method": method, "interval_us": interval_ms * 1000}},
                "machines": [
                    {
                        "id": "toggle",
                        "name": "Toggle",
                        "initial": "off",
                        "states": [
                            {"id": "off", "name": "Off", "drives": {"lamp": {"kind": "steady", "on": False}}},
                            {"id": "on", "name": "On", "drives": {"lamp": {"kind": "steady", "on": True}}},
                        ],
                        "transitions": [
                            {"source": "off", "on": press, "target": "on"},
                            {"source": "on", "on": press, "target": "off"},
                        ],
                    }
                ],
            },
            "scenarios": [
                {
                    "name": "taps",
                    "length_us": 1_000_000,
                    "stimuli": [{"kind": "press", "input": "button", "at_us": 200_000, "hold_us": 100_000}],
                    **scenario,
                }
            ],
        }
    )


def edited(bench: Bench, **firmware: object) -> Bench:
    data = bench_data(bench)
    data["firmware"].update(firmware)
    return bench_from_data(data)


def run(bench: Bench, seed: int | None = None) -> Trace:
    return SkippingEngine().run(bench, bench.scenarios[0], seed).trace


class SkippingChangesNothing(unittest.TestCase):
    @SLOW
    @given(st.one_of(benches(), benches(schools=True), sensed_benches()))
    def test_both_engines_leave_the_same_bytes_one_pass_after_another(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        plain = PlainEngine().run(bench, scenario)
        skipping = SkippingEngine().run(bench, scenario)
        self.assertEqual(plain.trace.to_bytes(), skipping.trace.to_bytes())
        self.assertEqual(replace(plain, trace=skipping.trace), skipping)
        self.assert_runs_forward(skipping.trace)
        by_pin = bench.firmware.sleep is not None and bench.firmware.sleep.wakes == "pin"
        if bench.firmware.school != "kernel" and not by_pin:  # asleep until a pin moves is no pass
            self.assert_passes_fill_the_time_between_boots(skipping)

    def assert_runs_forward(self, trace: Trace) -> None:
        """Instants in their order, and nothing said that is no change."""
        for signal in trace.signals:
            steps = list(zip(signal.times_us, signal.times_us[1:], strict=False))
            self.assertTrue(all(a <= b for a, b in steps), (signal.kind, signal.of, steps))
            if signal.kind in (Kind.CONTACT, Kind.LEVEL):
                self.assertTrue(all(a != b for a, b in zip(signal.values, signal.values[1:], strict=False)))

    def assert_passes_fill_the_time_between_boots(self, run: Run) -> None:
        passes = run.trace.signal(Kind.PASS)
        ready = dict(run.boots)
        for at, (length, count), after in zip(passes.times_us, passes.values, passes.times_us[1:], strict=False):
            end = at + length * count
            self.assertEqual(after, ready.get(end, end))

    def test_the_same_seed_is_the_same_run_and_another_is_not(self) -> None:
        bench = demo_bench("print-timer")
        self.assertEqual(run(bench, 5).to_bytes(), run(bench, 5).to_bytes())
        self.assertNotEqual(run(bench, 5).to_bytes(), run(bench, 6).to_bytes())
        self.assertEqual(Trace.from_bytes(run(bench, 5).to_bytes()).to_bytes(), run(bench, 5).to_bytes())


class WhatCanBeSaidByHand(unittest.TestCase):
    """A clean contact at 0.2 s; a pass of 22 µs (6 + 7 + 5 + 4); start-up and set-up 65.4 ms."""

    def press_at(self, bench: Bench) -> int:
        trace = run(bench)
        events = trace.signal(Kind.EVENT, "button")
        return events.times_us[events.values.index("press")]

    def test_waits(self) -> None:
        # (method, interval, least and most wait): the millisecond counter makes a 20 ms wait 19 to 20 ms long.
        for method, interval_ms, least, most in (
            ("none", 0, 0, 44),
            ("rest-first", 20, 19_000, 20_044),
            ("rest-first", 1, 0, 1_044),
            ("act-ignore", 50, 0, 44),
            ("fixed-delay", 50, 0, 44),
        ):
            with self.subTest(method=method):
                wait = self.press_at(push_bench(method, interval_ms)) - 200_000
                self.assertGreaterEqual(wait, least)
                self.assertLessEqual(wait, most)

    def test_lamp_follows_in_the_pass_of_the_event(self) -> None:
        trace = run(push_bench())
        lamp = trace.signal(Kind.OUTPUT, "lamp")
        self.assertEqual(lamp.values, [-1, 0, 1])
        self.assertEqual(lamp.times_us[:2], [0, 65_400])
        self.assertLessEqual(lamp.times_us[2] - self.press_at(push_bench()), 22)

    def test_until_set_up_a_pin_floats_unless_it_is_held(self) -> None:
        for hold, active, first in (
            ("none", "high", -1),
            ("down", "high", 0),
            ("up", "high", 1),
            ("up", "low", 0),
            ("down", "low", 1),
        ):
            data = bench_data(push_bench())
            data["outputs"][0] |= {"hold": hold, "active_level": active}
            lamp = run(bench_from_data(data)).signal(Kind.OUTPUT, "lamp")
            self.assertEqual(lamp.values[0], first, (hold, active))

    def test_fixed_delay_holds_the_pass_after_it_has_acted(self) -> None:
        trace = run(push_bench("fixed-delay", 50))
        blocked = trace.signal(Kind.BLOCKED)
        lamp_on = trace.signal(Kind.OUTPUT, "lamp").times_us[2]
        self.assertEqual(blocked.values, [(50_000, "debounce button")] * 2)
        self.assertEqual(blocked.times_us[0], lamp_on)
        self.assertEqual(max(length for length, _ in trace.signal(Kind.PASS).values), 50_022)

    def test_a_wrap_of_the_counter_changes_nothing(self) -> None:
        # The counter starts with start-up, at 65 ms; the wrap falls inside the 20 ms wait of the press at 200 ms.
        wraps = push_bench(counter_start_ms=0xFFFF_FFFF - 140)
        self.assertEqual(run(wraps).to_bytes(), run(push_bench()).to_bytes())

    def test_drives_keep_their_times(self) -> None:
        for drive, ons in (
            ({"kind": "blink", "on_us": 100_000, "off_us": 50_000}, [100_000, 50_000] * 3),
            ({"kind": "pulse", "length_us": 30_000}, [30_000]),
            ({"kind": "pulse", "length_us": 30_000, "blocking": True}, [30_000]),
        ):
            with self.subTest(drive=drive):
                state = {"id": "on", "name": "On", "drives": {"lamp": drive}}
                machine = {"id": "m", "name": "M", "initial": "on", "states": [state]}
                lamp = run(edited(push_bench(), machines=[machine])).signal(Kind.OUTPUT, "lamp")
                lengths = [b - a for a, b in zip(lamp.times_us[2:], lamp.times_us[3:], strict=False)]
                for length, wanted in zip(lengths, ons, strict=False):
                    self.assertLess(abs(length - wanted), 1022)
                self.assertEqual(len(lengths[: len(ons)]), len(ons))

    def test_blink_does_not_drift(self) -> None:
        state = {"id": "on", "name": "On", "drives": {"lamp": {"kind": "blink", "on_us": 7000, "off_us": 7000}}}
        bench = edited(push_bench(), machines=[{"id": "m", "name": "M", "initial": "on", "states": [state]}])
        lamp = run(bench).signal(Kind.OUTPUT, "lamp")
        first, last = lamp.times_us[2], lamp.times_us[-1]
        self.assertLess(abs((last - first) - 7000 * (len(lamp.times_us) - 3)), 1022)

    def test_the_watchdog_bites_a_long_pass_and_the_board_boots_again(self) -> None:
        guard = {"mode": "reset", "timeout_us": 32_000, "feed": "end"}
        trace = run(edited(push_bench("fixed-delay", 50), watchdog=guard))
        bite = trace.signal(Kind.RESET).times_us[0]
        lamp = trace.signal(Kind.OUTPUT, "lamp")
        self.assertIn((bite, -1), list(zip(lamp.times_us, lamp.values, strict=True)))
        self.assertIn((bite + 65_400, 0), list(zip(lamp.times_us, lamp.values, strict=True)))
        # Fed as the last pass before the press ended; the press is sampled in the pass after.
        self.assertLess(abs(bite - 200_000 - 32_000), 50)

    def test_woken_by_a_pin_the_watchdog_barks_before_it_bites(self) -> None:
        guard = {"mode": "interrupt-reset", "timeout_us": 32_000, "feed": "end"}
        sleep = {"wakes": "pin", "awake_us": 10_000}
        trace = run(edited(push_bench("fixed-delay", 50), watchdog=guard, sleep=sleep))
        self.assertEqual(trace.signal(Kind.RESET).times_us, [])
        # Woken by the press, and by its release 100 ms later; each is stood out for longer than once its time.
        for bark, move in zip(trace.signal(Kind.BARK).times_us, (200_000, 300_000), strict=True):
            self.assertLess(abs(bark - move - 32_000), 200)

    def test_a_budget_stops_the_run_and_says_so(self) -> None:
        bench = push_bench()
        stopped = PlainEngine().run(bench, bench.scenarios[0], budget=Budget(passes=1000))
        self.assertIn("budget of 1,000 passes", stopped.stopped or "")
        self.assertEqual(stopped.trace.length_us, 65_400 + 1000 * 22)
        state = {"id": "on", "name": "On", "drives": {"lamp": {"kind": "blink", "on_us": 1000, "off_us": 1000}}}
        beat = edited(
            push_bench(length_us=60_000_000), machines=[{"id": "m", "name": "M", "initial": "on", "states": [state]}]
        )
        busy = SkippingEngine().run(beat, beat.scenarios[0], budget=Budget(changes=5000))
        self.assertIn("budget of 5,000 changes", busy.stopped or "")
        self.assertLess(busy.trace.changes, 6_100)


class HeldOff(unittest.TestCase):
    @SLOW
    @given(benches(watchdog=False, tasks=False))
    def test_interlocked_outputs_and_limits_hold_whatever_the_machines_ask(self, made: tuple[Bench, Scenario]) -> None:
        data = bench_data(made[0])
        for machine in data["firmware"]["machines"]:  # what holds the loop cannot be cut off
            text = json.dumps(machine).replace('"blocking": true', '"blocking": false')
            machine.clear()
            machine |= json.loads(text)
        dead_us, longest_us = 15_000, 30_000
        data["firmware"]["interlocks"] = [{"one": "out-a", "other": "out-b", "dead_us": dead_us}]
        data["firmware"]["limits"] = {"out-a": {"longest_us": longest_us}}
        data["firmware"]["debounce"] = data["firmware"]["on_levels"] = {}
        bench = bench_from_data(data)
        trace = SkippingEngine().run(bench, bench.scenarios[0]).trace
        spans: dict[str, list[tuple[int, int]]] = {}
        for name in ("out-a", "out-b"):
            signal = trace.signal(Kind.OUTPUT, name)
            ends = [*signal.times_us[1:], trace.length_us]
            spans[name] = [(at, to) for at, to, v in zip(signal.times_us, ends, signal.values, strict=True) if v == 1]
        pass_us = 2 * (idle_pass_us(bench) + 2_000)
        for at, to in spans["out-a"]:
            self.assertLessEqual(to - at, longest_us + pass_us)
        for one, other in (("out-a", "out-b"), ("out-b", "out-a")):
            for _, ended in spans[one]:
                after = [at for at, _ in spans[other] if at >= ended]
                if after:
                    self.assertGreaterEqual(min(after) - ended, dead_us - pass_us)
        both = [1 for a in spans["out-a"] for b in spans["out-b"] if a[0] < b[1] and b[0] < a[1]]
        self.assertEqual(both, [])


if __name__ == "__main__":
    unittest.main()
