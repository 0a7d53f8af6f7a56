"""Sums: worked examples from elsewhere, other libraries' numbers, the findings' own functions, what is typed."""

from __future__ import annotations

import math
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats
from scipy.constants import zero_Celsius
from scipy.integrate import solve_ivp

from tests.depth import DEPTH
from viva_tick.core.arithmetic import SUMS, NotAQuantity, first_values, problem, quantity, said, worked
from viva_tick.core.arithmetic.times import crossings_a_s
from viva_tick.core.arithmetic.uses import uses
from viva_tick.core.edits import apply_patch
from viva_tick.core.electrics import draws, lamp_legs
from viva_tick.demo import ORDER, demo_bench


def come(ident: str, **values: float) -> dict[str, float]:
    one = SUMS[ident]
    return worked(one, {**first_values(one), **values}).values


class Sums(unittest.TestCase):
    def test_worked_examples(self) -> None:
        self.assertEqual(len(SUMS), 22)
        for one in SUMS.values():
            with self.subTest(one.id):
                found = worked(one, {**first_values(one), **one.example[0]}).values
                for name, value in one.example[1].items():
                    self.assertAlmostEqual(found[name], value, delta=abs(value) * 2e-5)
                self.assertEqual(problem(one, first_values(one)), "")
                self.assertTrue(one.source)

    @settings(max_examples=200 * DEPTH, deadline=None)
    @given(st.sampled_from(sorted(SUMS)), st.data())
    def test_whatever_is_allowed_comes_out_as_numbers_within_their_corners(
        self, ident: str, data: st.DataObject
    ) -> None:
        one = SUMS[ident]
        values = {
            ask.id: data.draw(st.floats(max(ask.least, ask.first / 20), min(ask.most, ask.first * 20)))
            for ask in one.asks
        }
        done = worked(one, values)
        self.assertEqual(set(done.values), {give.id for give in one.gives})
        for name, (low, high) in done.corners.items():
            self.assertLessEqual(low, done.values[name])
            self.assertLessEqual(done.values[name], high)
        for give in one.gives:
            said(done.values[give.id], give.unit)

    def test_a_filter_as_an_integrator_of_equations_has_it(self) -> None:
        for ohm, farad, high, low in ((10_000, 1e-6, 60, 30), (4_700, 4.7e-7, 75, 20)):
            found = come("rc", R=ohm, C=farad, high=high, low=low)
            for name, start, target, share in (("t_up", 0.0, 1.0, high / 100), ("t_down", 1.0, 0.0, low / 100)):
                hits: Any = lambda t, v, share=share: v[0] - share  # noqa: E731
                hits.terminal = True
                run = solve_ivp(
                    lambda t, v, target=target, tau=ohm * farad: [(target - v[0]) / tau],
                    (0, 1), [start], events=hits, rtol=1e-9, atol=1e-12, max_step=ohm * farad / 20,
                )  # fmt: skip
                self.assertAlmostEqual(found[name], run.t_events[0][0], delta=found[name] * 1e-5)

    def test_hands_and_intervals_as_statistics_have_them(self) -> None:
        for ms in (20, 80, 116, 150):
            self.assertAlmostEqual(come("hands", t=ms / 1000)["missed"], 100 * stats.norm.cdf(ms, 116, 24), places=6)
        found = come("doubled", so=3, of=40)
        test = stats.binomtest(3, 40).proportion_ci(method="wilson")
        self.assertAlmostEqual(found["low"], 100 * test.low, places=2)
        self.assertAlmostEqual(found["high"], 100 * test.high, places=2)
        self.assertAlmostEqual((1 - test.high) ** found["n"], 0.05, delta=0.002)

    def test_a_thermistor_as_its_table_has_it(self) -> None:
        # From the law itself, with the constants of another library.
        for celsius in (-20, 0, 25, 60, 100):
            wanted = 10_000 * math.exp(3950 * (1 / (celsius + zero_Celsius) - 1 / (25 + zero_Celsius)))
            self.assertAlmostEqual(come("thermistor", T=celsius)["R_T"], wanted, delta=wanted * 1e-9)

    def test_noise_crosses_less_the_wider_the_band(self) -> None:
        rates = [crossings_a_s(band, 0.01, 1000) for band in (0.0, 0.02, 0.06, 0.12)]
        self.assertAlmostEqual(rates[0], 1000 / math.sqrt(3))
        self.assertAlmostEqual(rates[1] / rates[0], math.exp(-0.5))
        self.assertEqual(rates, sorted(rates, reverse=True))

    def test_they_are_what_the_findings_reckon_with(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            board = bench.the_board
            taken = {draw.part: draw for draw in draws(bench)}
            for leg in lamp_legs(bench):
                if not leg.resistor_ohm or leg.drop_mv >= board.logic_mv:
                    continue
                given_ = {"U_s": board.logic_mv / 1000, "U_f": leg.drop_mv / 1000}
                found = come("led", **given_, I=min(leg.wanted_ua, board.pin_ua.design) / 1e6)
                self.assertEqual(found["R_E"], leg.better_ohm(board))
                through = leg.current_ua(board)
                assert through is not None
                self.assertAlmostEqual(through, (board.logic_mv - leg.drop_mv) / leg.resistor_ohm * 1000)
            self.assertTrue(taken or not bench.outputs)

    def test_each_use_is_an_edit_of_some_demo(self) -> None:
        found = set()
        for one in SUMS.values():
            values = first_values(one)
            values |= worked(one, values).values
            for name in ORDER:
                bench = demo_bench(name)
                for use in uses(bench, one, values):
                    self.assertNotEqual(apply_patch(bench, use.patch), bench if one.use != "baud" else None)
                    found.add(one.use)
        self.assertLessEqual({"resistor", "filter", "watchdog", "baud"}, found)


class Typed(unittest.TestCase):
    def test_as_people_type_it(self) -> None:
        for text, unit, value in (
            ("4k7", "Ω", 4_700), ("4R7", "Ω", 4.7), ("330", "Ω", 330), ("2,2 MΩ", "Ω", 2.2e6), ("10k", "Ω", 1e4),
            ("100n", "F", 1e-7), ("4.7 µF", "F", 4.7e-6), ("20 ms", "s", 0.02), ("2 min", "s", 120), ("1.5h", "s", 5400),
            ("12mA", "A", 0.012), ("−5", "°C", -5), ("5 %", "%", 5), ("16M", "Hz", 16e6), ("30 cm", "m", 0.3),
            ("1e3", "Ω", 1000), ("2500 mAh", "Ah", 2.5), ("9600 baud", "Bd", 9600), ("0,5 mm2", "mm²", 0.5), (" 7 ", "", 7),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(quantity(text, unit), value, delta=abs(value) * 1e-12)
        for text, unit in (
            ("", "V"),
            ("ten", "V"),
            ("5 A", "V"),
            ("4k7 F", "Ω"),
            ("5 x", "%"),
            ("1 kV", "Ω"),
            ("--5", "V"),
        ):
            with self.subTest(text), self.assertRaises(NotAQuantity):
                quantity(text, unit)

    @settings(max_examples=200 * DEPTH)
    @given(st.floats(1e-11, 5e9), st.sampled_from(["V", "A", "Ω", "F", "Hz", "W", "Ah"]))
    def test_what_is_said_can_be_typed_again(self, value: float, unit: str) -> None:
        self.assertAlmostEqual(quantity(said(value, unit, 6), unit) / value, 1, delta=1e-4)


if __name__ == "__main__":
    unittest.main()
