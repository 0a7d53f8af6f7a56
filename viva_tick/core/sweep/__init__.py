"""Sweeps: a debounce method over thousands of taps and every interval, the safe window, the advice."""

from __future__ import annotations

from .advice import DEFAULT_TAP, POINTS, Advice, advise, doubled_rate, shortest_tap_us, sweep_input, tap_style
from .decide import Choice, Decision, choices, decide
from .evaluate import Swept, evaluate
from .trials import TapStyle, Trials, make_trials, sampled

__all__ = [
    "DEFAULT_TAP",
    "POINTS",
    "Advice",
    "Choice",
    "Decision",
    "Swept",
    "TapStyle",
    "Trials",
    "advise",
    "choices",
    "decide",
    "doubled_rate",
    "evaluate",
    "make_trials",
    "sampled",
    "shortest_tap_us",
    "sweep_input",
    "tap_style",
]
