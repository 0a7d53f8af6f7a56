"""Runs: a bench, a scenario and a seed go in, a trace comes out.

`contract` says what an engine is; `firmware` is the model of the board; `engines` holds the plain and the skipping
engine; `trace` is what they record; `schools` how the same bench is written in each; `faults` what can go wrong.
"""

from __future__ import annotations

from .contract import Budget, Engine, Run
from .costs import asleep_us, idle_pass_us, working_pass_us
from .engines import PlainEngine, SkippingEngine
from .faults import HELD_BY, Fault, FaultKind
from .guarding import LATE
from .schools import SCHOOLS, in_its_school, under
from .trace import Kind, Signal, Trace

__all__ = [
    "HELD_BY",
    "LATE",
    "SCHOOLS",
    "Budget",
    "Engine",
    "Fault",
    "FaultKind",
    "Kind",
    "PlainEngine",
    "Run",
    "Signal",
    "SkippingEngine",
    "Trace",
    "asleep_us",
    "idle_pass_us",
    "in_its_school",
    "under",
    "working_pass_us",
]
