"""Wait and look again, on the press only: nothing is waited for when it is let go.

The bounces of a release are then looked at as presses would be, and are gone at the second look if they are shorter
than the wait.
"""

from __future__ import annotations

import numpy as np

from ..pieces import piece
from .base import FAR, Places, SketchPart, Times, of, put
from .look_again import METHOD as BOTH
from .look_again import LookAgainWalk


class LookPressWalk(LookAgainWalk):
    """A release is accepted as soon as the loop, which reads over and over, sees it."""

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """See `Walk.segment`."""
        if pressed:
            return super().segment(edge, until, pressed)
        self._looks(until, pressed)
        let_go, trials, _ = self.located(self.accepted & (self.awake < until))
        at = np.maximum(of(edge, trials), of(self.awake, let_go))
        put(self.awake, let_go, at)
        put(self.look, let_go, FAR)
        put(self.accepted, let_go, False)
        return let_go, at


METHOD = BOTH.variant(
    id="look-press",
    title="Wait, look again, press only",
    right_when="Right where it is released cleanly, or bounces for less than the wait.",
    costs="Costs everything else an interval, and for as long as the button is held down.",
    edges="press",
    walk=LookPressWalk,
    sketch=SketchPart(
        "LookAgainPress", piece(__file__, "look_again", ["USE_PRESS"], {"LookAgain": "LookAgainPress"}), takes="pin"
    ),
)
