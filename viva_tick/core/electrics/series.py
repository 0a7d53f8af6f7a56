"""Preferred resistor values, IEC 60063:2015."""

from __future__ import annotations

E12 = (10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82)
E24 = (10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91)


def at_least(ohm: float, series: tuple[int, ...] = E12) -> int:
    """The smallest preferred value of 10 Ω or more that is no smaller than `ohm`."""
    decade = 1
    while True:
        for value in series:
            if value * decade >= ohm:
                return value * decade
        decade *= 10


def at_most(ohm: float, series: tuple[int, ...] = E12) -> int:
    """The largest preferred value that is no larger than `ohm`, but 10 Ω at least."""
    found = series[0]
    decade = 1
    while series[0] * decade <= ohm:
        found = max(value * decade for value in series if value * decade <= ohm)
        decade *= 10
    return found
