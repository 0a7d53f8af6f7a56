"""Recipes run against what they promise: timers against the diagrams of IEC 61131-3 (from memory), pairs that must never
be on together, levels with their least times."""

from __future__ import annotations

import itertools
import unittest
from collections.abc import Callable
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.depth import DEPTH
from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind, SkippingEngine, Trace
from viva_tick.core.recipes import RECIPES, made_from
from viva_tick.core.study import study

Spans = list[tuple[int, int]]
T = 175_000  # never a whole number of the 50 ms that the presses are made of
CLOSE = 3_000
LONG = 4_000_000
button = {"contact": {"kind": "model", "switch": "logic-signal"}, "kind": "button"}
DATA: dict[str, Any] = {
    "version": 4,
    "name": "recipes",
    "inputs": [
        {**button, "id": "one", "name": "One", "pin": "D2"},
        {**button, "id": "two", "name": "Two", "pin": "D3"},
        {**button, "id": "three", "name": "Three", "pin": "D4"},
        {**button, "id": "four", "name": "Four", "pin": "D5"},
        {"kind": "encoder", "id": "dial", "name": "Dial", "a": "D6", "b": "D7", "counts_a_click": 4},
        {
            "kind": "matrix",
            "id": "keys",
            "name": "Keys",
            "rows": ["A1", "A2"],
            "columns": ["A3", "A4"],
            "keys": list("1234"),
        },
        {"kind": "commands", "id": "line", "name": "Line", "pin": "D0", "names": ["go", "halt", "up", "down", "flash"]},
        {"kind": "level-sensor", "id": "level", "name": "Level", "pin": "A0", "noise_mv": 0, "stands_at": 50.0},
    ],
    "outputs": [
        {"kind": "lamp", "id": name, "name": name, "pin": pin}
        for name, pin in zip("abcd", ("D9", "D10", "D11", "D8"), strict=True)
    ]
    + [{"kind": "serial-text", "id": "pc", "name": "Pc", "pin": "D1"}],
}
ASKED = {
    "input": "one",
    "other": "two",
    "hand3": "three",
    "reset": "four",
    "sensor": "level",
    "dial": "dial",
    "keys": "keys",
    "commands": "line",
    "output": "a",
    "second": "b",
    "third": "c",
    "fourth": "d",
    "outputs": ["a", "b", "c", "d"],
    "contacts": ["one", "two", "three"],
    "start": "four",
    "line": "pc",
}


def bench_of(recipe: str, stimuli: list[dict[str, Any]], length_us: int = LONG, **times: int) -> Bench:
    level = {"kind": "measure", "above": 60.0, "below": 40.0, "sample_us": 10_000}
    readings = {"level": level} if any(one["kind"] == "level" for one in stimuli) else {}
    data = {
        **DATA,
        "firmware": {"readings": readings, "serial": {"ending": "lf"}},
        "scenarios": [{"name": "s", "length_us": length_us, "stimuli": stimuli}],
    }
    bench = bench_from_data(data)
    return apply_patch(bench, made_from(RECIPES[recipe], bench, ASKED | times).patch())


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


