"""None: every change of the reading is accepted at once."""

from __future__ import annotations

from ..pieces import piece
from .base import NO_EDGE, PRESS, RELEASE, Method, PassClock, SketchPart, Stepper, Times


class NoneStepper(Stepper):
    """Believes the reading."""

    __slots__ = ()

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        if pressed == self.accepted:
            return NO_EDGE
        self.accepted = pressed
        return PRESS if pressed else RELEASE


def _ready_us(at: Times, wait_ms: Times, clock: PassClock) -> Times:
    return at


METHOD = Method(
    id="none",
    title="None",
    sentence="Every change is accepted at once.",
    right_when="Right for a source that does not bounce: a logic signal, a sensor with its own trigger.",
    costs="Costs nothing, and counts every bounce of a bare contact.",
    statistic=None,
    limits_us=(0, 0),
    default_us=0,
    blocks=False,
    make=NoneStepper,
    ready_us=_ready_us,
    sketch=SketchPart("Believed", piece(__file__)),
)
