"""Lock out after the first edge, with one timer for all: the common mistake. Whatever acted last deafens every
input."""

from __future__ import annotations

from typing import Any

from ..clock import LONG_AGO, MASK
from ..pieces import piece
from .act_ignore import METHOD as OWN_TIMER
from .base import NO_EDGE, PRESS, RELEASE, Method, SketchPart, Stepper


class SharedTimer:
    """When any of the inputs acted last."""

    __slots__ = ("locked", "since_ms")

    def __init__(self) -> None:
        self.locked = False
        self.since_ms = 0


class SharedIgnoreStepper(Stepper):
    """A lock that the edge of any input closes for each of them."""

    __slots__ = ("raw", "timer")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        super().__init__(interval_us)
        self.timer = SharedTimer()
        self.raw = False

    def join(self, common: dict[str, Any]) -> None:
        """See `Stepper.join`."""
        self.timer = common.setdefault("shared-ignore", self.timer)

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        timer = self.timer
        self.raw = pressed
        if timer.locked and (now_ms - timer.since_ms) & MASK >= LONG_AGO:
            timer.locked = False  # over, before the counter comes round to it
        if timer.locked and (now_ms - timer.since_ms) & MASK < self.wait_ms:
            return NO_EDGE
        if pressed == self.accepted:
            return NO_EDGE
        self.accepted = pressed
        timer.locked = True
        timer.since_ms = now_ms
        return PRESS if pressed else RELEASE

    def due(self) -> tuple[int, int] | None:
        """See `Stepper.due`."""
        return (self.timer.since_ms, self.wait_ms) if self.timer.locked and self.raw != self.accepted else None


METHOD = Method(
    id="shared-ignore",
    title="Ignore, one timer",
    sentence="After any input has acted, how long are all of them deaf?",
    right_when="Right for one input alone. With more it is a mistake often made: they share one “last press” time.",
    costs="Costs every press that another input made too soon before; give each input a timer of its own.",
    statistic="settle",
    limits_us=OWN_TIMER.limits_us,
    default_us=OWN_TIMER.default_us,
    blocks=False,
    make=SharedIgnoreStepper,
    ready_us=OWN_TIMER.ready_us,
    sketch=SketchPart("SharedIgnore", piece(__file__)),
)
