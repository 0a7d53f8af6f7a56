"""Count samples: a counter goes up while the reading says pressed and down while it does not, between two ends.

It samples once a period of the millisecond counter, and rests at its ends: while it stands at one and the reading
agrees nothing is counted, so that passes which change nothing can be skipped.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ..clock import MASK
from ..pieces import piece
from .base import NO_EDGE, PRESS, RELEASE, Method, Rows, SketchPart, Stepper, Times, Walk


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


class CountWalk(Walk):
    """The same over arrays: whole runs of samples at a time."""

    def __init__(self, rows: Rows) -> None:
        super().__init__(rows)
        self.ends = np.maximum(self.wait_ms // self.sample_ms, 1)
        self.count = np.zeros(rows.shape, dtype=np.int32)
        self.running = np.zeros(rows.shape, dtype=bool)
        self.since_ms = np.zeros(rows.shape, dtype=np.int32)

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Any, Any]:
        """See `Walk.segment`."""
        sample = np.int32(self.sample_ms)
        needed = self.ends - self.count if pressed else self.count.copy()
        self.running &= needed > 0
        # In counter values: the edge's own, or that of the sample which is due, if it comes later. Of one that is due a
        # pass or less before the reading's end none is taken.
        edge_ms = edge // 1000
        due_ms = np.where(self.running, self.since_ms + sample, np.int32(-1))
        first_ms = np.maximum(edge_ms, due_ms)
        done = (until - self.clock.period_us) // 1000 - first_ms
        if self.sample_ms > 1:
            done //= sample
        done += 1
        np.minimum(done, needed, out=done)
        np.maximum(done, 0, out=done)
        moved = done > 0
        np.copyto(self.since_ms, first_ms + (done - 1) * sample, where=moved)
        self.count += done if pressed else -done
        there = done == needed
        self.running |= moved
        self.running &= ~there
        taken = there & (self.accepted != pressed)
        at = edge
        if taken.any():
            # The first sample is the edge's own pass; or, if one is due later, the first pass of its millisecond.
            full = self.clock.next_pass((first_ms + (needed - 1) * sample) * np.int32(1000))
            at = np.where((due_ms > edge_ms) | (needed > 1), np.maximum(full, edge), edge)
            self.accepted ^= taken
        return taken, at


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
