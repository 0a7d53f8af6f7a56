"""The electrics, against a nodal analysis in matrix form, the published series, and the data sheet's figures."""

from __future__ import annotations

import unittest

import eseries
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from viva_tick.core.boards import boards
from viva_tick.core.document import OutputPart, Wiring
from viva_tick.core.electrics import (
    E12,
    E24,
    HIGH,
    LOW,
    at_least,
    both_states,
    lamp_ua,
    level_of,
    pin_state,
    resistor_for,
)
from viva_tick.core.units import amps, ohms, span, volts

BOARD = boards()["mid-8bit-5v"]


def nodal(wiring: Wiring, touching: bool, pull_ohm: float, leak_a: float) -> tuple[float, float]:
    """(pin V, contact A) by Kirchhoff's current law in matrix form: nodes supply, pin; ground is the reference.

    The supply is an ideal source, so its row says its voltage; the pin's row sums the currents that leave it.
    """
    supply_v = BOARD.logic_mv / 1000
    matrix = np.array([[1.0, 0.0], [0.0, 0.0]])
    right = np.array([supply_v, -leak_a])

    def branch(to: str, ohm: float) -> None:
        matrix[1, 1] += 1 / ohm
        if to == "supply":
            matrix[1, 0] -= 1 / ohm

    if wiring.pull != "none":
        branch("ground" if wiring.pull == "down" else "supply", pull_ohm)
    if touching:
        branch(wiring.contact_to, 0.1)
    _, pin_v = np.linalg.solve(matrix, right)
    contact_v = supply_v if wiring.contact_to == "supply" else 0.0
    return float(pin_v), abs(float(pin_v) - contact_v) / 0.1 if touching else 0.0


wirings = st.builds(
    Wiring,
    contact_to=st.sampled_from(["ground", "supply"]),
    normally=st.sampled_from(["open", "closed"]),
    pull=st.sampled_from(["none", "internal-up", "up", "down"]),
    pull_ohm=st.integers(1, 10_000_000),
)


class Nodal(unittest.TestCase):
    @settings(max_examples=300)
    @given(wirings, st.booleans())
    def test_voltages_and_currents_are_kirchhoffs(self, wiring: Wiring, touching: bool) -> None:
        state = pin_state(wiring, BOARD, touching)
        if wiring.pull == "none" and not touching:
            self.assertEqual(state.verdict, "floats")
            return
        pulls = (20_000.0, 50_000.0) if wiring.pull == "internal-up" else (float(wiring.pull_ohm),)
        found = [nodal(wiring, touching, pull, leak) for pull in pulls for leak in (-1e-6, 1e-6)]
        np.testing.assert_allclose(
            state.pin_mv, [1000 * f([v for v, _ in found]) for f in (min, max)], rtol=1e-9, atol=1e-6
        )
        amperes = [1e6 * f([a for _, a in found]) for f in (min, max)]
        np.testing.assert_allclose(state.contact_ua, amperes, rtol=1e-6, atol=1e-3)

    @settings(max_examples=200)
    @given(wirings, st.booleans())
    def test_where_the_verdict_is_sure_the_model_of_levels_agrees(self, wiring: Wiring, touching: bool) -> None:
        state = pin_state(wiring, BOARD, touching)
        if state.verdict in ("low", "high"):
            # A press that shorts a strong pull to the other rail would need more than the contact's 0.1 Ω to matter.
            self.assertEqual(level_of(wiring, touching), LOW if state.verdict == "low" else HIGH)

    def test_a_220_ohm_pull_wastes_23_ma(self) -> None:
        # Common practice: 220 Ω as a pull wastes 23 mA at 5 V on each press.
        _, pressed = both_states(Wiring(pull="up", pull_ohm=220), BOARD)
        self.assertAlmostEqual(pressed.contact_ua[1] / 1000, 22.7, delta=0.1)

    def test_the_internal_pull_up_holds_and_gives(self) -> None:
        # DS40002061B (from memory): 20 to 50 kΩ, leakage 1 µA, low to 0.3 Vcc, high from 0.6 Vcc.
        released, pressed = both_states(Wiring(), BOARD)
        self.assertEqual((released.verdict, pressed.verdict), ("high", "low"))
        self.assertAlmostEqual(released.pin_mv[0], 4950, delta=0.5)
        self.assertAlmostEqual(pressed.contact_ua[0], 100, delta=1.5)
        self.assertAlmostEqual(pressed.contact_ua[1], 250, delta=1.5)

    def test_thresholds(self) -> None:
        # 1 µA through R leaves 5 V − R µA: undefined from 2 MΩ (3 V) on.
        for pull_ohm, verdict in ((1_999_000, "high"), (2_001_000, "undefined"), (3_400_000, "undefined")):
            self.assertEqual(pin_state(Wiring(pull="up", pull_ohm=pull_ohm), BOARD, touching=False).verdict, verdict)


class Resistors(unittest.TestCase):
    def test_the_series_are_the_published_ones(self) -> None:
        # IEC 60063, as the package eseries holds it.
        for mine, theirs in ((E12, eseries.E12), (E24, eseries.E24)):
            self.assertEqual([value / 10 for value in mine], [float(value) / 10 for value in eseries.series(theirs)])

    @settings(max_examples=200)
    @given(st.floats(10, 1e6))
    def test_a_value_is_rounded_up_to_the_next_preferred(self, ohm: float) -> None:
        for mine, theirs in ((E12, eseries.E12), (E24, eseries.E24)):
            self.assertAlmostEqual(
                at_least(ohm, mine), eseries.find_greater_than_or_equal(theirs, ohm), delta=1e-6 * ohm
            )

    def test_a_lamp_gets_no_more_than_is_wanted(self) -> None:
        for drop_mv, wanted_ua in ((2_000, 5_000), (3_200, 5_000), (1_900, 15_000), (4_900, 1_000)):
            part = OutputPart(id="led", name="Led", pin="D8", drop_mv=drop_mv)
            ohm = resistor_for(part, BOARD, wanted_ua)
            assert ohm is not None
            current = lamp_ua(part.model_copy(update={"resistor_ohm": ohm}), BOARD)
            assert current is not None
            self.assertTrue(0.8 * wanted_ua <= current <= wanted_ua, (drop_mv, ohm, current))
        self.assertIsNone(resistor_for(OutputPart(id="led", name="Led", pin="D8", drop_mv=5_000), BOARD))


class Words(unittest.TestCase):
    def test_units(self) -> None:
        for said, wanted in (
            (ohms(330), "330 Ω"), (ohms(4_700), "4.7 kΩ"), (ohms(2_200_000), "2.2 MΩ"), (ohms(10_000), "10 kΩ"),
            (amps(0.5), "0.5 µA"), (amps(250), "0.25 mA"), (amps(22_700), "22.7 mA"), (amps(9_090), "9.1 mA"),
            (amps(5_000_000), "5 A"), (volts(4_950), "4.95 V"), (span(100, 250, amps), "0.1–0.25 mA"),
            (span(4_999, 5_001, volts), "5.00 V"), (span(90, 250, amps), "90 µA–0.25 mA"),
        ):  # fmt: skip
            self.assertEqual(said, wanted)


if __name__ == "__main__":
    unittest.main()
