"""Wait until stable, in one function that is called for each input and remembers one reading for all: a common mistake.
With one pressed and another not, the reading it remembers changes at every call, and nothing is ever stable."""

from __future__ import annotations

from typing import Any

from ..clock import MASK
from ..pieces import piece
from .base import NO_EDGE, PRESS, RELEASE, SketchPart, Stepper
from .rest_first import METHOD as OWN_READING


class SharedReading:
    """The last reading of whichever input was looked at, and since when it has stood; the inputs that share it."""

    __slots__ = ("members", "raw", "since_ms")

    def __init__(self) -> None:
        self.raw = False
        self.since_ms = 0
        self.members: list[SharedRestStepper] = []

    @property
    def mixed(self) -> bool:
        """Whether not all of them read the same."""
        return len({one.pressed for one in self.members}) > 1


class SharedRestStepper(Stepper):
    """What is accepted of one input; all else is shared."""

    __slots__ = ("pressed", "read_ms", "shared")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        super().__init__(interval_us)
        self.shared = SharedReading()
        self.pressed = False
        self.read_ms = 0

    def join(self, common: dict[str, Any]) -> None:
        """See `Stepper.join`."""
        self.shared = common.setdefault("shared-rest", self.shared)
        self.shared.members.append(self)

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`."""
        shared = self.shared
        self.pressed, self.read_ms = pressed, now_ms
        if pressed != shared.raw:
            shared.raw = pressed
            shared.since_ms = now_ms
        if pressed == self.accepted or (now_ms - shared.since_ms) & MASK < self.wait_ms:
            return NO_EDGE
        self.accepted = pressed
        return PRESS if pressed else RELEASE

    def due(self) -> tuple[int, int] | None:
        """See `Stepper.due`: while not all read the same, every call changes what is shared."""
        if self.shared.mixed:
            return self.read_ms, 0
        return (self.shared.since_ms, self.wait_ms) if self.pressed != self.accepted else None


METHOD = OWN_READING.variant(
    id="shared-rest",
    title="Wait until stable, one function",
    sentence="How long must what the one function last read be stable?",
    right_when="Right for one input alone. With more it is a mistake often made: the function remembers one reading.",
    costs="Costs every press while another input reads differently; give each input a reading of its own.",
    make=SharedRestStepper,
    sketch=SketchPart("SharedRest", piece(__file__)),
)
