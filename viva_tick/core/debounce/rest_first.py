"""Wait until stable: the contact must rest for the interval before a change is accepted."""

from __future__ import annotations

import numpy as np

from ..clock import MASK
from ..pieces import piece
from .base import NO_EDGE, NO_TIMES, NOWHERE, PRESS, RELEASE, Method, Places, SketchPart, Stepper, Times, Walk, of


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


class RestWalk(Walk):
    """The same over arrays: a reading is accepted where it stands for long enough."""

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """See `Walk.segment`."""
        stands_ms = self.last_ms(until) - edge // 1000
        taken = (self.wait_ms <= stands_ms) & (self.accepted != pressed)
        self.accepted ^= taken
        if pressed != self.acts_on_press:
            return NOWHERE, NO_TIMES
        places, trials, wait_ms = self.located(taken)
        begun = of(edge, trials)
        return places, np.maximum(begun, self.clock.of(trials).counter_reaches(begun, wait_ms))


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
    walk=RestWalk,
    sketch=SketchPart("WaitUntilStable", piece(__file__)),
)
