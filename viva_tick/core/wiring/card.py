"""The wiring card: a bench's wires in the order in which one lays them, and what has to be bought."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass

from ..document import Bench
from ..document.parts import Lamp, PanelButton, RgbLamp, Switched
from ..emit.wires import GROUND, OWN_MINUS, OWN_PLUS, SUPPLY, Wire, wires
from ..kinds import KINDS
from ..units import ohms
from .bands import bands

OHMS = re.compile(r"through ([\d.]+) (k|M)?Ω")
SIZES = {None: 1.0, "k": 1e3, "M": 1e6}


@dataclass(frozen=True)
class Step:
    """Some wires that are laid together: those of a rail, or of a part (its id)."""

    title: str
    sentence: str
    wires: tuple[Wire, ...]
    part: str = ""


def key_of(wire: Wire) -> str:
    """What a wire is remembered by."""
    return f"{wire.from_end} > {wire.to_end}"[:240]


def resistor_of(wire: Wire) -> float | None:
    """The resistor in a wire, in Ω; None without one."""
    found = OHMS.search(wire.note)
    return float(found[1]) * SIZES[found[2]] if found else None


def colours_of(wire: Wire) -> tuple[str, ...]:
    """The bands of the resistor in a wire; none without one, or where no bands say its value."""
    ohm = resistor_of(wire)
    try:
        return bands(ohm) if ohm is not None else ()
    except ValueError:
        return ()


def steps(bench: Bench) -> list[Step]:
    """Ground first, then the supply, then part by part: each wire once, while nothing has power."""
    left = list(wires(bench))
    rails = (
        ("Ground", "All that is joined to ground, before anything else.", {GROUND, OWN_MINUS}),
        ("Supply", "All that is joined to a supply; the board is not plugged in yet.", {SUPPLY, OWN_PLUS}),
    )
    found = []
    for title, sentence, ends in rails:
        mine = tuple(wire for wire in left if {wire.from_end, wire.to_end} & ends and not wire.signal)
        left = [wire for wire in left if wire not in mine]
        if mine:
            found.append(Step(title, sentence, mine))
    for part in bench.parts:
        mine = tuple(wire for wire in left if wire.part == part.id)
        if mine:
            found.append(Step(part.name, "From the board to it.", mine, part.id))
    return found


def shopping(bench: Bench) -> list[tuple[int, str]]:
    """(how many, what) of all that the bench is built of, its board included."""
    found: Counter[str] = Counter({bench.the_board.name: 1})
    for part in bench.parts:
        found[_said(part)] += 1
        if isinstance(part, Switched) and part.fed == "transistor":
            found["transistor, MOSFET for logic levels" if part.by_field else "transistor, NPN"] += 1
            if getattr(part, "diode", False):
                found["diode across the coil"] += 1
        if isinstance(part, PanelButton) and part.lamp:
            found["lamp in a button"] += 1
    for line in bench.contacts:
        if line.wiring.filter == "rc":
            found[f"capacitor {line.wiring.filter_nf} nF"] += 1
            found[f"resistor {_ohms(line.wiring.series_ohm)}"] += 1
    for wire in wires(bench):
        ohm = resistor_of(wire)
        if ohm is not None:
            found[f"resistor {_ohms(ohm)}"] += 1
    for colour, count in Counter(wire.colour for wire in wires(bench) if wire.colour).items():
        found[f"wire, {colour}"] += count
    order = sorted(found.items(), key=lambda row: (row[0].startswith("wire"), row[0].startswith("resistor")))
    return [(count, what) for what, count in order]


def _said(part: object) -> str:
    kind = KINDS[str(getattr(part, "kind", ""))].name.lower()
    if isinstance(part, Lamp):
        return f"{kind}, {part.colour}"
    return f"{kind}, common {part.common}" if isinstance(part, RgbLamp) else kind


def _ohms(ohm: float) -> str:
    try:
        return f"{ohms(ohm)} ({', '.join(bands(ohm))})"
    except ValueError:
        return ohms(ohm)


def card_text(bench: Bench) -> str:
    """The card as text, for paper and for the folder of the program."""
    lines = [f"{bench.name}: wiring", ""]
    for number, step in enumerate(steps(bench), 1):
        lines.append(f"{number}. {step.title}. {step.sentence}")
        for wire in step.wires:
            more = ", ".join(filter(None, (wire.colour, wire.note, "–".join(colours_of(wire)))))
            lines.append(f"   [ ] {wire.from_end} to {wire.to_end}{f' ({more})' if more else ''}")
        lines.append("")
    lines.append("To buy:")
    lines += [f"   {count} × {what}" for count, what in shopping(bench)]
    return "\n".join([*lines, ""])
