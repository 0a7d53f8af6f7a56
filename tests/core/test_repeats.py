"""A scenario repeated: what is drawn, what is counted, and that pieces come together to the same."""

from __future__ import annotations

import json
import unittest
from dataclasses import replace
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import sobol_indices, uniform

from tests.core.repeat_cases import REPEAT_CASES, held_us
from tests.depth import DEPTH
from viva_tick.cli import main
from viva_tick.core.contacts.moves import bouncer_for
from viva_tick.core.document import Bench, SetTo, bench_from_data
from viva_tick.core.engine import SkippingEngine
from viva_tick.core.repeats import FACTORS, Draw, Flips, Repeats, Tally, drawn, flips, repeat, repeated_by_all, varied
from viva_tick.core.repeats.counted import outcomes
from viva_tick.core.repeats.drawn import CLOCK_PPM, PASS_PERCENT, redrawn
from viva_tick.core.spread import ALONE, Hands
from viva_tick.core.study import study
from viva_tick.core.timing import answers, judged
from viva_tick.demo import ORDER, demo_bench

TIMER = Path(__file__).parents[2] / "viva_tick" / "demo" / "print-timer.json"


def waits(seconds: float) -> Bench:
    """A press, and so long after it a lamp, expected within 20 ms of that."""
    at = round(seconds * 1e6)
    inputs = [
        {
            "kind": "button",
            "id": "in",
            "name": "In",
            "pin": "D2",
            "contact": {"kind": "model", "switch": "logic-signal"},
        }
    ]
    outputs = [{"kind": "lamp", "id": "lamp", "name": "Lamp", "pin": "D8"}]
    states = [{"id": "a", "name": "A"}, {"id": "b", "name": "B"},
              {"id": "c", "name": "C", "drives": {"lamp": {"kind": "steady", "on": True}}}]  # fmt: skip
    ways = [{"source": "a", "on": {"kind": "press", "input": "in"}, "target": "b"},
            {"source": "b", "on": {"kind": "timeout", "after_us": at}, "target": "c"}]  # fmt: skip
    machine = {"id": "m", "name": "M", "initial": "a", "states": states, "transitions": ways}
    one = {"name": "One", "length_us": at + 1_000_000,
           "stimuli": [{"kind": "press", "input": "in", "at_us": 100_000, "hold_us": 80_000}],
           "expects": [{"kind": "on", "output": "lamp", "from_us": at + 120_000, "to_us": at + 900_000},
                       {"kind": "on", "output": "lamp", "on": False, "from_us": 90_000, "to_us": at + 80_000}]}  # fmt: skip
    return bench_from_data(
        {"version": 4, "name": "x", "inputs": inputs, "outputs": outputs,
         "firmware": {"debounce": {"in": {"method": "none"}}, "machines": [machine]}, "scenarios": [one]}
    )  # fmt: skip


def met(bench: Bench, draw: Draw) -> list[bool]:
    other, scenario, seed = varied(bench, bench.scenarios[0], draw)
    return [one.met for one in judged(other, scenario, SkippingEngine().run(other, scenario, seed))]


