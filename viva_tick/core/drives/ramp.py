"""Ramp: from one level to another in a time, in whole numbers only, as a small board computes it.

With x the share of the time that has passed, in thousandths: straight is x, square x²/1000 (even to the eye, which
takes light by its logarithm: common practice), smooth 3x² − 2x³ (no jolt at either end).
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field, StrictInt

from ..clock import MASK
from .base import FULL, Blockable, Course, Percent, Waiting, World
from .described import Drawn, Offer, Setting, Started, whole_ms

RampTime = Annotated[StrictInt, Field(ge=1000, le=3_600_000_000, multiple_of=1000)]
CURVES = {"straight": "straight", "square": "even to the eye", "smooth": "smooth ends"}  # in the order of their numbers
STEP_MS = 10  # how often a ramp that holds the pass changes its level


def share(curve: str, x: int) -> int:
    """Thousandths of the way at thousandths of the time."""
    if curve == "square":
        return x * x // 1000
    if curve == "smooth":
        return x * x * (3000 - 2 * x) // 1_000_000
    return x


def ramp_level(start: int, end: int, curve: str, passed_ms: int, time_ms: int) -> int:
    """The level, in percent, when so much of the time has passed."""
    if passed_ms >= time_ms:
        return end
    way = abs(end - start) * share(curve, 1000 * passed_ms // time_ms) // 1000
    return start + way if end > start else start - way


class Ramp(Blockable):
    """From `start` percent, or (None) from where the output stands, to `end` percent over `time_us`, where it stays."""

    kind: Literal["ramp"] = "ramp"
    start: Percent | None = 0
    end: Percent = 100
    time_us: RampTime
    curve: Literal["straight", "square", "smooth"] = "straight"
    needs_level: ClassVar[bool] = True
    offered: ClassVar = (
        Offer("ramp", "ramp", {"kind": "ramp", "start": 0, "end": 100, "time_us": 1_500_000}),
        Offer("ramp-on", "ramp from where it is", {"kind": "ramp", "start": None, "end": 100, "time_us": 1_500_000}),
    )

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        slope = tuple(ramp_level(self.begins, self.end, self.curve, 50 * n, 1000) for n in range(21))
        return Drawn(((self.end, self.time_us, "time_us", "Takes"),), rest=self.end, slope=slope)

    def figures(self) -> tuple[Setting, ...]:
        """See `Blockable.figures`."""
        return (
            *([] if self.start is None else [Setting("start", self.start, "percent", "from")]),
            Setting("end", self.end, "percent", "to"),
            Setting("time_us", self.time_us, "time", "in"),
            Setting("curve", self.curve, "choice", "curve", tuple(CURVES.items())),
        )

    @property
    def form(self) -> str:
        """See `DriveModel.form`."""
        return "ramp"

    def started(self) -> Started:
        """See `DriveModel.started`."""
        curve = str(list(CURVES).index(self.curve))
        if self.start is None:
            return Started("ramp_on", (str(self.end), whole_ms(self.time_us), curve))
        return Started("ramp", (str(self.start), str(self.end), whole_ms(self.time_us), curve))

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        if self.blocking:
            return Waiting(self.spans(), self.end)
        return RampCourse(self.start, self.end, self.curve, self.time_us // 1000)

    def spans(self) -> list[tuple[int, int]]:
        """See `Blockable.spans`."""
        whole_ms = self.time_us // 1000
        return [
            (ramp_level(self.begins, self.end, self.curve, at, whole_ms), min(STEP_MS, whole_ms - at) * 1000)
            for at in range(0, whole_ms, STEP_MS)
        ]

    @property
    def rest(self) -> int:
        """See `Blockable.rest`."""
        return self.end

    @property
    def ever_on(self) -> bool:
        """See `DriveModel.ever_on`."""
        return self.start is None or self.start > 0 or self.end > 0

    @property
    def word(self) -> str:
        """See `DriveModel.word`."""
        return "ramp-on" if self.start is None else "ramp"

    @property
    def begins(self) -> int:
        """Where it is taken to begin where that is not known: at the other end."""
        return FULL - self.end if self.start is None else self.start

    @property
    def fault(self) -> str:
        """See `DriveModel.fault`."""
        held = self.blocking and self.start is None
        return (
            "a ramp from where the output stands does not hold the loop; give it a level to begin at." if held else ""
        )

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return self.end > 0


class RampCourse(Course):
    """Looks up its level in each pass."""

    __slots__ = ("curve", "end", "here", "level", "over", "since_ms", "start", "time_ms")

    def __init__(self, start: int | None, end: int, curve: str, time_ms: int) -> None:
        self.here = start is None  # it begins where the output stands
        self.start, self.end, self.curve, self.time_ms = start or 0, end, curve, time_ms
        self.level = self.start
        self.since_ms = 0
        self.over = False

    @property
    def ended(self) -> bool:
        """See `Course.ended`."""
        return self.over

    def stand(self, level: int) -> None:
        """See `Course.stand`."""
        if self.here:
            self.start = self.level = level

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        self.since_ms = now_ms
        return self.start

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        if not self.over:
            passed_ms = (now_ms - self.since_ms) & MASK
            self.over = passed_ms >= self.time_ms
            self.level = ramp_level(self.start, self.end, self.curve, passed_ms, self.time_ms)
        return self.level

    def due(self) -> tuple[int, int] | None:
        """See `Course.due`. The level never turns back, so that the next change is found by halving."""
        gone = abs(self.level - self.start)
        if self.over:
            return None
        low, high = 0, self.time_ms
        while low < high:
            middle = (low + high) // 2
            if abs(ramp_level(self.start, self.end, self.curve, middle, self.time_ms) - self.start) > gone:
                high = middle
            else:
                low = middle + 1
        return (self.since_ms, low)
