"""Build: the sketch, the wire list, the cautions."""

from __future__ import annotations

from typing import Any

from ...core.boards import boards
from ...core.cautions import cautions
from ...core.document import Bench
from ...core.emit import TARGETS, wires
from .base import Desk, Station


def _items(bench: Bench) -> list[str]:
    return list(TARGETS)


def _context(desk: Desk) -> dict[str, Any]:
    target = TARGETS[desk.picked or next(iter(TARGETS))]
    code = target.emit(desk.bench) if target.can(desk.bench) else ""
    return {
        "target": target,
        "board": boards()[desk.bench.board],
        "code": code,
        "code_lines": code.count("\n"),
        "wires": wires(desk.bench),
        "cautions": cautions(desk.bench),
    }


STATION = Station("build", "Build", _items, _context)
