"""Log: what was changed, and what was measured."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.document import Bench, Capture
from ..patches import put
from .base import Station, StationRequest


@dataclass(frozen=True)
class Captured:
    """A capture, the contacts that bounce as it does, and how many edges it has."""

    capture: Capture
    used_by: tuple[str, ...]
    edges: int


def _items(bench: Bench) -> list[str]:
    return []


def _captured(bench: Bench) -> list[Captured]:
    return [
        Captured(
            one,
            tuple(line.name for line in bench.contacts if getattr(line.contact, "capture", "") == one.id),
            len(one.edges),
        )
        for one in bench.captures
    ]


def _context(asked: StationRequest) -> dict[str, Any]:
    return {"captured": _captured(asked.bench), "print_it": put("/firmware/serial/traces", True)}


STATION = Station("log", "Log", _items, _context, any_item=True)
