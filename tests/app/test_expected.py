"""Expectations, what is done to a bench, and the strip's windows of numbers: properties over random benches."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.document import Bench, ExpectCount, ExpectOn, Scenario, bench_data, bench_from_data
from viva_tick.core.document.parts import Encoder
from viva_tick.core.edits import apply_patch
from viva_tick.core.edits.words import words
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.engine.trace import Signal
from viva_tick.core.report import study_lines
from viva_tick.core.study import study
from viva_tick.core.sweep import outcome
from viva_tick.core.timing import as_it_is, expected_words, judged
from viva_tick.demo import ORDER, demo_bench
from viva_tick.web.doings import addable, doings, to_add, to_expect
from viva_tick.web.strip import curve, lanes, run_window, scales

SLOW = settings(max_examples=30 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))


class Expectations(unittest.TestCase):
    @SLOW
    @given(benches())
    def test_what_a_run_shows_is_met_by_that_run_and_its_contrary_is_not(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        run = SkippingEngine().run(bench, scenario)
        for channel in bench.channels:
            so = as_it_is(bench, run, channel.id)
            held = scenario.model_copy(update={"expects": tuple(so)})
            self.assertTrue(all(verdict.met for verdict in judged(bench, held, run)), so)
            contrary = [
                one.model_copy(update={"times": one.times + 1} if isinstance(one, ExpectCount) else {"on": not one.on})
                for one in so
            ]
            held = scenario.model_copy(update={"expects": tuple(contrary)})
            for one, verdict in zip(contrary, judged(bench, held, run), strict=True):
                self.assertFalse(verdict.met)
                self.assertTrue(verdict.got)
                if isinstance(one, ExpectOn):
                    self.assertTrue(one.from_us <= verdict.wrong_us[0] < one.to_us)

    def test_every_offer_to_expect_is_met_and_every_offer_to_do_is_done(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            scenario = bench.scenarios[0]
            done = study(bench, scenario)
            for said, patch in to_expect(bench, scenario, done.run):
                after = apply_patch(bench, patch)
                again = study(after, after.scenarios[0])
                assert again.answers is not None
                fresh = again.answers.expected[len(scenario.expects) :]
                # What bounces may be counted more often than it was pressed: that is what such an offer is for.
                if "counted" not in said:
                    self.assertTrue(all(verdict.met for verdict in fresh), (name, said, fresh))
                self.assertIn("met: ", "\n".join(study_lines(after, again)))
                self.assertEqual(
                    fresh[0].words, expected_words(after, after.scenarios[0].expects[len(scenario.expects)])
                )
            for said, patch in to_add(bench, scenario):
                after = apply_patch(bench, patch)
                rows = doings(after, after.scenarios[0])
                self.assertEqual(len(rows), len(doings(bench, scenario)) + 1, said)
                self.assertEqual([row.at_us for row in rows], sorted(row.at_us for row in rows))
                self.assertTrue(words(bench, after, patch))

    def test_every_bar_lies_on_a_lane_that_is_there(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for scenario in bench.scenarios:
                done = study(bench, scenario)
                assert done.answers is not None
                there = {lane.id for lane in lanes(bench, done.answers)}
                read = {f"{place} {part}" for part in bench.firmware.readings for place in ("measure", "held", "sent")}
                for row in doings(bench, scenario):
                    self.assertIn(row.lane, there | read, (name, scenario.name))
                for lane, _, _ in addable(bench):
                    if lane.split()[1].split(".")[0] in bench.firmware.readings or lane.startswith("contact"):
                        self.assertIn(lane, there)


class Numbers(unittest.TestCase):
    @given(st.lists(st.tuples(st.integers(1, 40), st.integers(0, 1023)), min_size=1, max_size=400), st.integers(1, 60))
    def test_a_window_of_numbers_keeps_the_least_and_the_most_of_each_column(
        self, rows: list[tuple[int, int]], columns: int
    ) -> None:
        times = np.cumsum([step for step, _ in rows]).tolist()
        values = [value for _, value in rows]
        signal = Signal(Kind.SAMPLE, "x", times, values)
        end = times[-1] + 1
        shown = curve(f"run {times} {values}", signal, 0, end, columns)
        self.assertEqual((min(shown["v"]), max(shown["v"])), (min(values), max(values)))
        self.assertEqual(shown["t"], sorted(shown["t"]))
        self.assertLessEqual(len(shown["t"]), max(3 * columns + 2, 2 * columns + 2))

    @SLOW
    @given(sensed_benches())
    def test_every_lane_of_every_kind_has_its_window_and_its_scale(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        done = study(bench, scenario)
        assert done.run is not None
        assert done.answers is not None
        names = [lane.id for lane in lanes(bench, done.answers)]
        shown = run_window("random", done.run, names, 0, scenario.length_us, 500)["lanes"]
        self.assertEqual(set(shown), set(names))
        for ident, (foot, top, *lines) in scales(bench, done.run).items():
            least, most = sorted((foot, top))  # where counts fall as it rises, the most are at the foot
            numbers = {one.id for one in bench.firmware.variables}
            kind = Kind.SAMPLE if lines else Kind.VALUE if ident in numbers else Kind.COUNT
            values = done.run.trace.signal(kind, ident).values
            self.assertTrue(all(least <= value <= most for value in [*values, *lines]))

    @SLOW
    @given(sensed_benches())
    def test_tallies_add_up(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        done = study(bench, scenario)
        assert done.run is not None
        assert done.answers is not None
        for ident, said in done.answers.sensed.items():
            beside = ("fast", "fast-back", "stays", "code", "wrong")
            events = [what for what in done.run.trace.signal(Kind.EVENT, ident).values if what not in beside]
            self.assertEqual(said.counted, len(events))
            self.assertLessEqual(said.wrong, max(said.counted, said.made))
            self.assertTrue(said.agrees == (said.made == said.counted and not said.wrong))
        pressed = sum(one.kind == "key" for one in scenario.stimuli)
        self.assertLessEqual(done.answers.sensed["keys"].made, pressed)

    @given(st.floats(0.2, 4.9), st.sampled_from([1, 2, 4]), st.booleans())
    def test_an_interrupt_at_each_edge_loses_nothing_until_bounces_run_into_each_other(
        self, speed: float, counts: int, swapped: bool
    ) -> None:
        data = bench_data(demo_bench("print-timer"))
        data["inputs"][2] |= {"counts_a_click": counts, "read_by": "interrupt", "swapped": swapped}
        data["firmware"]["readings"]["time-dial"] |= {"counts_a_step": counts, "reversed": swapped}
        bench = bench_from_data(data)
        part = bench.part("time-dial")
        assert isinstance(part, Encoder)
        reading = bench.firmware.readings["time-dial"]
        assert reading.kind == "turns"
        lost, _, errors = outcome(part, reading, 50_000, round(speed, 2))
        self.assertEqual((lost, errors), (0, 0))


if __name__ == "__main__":
    unittest.main()
