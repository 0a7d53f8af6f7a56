"""Lock out after the first edge: the first edge is accepted at once, then the input is deaf for the interval."""

from __future__ import annotations

from ..clock import MASK
from ..pieces import piece
from .base import NO_EDGE, PRESS, RELEASE, Method, PassClock, SketchPart, Stepper, Times


class ActIgnoreStepper(Stepper):
    """A lock that each accepted edge closes for the interval."""

    __slots__ = ("locked", "since_ms")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        super().__init__(interval_us)
        self.locked = False
        self.since_ms = 0

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        if self.locked:
            if (now_ms - self.since_ms) & MASK < self.wait_ms:
                return NO_EDGE
            self.locked = False
        if pressed == self.accepted:
            return NO_EDGE
        self.accepted = pressed
        self.locked = True
        self.since_ms = now_ms
        return PRESS if pressed else RELEASE

    def due(self) -> tuple[int, int] | None:
        """See `Stepper.due`."""
        return (self.since_ms, self.wait_ms) if self.locked else None


def _ready_us(at: Times, wait_ms: Times, clock: PassClock) -> Times:
    return clock.counter_reaches(at, wait_ms)


METHOD = Method(
    id="act-ignore",
    title="Lock out after the first edge",
    sentence="After acting, how long must it be ignored?",
    right_when="Right where the press must act at once and the wires are quiet.",
    costs="Costs no wait on the first edge; a spike counts as a press, and quick presses vanish in the deaf time.",
    statistic="settle",
    limits_us=(0, 1_000_000),
    default_us=50_000,
    blocks=False,
    make=ActIgnoreStepper,
    ready_us=_ready_us,
    sketch=SketchPart("LockOut", piece(__file__)),
)
