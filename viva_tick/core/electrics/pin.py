"""The pin of a contact as a circuit: voltage, currents and what the board makes of them, released or pressed.

The pin is one node. A contact joins it to its rail, what holds it to another; the input leaks a little either way.
Ranges are (least, most) over the corners of an internal pull and of the leakage.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import product

from ..boards import Board
from .circuit import Circuit

CONTACT_OHM = 0.1  # closed metal on metal (common practice: well under an ohm)
SUPPLY_OHM = 0.2  # a short is bounded by what the supply and its wires can give (common practice)
UNDEFINED = "undefined"
WIRE_PF_PER_CM = 0.7  # two wires side by side (common practice: 50 to 100 pF a metre)
PIN_PF = 10  # an input's own (data sheet DS40002061B, from memory)


@dataclass(frozen=True)
class PinState:
    """One state of the contact. Voltages in mV, currents in µA, each (least, most).

    `verdict` is "low", "high", "floats", or "undefined" where the voltage can lie between the board's thresholds.
    `shorted_ua` is what flows from rail to rail past the pin.
    """

    touching: bool
    pin_mv: tuple[float, float]
    contact_ua: tuple[float, float]
    verdict: str
    shorted_ua: float = 0.0


def rail_mv(board: Board, rail: str) -> int:
    """The voltage of a rail."""
    return board.logic_mv if rail == "supply" else 0


def _node_mv(sources: list[tuple[float, float]], leak_ua: float) -> float:
    """Kirchhoff at the node: `sources` are (mV, Ω) branches, `leak_ua` flows out of it."""
    conductance = sum(1 / ohm for _, ohm in sources)
    return (sum(mv / ohm for mv, ohm in sources) - leak_ua / 1000) / conductance


def _past_the_pin_ua(circuit: Circuit, board: Board, touching: bool) -> float:
    wasted = board.logic_mv / circuit.wasted_ohm * 1000 if circuit.wasted_ohm else 0.0
    return wasted + (board.logic_mv / (CONTACT_OHM + SUPPLY_OHM) * 1000 if circuit.shorts and touching else 0.0)


def pin_state(circuit: Circuit, board: Board, touching: bool) -> PinState:
    """The pin with the contact open or closed, once set-up has run."""
    past_ua = _past_the_pin_ua(circuit, board, touching)
    joined = circuit.contact if touching else circuit.other
    if not circuit.held and joined is None:
        return PinState(touching, (0, board.logic_mv), (0, 0), "low" if circuit.deaf else "floats", past_ua)
    joined_mv = 0 if joined in (None, "ground") else circuit.source_mv
    voltages: list[float] = []
    currents: list[float] = []
    for corner in product(*(branch.ohm for branch in circuit.held)):
        for leak_ua in (-board.leak_na / 1000, board.leak_na / 1000):
            sources = [
                (float(rail_mv(board, branch.rail)), float(ohm))
                for branch, ohm in zip(circuit.held, corner, strict=True)
            ]
            if joined:
                sources.append((float(joined_mv), CONTACT_OHM))
            node = _node_mv(sources, leak_ua)
            voltages.append(node)
            currents.append(abs(node - joined_mv) / CONTACT_OHM * 1000 if joined else 0.0)
    pin_mv = (min(voltages), max(voltages))
    said = "low" if circuit.deaf else verdict(board, pin_mv)
    return PinState(touching, pin_mv, (min(currents), max(currents)), said, past_ua)


def verdict(board: Board, pin_mv: tuple[float, float]) -> str:
    """What the board's thresholds make of a range of voltages."""
    if pin_mv[1] <= board.low_below_share * board.logic_mv:
        return "low"
    if pin_mv[0] >= board.high_from_share * board.logic_mv:
        return "high"
    return UNDEFINED


def both_states(circuit: Circuit, board: Board) -> tuple[PinState, PinState]:
    """Released and pressed."""
    return tuple(pin_state(circuit, board, circuit.touching(pressed)) for pressed in (False, True))  # type: ignore[return-value]


def wire_pf(wire_cm: int) -> float:
    """The capacitance of the wire and of the pin, in pF."""
    return PIN_PF + WIRE_PF_PER_CM * wire_cm


def settle_us(ohm: float, wire_cm: int, rail: str, board: Board) -> float:
    """How long the open contact's pin takes to the board's threshold through its pull, in µs: RC, v = V(1 − e^(−t/RC)).

    A 5 V board's high at 0.6 V takes 0.916 RC, its low at 0.3 V 1.204 RC.
    """
    share = 1 - board.high_from_share if rail == "supply" else board.low_below_share
    return ohm * wire_pf(wire_cm) * 1e-6 * math.log(1 / share)


@dataclass(frozen=True)
class PullWindow:
    """Values that will do for a pull: no less than wastes `waste_ua`, no more than leakage, noise and the wire allow.
    `most_by` names what bounds it above."""

    least_ohm: float
    most_ohm: float
    most_by: str
    settle_us: float


WASTE_UA = 2_000  # common practice: 10 kΩ wastes 0.5 mA at 5 V, 220 Ω 23 mA
NOISY_OHM = 47_000  # common practice: 10 kΩ, up to 47 kΩ on short wires
SHORT_WIRE_CM = 50
LONG_CABLE_CM = (
    300  # from here on a cable brings surges in, and wants something between it and the pin (common practice)
)
LONG_WIRE_OHM = 10_000
SETTLED_US = 50  # quick beside the shortest pass that reads it (common practice)


def pull_window(rail: str, pull_ohm: float, wire_cm: int, board: Board) -> PullWindow:
    """The window for a pull to that rail over a wire of that length."""
    margin_mv = board.low_below_share * board.logic_mv
    if rail == "supply":
        margin_mv = (1 - board.high_from_share) * board.logic_mv
    bounds = {
        "noise": NOISY_OHM if wire_cm <= SHORT_WIRE_CM else max(LONG_WIRE_OHM, NOISY_OHM * SHORT_WIRE_CM / wire_cm),
        "leakage": margin_mv / board.leak_na * 1_000_000 if board.leak_na else math.inf,
        "the wire's capacitance": SETTLED_US / settle_us(1, wire_cm, rail, board),
    }
    most_by = min(bounds, key=lambda name: bounds[name])
    least = board.logic_mv / WASTE_UA * 1000
    return PullWindow(least, bounds[most_by], most_by, settle_us(pull_ohm, wire_cm, rail, board))
