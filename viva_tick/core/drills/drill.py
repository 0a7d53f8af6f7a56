"""A drill: which faults are hidden where, what it costs to ask, and what the record of drills says."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..document import Bench, DocumentError, bench_data, bench_from_data
from ..document.parts import Switched
from ..electrics import base_ua, both_states, circuit_of, lamp_legs, sums
from ..seeds import stream
from ..units import amps, volts
from . import FAULTS
from .base import GROUPS
from .finding import Planted, codes, plant

COSTS = {"meter": 1, "wires": 1, "probe": 2, "program": 3, "ask": 3, "swap": 4, "hint": 5, "wrong": 5}
MOST = 3  # faults of a drill


class NoDrill(ValueError):
    """No fault of that kind can be hidden in that bench; says so."""


def make(sound: Bench, seed: int, level: int, many: int) -> list[Planted]:
    """So many faults of a level at the most, one after another, each findable beside the others; the same for the same
    seed. Raises `NoDrill`."""
    rng = stream("drill", seed, level, many, sound.name)
    kinds = [one for one in FAULTS.values() if one.level <= level]
    rng.shuffle(kinds)
    known, bench = codes(sound), sound
    found: list[Planted] = []
    for hidden in kinds:
        if any(hidden.code == one.hidden.code or hidden.group == one.hidden.group for one in found):
            continue
        planted = plant(bench, known, hidden, rng)
        if planted is None:
            continue
        now = codes(planted.bench)
        # What was hidden before must still be there to be found.
        if any(not any(code == one.hidden.code for code, _ in now - codes(sound)) for one in found):
            continue
        found.append(planted)
        known, bench = now, planted.bench
        if len(found) == many:
            return found
    if not found:
        raise NoDrill("Nothing of that level can be hidden in this bench: take another, or a harder level.")
    return found


@dataclass(frozen=True)
class Reading:
    """A place for the meter: its name for a form, what it is called, what it shows."""

    id: str
    title: str
    shows: str


def places(bench: Bench) -> list[Reading]:
    """Everywhere that the meter can be put, and what it shows there: the contact's pin let go and pressed, the current
    of a lamp and of a base, the supply with everything on."""
    board = bench.the_board
    rows = []
    for line in bench.contacts:
        let_go, pressed = (
            volts(low) if round(low) == round(high) else f"{volts(low)} to {volts(high)}"
            for low, high in (state.pin_mv for state in both_states(circuit_of(line, board), board))
        )
        rows.append(Reading(f"pin {line.id}", f"{line.name}, {line.pin}", f"let go {let_go}, pressed {pressed}"))
    for leg in lamp_legs(bench):
        through = leg.current_ua(board)
        shows = amps(round(through)) if through is not None else "beyond its range: nothing bounds it"
        rows.append(Reading(f"lamp {leg.channel}", f"{leg.name}, its current", shows))
    for _, part in bench.placed:
        if isinstance(part, Switched) and part.fed == "transistor" and not part.by_field:
            into = base_ua(part, board)
            shows = amps(round(into)) if into is not None else "beyond its range: nothing bounds it"
            rows.append(Reading(f"base {part.id}", f"{part.name}, into its base", shows))
    rows += [Reading(f"sum {one.what}", f"{one.what}, everything on", amps(round(one.drawn_ua))) for one in sums(bench)]
    return rows


def swapped(faulty: Bench, sound: Bench, part_id: str) -> Bench | None:
    """The bench with one part, and its wiring, as it was when it was sound; None where there is no such part."""
    data, good = bench_data(faulty), bench_data(sound)
    for side in ("inputs", "outputs"):
        for place, part in enumerate(data[side]):
            other = next((one for one in good[side] if one["id"] == part_id), None)
            if part["id"] == part_id and other is not None:
                data[side][place] = other
                try:
                    return bench_from_data(data)
                except DocumentError:
                    return None
    return None


@dataclass(frozen=True)
class Past:
    """One drill that is over: the faults that were in it, those that were found, what it cost."""

    faults: tuple[str, ...]
    found: tuple[str, ...]
    cost: int
    gave_up: bool


@dataclass(frozen=True)
class Weak:
    """How one group of faults comes out: how many there were, how many were found, what a drill with one costs."""

    group: str
    title: str
    many: int
    found: int
    cost: float


def weakest(past: Iterable[Past]) -> list[Weak]:
    """The groups, the weakest first: least found, then dearest."""
    rows: dict[str, list[tuple[bool, float]]] = {}
    for one in past:
        for ident in one.faults:
            if ident in FAULTS:
                rows.setdefault(FAULTS[ident].group, []).append((ident in one.found, one.cost / len(one.faults)))
    made = [
        Weak(group, GROUPS[group], len(found), sum(so for so, _ in found), sum(cost for _, cost in found) / len(found))
        for group, found in rows.items()
    ]
    return sorted(made, key=lambda one: (one.found / one.many, -one.cost))
