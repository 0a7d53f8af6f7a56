"""Keys of a matrix: the wait for each against the scan, by the same sweep as a contact that must rest.

A scan is to a key what a pass is to a contact.
"""

from __future__ import annotations

from ..document import Bench, KeyPress, Scan, TapTiming
from ..document.parts import KeyMatrix
from .advice import POINTS, SCREEN_TRIALS, Advice, advise, swept_for
from .evaluate import Swept
from .trials import TapStyle


def key_style(bench: Bench, part: KeyMatrix) -> TapStyle:
    """The shortest press and pause of a key that is asked for, or that a scenario does."""
    asked = bench.taps.get(part.id, TapTiming())
    holds = [
        stimulus.hold_us
        for scenario in bench.scenarios
        for stimulus in scenario.stimuli
        if isinstance(stimulus, KeyPress) and stimulus.input == part.id
    ]
    return TapStyle(min([asked.hold_us, *holds]), asked.rest_us)


def sweep_keys(bench: Bench, part: KeyMatrix, reading: Scan) -> Swept:
    """The curves for the wait of the keys: intervals from 0 to past the shortest press."""
    style = key_style(bench, part)
    reach_us = max(style.hold_us * 5 // 4, reading.interval_us * 5 // 4)
    step_us = max(-(-reach_us // (POINTS - 1) // 1000) * 1000, 1000)
    return swept_for(part.switch, "rest-first", reading.scan_us, style, step_us, POINTS, SCREEN_TRIALS, 1000)


def key_decision(bench: Bench, part: KeyMatrix, reading: Scan) -> Advice | None:
    """The safe window of the wait and the one to take; None where there is none."""
    return advise(sweep_keys(bench, part, reading), bench.taps.get(part.id, TapTiming()).per_thousand)
