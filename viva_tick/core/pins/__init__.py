"""Pins: what suits a claim, an assignment without conflicts, and how a part arrives."""

from __future__ import annotations

from .arrive import Room, arrival, arrival_patch, first_reading
from .assign import NoFit, assign, move_patch, pull_path, worth
from .fit import best_free, dislike, unfit

__all__ = [
    "NoFit",
    "Room",
    "arrival",
    "arrival_patch",
    "assign",
    "best_free",
    "dislike",
    "first_reading",
    "move_patch",
    "pull_path",
    "unfit",
    "worth",
]
