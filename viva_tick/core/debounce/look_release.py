"""Wait and look again, acting when it is let go: the press is an event only then, and its release in the pass after."""

from __future__ import annotations

from ..pieces import piece
from .base import SketchPart
from .look_again import METHOD as AT_ONCE

METHOD = AT_ONCE.variant(
    id="look-release",
    title="Wait, look again, act on release",
    right_when="Right where a thumb may still slide off: nothing happens before it is released.",
    costs="Costs the same, and the answer comes only when the button is released.",
    acts_on="release",
    sketch=SketchPart(
        "LookAgainRelease",
        piece(__file__, "look_again", ["USE_RELEASE"], {"LookAgain": "LookAgainRelease"}),
        takes="pin",
    ),
)
