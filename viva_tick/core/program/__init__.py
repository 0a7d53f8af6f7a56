"""The program of a bench, described once.

`blocks` says what a pass is made of and in which order; `program` what else is worked out of a bench before anything
runs; `schools` how the same bench is written in each loop style. The engine, the costs, the taking apart of a pass and
every target read this, and none of them says it again.
"""

from __future__ import annotations

from .blocks import LATE, Block, Stage
from .program import Program, asleep_us, idle_pass_us, program_of, working_pass_us
from .schools import SCHOOLS, in_its_school, under

__all__ = [
    "LATE",
    "SCHOOLS",
    "Block",
    "Program",
    "Stage",
    "asleep_us",
    "idle_pass_us",
    "in_its_school",
    "program_of",
    "under",
    "working_pass_us",
]