class Drawn(unittest.TestCase):
    def test_number_0_is_the_run_on_the_strip(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            scenario = bench.scenarios[0]
            self.assertEqual(varied(bench, scenario, drawn(0)), (bench, scenario, scenario.seed))

    def test_everything_is_drawn_within_its_spread_and_over_all_of_it(self) -> None:
        every = [drawn(number) for number in range(1, 2_000)]
        for factor, least, most in (
            ("phase", 0, 999),
            ("clock", -CLOCK_PPM, CLOCK_PPM),
            ("passes", -PASS_PERCENT, PASS_PERCENT),
        ):
            found = [getattr(one, factor) for one in every]
            self.assertGreaterEqual(min(found), least)
            self.assertLessEqual(max(found), most)
            # Of an even spread: its middle, and a fiftieth of it beside either end.
            self.assertAlmostEqual(sum(found) / len(found), (least + most) / 2, delta=(most - least) / 25)
            self.assertLess(min(found), least + (most - least) / 40 + 1)
        self.assertGreater(len({one.bounce for one in every}), 1_990)
        for factor in FACTORS:
            other = redrawn(every[5], factor)
            self.assertEqual(replace(other, **{factor: getattr(every[5], factor)}), every[5])
            self.assertNotEqual(other, every[5])

    @settings(max_examples=40 * DEPTH, deadline=None)
    @given(st.sampled_from(ORDER), st.integers(1, 10**6))
    def test_nothing_comes_before_what_it_came_after(self, name: str, number: int) -> None:
        bench = demo_bench(name)
        for scenario in bench.scenarios:
            draw = drawn(number)
            other, changed, _ = varied(bench, scenario, draw)
            order = lambda rows: sorted(range(len(rows)), key=lambda place: (rows[place].at_us, place))  # noqa: E731
            self.assertEqual(order(scenario.stimuli), order(changed.stimuli))
            self.assertEqual([part.id for part in other.parts], [part.id for part in bench.parts])
            # As a document it is sound.
            data = other.model_copy(update={"scenarios": (changed,)}).model_dump(mode="json", exclude_unset=True)
            bench_from_data(data)

    def test_what_is_done_to_one_thing_on_one_instant_moves_together(self) -> None:
        bench = demo_bench(ORDER[0])
        ident = bench.contacts[0].id
        both = [SetTo(input=ident, at_us=500_000, pressed=pressed) for pressed in (True, False)]
        scenario = bench.scenarios[0].model_copy(update={"stimuli": tuple(both)})
        found = {tuple(one.at_us for one in varied(bench, scenario, Draw(n, hand=n))[1].stimuli) for n in range(1, 50)}
        self.assertTrue(all(first == second for first, second in found))
        self.assertGreater(len(found), 10)

    def test_resistors_and_capacitors_stay_within_their_tolerances(self) -> None:
        wiring = {"contact_to": "ground", "pull": "up", "pull_ohm": 10_000, "filter_nf": 1_000}
        part = {"kind": "button", "id": "in", "name": "In", "pin": "D2", "wiring": wiring}
        bench = bench_from_data(
            {"version": 4, "name": "x", "inputs": [part], "scenarios": [{"name": "a", "length_us": 1000}]}
        )
        every = [varied(bench, bench.scenarios[0], Draw(n, parts=n))[0].contact("in") for n in range(1, 400)]
        found = [one.wiring for one in every]
        for name, usual, share in (("pull_ohm", 10_000, 0.05), ("filter_nf", 1_000, 0.2)):
            values = [getattr(one, name) for one in found]
            self.assertGreaterEqual(min(values), usual * (1 - share))
            self.assertLessEqual(max(values), usual * (1 + share))
            self.assertGreater(max(values) - min(values), 1.8 * usual * share)


class Held(unittest.TestCase):
    def test_a_marginal_signal_counts_as_often_as_arithmetic_says(self) -> None:
        # With an interval of 20 ms by a counter of whole ms, 19 to 20 ms are waited, by the instant within a millisecond;
        # a pass takes under 0.1 ms.
        for hold_us, least, most in (
            (18_900, 0, 0),
            (19_250, 20, 30),
            (19_500, 45, 55),
            (19_750, 70, 80),
            (20_100, 100, 100),
        ):
            bench = held_us(hold_us)
            counted = sum(met(bench, Draw(1, phase=phase))[0] for phase in range(0, 1_000, 10))
            self.assertTrue(least <= counted <= most, (hold_us, counted))

    def test_what_it_hangs_on(self) -> None:
        bench = held_us(19_500)
        found = flips(bench, bench.scenarios[0], "check 0", 30)
        self.assertEqual(found.of, 30)
        # It does not bounce, and has no resistor or capacitor that matters.
        self.assertEqual((found.changed["bounce"], found.changed["parts"]), (0, 0))
        self.assertGreater(found.changed["hand"], 5)
        self.assertFalse(found.marginal)
        self.assertTrue(Flips(30, dict.fromkeys(FACTORS, 0) | {"phase": 3}).marginal)
        self.assertFalse(Flips(30, dict.fromkeys(FACTORS, 0)).marginal)

    def test_a_clock_that_is_off(self) -> None:
        # 10 s of the board's: at + 5,000 ppm over after 9.95 s, which is before 9.98 s; at − 5,000 ppm after 10.05 s.
        bench = waits(10)
        for ppm, wanted in ((0, [True, True]), (1_000, [True, True]), (5_000, [True, False]), (-5_000, [False, True])):
            self.assertEqual(met(bench, Draw(1, clock=ppm)), wanted, ppm)

    def test_counted_as_the_runs_say(self) -> None:
        bench = demo_bench("print-timer")
        scenario = bench.scenario("One print")
        wanted = outcomes(bench, scenario)
        done = repeat(bench, scenario, range(12))
        so = dict.fromkeys(wanted, 0)
        for number in range(12):
            other, changed, seed = varied(bench, scenario, drawn(number))
            run = SkippingEngine().run(other, changed, seed)
            for place, verdict in enumerate(judged(other, changed, run)):
                so[f"check {place}"] += verdict.met
            for ident, one in answers(other, run).tallies.items():
                so[f"press {ident}"] = so.get(f"press {ident}", 0) + (one.made == one.counted and not one.missed_us)
        for name in wanted:
            self.assertEqual(done.rows[name][:2], (12, so[name]), name)
        # Another number is another bounce.
        line = bench.contact("foot-pedal")
        bursts = {bouncer_for(bench, line, varied(bench, scenario, drawn(n))[2]).burst(True, 0) for n in range(8)}
        self.assertEqual(len(bursts), 8)

    def test_pieces_in_any_order_come_to_the_same_bytes(self) -> None:
        bench = demo_bench("print-timer")
        scenario = bench.scenario("One print")
        whole = repeat(bench, scenario, range(60)).text()
        pieces = [range(begin, min(begin + 7, 60)) for begin in range(0, 60, 7)]
        for seed in range(3):
            Random(seed).shuffle(pieces)
            done = Tally()
            for piece in pieces:
                done.merge(repeat(bench, scenario, piece))
            self.assertEqual(done.text(), whole)
        self.assertEqual(repeated_by_all(bench, scenario, 60, Hands(2)).text(), whole)
        told: list[int] = []
        stopped = repeated_by_all(bench, scenario, 1_000, ALONE, lambda so_far: told.append(so_far) or len(told) < 2)  # type: ignore[func-returns-value]
        self.assertEqual(stopped.runs, 50)

    def test_what_holds_in_fewer_than_all_is_found_and_by_what(self) -> None:
        for code, bench in REPEAT_CASES:
            scenario = bench.scenarios[0]
            tally = repeat(bench, scenario, range(20))
            self.assertNotIn(code, {one.code for one in study(bench, scenario).findings})
            for many, hung in ((0, {}), (20, {ident: flips(bench, scenario, ident, 20) for ident in tally.rows})):
                cards = study(bench, scenario, repeats=Repeats(tally, hung)).findings
                found = {one.code: one for card in cards for one in (card, *card.lines)}
                of, so, first = tally.rows["check 0" if code.startswith("behave") else "press in"]
                self.assertEqual(found[code].title, f"Holds in {so} of {of} repeats")
                self.assertEqual(found[code].repeat, first)
                self.assertEqual(found[code].sentence.endswith(" It hangs on the hand."), many > 0)
            # What never fails, and what fails on the strip too, is not found here.
            for so, first in ((20, None), (8, 0)):
                known = Repeats(Tally(20, {"check 0": (20, so, first)}))
                self.assertNotIn(
                    "behave.not-always", {one.code for one in study(bench, scenario, repeats=known).findings}
                )
            phase = Flips(20, dict.fromkeys(FACTORS, 0) | {"phase": 3}, 140, 100)
            marginal = study(bench, scenario, repeats=Repeats(tally, {"check 0": phase})).findings
            told = next(one for one in marginal if one.code == "behave.not-always")
            self.assertIn("Marginal: holds in", told.title)
            self.assertIn("Only the instant within a millisecond decides: of 20 runs it changed 3.", told.sentence)

    def test_effects_are_those_of_a_sum_that_is_known(self) -> None:
        # Of two coins that must agree each has a hand in all of the variance; of one alone, that one.
        both = Flips(1_000, {"phase": 500, "hand": 500, "clock": 0}, 4_000, 2_000)
        self.assertEqual(both.effects(), {"phase": 1.0, "hand": 1.0, "clock": 0.0})
        # One of three must be lucky (1 in 4 each): the rest of the variance by arithmetic.
        share = 1 - 0.75**3
        flipped = round(1_000 * 2 * 0.25 * 0.75 * 0.75**2)  # it matters where the two others are not lucky
        one = Flips(1_000, {"phase": flipped}, 1_000_000, round(1_000_000 * share)).effects()["phase"]
        self.assertAlmostEqual(one, 0.25 * 0.75 * 0.75**2 / (share * (1 - share)), 2)
        self.assertEqual(Flips(20, {"phase": 0}, 40, 40).effects(), {"phase": 0.0})

    def test_effects_are_what_a_library_of_statistics_finds(self) -> None:
        def outcome(drawn: Any) -> Any:  # the first decides most, the second where it is close, the third nothing
            return ((drawn[0] + 0.5 * drawn[1] + 0.2 * drawn[1] * drawn[0]) < 0.8) & (drawn[2] >= 0)

        rng = np.random.default_rng(1)
        theirs = sobol_indices(
            func=lambda drawn: outcome(drawn).astype(float), n=2**14, dists=[uniform()] * 3, rng=rng
        ).total_order
        base, anew = rng.random((2, 3, 20_000))
        was = outcome(base)
        changed, held, seen = {}, int(was.sum()), was.size
        for place, factor in enumerate(("bounce", "phase", "hand")):
            now = outcome(np.concatenate((base[:place], anew[place : place + 1], base[place + 1 :])))
            changed[factor] = int((now != was).sum())
            held, seen = held + int(now.sum()), seen + now.size
        ours = Flips(was.size, changed, seen, held).effects()
        self.assertEqual(0.0, ours["hand"])
        for factor, share in zip(("bounce", "phase"), theirs, strict=False):
            self.assertAlmostEqual(ours[factor], float(share), delta=0.02)

    def test_by_command(self) -> None:
        said = CliRunner().invoke(main, ["repeat", str(TIMER), "--runs", "30", "--hands", "1", "--json"])
        found = json.loads(said.output)
        self.assertEqual(found["runs"], 30)
        pedal = found["outcomes"]["press foot-pedal"]
        self.assertEqual(pedal["first_not"], 0)
        self.assertTrue(pedal["least"] < pedal["held"] / 30 < pedal["most"])
        words = CliRunner().invoke(main, ["repeat", str(TIMER), "--runs", "10", "--hands", "1"]).output
        self.assertIn("Foot pedal: every press counts once: in ", words)
        self.assertIn("how contacts bounce", words)


if __name__ == "__main__":
    unittest.main()
