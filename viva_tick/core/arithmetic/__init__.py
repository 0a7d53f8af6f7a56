"""Sums that people do on paper. A new one is an entry in the row of its file."""

from __future__ import annotations

from . import parts, times
from .base import Ask, Give, Sum, Values, Worked, first_values, problem, worked
from .quantity import NotAQuantity, quantity, said

SUMS: dict[str, Sum] = {one.id: one for module in (parts, times) for one in module.SUMS}

__all__ = [
    "SUMS",
    "Ask",
    "Give",
    "NotAQuantity",
    "Sum",
    "Values",
    "Worked",
    "first_values",
    "problem",
    "quantity",
    "said",
    "worked",
]
