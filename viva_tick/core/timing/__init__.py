"""What runs answer: tallies, spreads, differences between two runs."""

from __future__ import annotations

from .answers import Answers, Blocked, Spread, answers, spread
from .compare import difference
from .tally import PressTally, tally

__all__ = [
    "Answers",
    "Blocked",
    "PressTally",
    "Spread",
    "answers",
    "difference",
    "spread",
    "tally",
]
