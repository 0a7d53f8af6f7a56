"""Build: the program, the wire list, the cautions."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, get_args

from ...core.cautions import cautions
from ...core.document import Bench, pointer
from ...core.document.parts.base import WireColour
from ...core.emit import TARGETS, Emitted, Wire, targets_of, why_none, wires
from ...core.emit.compiling import compiled
from ...core.findings import must_fix
from ...core.study import to_be_fixed
from ...core.wiring import colours_of, first_power_on, key_of, shopping, steps
from ..drawings.wiring import pads_of, step_drawing
from ..patches import Patch, add, take_out
from ..studies import run_of
from .base import Station, StationRequest

ASIDES = ("wiring", "power", "compiled")


def _laid(bench: Bench, wire: Wire) -> tuple[bool, Patch]:
    """Whether a wire is laid, and what says the opposite."""
    key = key_of(wire)
    path, done = pointer("built", "wired", key), bool(bench.built.wired.get(key))
    return done, take_out(path) if done else add(path, True)


def _wiring(bench: Bench) -> dict[str, Any]:
    """The wires step by step, and what is to be bought."""
    rows = []
    laid: set[str] = set()
    for step in steps(bench):
        wires_of = [(wire, colours_of(wire), *_laid(bench, wire)) for wire in step.wires]
        drawn = step_drawing(bench.the_board, step.title, step.wires, laid)
        rows.append((step, wires_of, all(done for _, _, done, _ in wires_of), drawn))
        laid |= {pad for wire, _, done, _ in wires_of if done for pad in pads_of(wire)}
    return {"wiring_steps": rows, "next_step": next((n for n, row in enumerate(rows) if not row[2]), len(rows)),
            "to_buy": shopping(bench)}  # fmt: skip


def _power(bench: Bench) -> dict[str, Any]:
    """What to measure, what was, and what it means."""
    measured = bench.built.measured
    parts = []
    for ident, title, readings in first_power_on(bench):
        rows = []
        for one in readings:
            value = measured.get(one.id)
            wrong = "" if value is None else one.judged(value)
            rows.append((one, value, pointer("built", "measured", one.id), wrong))
        parts.append((ident, title, rows))
    return {"power_parts": parts, "measured_count": len(measured)}


ASIDE_OF: dict[str, Callable[[Bench], dict[str, Any]]] = {
    "wiring": _wiring,
    "power": _power,
    "compiled": lambda bench: {"compiled": compiled(bench)},
}


def _items(bench: Bench) -> list[str]:
    """The program that does what the strip shows comes first; then the wires, and the meter."""
    return [*(target.id for target in targets_of(bench)), *ASIDES]


def _scheme(bench: Bench) -> list[tuple[str, str, str]]:
    """(what, where in the document, colour now) of the scheme."""
    scheme = bench.wire_colours
    signals = [(f"signal {n + 1}", f"/wire_colours/signals/{n}", colour) for n, colour in enumerate(scheme.signals)]
    return [
        ("supply", "/wire_colours/supply", scheme.supply),
        ("ground", "/wire_colours/ground", scheme.ground),
        *signals,
    ]


def _pin_map(bench: Bench) -> list[tuple[str, str]]:
    """(pin, what is wired to it) of every pin of the board, in its order, for paper."""
    names: dict[str, list[str]] = {}
    for claim in bench.claims:
        names.setdefault(claim.pin, []).append(claim.name)
    return [(pin.id, ", ".join(dict.fromkeys(names.get(pin.id, ())))) for pin in bench.the_board.pins]


def _context(asked: StationRequest) -> dict[str, Any]:
    items = targets_of(asked.bench)
    aside = asked.picked if asked.picked in ASIDES else ""
    target = items[0] if aside else TARGETS[asked.picked or items[0].id]
    kernel = asked.bench.firmware.school == "kernel"
    faults = to_be_fixed(asked.bench, asked.study, partial(run_of, asked.bench))
    made = Emitted(()) if aside else target.emit(asked.bench, must_fix(faults))
    return {
        "aside": aside,
        **(ASIDE_OF[aside](asked.bench) if aside else {}),
        "target": target,
        "style": asked.bench.style,
        "serial": asked.bench.firmware.serial,
        "targets": items,
        "by_loop": kernel and target.id != "kernel",
        "no_tasks": why_none(asked.bench) if kernel else "",
        "board": asked.bench.the_board,
        "files": made.files,
        "notes": made.notes,
        "wires": [(wire, *_laid(asked.bench, wire)) for wire in wires(asked.bench)],
        "cautions": cautions(asked.bench),
        "faults": faults,
        "colours": [colour for colour in get_args(WireColour) if colour],
        "scheme": _scheme(asked.bench),
        "pin_map": _pin_map(asked.bench),
    }


STATION = Station("build", "Build", _items, _context)