SLOW = settings(max_examples=15 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))


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
        # Each starts or stops as it is accepted; while the stop is held nothing starts.
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
        for wait, at_least in ((420_000, 1), (700_000, 1), (90_000, 1)):
            moves = self.course(
                *((300_000 + wait * n, 80.0 if n % 2 == 0 else 20.0) for n in range((LONG - 400_000) // wait))
            )
            trace = run(bench_of("keep-below", moves, least_on=400_000, least_off=250_000))
            on = spans(trace, Kind.OUTPUT, "a")
            self.assertGreater(len(on), at_least)
            self.assertTrue(all(end - begin >= 400_000 for begin, end in on if end < LONG), on)
            gaps = [later[0] - earlier[1] for earlier, later in itertools.pairwise(on)]
            self.assertTrue(all(gap >= 249_900 for gap in gaps), gaps)

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


def press(name: str, at_ms: int, hold_ms: int = 60) -> dict[str, Any]:
    return {"kind": "press", "input": name, "at_us": at_ms * 1000, "hold_us": hold_ms * 1000}


def states(trace: Trace, ident: str) -> list[str]:
    return [value for value in trace.signal(Kind.STATE, ident).values if value is not None]


class Every(unittest.TestCase):
    def test_recipe_is_an_ordinary_machine_with_nothing_to_mend_and_can_be_made_twice(self) -> None:
        for recipe in RECIPES.values():
            with self.subTest(recipe=recipe.id):
                bench = bench_of(recipe.id, [])
                done = study(bench, bench.scenarios[0], mends=False)
                said = [f.code for f in done.findings if f.code.startswith("behave.") and f.code != "behave.undriven"]
                self.assertEqual(said, [])
                twice = apply_patch(bench, made_from(recipe, bench, ASKED).patch())
                self.assertEqual(len({one.id for one in twice.firmware.machines}), 2 * len(bench.firmware.machines))


class Blocks(unittest.TestCase):
    @SLOW
    @given(presses("one"), presses("two"))
    def test_latches_are_their_equations_in_every_pass(self, one: Any, two: Any) -> None:
        for recipe, latch in (
            ("set-wins", lambda q, s, r: s or (q and not r)),
            ("reset-wins", lambda q, s, r: not r and (s or q)),
        ):
            trace = run(bench_of(recipe, one + two))
            moves: dict[int, dict[str, bool]] = {}
            for name in ("one", "two"):
                signal = trace.signal(Kind.CLEANED, name)
                for at, value in zip(signal.times_us, signal.values, strict=True):
                    moves.setdefault(at, {})[name] = value == 1
            now, q = {"one": False, "two": False}, False
            wanted = []
            for at in sorted(moves):
                now |= moves[at]
                if any(at < later < at + 40 for later in moves):
                    continue  # one pass sees both
                if (after := latch(q, now["one"], now["two"])) != q:
                    wanted.append(after)
                q = after
            self.assertEqual([v == 1 for v in trace.signal(Kind.OUTPUT, "a").values if v >= 0][1:], wanted, recipe)

    @SLOW
    @given(presses("one"), presses("two"))
    def test_counters_count(self, one: Any, two: Any) -> None:
        for recipe, begins, step in (("count-up", 0, 1), ("count-down", 3, -1), ("count-both", 0, 1)):
            trace = run(bench_of(recipe, one + two, number=3))
            moves = sorted(
                (at, name)
                for name in ("one", "two")
                for at, what in zip(
                    trace.signal(Kind.EVENT, name).times_us, trace.signal(Kind.EVENT, name).values, strict=True
                )
                if what == "press"
            )
            value, on = begins, False
            for _, name in moves:
                if recipe == "count-both":
                    value = max(value + (1 if name == "one" else -1), 0)
                elif name == "two":
                    value = begins
                elif not (recipe == "count-down" and on):
                    value = max(value + step, 0)
                on = value <= 0 if recipe == "count-down" else value >= 3
            variable = "left" if recipe == "count-down" else "count"
            self.assertEqual(trace.signal(Kind.VALUE, variable).values[-1], value, recipe)
            self.assertEqual(trace.signal(Kind.OUTPUT, "a").values[-1] == 1, on, recipe)

    def test_edges_are_short_pulses(self) -> None:
        for recipe, at in (("rising-edge", 500_000), ("falling-edge", 800_000)):
            (span,) = spans(run(bench_of(recipe, [press("one", 500, 300)], time=30_000)), Kind.OUTPUT, "a")
            self.assertTrue(at < span[0] < at + CLOSE and abs(span[1] - span[0] - 30_000) < CLOSE, (recipe, span))


class Dials(unittest.TestCase):
    def test_the_dial_sets_how_long_it_runs(self) -> None:
        turn = {"kind": "turn", "input": "dial", "at_us": 300_000, "clicks": 4, "over_us": 400_000}
        trace = run(bench_of("dial-time", [turn, press("one", 1_000)], time=200_000))
        (span,) = spans(trace, Kind.OUTPUT, "a")
        self.assertTrue(abs(span[1] - span[0] - 5 * 200_000) < CLOSE, span)
        self.assertEqual(trace.signal(Kind.VALUE, "time").values, [1, 2, 3, 4, 5])

    def keyed(self, *rows: str) -> list[dict[str, Any]]:
        return [
            {"kind": "key", "input": "keys", "at_us": 300_000 + 150_000 * n, "hold_us": 80_000, "key": key}
            for n, key in enumerate("".join(rows))
        ]

    def test_the_code_opens_and_too_many_wrong_ones_lock_out(self) -> None:
        self.assertEqual(
            states(run(bench_of("code-lock", self.keyed("1234"), time=500_000)), "a-code-lock"),
            ["shut", "open", "shut"],
        )
        wrong = run(bench_of("code-lock", self.keyed("1243", "4444", "1234"), number=2, out=10_000_000))
        self.assertEqual(states(wrong, "a-code-lock"), ["shut", "shut", "shut", "locked"])

    def test_commands_switch(self) -> None:
        told = [{"kind": "command", "input": "line", "at_us": 300_000 + 200_000 * n, "number": n + 1} for n in range(5)]
        trace = run(bench_of("command-table", told))
        self.assertEqual((len(spans(trace, Kind.OUTPUT, "a")) >= 2, len(spans(trace, Kind.OUTPUT, "b"))), (True, 1))


class Games(unittest.TestCase):
    def test_who_is_first_has_it_until_the_reset(self) -> None:
        rows = [press("two", 400), press("one", 430), press("four", 1_000), press("three", 1_500), press("two", 1_600)]
        self.assertEqual(
            states(run(bench_of("first-press", rows)), "a-first-press"), ["open", "first-2", "open", "first-3"]
        )

    def test_the_light_turns_round_on_a_timely_press(self) -> None:
        # At 300 it starts, each is lit for 200: the fourth from 900 to 1100.
        trace = run(bench_of("running-light", [press("one", 300), press("one", 1_000)], time=200_000))
        self.assertEqual(
            states(trace, "a-running-light"), ["ready", "r1", "r2", "r3", "r4", "l3", "l2", "l1", "missed"]
        )
        late = run(bench_of("running-light", [press("one", 300), press("one", 700)], time=200_000))
        self.assertEqual(states(late, "a-running-light")[-1], "missed")

    def test_a_prompt_is_answered_or_missed(self) -> None:
        for seed in (1, 2, 3, 4):
            bench = bench_of("prompt", [], time=300_000, until=900_000, window=500_000)
            data = bench_data(bench)
            data["scenarios"][0]["seed"] = seed
            bench = bench_from_data(data)
            blank = run(bench)
            entered = blank.signal(Kind.STATE, "a-prompt")
            self.assertEqual(states(blank, "a-prompt")[3], "missed")
            at = next(t for t, v in zip(entered.times_us, entered.values, strict=True) if v in ("asks-1", "asks-2"))
            self.assertTrue(300_000 <= at - entered.times_us[1] <= 902_000)
            asked = states(blank, "a-prompt")[2]
            data["scenarios"][0]["stimuli"] = [press("one" if asked == "asks-1" else "two", at // 1000 + 200)]
            answered = run(bench_from_data(data))
            self.assertEqual(states(answered, "a-prompt")[:4], ["waiting", "drawn", asked, "waiting"])
            self.assertEqual(answered.signal(Kind.VALUE, "score").values, [0, 1])

    def test_held_slow_then_fast_and_flashes(self) -> None:
        trace = run(bench_of("hold-blink", [press("one", 300, 3_000)], time=1_000_000))
        self.assertEqual(states(trace, "a-hold-blink"), ["off", "slow", "fast", "off"])
        flashes = spans(run(bench_of("blink-burst", [press("one", 300)], number=3, time=900_000)), Kind.OUTPUT, "a")
        gaps = [round((b[0] - a[1]) / 10_000) for a, b in itertools.pairwise(flashes[:7])]
        self.assertEqual(gaps, [12, 12, 90, 12, 12, 90])

    def test_a_ramp_holds_while_it_is_above(self) -> None:
        moves = [
            {"kind": "level", "input": "level", "at_us": at, "value": value, "over_us": 0}
            for at, value in ((300_000, 80.0), (1_500_000, 20.0))
        ]
        trace = run(bench_of("ramp", moves, time=500_000, dwell=400_000))
        self.assertEqual(states(trace, "a-ramp"), ["rest", "up", "hold", "down", "dwell", "rest"])
        self.assertEqual(max(trace.signal(Kind.DUTY, "a").values), 100)


if __name__ == "__main__":
    unittest.main()
