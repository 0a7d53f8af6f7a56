"""Ignore time on an edge interrupt: the edge itself calls, and is ignored for the interval after one that counted.

Only the edge towards pressed calls; the bounces of a release have such edges too, and after the interval they count.
The pass finds a flag, not a reading. That it was let go the pass sees by reading, without a wait.
"""

from __future__ import annotations

import numpy as np

from ..clock import LONG_AGO, MASK
from ..pieces import piece
from .base import (
    FAR,
    NO_EDGE,
    NO_TIMES,
    NOWHERE,
    PRESS,
    RELEASE,
    Method,
    Places,
    Rows,
    SketchPart,
    Stepper,
    Times,
    Walk,
    of,
    put,
)


class InterruptStepper(Stepper):
    """What the handler keeps: when it last counted, and the flag that the pass consumes."""

    __slots__ = ("called", "flag", "last_ms", "raw", "read_ms")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        super().__init__(interval_us)
        self.called = False
        self.flag = False
        self.last_ms = 0
        self.raw = False
        self.read_ms = 0

    def handle(self, now_ms: int) -> None:
        """An edge towards pressed, at counter value `now_ms`."""
        if self.called and (now_ms - self.last_ms) & MASK < self.wait_ms:
            return
        self.called = True
        self.last_ms = now_ms
        self.flag = True

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        self.raw = pressed
        self.read_ms = now_ms
        # Over, before the counter comes round to it. An edge since the counter was read lies ahead of it: not over.
        if self.called and self.wait_ms <= (now_ms - self.last_ms) & MASK < LONG_AGO:
            self.called = False
        if self.flag:
            self.flag = False
            self.accepted = True
            return PRESS
        if self.accepted and not pressed:
            self.accepted = False
            return RELEASE
        return NO_EDGE

    def due(self) -> tuple[int, int] | None:
        """See `Stepper.due`: a press that was over before the pass that found its flag is let go in the next."""
        if self.accepted and not self.raw:
            return self.read_ms, 0
        return (self.last_ms, self.wait_ms) if self.called else None


class InterruptWalk(Walk):
    """Every edge towards pressed calls, between passes too; one that counts is accepted in the pass that follows."""

    def __init__(self, rows: Rows) -> None:
        super().__init__(rows)
        self.deaf_ms = self.table(-1_000_000)  # until this counter value
        self.counted_at = self.table(-1)

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """See `Walk.segment`."""
        if not pressed:
            return NOWHERE, NO_TIMES
        edge_ms = np.where(edge < FAR, edge // 1000, np.int32(-2_000_000))
        counted, trials, wait_ms = self.located(self.deaf_ms <= edge_ms)
        at = self.clock.next_pass(np.minimum(edge, FAR - np.int32(10_000_000))).take(trials)
        put(self.deaf_ms, counted, of(edge_ms, trials) + wait_ms)
        # Two that count between the same two passes raise the flag once.
        anew = at != of(self.counted_at, counted)
        put(self.counted_at, counted, at)
        return counted[anew], at[anew]


METHOD = Method(
    id="interrupt",
    title="Interrupt, ignore",
    sentence="After an edge has interrupted, how long is the next ignored?",
    right_when="Right for short pulses that a slow loop would miss: the edge is caught whatever the loop does.",
    costs="Costs an interrupt pin; a spike counts, and so does the bounce of a release once the interval is over.",
    statistic="settle",
    limits_us=(0, 1_000_000),
    default_us=50_000,
    blocks=False,
    by="interrupt",
    edges="press",
    make=InterruptStepper,
    walk=InterruptWalk,
    sketch=SketchPart("OnInterrupt", piece(__file__), takes="handler"),
)
