"""History: the last N samples, shifted through a register, must all say the same.

It samples once a period of the millisecond counter, from the first reading that differs from what is accepted; one
that agrees again empties the register.
"""

from __future__ import annotations

import numpy as np

from ..clock import MASK
from ..pieces import piece
from .base import (
    NO_EDGE,
    NO_TIMES,
    NOWHERE,
    PRESS,
    RELEASE,
    Method,
    Places,
    Rows,
    SampleWalk,
    SketchPart,
    Stepper,
    Times,
    of,
)


class HistoryStepper(Stepper):
    """How many samples in a row have differed, and when the last was taken."""

    __slots__ = ("length", "sample_ms", "since_ms", "streak")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        super().__init__(interval_us)
        self.sample_ms = max(sample_us // 1000, 1)
        self.length = max(interval_us // max(sample_us, 1000), 1)
        self.streak = 0
        self.since_ms = 0

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        if not self.streak:
            if pressed == self.accepted:
                return NO_EDGE
        elif (now_ms - self.since_ms) & MASK < self.sample_ms:
            return NO_EDGE
        self.since_ms = now_ms
        if pressed == self.accepted:
            self.streak = 0
            return NO_EDGE
        self.streak += 1
        if self.streak < self.length:
            return NO_EDGE
        self.streak = 0
        self.accepted = pressed
        return PRESS if pressed else RELEASE

    def due(self) -> tuple[int, int] | None:
        """See `Stepper.due`."""
        return (self.since_ms, self.sample_ms) if self.streak else None


class HistoryWalk(SampleWalk):
    """The same over arrays: whole runs of samples at a time."""

    def __init__(self, rows: Rows) -> None:
        super().__init__(rows)
        self.length = np.maximum(self.wait_ms // self.sample_ms, 1)
        self.streak = self.table(0)
        self.due_ms = self.table(0)  # of the next sample, in a streak; else what lies behind

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """See `Walk.segment`."""
        sample = np.int32(self.sample_ms)
        last_ms = self.last_ms(until)
        first_ms = np.maximum(edge // 1000, self.due_ms)
        differs = self.accepted != pressed
        sampled = first_ms <= last_ms
        # One that agrees empties the register, if it is taken before the reading ends.
        kept = differs | ~sampled
        self.streak *= kept
        self.due_ms *= kept
        needed = self.length - self.streak
        done = last_ms + sample - first_ms
        if self.sample_ms > 1:
            done //= sample
        np.minimum(done, needed, out=done)
        done *= differs & sampled
        taken = differs & (done == needed)
        before_ms = self.due_ms
        self.due_ms = first_ms + done * sample if self.sample_ms > 1 else first_ms + done
        self.due_ms *= kept & ~taken
        self.streak += done
        self.streak *= ~taken
        self.accepted ^= taken
        if pressed != self.acts_on_press:
            return NOWHERE, NO_TIMES
        places, trials, _ = self.located(taken)
        return places, self.sampled(of(edge, trials), trials, of(before_ms, places), of(needed, places))


METHOD = Method(
    id="history",
    title="History",
    sentence="How many samples in a row must agree?",
    right_when="Right for many inputs at once, a few bytes each; the last samples are the only memory.",
    costs="Costs the interval of wait; what happens between two samples is not seen at all.",
    statistic="gap",
    limits_us=(0, 1_000_000),
    default_us=20_000,
    blocks=False,
    samples=True,
    make=HistoryStepper,
    walk=HistoryWalk,
    sketch=SketchPart("History", piece(__file__), takes="sample"),
)
