"""Ignore time on edge interrupts with one handler for several pins: a common mistake. The handler does not know which
pin called it: it sets one flag, and is deaf to all of them for the interval. The pass gives the flag to the first input
that reads pressed, and drops it where none does."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..clock import LONG_AGO, MASK
from ..pieces import piece
from .base import NO_EDGE, PRESS, RELEASE, Places, Rows, SketchPart, Stepper, Times, of, put
from .interrupt import METHOD as OWN_HANDLER
from .interrupt import InterruptWalk


class SharedHandler:
    """When any of the pins last counted, and the flag; `looked` of its `members` have seen the flag and were not
    pressed. Its interval is that of the first of them."""

    __slots__ = ("called", "flag", "last_ms", "looked", "members", "wait_ms")

    def __init__(self, wait_ms: int) -> None:
        self.wait_ms = wait_ms
        self.called = self.flag = False
        self.last_ms = self.looked = self.members = 0

    def handle(self, now_ms: int) -> None:
        """An edge towards pressed of any of them."""
        if self.called and (now_ms - self.last_ms) & MASK < self.wait_ms:
            return
        self.called = self.flag = True
        self.last_ms = now_ms
        self.looked = 0


class SharedInterruptStepper(Stepper):
    """What is accepted of one input; the handler is shared."""

    __slots__ = ("raw", "read_ms", "shared")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        super().__init__(interval_us)
        self.shared = SharedHandler(self.wait_ms)
        self.raw = False
        self.read_ms = 0

    def join(self, common: dict[str, Any]) -> None:
        """See `Stepper.join`."""
        self.shared = common.setdefault("shared-interrupt", self.shared)
        self.shared.members += 1

    def handle(self, now_ms: int) -> None:
        """See `SharedHandler.handle`."""
        self.shared.handle(now_ms)

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        shared = self.shared
        self.raw, self.read_ms = pressed, now_ms
        if shared.called and shared.wait_ms <= (now_ms - shared.last_ms) & MASK < LONG_AGO:
            shared.called = False
        if shared.flag and pressed:
            shared.flag = False
            self.accepted = True
            return PRESS
        if shared.flag:
            shared.looked += 1
            shared.flag = shared.looked < shared.members
        if self.accepted and not pressed:
            self.accepted = False
            return RELEASE
        return NO_EDGE

    def due(self) -> tuple[int, int] | None:
        """See `Stepper.due`."""
        if self.shared.flag or (self.accepted and not self.raw):
            return self.read_ms, 0
        return (self.shared.last_ms, self.shared.wait_ms) if self.shared.called else None


class SharedInterruptWalk(InterruptWalk):
    """Of one input alone: the flag is its own, if it reads pressed in the pass that finds it; else it is dropped."""

    def __init__(self, rows: Rows) -> None:
        super().__init__(rows)
        self.flagged_at = self.table(-1)

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """See `Walk.segment`."""
        counted, at = super().segment(edge, until, pressed)
        if not pressed:
            return counted, at
        put(self.flagged_at, counted, at)
        taken = np.flatnonzero((self.flagged_at >= edge) & (self.flagged_at < until))
        found = of(self.flagged_at, taken)
        put(self.flagged_at, taken, -1)
        return taken, found


METHOD = OWN_HANDLER.variant(
    id="shared-interrupt",
    title="Interrupt, one handler",
    sentence="After an edge of any of them has interrupted, how long are all ignored?",
    right_when="Right for one input alone. With more it is a mistake often made: it cannot tell which of them called.",
    costs="Costs every press soon after another's, and gives a press to whichever is read as pressed first.",
    make=SharedInterruptStepper,
    walk=SharedInterruptWalk,
    one_handler=True,
    sketch=SketchPart("OnSharedInterrupt", piece(__file__), takes="join"),
)
