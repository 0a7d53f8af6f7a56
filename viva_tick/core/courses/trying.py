"""Something to do to an input, so that a first scenario shows it: as plain data, instants counted from its turn."""

from __future__ import annotations

from typing import Any

from ..document.parts import Analogue, Commands, Encoder, KeyMatrix, Sensed
from ..electrics import range_of


def tried_out(part: Sensed) -> list[dict[str, Any]]:
    """Three clicks to and fro; across the range and back; the first keys; each command."""
    if isinstance(part, Encoder):
        return [
            {"kind": "turn", "at_us": 300_000 * place, "clicks": clicks, "over_us": 250_000}
            for place, clicks in enumerate((3, -3))
        ]
    if isinstance(part, Analogue):
        low, high = sorted(range_of(part))
        return [
            {"kind": "level", "at_us": 600_000 * place, "value": value, "over_us": 500_000}
            for place, value in enumerate((high, low))
        ]
    if isinstance(part, KeyMatrix):
        return [
            {"kind": "key", "at_us": 300_000 * place, "hold_us": 120_000, "key": name}
            for place, name in enumerate(part.names[:4])
        ]
    assert isinstance(part, Commands)
    return [
        {"kind": "command", "at_us": 300_000 * place, "number": part.number(place)}
        for place in range(min(len(part.names), 8))
    ]
