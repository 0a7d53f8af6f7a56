"""Build: the program, the wire list, the cautions."""

from __future__ import annotations

from functools import partial
from typing import Any, get_args

from ...core.cautions import cautions
from ...core.document import Bench
from ...core.document.parts.base import WireColour
from ...core.emit import TARGETS, targets_of, why_none, wires
from ...core.findings import must_fix
from ...core.study import to_be_fixed
from ..studies import run_of
from .base import Station, StationRequest


def _items(bench: Bench) -> list[str]:
    """The program that does what the strip shows comes first."""
    return [target.id for target in targets_of(bench)]


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
    target = TARGETS[asked.picked or items[0].id]
    kernel = asked.bench.firmware.school == "kernel"
    faults = to_be_fixed(asked.bench, asked.study, partial(run_of, asked.bench))
    made = target.emit(asked.bench, must_fix(faults))
    return {
        "target": target,
        "targets": items,
        "by_loop": kernel and target.id != "kernel",
        "no_tasks": why_none(asked.bench) if kernel else "",
        "board": asked.bench.the_board,
        "files": made.files,
        "notes": made.notes,
        "wires": wires(asked.bench),
        "cautions": cautions(asked.bench),
        "faults": faults,
        "colours": [colour for colour in get_args(WireColour) if colour],
        "scheme": _scheme(asked.bench),
        "pin_map": _pin_map(asked.bench),
    }


STATION = Station("build", "Build", _items, _context)
