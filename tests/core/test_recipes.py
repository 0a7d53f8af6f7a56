"""Recipes run against what they promise: timers against the diagrams of IEC 61131-3 (from memory), pairs that must never
be on together, levels with their least times."""

from __future__ import annotations

import itertools
import unittest
from collections.abc import Callable
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind, SkippingEngine, Trace
from viva_tick.core.recipes import RECIPES, machine_from

Spans = list[tuple[int, int]]
T = 175_000  # never a whole number of the 50 ms that the presses are made of
CLOSE = 3_000
LONG = 4_000_000
button = {"contact": {"kind": "model", "switch": "logic-signal"}, "kind": "button"}
DATA: dict[str, Any] = {
    "version": 2,
    "name": "recipes",
    "inputs": [
        {**button, "id": "one", "name": "One", "pin": "D2"},
        {**button, "id": "two", "name": "Two", "pin": "D3"},
        {"kind": "level-sensor", "id": "level", "name": "Level", "pin": "A0", "noise_mv": 0, "stands_at": 50.0},
    ],
    "outputs": [{"kind": "lamp", "id": name, "name": name, "pin": pin} for name, pin in (("a", "D8"), ("b", "D9"))],
}


def bench_of(recipe: str, stimuli: list[dict[str, Any]], **times: int) -> Bench:
    level = {"kind": "measure", "above": 60.0, "below": 40.0, "sample_us": 10_000}
    readings = {"level": level} if any(one["kind"] == "level" for one in stimuli) else {}
    data = {
        **DATA,
        "firmware": {"readings": readings},
        "scenarios": [{"name": "s", "length_us": LONG, "stimuli": stimuli}],
    }
    bench = bench_from_data(data)
    asked = {"input": "one", "other": "two", "sensor": "level", "output": "a", "second": "b", **times}
    machine = machine_from(RECIPES[recipe], bench, asked)
    return apply_patch(bench, [{"op": "add", "path": "/firmware/machines/-", "value": machine.model_dump(mode="json")}])


def run(bench: Bench) -> Trace:
    return SkippingEngine().run(bench, bench.scenarios[0]).trace


def spans(trace: Trace, kind: Kind, of: str) -> Spans:
    """From when to when a signal is 1."""
    signal = trace.signal(kind, of)
    found: Spans = []
    since = None
    for at, value in zip(signal.times_us, signal.values, strict=True):
        if value == 1 and since is None:
            since = at
        elif value != 1 and since is not None:
            found.append((since, at))
            since = None
    return found + ([(since, LONG)] if since is not None else [])


def merged(rows: Spans) -> Spans:
    found: Spans = []
    for begin, end in sorted(rows):
        if found and begin <= found[-1][1]:
            found[-1] = (found[-1][0], max(end, found[-1][1]))
        else:
            found.append((begin, end))
    return found


def pulses(pressed: Spans) -> Spans:
    found: Spans = []
    for begin, _ in pressed:
        if not found or begin >= found[-1][1]:
            found.append((begin, begin + T))
    return found


DIAGRAMS: dict[str, Callable[[Spans], Spans]] = {
    "on-delay": lambda pressed: [(begin + T, end) for begin, end in pressed if end - begin > T],
    "off-delay": lambda pressed: merged([(begin, end + T) for begin, end in pressed]),
    "one-shot": pulses,
    "restarted": lambda pressed: merged([(begin, begin + T) for begin, _ in pressed]),
    "follow": lambda pressed: pressed,
}


def presses(name: str) -> st.SearchStrategy[list[dict[str, Any]]]:
    step = st.integers(1, 10).map(lambda n: n * 50_000)

    def laid(rows: list[tuple[int, int]]) -> list[dict[str, Any]]:
        now, found = 200_000, []
        for pause, held in rows:
            if now + pause + held < LONG - 600_000:
                found.append({"kind": "press", "input": name, "at_us": now + pause, "hold_us": held})
                now += pause + held
        return found

    return st.lists(st.tuples(step, step), max_size=8).map(laid)


SLOW = settings(max_examples=15, deadline=None, suppress_health_check=list(HealthCheck))


class Timers(unittest.TestCase):
    @SLOW
    @given(presses("one"))
    def test_against_their_diagrams(self, stimuli: list[dict[str, Any]]) -> None:
        for recipe, diagram in DIAGRAMS.items():
            trace = run(bench_of(recipe, stimuli, time=T))
            wanted = [(begin, min(end, LONG)) for begin, end in diagram(spans(trace, Kind.CLEANED, "one"))]
            got = spans(trace, Kind.OUTPUT, "a")
            self.assertEqual(len(got), len(wanted), (recipe, got, wanted))
            for mine, theirs in zip(got, wanted, strict=True):
                self.assertTrue(
                    all(abs(x - y) <= CLOSE for x, y in zip(mine, theirs, strict=True)), (recipe, got, wanted)
                )


