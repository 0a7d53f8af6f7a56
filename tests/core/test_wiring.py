"""The wiring card and the first power-on: against the published colours, and the nodal analysis of the electrics' tests."""

from __future__ import annotations

import itertools
import unittest
from collections import Counter

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_electrics import nodal
from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.document import Bench, Scenario, bench_data
from viva_tick.core.electrics import circuit_of
from viva_tick.core.electrics.series import E12, E24
from viva_tick.core.emit import wires
from viva_tick.core.units import ohms
from viva_tick.core.wiring import bands, card_text, first_power_on, key_of, shopping, steps
from viva_tick.core.wiring.meter import TOUCHES_OHM
from viva_tick.demo import ORDER, demo_bench

# IEC 60062:2016, table 1, written down from the standard's text: colour, digit, power of ten.
TABLE = """black 0 0, brown 1 1, red 2 2, orange 3 3, yellow 4 4, green 5 5, blue 6 6, violet 7 7, grey 8 8, white 9 9,
gold - -1, silver - -2, pink - -3"""
DIGIT = {row.split()[0]: row.split()[1] for row in TABLE.split(",")}
POWER = {row.split()[0]: int(row.split()[2]) for row in TABLE.split(",")}


def value_of(colours: tuple[str, ...]) -> float:
    """What bands say, by the table."""
    *digits, times, _ = colours
    return float(f"{int(''.join(DIGIT[one] for one in digits))}e{POWER[times]}")


class Bands(unittest.TestCase):
    def test_known_resistors(self) -> None:
        for ohm, said in (
            (330, "orange orange brown gold"), (10_000, "brown black orange gold"), (4_700, "yellow violet red gold"),
            (220, "red red brown gold"), (1, "brown black gold gold"), (2.2, "red red gold gold"),
            (1_000_000, "brown black green gold"), (0.47, "yellow violet silver gold"),
            (4_990, "yellow white white brown brown"), (127, "brown red violet black brown"),
        ):  # fmt: skip
            self.assertEqual(" ".join(bands(ohm)), said)

    def test_every_preferred_value_is_read_back(self) -> None:
        for digits, power in itertools.product((*E12, *E24), range(-2, 7)):
            ohm = float(f"{digits}e{power}")
            self.assertEqual(value_of(bands(ohm)), ohm)

    def test_what_no_band_can_say(self) -> None:
        for ohm in (0, 1_234, -5, 1e12):
            with self.assertRaises(ValueError):
                bands(ohm)


class Cards(unittest.TestCase):
    def test_each_wire_is_laid_once_ground_first(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            with self.subTest(name):
                laid = [wire for step in steps(bench) for wire in step.wires]
                self.assertCountEqual(map(key_of, laid), map(key_of, wires(bench)))
                order = [step.title for step in steps(bench)]
                self.assertEqual(order[0], "Ground")
                self.assertIn(order.index("Supply") if "Supply" in order else 1, (1,))
                self.assertEqual(len({*map(key_of, laid)}), len(laid))  # each is remembered by itself
                self.assertEqual(card_text(bench).count("[ ]"), len(laid))

    def test_what_is_to_be_bought(self) -> None:
        bench = demo_bench("club-evening")
        bought = {what: count for count, what in shopping(bench)}
        lamps = [one for one in bench_data(bench)["outputs"] if one["kind"] == "lamp"]
        self.assertEqual(sum(count for what, count in bought.items() if what.startswith("led")), len(lamps))
        by_value = Counter(one["resistor_ohm"] for one in lamps if one["resistor_ohm"])
        for ohm, count in by_value.items():
            self.assertEqual(bought[f"resistor {ohms(ohm)} ({', '.join(bands(ohm))})"], count)


class Meter(unittest.TestCase):
    @settings(max_examples=25 * DEPTH, deadline=None)
    @given(st.one_of(benches(), sensed_benches(watchdog=False)))
    def test_voltages_hold_what_the_nodes_have(self, made: tuple[Bench, Scenario]) -> None:
        bench, board = made[0], made[0].the_board
        found = {one.id: one for _, _, rows in first_power_on(bench) for one in rows}
        for line in bench.contacts:
            circuit = circuit_of(line, board)
            for pressed, word in ((False, "released"), (True, "pressed")):
                one = found.get(f"volt:{line.id}:{word}")
                if one is None:
                    continue
                touching = circuit.touching(pressed)
                for corner in itertools.product(*(branch.ohm for branch in circuit.held)):
                    volts, _ = nodal(circuit, touching, corner, 0.0)
                    self.assertEqual(one.judged(volts), "")
                # And the other rail is told apart from it, where the pin is held at all.
                other = board.logic_mv / 1000 - (one.least + one.most) / 2
                if abs(other - (one.least + one.most) / 2) > 1:
                    self.assertNotEqual(one.judged(other), "")

    def test_resistances_with_the_supply_off(self) -> None:
        bench = demo_bench("print-timer")
        found = {one.id: one for _, _, rows in first_power_on(bench) for one in rows}
        released, pressed = found["ohm:foot-pedal:released"], found["ohm:foot-pedal:pressed"]
        self.assertEqual([released.judged(v) for v in (1e9, 2e6)], ["", ""])
        self.assertIn("It touches", released.judged(1.0))
        self.assertEqual([pressed.judged(v) for v in (0.0, 0.4, TOUCHES_OHM)], ["", "", ""])
        self.assertIn("does not touch", pressed.judged(1e9))
        # The divider's fixed resistor: 10 kΩ with 5 %, the sensor unplugged.
        fixed = found["fixed:bath-probe"]
        self.assertEqual(
            [fixed.judged(ohm) != "" for ohm in (9_300, 9_500, 10_500, 10_700)], [True, False, False, True]
        )
        self.assertIn("Supply and ground are joined", found["rails"].judged(3))
