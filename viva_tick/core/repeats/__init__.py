"""A scenario again and again, with what chance may change: how often each check holds, and what that hangs on."""

from .counted import Flips, Repeats, Tally, flips, holds_without, outcomes, repeat, said
from .drawn import FACTORS, Draw, drawn, varied
from .shared import repeated_by_all

__all__ = [
    "FACTORS",
    "Draw",
    "Flips",
    "Repeats",
    "Tally",
    "drawn",
    "flips",
    "holds_without",
    "outcomes",
    "repeat",
    "repeated_by_all",
    "said",
    "varied",
]
