"""A contact's pin as a circuit: one node, what holds it, and what the contact joins it to.

Branches are resistances from the node to a rail, each (least, most) over the corners of an internal pull.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..boards import Board
from ..contacts import Filter
from ..document.parts import ButtonModule, ContactLine, FourLegged, OpenWire, SignalIn, TwoWay

OTHER = {"ground": "supply", "supply": "ground"}


@dataclass(frozen=True)
class Branch:
    """A resistance from the pin to a rail. `inside`: it is the board's own."""

    rail: str
    ohm: tuple[float, float]
    inside: bool


@dataclass(frozen=True)
class Circuit:
    """What the pin is joined to.

    `contact` is the rail that the closed contact joins the pin to, None where it joins it to nothing; `other` the rail
    that it is joined to while the contact is open. `shorts`: the closed contact joins the two rails. `wasted_ohm`: a
    resistor that lies from rail to rail (0: none). `source_mv` is what the contact's side has for high. `deaf`: the pin
    is analogue still, and reads 0.
    """

    contact: str | None
    other: str | None
    held: tuple[Branch, ...]
    closed_at_rest: bool
    stuck: bool
    shorts: bool
    wasted_ohm: int
    source_mv: int
    deaf: bool = False

    def touching(self, pressed: bool) -> bool:
        """Whether the metal touches."""
        return self.stuck or pressed != self.closed_at_rest


def pull_branch(pull: str, pull_ohm: int, pin_id: str, board: Board) -> Branch | None:
    """The pull as the pin has it: one that the pin or the board does not have holds nothing."""
    if pull == "none":
        return None
    rail = "ground" if pull.endswith("down") else "supply"
    if not pull.startswith("internal"):
        return Branch(rail, (pull_ohm, pull_ohm), inside=False)
    pin = board.pin(pin_id)
    ohm = board.pull_up_ohm if rail == "supply" else board.pull_down_ohm
    if ohm is None or not board.pulls_on or (pin is not None and "no-pull" in pin.can):
        return None
    return Branch(rail, ohm, inside=True)


def circuit_of(line: ContactLine, board: Board) -> Circuit:
    """The circuit of a contact's pin, once set-up has run."""
    wiring, part = line.wiring, line.part
    pull = pull_branch(wiring.pull, wiring.pull_ohm, line.pin, board)
    held = (pull,) if pull else ()
    contact: str | None = wiring.contact_to
    other = None
    shorts = False
    wasted_ohm = 0
    source_mv = board.logic_mv
    if isinstance(part, ButtonModule):
        ends = set(part.ends(part.contact_pins))
        contact = next(iter(ends - {"pin"})) if "pin" in ends else None
        shorts = contact is None
        resistor = set(part.ends(part.resistor_pins))
        if "pin" in resistor:
            rail = next(iter(resistor - {"pin"}))
            held = (*held, Branch(rail, (part.resistor_ohm, part.resistor_ohm), inside=False))
        else:
            wasted_ohm = part.resistor_ohm
    elif isinstance(part, TwoWay) and part.other_throw == "wired":
        other = OTHER[wiring.contact_to]
    elif isinstance(part, OpenWire):
        contact = None
    elif isinstance(part, SignalIn):
        source_mv = part.high_mv
        if part.drives == "both":
            other = OTHER[wiring.contact_to]
    stuck = isinstance(part, FourLegged) and part.legs == "joined"
    deaf = board.reads_zero(line.pin)
    return Circuit(contact, other, held, wiring.normally == "closed", stuck, shorts, wasted_ohm, source_mv, deaf)


def filter_of(line: ContactLine, board: Board) -> Filter | None:
    """The resistor and capacitor before the pin as they act; None without them, or where nothing holds the pin open.

    An internal pull is taken at the geometric middle of its range.
    """
    wiring = line.wiring
    circuit = circuit_of(line, board)
    if wiring.filter == "none" or circuit.contact is None or circuit.stuck or circuit.deaf:
        return None
    shares = {"supply": 1.0, "ground": 0.0}
    farad_us = wiring.filter_nf * 1e-3  # Ω · nF · 1e-3 = µs
    closed = shares[circuit.contact]
    if circuit.other:
        opened, ohm = shares[circuit.other], 0.0
    elif circuit.held:
        opened = shares[circuit.held[0].rail]
        ohm = math.sqrt(circuit.held[0].ohm[0] * circuit.held[0].ohm[1])
    else:
        return None
    series = float(wiring.series_ohm)
    low, high = board.low_below_share, board.high_from_share
    return Filter(closed, opened, series * farad_us, (series + ohm) * farad_us, low, high, wiring.schmitt)
