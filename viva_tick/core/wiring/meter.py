"""What a meter shows at a bench that is wired as drawn: before power, after power, and as the loads come on one by one.

Resistances are those of the circuit with its supply off; voltages those of `electrics.pin` with its corners. To both
the meter's own error and the leads' are added (common practice: 1 % and half an ohm). From the pin's own protection a
meter may show anything over a megohm where nothing joins two points.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import inf

from ..boards import Board
from ..document import Bench
from ..document.parts import Analogue, ContactLine, OutputBase, Potentiometer, ResistiveSensor, SignalIn, Switched
from ..electrics import circuit_of, draws
from ..electrics.analogue import pin_mv, range_of
from ..electrics.pin import CONTACT_OHM, both_states
from ..units import amps, ohms

METER = 0.01  # of the value
LEADS_OHM = 0.5
OPEN_OHM = 1e6  # a meter shows this or more where nothing is joined
RESISTOR = 0.05  # of a resistor's value: the tolerance that is sold everywhere
TOUCHES_OHM = 2.0  # a contact, a breadboard's clips, two leads (common practice: under 2 Ω)
VOLTS_MV = 50  # a meter's own, and what moves meanwhile


@dataclass(frozen=True)
class Reading:
    """One thing to measure: an id that stays, what to do, between which points, in which unit, what is right (least,
    most), and what it means where it is below or above."""

    id: str
    do: str
    between: str
    unit: str
    least: float
    most: float
    below: str
    above: str

    def judged(self, value: float) -> str:
        """ "" where the value is right; else what is wrong."""
        return self.below if value < self.least else self.above if value > self.most else ""

    @property
    def wanted(self) -> str:
        """What is right, in words."""
        if self.most == inf:
            return f"{self._said(self.least)} or more, or “open”"
        most = self._said(self.most)
        return f"{most} at most" if not self.least else f"{self._said(self.least)} to {most}"

    def _said(self, value: float) -> str:
        if self.unit == "V":
            return f"{value:.2f} V"
        return ohms(value) if self.unit == "Ω" else amps(value * 1e3)


def _around(ohm: float, part: float = RESISTOR) -> tuple[float, float]:
    return ohm * (1 - part) * (1 - METER) - LEADS_OHM, ohm * (1 + part) * (1 + METER) + LEADS_OHM


def before_power(bench: Bench) -> list[Reading]:
    """With nothing plugged in: what is joined, and what must not be."""
    found = [
        Reading(
            "rails", "Board unplugged, loads off", "supply to ground", "Ω", 100.0, inf,
            "Supply and ground are joined: find that before anything gets power.", "",
        )
    ]  # fmt: skip
    for line in bench.contacts:
        found += _contact_ohms(line, bench.the_board)
    for _, part in bench.placed:
        if isinstance(part, ResistiveSensor):
            rail = "ground" if part.sensor_to == "supply" else "the supply"
            least, most = _around(float(part.fixed_ohm))
            found.append(
                Reading(
                    f"fixed:{part.id}", f"{part.name} unplugged", f"{part.pin} to {rail}", "Ω", least, most,
                    "The fixed resistor is too small, or bridged.", "It is too large, or its wire is off.",
                )
            )  # fmt: skip
        elif isinstance(part, Potentiometer):
            least, most = _around(float(part.track_ohm), 0.2)
            found.append(
                Reading(
                    f"track:{part.id}", f"{part.name}, its wiper unplugged", f"{part.name}, end 1 to end 2", "Ω", least,
                    most, "Its track is another value, or its ends are joined.", "An end of it is not joined.",
                )
            )  # fmt: skip
        elif isinstance(part, Switched) and getattr(part, "diode", False):
            found.append(
                Reading(
                    f"diode:{part.id}", f"Diode test, red at {part.name} −, black at +", f"{part.name} − to +", "V",
                    0.3, 0.9, "The diode lies the other way round: the transistor would carry it, or it is a short.",
                    "No diode is there, or the leads are the other way round.",
                )
            )  # fmt: skip
    return found


def _contact_ohms(line: ContactLine, board: Board) -> Iterator[Reading]:
    """From the pin to the rail that the contact joins it to, in both states."""
    if isinstance(line.part, SignalIn):
        return
    circuit = circuit_of(line, board)
    if circuit.contact is None:
        return
    rail = "ground" if circuit.contact == "ground" else "the supply"
    series = float(line.wiring.series_ohm) if line.wiring.filter == "rc" else 0.0
    closed = (0.0, TOUCHES_OHM + CONTACT_OHM) if not series else _around(series)
    beside = [branch.ohm for branch in circuit.held if branch.rail == circuit.contact and not branch.inside]
    opened = _around(beside[0][0]) if beside else (OPEN_OHM, inf)
    for pressed in (False, True):
        touching = circuit.touching(pressed)
        least, most = closed if touching else opened
        yield Reading(
            f"ohm:{line.id}:{'pressed' if pressed else 'released'}",
            f"{line.name} {'held down' if pressed else 'let go'}",
            f"{line.pin} to {rail}",
            "Ω",
            max(least, 0.0),
            most,
            "It touches: the contact is joined where it should be open, or two legs of one pair are wired."
            if not touching
            else "There is less in the wire than drawn.",
            "It does not touch: the wrong pair of legs, or a wire is off."
            if touching
            else "There is more in the way than drawn.",
        )


def after_power(bench: Bench) -> list[Reading]:
    """With the board plugged in and the loads still off: each pin's voltage."""
    board = bench.the_board
    found = [
        Reading(
            "supply", "Board plugged in, loads off", "supply to ground", "V", board.logic_mv * 0.95 / 1000,
            board.logic_mv * 1.05 / 1000, "Something pulls the supply down: unplug, and look for what gets warm.",
            "The board is fed with too much: unplug it.",
        )
    ]  # fmt: skip
    for line in bench.contacts:
        for state, pressed in zip(both_states(circuit_of(line, board), board), (False, True), strict=True):
            low, high = state.pin_mv
            if state.verdict == "floats":
                continue  # anything may be read there; Wire says so
            found.append(
                Reading(
                    f"volt:{line.id}:{'pressed' if pressed else 'released'}",
                    f"{line.name} {'held down' if pressed else 'let go'}",
                    f"{line.pin} to ground",
                    "V",
                    max(low * (1 - METER) - VOLTS_MV, 0.0) / 1000,
                    (high * (1 + METER) + VOLTS_MV) / 1000,
                    "Its pull is missing or off, or it is wired to the other rail.",
                    "It is not joined to its rail, or its pull is to the other.",
                )
            )
    for _, part in bench.sensed:
        if isinstance(part, Analogue):
            ends = [pin_mv(part, board, value, sign) for value in range_of(part) for sign in (-1, 0, 1)]
            found.append(
                Reading(
                    f"volt:{part.id}", f"{part.name}, anywhere in its range", f"{part.pin} to ground", "V",
                    max(min(ends) - VOLTS_MV, 0.0) / 1000, (max(ends) + VOLTS_MV) / 1000,
                    "It is under its range: a leg is off, or wired to the wrong rail.",
                    "It is over its range: a leg is off, or wired to the wrong rail.",
                )
            )  # fmt: skip
    return found


def loads_one_by_one(bench: Bench) -> list[Reading]:
    """The loads, one after the other: what each takes while it is on."""
    found = []
    for draw in draws(bench):
        part = next((one for one in bench.outputs if one.id == draw.part), None)
        if not isinstance(part, OutputBase):
            continue
        whole = (draw.own_ua or draw.supply_ua or draw.pins_ua) / 1e3
        if whole:
            found.append(
                Reading(
                    f"load:{part.id}", f"{part.name} alone, on", f"in its {'own ' * bool(draw.own_ua)}supply wire",
                    "mA", 0.3 * whole, 1.5 * whole, "It is off, or not joined.",
                    "It takes more than the bench counts on: it is another type, or something is short.",
                )
            )  # fmt: skip
    return found


def first_power_on(bench: Bench) -> list[tuple[str, str, list[Reading]]]:
    """(id, title, what to measure) of the three parts of it."""
    return [
        ("before", "Before power", before_power(bench)),
        ("after", "After power, before the loads", after_power(bench)),
        ("loads", "The loads, one by one", loads_one_by_one(bench)),
    ]
