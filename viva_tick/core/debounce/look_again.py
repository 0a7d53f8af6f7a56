"""Wait and look again: on a press stop, look once more, act, stand still until it is released, stop, look once more.

All of it is done inside the pass: nothing else is read meanwhile. A press that is gone at the second look is none.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ..pieces import piece
from .base import FAR, NO_EDGE, PRESS, Method, Rows, SketchPart, Stepper, Times, Walk


class LookAgainStepper(Stepper):
    """Given only what second looks saw; the engine holds the loop for them."""

    __slots__ = ()

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`: `pressed` is the second look's reading."""
        if not pressed or self.accepted:
            return NO_EDGE
        self.accepted = True
        return PRESS


class LookAgainWalk(Walk):
    """The same over arrays: at most one look waits at a time, and the loop sleeps until it is done."""

    def __init__(self, rows: Rows) -> None:
        super().__init__(rows)
        self.look = np.full(self.accepted.shape, FAR, dtype=np.int32)
        self.awake = np.zeros(self.accepted.shape, dtype=np.int32)

    def _looks(self, until: Times, pressed: bool) -> Any:
        """The looks that fall before `until`: where they accept what they see."""
        due = self.look < until
        taken = due & (self.accepted != pressed)
        if due.any():
            np.copyto(self.awake, self.look, where=due)
            np.copyto(self.look, FAR, where=due)
            self.accepted ^= taken
        return taken

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Any, Any]:
        """See `Walk.segment`."""
        at = self.look.copy()
        early = self._looks(until, pressed)
        begin = np.maximum(edge, self.awake)
        starts = (self.accepted != pressed) & (self.look == FAR) & (begin < until)
        if starts.any():
            np.copyto(self.look, begin + self.wait_ms * 1000, where=starts)
            np.copyto(at, self.look, where=starts)
        late = self._looks(until, pressed)
        return early | late, at


METHOD = Method(
    id="look-again",
    title="Wait, look again",
    sentence="How long does the loop stop before it looks again?",
    right_when="Right for a first try with a single button: easy to write, and it accepts no spike.",
    costs="Costs everything else twice an interval, and for as long as the button is held down.",
    statistic="settle",
    limits_us=(0, 1_000_000),
    default_us=20_000,
    blocks=True,
    by="looking",
    make=LookAgainStepper,
    walk=LookAgainWalk,
    sketch=SketchPart("LookAgain", piece(__file__), takes="pin"),
)
