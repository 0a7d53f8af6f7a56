"""The pin of a contact as a circuit: voltage, currents and what the board makes of them, released or pressed.

The pin is one node. A contact joins it to its rail, a pull resistor to its own; the input leaks a little either way.
Ranges are (least, most) over the corners of an internal pull and of the leakage.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..boards import Board
from ..document import Wiring
from .levels import touching_at_rest

CONTACT_OHM = 0.1  # closed metal on metal (common practice: well under an ohm)
UNDEFINED = "undefined"


@dataclass(frozen=True)
class PinState:
    """One state of the contact. Voltages in mV, currents in µA, each (least, most).

    `verdict` is "low", "high", "floats", or "undefined" where the voltage can lie between the board's thresholds.
    """

    touching: bool
    pin_mv: tuple[float, float]
    contact_ua: tuple[float, float]
    verdict: str


def pull_range_ohm(wiring: Wiring, board: Board) -> tuple[int, int] | None:
    """The pull's resistance, least and most; None without one, or where the board has none to give."""
    match wiring.pull:
        case "none":
            return None
        case "internal-up":
            return board.pull_up_ohm
        case "internal-down":
            return board.pull_down_ohm
        case _:
            return wiring.pull_ohm, wiring.pull_ohm


def rail_mv(board: Board, rail: str) -> int:
    """The voltage of a rail."""
    return board.logic_mv if rail == "supply" else 0


def pull_rail(wiring: Wiring) -> str | None:
    """The rail that the pull goes to."""
    return {"none": None, "down": "ground", "internal-down": "ground"}.get(wiring.pull, "supply")


def _node_mv(sources: list[tuple[float, float]], leak_ua: float) -> float:
    """Kirchhoff at the node: `sources` are (mV, Ω) branches, `leak_ua` flows out of it."""
    conductance = sum(1 / ohm for _, ohm in sources)
    return (sum(mv / ohm for mv, ohm in sources) - leak_ua / 1000) / conductance


def pin_state(wiring: Wiring, board: Board, touching: bool) -> PinState:
    """The pin with the contact open or closed, once set-up has run."""
    pulls = pull_range_ohm(wiring, board)
    rail = pull_rail(wiring)
    contact_mv = rail_mv(board, wiring.contact_to)
    if pulls is None and not touching:
        return PinState(False, (0, board.logic_mv), (0, 0), "floats")
    voltages: list[float] = []
    currents: list[float] = []
    for pull_ohm in pulls or (None,):
        for leak_ua in (-board.leak_na / 1000, board.leak_na / 1000):
            sources = [(float(rail_mv(board, rail)), float(pull_ohm))] if pull_ohm and rail else []
            if touching:
                sources.append((float(contact_mv), CONTACT_OHM))
            node = _node_mv(sources, leak_ua)
            voltages.append(node)
            currents.append(abs(node - contact_mv) / CONTACT_OHM * 1000 if touching else 0.0)
    pin_mv = (min(voltages), max(voltages))
    return PinState(touching, pin_mv, (min(currents), max(currents)), verdict(board, pin_mv))


def verdict(board: Board, pin_mv: tuple[float, float]) -> str:
    """What the board's thresholds make of a range of voltages."""
    if pin_mv[1] <= board.low_below_share * board.logic_mv:
        return "low"
    if pin_mv[0] >= board.high_from_share * board.logic_mv:
        return "high"
    return UNDEFINED


def both_states(wiring: Wiring, board: Board) -> tuple[PinState, PinState]:
    """Released and pressed."""
    rest = touching_at_rest(wiring)
    return pin_state(wiring, board, rest), pin_state(wiring, board, not rest)
