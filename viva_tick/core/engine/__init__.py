"""Runs: a bench, a scenario and a seed go in, a trace comes out.

`contract` says what an engine is; `firmware` is the model of the board; `engines` holds the plain and the skipping
engine; `trace` is what they record.
"""

from __future__ import annotations

from .contract import Budget, Engine, Run
from .engines import PlainEngine, SkippingEngine
from .firmware import idle_pass_us
from .trace import Kind, Signal, Trace

__all__ = ["Budget", "Engine", "Kind", "PlainEngine", "Run", "Signal", "SkippingEngine", "Trace", "idle_pass_us"]
