"""Rates, with their score interval: E. B. Wilson, Probable inference, the law of succession, and statistical
inference, Journal of the American Statistical Association 22:209, 1927."""

from __future__ import annotations

from math import sqrt

Z95 = 1.959963984540054  # of the normal distribution, 95 % lie within so many standard deviations


def wilson(so: int, of: int) -> tuple[float, float]:
    """The 95 % interval of a rate, both ends from 0 to 1; all of it where nothing was tried."""
    if not of:
        return 0.0, 1.0
    rate, square = so / of, Z95 * Z95
    middle = (rate + square / (2 * of)) / (1 + square / of)
    half = Z95 * sqrt(rate * (1 - rate) / of + square / (4 * of * of)) / (1 + square / of)
    return max(0.0, middle - half), min(1.0, middle + half)
