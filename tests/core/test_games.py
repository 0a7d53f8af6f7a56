"""Recipes for many lamps, targets and players, against their rules written here once more."""

from __future__ import annotations

import unittest
from itertools import pairwise
from typing import Any

from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from tests.core.test_recipes import bench_of, press, spans, states
from tests.depth import DEPTH
from viva_tick.core.document import Bench
from viva_tick.core.engine import Fault, Kind, SkippingEngine, Trace

MANY = settings(max_examples=20 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
LAMPS = ("a", "b", "c", "d")
CLOSE_MS = 8  # a press so near to a step may come before it or after it


def run(bench: Bench) -> Trace:
    return SkippingEngine().run(bench, bench.scenarios[0]).trace


def at_the_end(trace: Trace, variable: str) -> int:
    return int(trace.signal(Kind.VALUE, variable).values[-1])


def light_game(
    presses: list[tuple[int, str]], start_ms: int, end_ms: int, each_ms: int, points: int
) -> tuple[int, int]:
    """The score of the game by its rules: a light runs from end to end, a step each so many ms. At its last lamp the
    press of the hand there sends it back, 20 ms faster a step; any other press of that hand, or none, is a point for
    the other side, after which it blinks for 600 ms and comes to the same side again. Presses by the hand that the
    light runs away from do nothing."""
    side, place, pace, now = 1, 0, each_ms, start_ms
    score = {1: 0, -1: 0}  # a point for the hand on the left while it runs to the right
    hands = {1: "right", -1: "left"}
    queue = sorted(presses)
    while max(score.values()) < points:
        step_at = now + pace
        coming = [one for one in queue if now < one[0]]
        hit = next((one for one in coming if one[1] == hands[side] and one[0] < step_at + CLOSE_MS), None)
        if hit:
            assume(hit[0] < step_at - CLOSE_MS and hit[0] > now + CLOSE_MS)
        if min(hit[0] if hit else step_at, step_at) >= end_ms - CLOSE_MS:
            assume(min(hit[0] if hit else step_at, step_at) >= end_ms + CLOSE_MS)
            break
        edge = place == (len(LAMPS) - 1 if side == 1 else 0)
        if hit and edge:
            side, pace, now = -side, max(pace - 20, 40), hit[0]
            place += side
        elif hit or edge:
            score[side] += 1
            rest_until = (hit[0] if hit else step_at) + 600
            assume(all(abs(at - rest_until) > CLOSE_MS for at, _ in queue))
            now, place = rest_until, 0 if side == 1 else len(LAMPS) - 1
        else:
            now, place = step_at, place + side
    return score[1], score[-1]


class Games(unittest.TestCase):
    @MANY
    @given(st.lists(st.tuples(st.integers(400, 5_800), st.sampled_from(["left", "right"])), max_size=12))
    def test_the_light_game_is_its_rules(self, rows: list[tuple[int, str]]) -> None:
        rows = [one for n, one in enumerate(sorted(rows)) if n == 0 or one[0] - sorted(rows)[n - 1][0] > 120]
        # Played as well as can be by chance: some presses are put where the light comes to an end.
        stimuli = [press("four", 300)] + [press({"left": "one", "right": "two"}[hand], at) for at, hand in rows]
        bench = bench_of("light-game", stimuli, 6_000_000, time=200_000, number=3)
        trace = run(bench)
        begun = next(at for at, v in self.states(trace, "a-light-game") if v == "to-right") // 1000
        wanted = light_game(rows, begun, 6_000, 200, 3)
        self.assertEqual((at_the_end(trace, "left"), at_the_end(trace, "right")), wanted)

    def events(self, trace: Trace, contact: str) -> list[tuple[int, Any]]:
        signal = trace.signal(Kind.EVENT, contact)
        return list(zip(signal.times_us, signal.values, strict=True))

    def states(self, trace: Trace, machine: str) -> list[tuple[int, Any]]:
        signal = trace.signal(Kind.STATE, machine)
        return list(zip(signal.times_us, signal.values, strict=True))

    def test_a_rally_gets_faster_with_each_hit(self) -> None:
        # 200 ms each: the fourth lamp from 600 to 800 ms after the start; then 180, 160 … from hit to hit.
        now, hands, stimuli, each = 300 + 700, ["two", "one"], [press("four", 300)], 200
        for turn in range(5):
            stimuli.append(press(hands[turn % 2], now))
            each -= 20
            now += 2 * each + each // 2
        trace = run(bench_of("light-game", stimuli, now * 1000, time=200_000, number=3))
        self.assertEqual(at_the_end(trace, "pace"), 20 - 5 * 2)
        self.assertEqual((at_the_end(trace, "left"), at_the_end(trace, "right")), (0, 0))

    @MANY
    @given(
        st.lists(st.tuples(st.integers(150, 900), st.sampled_from(["one", "two", "three"])), min_size=3, max_size=12)
    )
    def test_reaction_scores_are_the_presses_of_the_lit_target(self, rows: list[tuple[int, str]]) -> None:
        now, stimuli = 400, [press("four", 300)]
        for pause, hand in rows:
            now += pause
            stimuli.append(press(hand, now))
        times = {"time": 200_000, "until": 500_000, "window": 400_000, "pause": 150_000}
        trace = run(bench_of("reaction", stimuli, 14_000_000, number=5, **times))
        shown = [(begin, end, name) for name in "abc" for begin, end in spans(trace, Kind.OUTPUT, name)]
        steady = [
            one for one in shown if sum(abs(other[0] - one[0]) < 1_000 for other in shown) == 1
        ]  # missed: all blink at once
        shows = [at for at, value in self.states(trace, "a-reaction") if value == "shows"]
        self.assertLessEqual(len(shows), 5, "so many rounds")
        pressed = sorted(
            (at, lamp)
            for hand, lamp in zip(("one", "two", "three"), "abc", strict=True)
            for at, what in self.events(trace, hand)
            if what == "press"
        )
        hits = 0  # the first press while one is shown decides, if it comes in time
        for begin, end, name in steady:
            first = next(((at, lamp) for at, lamp in pressed if begin < at <= end), None)
            hits += bool(first and first[1] == name and first[0] - begin < 400_000)
        self.assertEqual(at_the_end(trace, "score"), hits)
        if len(shows) == 5:
            self.assertEqual(states(trace, "a-reaction")[-1], "over")

    def test_a_light_runs_along_and_begins_again(self) -> None:
        trace = run(bench_of("chase", [press("one", 300), press("one", 1_350)], 2_000_000, time=100_000))
        for place, name in enumerate(LAMPS):
            begins = [begin // 1000 for begin, _ in spans(trace, Kind.OUTPUT, name)]
            wanted = [300 + 100 * n for n in range(place, 11, 4)]
            self.assertEqual(len(begins), len(wanted), name)
            self.assertTrue(all(abs(a - b) <= 12 for a, b in zip(begins, wanted, strict=True)), (name, begins))


class OneByOne(unittest.TestCase):
    PRESSES = (("one", 300), ("two", 700), ("one", 1_100), ("three", 1_500), ("two", 1_900))

    def on_at(self, recipe: str, stimuli: list[dict[str, Any]], at_ms: int) -> str:
        trace = run(bench_of(recipe, stimuli))
        return "".join(n for n in "abc" if any(b <= at_ms * 1000 < e for b, e in spans(trace, Kind.OUTPUT, n)))

    def test_toggles_follows_and_one_of_many(self) -> None:
        stimuli = [press(name, at) for name, at in self.PRESSES]
        for recipe, wanted in (
            ("each-toggles", ["a", "ab", "b", "bc", "c"]),
            ("each-follows", ["", "", "", "", ""]),
            ("one-of-many", ["a", "b", "a", "c", "b"]),
        ):
            found = [self.on_at(recipe, stimuli, at + 250) for _, at in self.PRESSES]
            self.assertEqual(found, wanted, recipe)
        self.assertEqual([self.on_at("each-follows", stimuli, at + 60) for _, at in self.PRESSES], list("abacb"))

    def test_keys_choose_and_a_dial_lights_as_many(self) -> None:
        keys = [{"kind": "key", "input": "keys", "at_us": at, "hold_us": 90_000, "key": key}
                for key, at in (("2", 300_000), ("4", 900_000))]  # fmt: skip
        trace = run(bench_of("keys-choose", keys))
        self.assertEqual([bool(spans(trace, Kind.OUTPUT, name)) for name in LAMPS], [False, True, False, True])
        turned = [{"kind": "turn", "input": "dial", "at_us": 300_000, "over_us": 400_000, "clicks": 3}]
        trace = run(bench_of("dial-bar", turned))
        self.assertEqual([trace.signal(Kind.OUTPUT, name).values[-1] for name in LAMPS], [1, 1, 1, 0])


class Moving(unittest.TestCase):
    def test_slow_or_fast_while_held(self) -> None:
        stimuli = [press("one", 300, 1_000), press("two", 2_000, 1_000)]
        trace = run(bench_of("two-rates", stimuli, time=400_000, fast=100_000))
        on = spans(trace, Kind.OUTPUT, "a")
        self.assertEqual(len([1 for begin, _ in on if begin < 1_400_000]), 3)
        self.assertEqual(len([1 for begin, _ in on if begin > 1_400_000]), 10)

    def test_the_wake_word_comes_first(self) -> None:
        def said(at_ms: int, number: int) -> dict[str, Any]:
            return {"kind": "command", "input": "line", "at_us": at_ms * 1000, "number": number}

        # 2 is “on”, and nothing without the word before it; 3 is “off”; the word counts for half a second.
        for rows, lit in (
            ([(300, 2)], False),
            ([(300, 1), (600, 2)], True),
            ([(300, 1), (1_100, 2)], False),
            ([(300, 1), (500, 2), (900, 1), (1_000, 3)], False),
            ([(300, 1), (500, 2), (900, 3)], True),
        ):
            trace = run(bench_of("wake-word", [said(at, number) for at, number in rows], time=500_000))
            self.assertEqual(trace.signal(Kind.OUTPUT, "a").values[-1] == 1, lit, rows)

    def test_a_stop_that_fails_safe_is_wired_closed(self) -> None:
        bench = bench_of("fail-safe-stop", [press("one", 300), press("two", 1_000), press("one", 1_500)])
        self.assertEqual(bench.contact("two").wiring.normally, "closed")
        trace = run(bench)
        self.assertEqual([round(at / 1000, -2) for span in spans(trace, Kind.OUTPUT, "a") for at in span],
                         [300, 1_000, 1_500, 4_000])  # fmt: skip
        off = Fault("off", 2_000_000, "two")
        stopped = SkippingEngine().run(bench, bench.scenarios[0], fault=off).trace
        self.assertEqual(stopped.signal(Kind.OUTPUT, "a").values[-1], 0, "a broken wire stops it")

    def test_the_train_slows_stops_and_leaves_again(self) -> None:
        stimuli = [press("one", 2_000), press("two", 3_000)]
        trace = run(bench_of("train", stimuli, time=500_000, dwell=600_000, number=35))
        self.assertEqual(states(trace, "a-train"), ["stands", "leaves", "runs", "slows", "stops", "stands", "leaves"])
        duty = trace.signal(Kind.DUTY, "a")
        at = lambda ms: [0, *(v for t, v in zip(duty.times_us, duty.values, strict=True) if t <= ms * 1000)][-1]  # noqa: E731
        self.assertEqual([at(600), at(1_500), at(2_900), at(3_600)], [0, 100, 35, 0])

    def test_the_thermostat_rests_between(self) -> None:
        stimuli = [
            {"kind": "level", "input": "level", "at_us": at, "over_us": 10_000, "value": value}
            for at, value in ((300_000, 20.0), (1_200_000, 80.0), (1_400_000, 20.0))
        ]
        trace = run(bench_of("thermostat", stimuli, 5_000_000, least_off=800_000, longest=1_500_000))
        on = spans(trace, Kind.OUTPUT, "a")
        self.assertTrue(all(later[0] - sooner[1] >= 800_000 - 3_000 for sooner, later in pairwise(on)))
        self.assertTrue(all(end - begin <= 1_503_000 for begin, end in on))
        self.assertGreaterEqual(len(on), 2)

    def test_count_and_show(self) -> None:
        stimuli = [press("one", 300 + 200 * n, 80) for n in range(4)] + [
            press("two", 1_500, 80),
            press("one", 1_900, 80),
        ]
        texts = run(bench_of("count-show", stimuli)).signal(Kind.TEXT, "pc").values
        self.assertEqual([text for text in texts if text][-1], "1  best 4")
        self.assertIn("4  best 4", texts)


if __name__ == "__main__":
    unittest.main()
