"""Pins: what suits a part, and an assignment without conflicts."""

from __future__ import annotations

from .assign import NoFit, assign, move_patch, worth
from .fit import best_free, dislike, unfit

__all__ = ["NoFit", "assign", "best_free", "dislike", "move_patch", "unfit", "worth"]
