"""How a value of the document is shown in a field that a person types into; `values.js` reads it back."""

from __future__ import annotations

from typing import Any

from ..core.units import plain

PER_UNIT = {"volt": 1000, "amp": 1000, "milli": 1, "ms": 1000}


def typed(value: Any, reads: str) -> str:
    """4700 Ω as 4.7k, 3300 mV as 3.3, 75000 µA as 75; a time to the last digit, 30 ms, 4 s."""
    if not isinstance(value, int | float):
        return str(value)
    if reads == "time":
        return f"{plain(value / 1_000_000)} s" if abs(value) >= 1_000_000 else f"{plain(value / 1000)} ms"
    if reads in PER_UNIT:
        return plain(value / PER_UNIT[reads])
    if reads in ("ohm", "ohms"):
        for size, letter in ((1_000_000, "M"), (1_000, "k")):
            if value >= size:
                return f"{plain(value / size)}{letter}"
    return plain(value)
