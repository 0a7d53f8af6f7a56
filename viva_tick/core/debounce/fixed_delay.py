"""Fixed delay: act on an edge, then stop the whole loop for the interval."""

from __future__ import annotations

import numpy as np

from ..pieces import piece
from .base import Method, PassClock, SketchPart, Times
from .none import NoneStepper


def _ready_us(at: Times, wait_ms: Times, clock: PassClock) -> Times:
    awake: Times = at + wait_ms * np.int32(1000)
    return awake


METHOD = Method(
    id="fixed-delay",
    title="Fixed delay",
    sentence="After acting, for how long is the loop held?",
    right_when="Right for a bench with a single input and nothing else to do.",
    costs="Costs everything else: while it waits no input is read, no lamp blinks, nothing feeds the watchdog.",
    statistic="settle",
    limits_us=(0, 1_000_000),
    default_us=50_000,
    blocks=True,
    make=NoneStepper,
    ready_us=_ready_us,
    sketch=SketchPart("DelayAfter", piece(__file__)),
)
