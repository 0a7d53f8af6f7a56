"""Count samples: a counter goes up while the reading says pressed and down while it does not, between two ends.

It samples once a period of the millisecond counter, and rests at its ends: while it stands at one and the reading
agrees nothing is counted, so that passes which change nothing can be skipped.
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


class CountStepper(Stepper):
    """The counter, and when it last took a sample."""

    __slots__ = ("count", "ends", "running", "sample_ms", "since_ms")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        super().__init__(interval_us)
        self.sample_ms = max(sample_us // 1000, 1)
        self.ends = max(interval_us // max(sample_us, 1000), 1)
        self.count = 0
        self.running = False
        self.since_ms = 0

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        if self.count == (self.ends if pressed else 0):
            self.running = False
            return NO_EDGE
        if self.running and (now_ms - self.since_ms) & MASK < self.sample_ms:
            return NO_EDGE
        self.running = True
        self.since_ms = now_ms
        self.count += 1 if pressed else -1
        if self.count not in (0, self.ends):
            return NO_EDGE
        self.running = False
        if self.accepted == pressed:
            return NO_EDGE
        self.accepted = pressed
        return PRESS if pressed else RELEASE

    def due(self) -> tuple[int, int] | None:
        """See `Stepper.due`."""
        return (self.since_ms, self.sample_ms) if self.running else None


class CountWalk(SampleWalk):
    """The same over arrays: whole runs of samples at a time."""

    def __init__(self, rows: Rows) -> None:
        super().__init__(rows)
        self.ends = np.maximum(self.wait_ms // self.sample_ms, 1)
        self.count = self.table(0)
        self.due_ms = self.table(0)  # of the next sample, while it counts; else what lies behind

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """See `Walk.segment`."""
        sample = np.int32(self.sample_ms)
        needed = self.ends - self.count if pressed else self.count.copy()
        # In counter values: the edge's own, or that of the sample which is due, if it comes later.
        first_ms = np.maximum(edge // 1000, self.due_ms)
        last_ms = self.last_ms(until)
        done = last_ms + sample - first_ms
        if self.sample_ms > 1:
            done //= sample
        np.minimum(done, needed, out=done)
        done *= first_ms <= last_ms
        there = done == needed
        taken = there & (self.accepted != pressed)
        due_ms = first_ms + done * sample if self.sample_ms > 1 else first_ms + done
        due_ms *= ~there
        before_ms, self.due_ms = self.due_ms, due_ms
        self.count += done if pressed else -done
        self.accepted ^= taken
        if pressed != self.acts_on_press:
            return NOWHERE, NO_TIMES
        places, trials, _ = self.located(taken)
        return places, self.sampled(of(edge, trials), trials, of(before_ms, places), of(needed, places))


METHOD = Method(
    id="count-samples",
    title="Count samples",
    sentence="How many more samples must say pressed than released?",
    right_when="Right on a noisy wire: a stray reading costs one count, it does not begin the wait anew.",
    costs="Costs the interval of wait, longer while it bounces, and a counter for each input.",
    statistic="settle",
    limits_us=(0, 1_000_000),
    default_us=20_000,
    blocks=False,
    samples=True,
    make=CountStepper,
    walk=CountWalk,
    sketch=SketchPart("CountSamples", piece(__file__), takes="sample"),
)
