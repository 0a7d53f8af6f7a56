"""Wait until stable: the contact must rest for the interval before a change is accepted."""

from __future__ import annotations

import numpy as np

from ..clock import MASK
from ..pieces import piece
from .base import NO_EDGE, PRESS, RELEASE, Method, PassClock, SketchPart, Stepper, Times


class RestFirstStepper(Stepper):
    """Remembers the last reading and since when it has stood."""

    __slots__ = ("raw", "since_ms")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        super().__init__(interval_us)
        self.raw = False
        self.since_ms = 0

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        if pressed != self.raw:
            self.raw = pressed
            self.since_ms = now_ms
        if pressed == self.accepted or (now_ms - self.since_ms) & MASK < self.wait_ms:
            return NO_EDGE
        self.accepted = pressed
        return PRESS if pressed else RELEASE

    def due(self) -> tuple[int, int] | None:
        """See `Stepper.due`."""
        return (self.since_ms, self.wait_ms) if self.raw != self.accepted else None


def _accept_us(edge: Times, last: Times, wait_ms: Times, clock: PassClock) -> Times:
    rested: Times = np.maximum(edge, clock.counter_reaches(edge, wait_ms))
    return rested


METHOD = Method(
    id="rest-first",
    title="Wait until stable",
    sentence="How long must it be stable before it is accepted?",
    right_when="Right for most buttons: a bounce or a spike shorter than the interval never gets through.",
    costs="Costs one interval of wait on every press and every release.",
    statistic="gap",
    limits_us=(0, 1_000_000),
    default_us=20_000,
    blocks=False,
    make=RestFirstStepper,
    accept_us=_accept_us,
    sketch=SketchPart("WaitUntilStable", piece(__file__)),
)
