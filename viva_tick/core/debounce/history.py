"""History: the last N samples, shifted through a register, must all say the same.

It samples once a period of the millisecond counter, from the first reading that differs from what is accepted; one
that agrees again empties the register.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ..clock import MASK
from ..pieces import piece
from .base import NO_EDGE, PRESS, RELEASE, Method, Rows, SketchPart, Stepper, Times, Walk


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


class HistoryWalk(Walk):
    """The same over arrays: whole runs of samples at a time."""

    def __init__(self, rows: Rows) -> None:
        super().__init__(rows)
        self.length = np.maximum(self.wait_ms // self.sample_ms, 1)
        self.streak = np.zeros(self.accepted.shape, dtype=np.int32)
        self.since_ms = np.zeros(self.accepted.shape, dtype=np.int32)

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Any, Any]:
        """See `Walk.segment`."""
        sample = np.int32(self.sample_ms)
        differs = self.accepted != pressed
        begun = self.streak > 0
        edge_ms = edge // 1000
        due_ms = np.where(begun, self.since_ms + sample, np.int32(-1))
        first_ms = np.maximum(edge_ms, due_ms)
        begun &= ~differs
        if begun.any():  # one that agrees empties the register, if it is taken before the reading ends
            begun &= (due_ms <= edge_ms) | (self.clock.next_pass(first_ms * np.int32(1000)) < until)
            np.copyto(self.streak, 0, where=begun)
        needed = self.length - self.streak
        # Of a sample that is due a pass or less before the reading's end none is taken.
        done = (until - self.clock.period_us) // 1000 - first_ms
        if self.sample_ms > 1:
            done //= sample
        done += 1
        np.minimum(done, needed, out=done)
        np.maximum(done, 0, out=done)
        np.copyto(done, 0, where=~differs)
        np.copyto(self.since_ms, first_ms + (done - 1) * sample, where=done > 0)
        self.streak += done
        taken = differs & (done == needed)
        at = edge
        if taken.any():
            full = self.clock.next_pass((first_ms + (needed - 1) * sample) * np.int32(1000))
            at = np.where((due_ms > edge_ms) | (needed > 1), np.maximum(full, edge), edge)
            np.copyto(self.streak, 0, where=taken)
            self.accepted ^= taken
        return taken, at


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
