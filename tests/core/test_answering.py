"""A scenario that answers: a modelled player against arithmetic, chance against its share, both engines, the program."""

from __future__ import annotations

import json
import tempfile
import unittest
from itertools import pairwise
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core import on_host
from tests.core.test_recipes import bench_of, press, states
from tests.depth import DEPTH
from viva_tick.core.document import Bench, DocumentError, Scenario, bench_data, bench_from_data
from viva_tick.core.engine import Kind, PlainEngine, Run, SkippingEngine
from viva_tick.core.engine.answering import played

HANDS, LAMPS = ("one", "two", "three"), "abc"


def with_(bench: Bench, **fields: Any) -> Bench:
    data = bench_data(bench)
    data["scenarios"][0] |= fields
    return bench_from_data(data)


def run(bench: Bench) -> Run:
    return SkippingEngine().run(bench, bench.scenarios[0])


def player(after_ms: int, to_ms: int = 0, **fields: Any) -> list[dict[str, Any]]:
    """Who presses the button of each lamp that comes on."""
    return [
        {
            "to": {"kind": "output", "output": lamp},
            "do": {"kind": "press", "input": hand, "at_us": 0, "hold_us": 60_000},
            "after_us": after_ms * 1000,
            "after_most_us": to_ms * 1000,
            **fields,
        }
        for hand, lamp in zip(HANDS, LAMPS, strict=True)
    ]


def game(answers: list[dict[str, Any]], rounds: int = 12) -> Bench:
    times = {"time": 200_000, "until": 400_000, "window": 500_000, "pause": 100_000}
    bench = bench_of("reaction", [press("four", 300)], rounds * 1_200_000 + 1_000_000, number=rounds, **times)
    return with_(bench, answers=answers)


def score(bench: Bench) -> int:
    return int(run(bench).trace.signal(Kind.VALUE, "score").values[-1])


