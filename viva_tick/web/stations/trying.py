"""Try: what is done to the bench, and what must come of it."""

from __future__ import annotations

from typing import Any

from ...core.document import Bench
from ..panel import panel_of
from .base import Station, StationRequest


def _items(bench: Bench) -> list[str]:
    return []


def _context(asked: StationRequest) -> dict[str, Any]:
    return panel_of(asked.bench)


STATION = Station("try", "Try", _items, _context)
