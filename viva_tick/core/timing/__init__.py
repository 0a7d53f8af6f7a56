"""What runs answer: tallies, spreads, differences between two runs."""

from __future__ import annotations

from .answers import Answers, Blocked, Spread, answers, spread
from .compare import difference
from .expected import SIGN_WORDS, Verdict, as_it_is, expected_words, judged
from .jobs import JobTally, job_tallies
from .sensed import SensedTally, sensed_tally
from .tally import PressTally, tally
from .why import Link, chain, entry_at, why

__all__ = [
    "SIGN_WORDS",
    "Answers",
    "Blocked",
    "JobTally",
    "Link",
    "PressTally",
    "SensedTally",
    "Spread",
    "Verdict",
    "answers",
    "as_it_is",
    "chain",
    "difference",
    "entry_at",
    "expected_words",
    "job_tallies",
    "judged",
    "sensed_tally",
    "spread",
    "tally",
    "why",
]