class Pairs(unittest.TestCase):
    @SLOW
    @given(presses("one"), presses("two"))
    def test_interlocked_outputs_are_never_on_together_and_keep_their_dead_time(self, one: Any, two: Any) -> None:
        trace = run(bench_of("interlocked", one + two, time=T))
        a, b = spans(trace, Kind.OUTPUT, "a"), spans(trace, Kind.OUTPUT, "b")
        for first, second in ((a, b), (b, a)):
            for _, end in first:
                after = [begin for begin, _ in second if begin >= end]
                # From one way to the other it rests; stopped and started anew it need not.
                if after and spans(trace, Kind.CLEANED, "one") and min(after) - end < T - CLOSE:
                    states = trace.signal(Kind.STATE, "a-interlocked")
                    between = [
                        v for t, v in zip(states.times_us, states.values, strict=True) if end - CLOSE <= t < min(after)
                    ]
                    self.assertIn("still", between)
        self.assertFalse([1 for x in a for y in b if x[0] < y[1] and y[0] < x[1]])

    @SLOW
    @given(presses("one"), presses("two"))
    def test_start_and_stop_seal_in_and_the_stop_wins(self, one: Any, two: Any) -> None:
        trace = run(bench_of("start-stop", one + two))
        # Each starts or stops as it is believed; while the stop is held nothing starts.
        moves = sorted(
            (at, place, what)
            for place, name in enumerate(("one", "two"))
            for signal in (trace.signal(Kind.EVENT, name),)
            for at, what in zip(signal.times_us, signal.values, strict=True)
        )
        on = stopped = False
        wanted: list[bool] = []
        for at, place, what in moves:
            stopped = what == "press" if place else stopped
            now = not stopped and (on or (place == 0 and what == "press"))
            # A start that the same pass stops again never reaches the output.
            undone = any(p == 1 and w == "press" and 0 < t - at < 30 for t, p, w in moves)
            if now != on and not (now and undone):
                on = now
                wanted.append(on)
        values = [v == 1 for v in trace.signal(Kind.OUTPUT, "a").values if v >= 0][1:]
        self.assertEqual(values, wanted)

    def test_modes_step_and_a_long_press_is_off(self) -> None:
        taps = [{"kind": "press", "input": "one", "at_us": 300_000 + 400_000 * n, "hold_us": 100_000} for n in range(3)]
        held = {"kind": "press", "input": "one", "at_us": 2_000_000, "hold_us": 1_000_000}
        for recipe, wanted in (
            ("mode-step", ["off", "steady", "slow", "fast", "off"]),
            ("mode-step-long-off", ["off", "steady", "slow", "fast", "off"]),
            ("alternate", []),
        ):
            trace = run(bench_of(recipe, [*taps, held]))
            if wanted:
                self.assertEqual(trace.signal(Kind.STATE, f"a-{recipe}").values[1:], wanted)
            else:
                self.assertEqual((len(spans(trace, Kind.OUTPUT, "a")), len(spans(trace, Kind.OUTPUT, "b"))), (2, 2))


class Levels(unittest.TestCase):
    def course(self, *points: tuple[int, float]) -> list[dict[str, Any]]:
        return [
            {"kind": "level", "input": "level", "at_us": at, "value": value, "over_us": 1000} for at, value in points
        ]

    def test_on_above_and_off_under(self) -> None:
        moves = self.course((500_000, 80.0), (1_000_000, 50.0), (1_500_000, 20.0))
        self.assertEqual(len(got := spans(run(bench_of("threshold", moves)), Kind.OUTPUT, "a")), 1)
        self.assertTrue(abs(got[0][0] - 505_000) < 7_000 and abs(got[0][1] - 1_505_000) < 7_000, got)

    def test_kept_up_it_is_never_on_or_off_for_less(self) -> None:
        for wait, at_least in ((420_000, 2), (700_000, 2), (90_000, 0)):
            moves = self.course(
                *((300_000 + wait * n, 80.0 if n % 2 == 0 else 20.0) for n in range((LONG - 400_000) // wait))
            )
            trace = run(bench_of("keep-below", moves, least_on=400_000, least_off=250_000))
            on = spans(trace, Kind.OUTPUT, "a")
            self.assertGreater(len(on), at_least)
            self.assertTrue(all(end - begin >= 400_000 for begin, end in on if end < LONG), on)
            gaps = [later[0] - earlier[1] for earlier, later in itertools.pairwise(on)]
            self.assertTrue(all(gap >= 250_000 for gap in gaps), gaps)

    def test_a_fill_that_takes_too_long_is_locked_out_until_the_button(self) -> None:
        moves = self.course((300_000, 80.0), (500_000, 20.0))
        again = {"kind": "press", "input": "one", "at_us": 2_000_000, "hold_us": 100_000}
        more = {**again, "at_us": 2_500_000}
        trace = run(bench_of("fill", [*moves, again, more], time=600_000))
        self.assertEqual(
            trace.signal(Kind.STATE, "a-fill").values[1:], ["full", "filling", "locked", "full", "filling", "locked"]
        )
        self.assertEqual([round((end - begin) / 100_000) for begin, end in spans(trace, Kind.OUTPUT, "a")], [6, 6])


class Arrivals(unittest.TestCase):
    def test_bench_data_is_left_alone(self) -> None:
        bench = bench_of("toggle", [])
        self.assertEqual(bench_data(bench)["firmware"]["machines"][0]["name"], "a: toggle on press")


if __name__ == "__main__":
    unittest.main()
