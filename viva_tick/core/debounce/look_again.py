"""Wait and look again: on a press stop, look once more, act, stand still until it is released, stop, look once more.

All of it is done inside the pass: nothing else is read meanwhile. A press that is gone at the second look is none.
"""

from __future__ import annotations

import numpy as np

from ..pieces import piece
from .base import FAR, NO_EDGE, PRESS, Method, Places, Rows, SketchPart, Stepper, Times, Walk, of, put


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
        self.look = self.table(int(FAR))
        self.awake = self.table(0)

    def _looks(self, until: Times, pressed: bool) -> tuple[Places, Times]:
        """The looks that fall before `until`: where they accept what they see, and when."""
        due = np.flatnonzero(self.look < until)
        at = of(self.look, due)
        put(self.awake, due, at)
        put(self.look, due, FAR)
        differs = of(self.accepted, due) != pressed
        put(self.accepted, due, pressed)
        return due[differs], at[differs]

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """See `Walk.segment`."""
        early, early_at = self._looks(until, pressed)
        free = (self.accepted != pressed) & (self.look == FAR) & (self.awake < until)
        begun, trials, wait_ms = self.located(free)
        look = np.maximum(of(edge, trials), of(self.awake, begun)) + wait_ms * np.int32(1000)
        done = look < of(until, trials)
        late, late_at = begun[done], look[done]
        put(self.awake, late, late_at)
        put(self.accepted, late, pressed)
        put(self.look, begun[~done], look[~done])
        return np.concatenate((early, late)), np.concatenate((early_at, late_at))


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
