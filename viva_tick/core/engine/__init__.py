"""Runs: a bench, a scenario and a seed go in, a trace comes out.

`contract` says what an engine is; `firmware` is the board that runs a program (`stages`: what each stage of a pass
does); `engines` holds the plain and the skipping engine; `trace` is what they record; `faults` what can go wrong.
"""

from __future__ import annotations

from .contract import Budget, Engine, Run
from .engines import PlainEngine, SkippingEngine
from .faults import HELD_BY, Fault, FaultKind
from .memory import SUPPLY
from .resuming import EVERY_US, Checkpoint, Going
from .trace import Kind, Signal, Trace

__all__ = [
    "EVERY_US",
    "HELD_BY",
    "SUPPLY",
    "Budget",
    "Checkpoint",
    "Engine",
    "Fault",
    "FaultKind",
    "Going",
    "Kind",
    "PlainEngine",
    "Run",
    "Signal",
    "SkippingEngine",
    "Trace",
]
