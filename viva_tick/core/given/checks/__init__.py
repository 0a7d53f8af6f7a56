"""Checks of a program that somebody brought. A new one is an entry in the row of its file."""

from __future__ import annotations

from . import guard, handlers, logic, talking, timing, waits, wiring
from .base import Check, Edit, Wrong, mended

CHECKS: dict[str, Check] = {
    check.code: check for module in (wiring, waits, timing, handlers, logic, talking, guard) for check in module.CHECKS
}

__all__ = ["CHECKS", "Check", "Edit", "Wrong", "mended"]