class Player(unittest.TestCase):
    def test_one_who_is_quick_hits_all_and_one_who_is_slow_few(self) -> None:
        self.assertEqual(score(game(player(200))), 12)
        # After a miss all blink, and a slow hand presses then, too: a few of those fall right.
        self.assertLess(score(game(player(520))), 6)
        self.assertEqual(states(run(game(player(200))).trace, "a-reaction")[-1], "over")

    def test_one_who_errs_or_sleeps_hits_fewer(self) -> None:
        wrong = [
            one | {"instead": {"kind": "press", "input": other, "at_us": 0, "hold_us": 60_000}, "wrong_percent": 100}
            for one, other in zip(player(200), (*HANDS[1:], HANDS[0]), strict=True)
        ]
        self.assertEqual(score(game(wrong)), 0, "always another button")
        half = score(game(player(150, percent=50), rounds=60))
        self.assertTrue(18 <= half <= 42, half)  # three standard deviations of 60 throws
        self.assertEqual(score(game(player(150, percent=0))), 0)
        self.assertLessEqual(score(game(player(200, times=2))), 6)

    def test_who_never_errs_never_does_the_other_thing(self) -> None:
        other = {"kind": "press", "input": "four", "at_us": 0, "hold_us": 60_000}
        good = run(game(player(150))).moves
        self.assertEqual(run(game(player(150, instead=other, wrong_percent=0))).moves, good)
        self.assertEqual(run(game(player(150, wrong_percent=100))).moves, good)

    def test_each_answer_comes_within_its_time(self) -> None:
        found = run(game(player(150, 350)))
        answered = 0
        for hand, lamp in zip(HANDS, LAMPS, strict=True):
            lit = found.trace.signal(Kind.OUTPUT, lamp)
            on = [at for at, value in zip(lit.times_us, lit.values, strict=True) if value == 1]
            for move in (one for one in found.moves[hand] if one.pressed):
                after = move.at_us - max(at for at in on if at < move.at_us)
                self.assertTrue(150_000 <= after <= 351_000, after)
                answered += 1
        self.assertEqual(answered, 12)

    def test_a_state_a_text_and_an_output_that_goes_off_are_answered(self) -> None:
        bench = bench_of("count-show", [press("one", 300)])
        again = {"kind": "press", "input": "one", "at_us": 0, "hold_us": 60_000}
        three = {"to": {"kind": "text", "of": "pc", "text": "best"}, "do": again, "after_us": 400_000}
        self.assertEqual(
            run(with_(bench, answers=[three | {"times": 3}])).trace.signal(Kind.VALUE, "count").values[-1], 2
        )
        toggled = bench_of("toggle", [press("one", 300)])
        off = {"to": {"kind": "output", "output": "a", "on": False}, "do": again, "after_us": 500_000}
        on = {"to": {"kind": "state", "machine": "a-toggle", "state": "on"}, "do": again, "after_us": 200_000}
        moves = run(with_(toggled, answers=[on, off])).moves["one"]
        begun = [one.at_us // 1000 for one in moves if one.pressed]
        self.assertTrue(all(abs(gap - wanted) < 12 for gap, wanted in zip(
            (b - a for a, b in pairwise(begun)), [200, 500] * 9, strict=False)), begun)  # fmt: skip
        self.assertGreater(len(begun), 9)

    def test_what_is_not_there_cannot_be_answered(self) -> None:
        for answer in (
            {"to": {"kind": "output", "output": "nobody"}},
            {"to": {"kind": "state", "machine": "a-toggle", "state": "gone"}},
            {"to": {"kind": "text", "of": "a", "text": "x"}},
            {
                "to": {"kind": "output", "output": "a"},
                "do": {"kind": "press", "input": "nobody", "at_us": 0, "hold_us": 9_000},
            },
        ):
            whole = {"do": {"kind": "press", "input": "one", "at_us": 0, "hold_us": 9_000}, **answer}
            with self.subTest(answer), self.assertRaises(DocumentError) as refused:
                with_(bench_of("toggle", []), answers=[whole])
            self.assertIn("/scenarios/0/answers/0/", str(refused.exception))


class Again(unittest.TestCase):
    def test_so_many_times_so_far_apart(self) -> None:
        do = {"kind": "press", "input": "one", "at_us": 500_000, "hold_us": 40_000}
        for least, most in ((100_000, 0), (80_000, 400_000)):
            row = {"do": do, "times": 20, "apart_us": least, "apart_most_us": most}
            bench = with_(bench_of("toggle", [], 12_000_000), repeats=[row])
            begun = [one.at_us for one in run(bench).moves["one"] if one.pressed]
            gaps = [b - a for a, b in pairwise(begun)]
            self.assertEqual((len(begun), begun[0]), (20, 500_000))
            self.assertTrue(all(least <= gap <= max(least, most) for gap in gaps), gaps)
            self.assertEqual(len(set(gaps)) > 1, most > least)


@st.composite
def answering(draw: st.DrawFn) -> Bench:
    bench = game(
        player(draw(st.integers(50, 500)), draw(st.integers(0, 600)), percent=draw(st.sampled_from([100, 60]))), 3
    )
    row = {"do": {"kind": "press", "input": draw(st.sampled_from(HANDS)), "at_us": 400_000, "hold_us": 50_000}}
    repeat = row | {
        "times": draw(st.integers(1, 5)),
        "apart_us": 90_000,
        "apart_most_us": draw(st.integers(0, 300_000)),
    }
    return with_(bench, repeats=[repeat], seed=draw(st.integers(0, 99)))


class Same(unittest.TestCase):
    @settings(max_examples=6 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(answering())
    def test_both_engines_and_a_second_time(self, bench: Bench) -> None:
        runs = [engine().run(bench, bench.scenarios[0]) for engine in (PlainEngine, SkippingEngine, SkippingEngine)]
        self.assertEqual(runs[0], runs[1])
        self.assertEqual(runs[1], runs[2])

    @settings(max_examples=2 * DEPTH, deadline=None, phases=on_host.NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(answering())
    def test_the_program_plays_the_same_game(self, bench: Bench) -> None:
        on_host.AsTheEngine().assert_same(bench, bench.scenarios[0], 700)
        with tempfile.TemporaryDirectory() as folder:
            self.assertTrue(on_host.run_sketch(bench, bench.scenarios[0], Path(folder)))

    @settings(max_examples=12 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(answering())
    def test_hands_that_answer_as_it_goes_on_do_what_running_it_again_does(self, bench: Bench) -> None:
        scenario = bench.scenarios[0]
        engine = SkippingEngine()
        again = played(scenario, scenario.seed, lambda one: engine.run(bench, one, scenario.seed))
        self.assertEqual(run(bench), again)

    def test_a_scenario_that_answers_survives_its_file(self) -> None:
        scenario = game(player(100)).scenarios[0]
        self.assertEqual(Scenario.model_validate_json(json.dumps(json.loads(scenario.model_dump_json()))), scenario)


if __name__ == "__main__":
    unittest.main()
