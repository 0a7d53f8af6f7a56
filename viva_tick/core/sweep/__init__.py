"""Sweeps: a debounce method over thousands of taps and every interval, the safe window, the advice."""

from __future__ import annotations

from .advice import DEFAULT_TAP, POINTS, Advice, advise, doubled_rate, shortest_tap_us, sweep_input, tap_style
from .decide import Choice, Decision, choices, decide
from .evaluate import Swept, evaluate
from .full import FullSweep, full_sweep
from .keys import key_decision, sweep_keys
from .noise import NoiseStudy, advised_band, chatter, digits_of, noise_peak, noise_study, threshold_facts
from .trials import TapStyle, Trials, make_trials, sampled
from .turning import TurnSweep, counts_fit_us, outcome, turn_sweep

__all__ = [
    "DEFAULT_TAP",
    "POINTS",
    "Advice",
    "Choice",
    "Decision",
    "FullSweep",
    "NoiseStudy",
    "Swept",
    "TapStyle",
    "Trials",
    "TurnSweep",
    "advise",
    "advised_band",
    "chatter",
    "choices",
    "counts_fit_us",
    "decide",
    "digits_of",
    "doubled_rate",
    "evaluate",
    "full_sweep",
    "key_decision",
    "make_trials",
    "noise_peak",
    "noise_study",
    "outcome",
    "sampled",
    "shortest_tap_us",
    "sweep_input",
    "sweep_keys",
    "tap_style",
    "threshold_facts",
    "turn_sweep",
]
