"""The record of a bench: test cards for a hand, trials that are counted, what two revisions have different."""

from __future__ import annotations

from .cards import GROUPS, Line, lines_of, stale, step_words, steps
from .trials import Condition, Said, Trial, over_to, said_of

__all__ = [
    "GROUPS",
    "Condition",
    "Line",
    "Said",
    "Trial",
    "lines_of",
    "over_to",
    "said_of",
    "stale",
    "step_words",
    "steps",
]
