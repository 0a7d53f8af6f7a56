"""Blink at a rate that a variable gives: on and off for as many units as it holds."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field, StrictInt, StringConstraints

from ..clock import MASK
from .base import FULL, OFF, Course, DriveModel, World
from .described import Drawn, Setting, Started, whole_ms

Unit = Annotated[StrictInt, Field(ge=1000, le=60_000_000, multiple_of=1000)]


class BlinkRate(DriveModel):
    """Starts on; on for `unit_us` times the variable, off for as long, at least one unit each. The variable is looked
    at in each pass, so that a change counts at once."""

    kind: Literal["blink-rate"] = "blink-rate"
    variable: Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*$(?!\n)", max_length=40)]
    unit_us: Unit = 10_000
    follows_variable: ClassVar[bool] = True

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        each = ((FULL, self.unit_us, "unit_us", "Unit"), (OFF, self.unit_us, "", ""))
        return Drawn((*each, *each[:1]), True, words=f"× {self.variable}")

    def settings(self) -> tuple[Setting, ...]:
        """See `DriveModel.settings`."""
        return (
            Setting("unit_us", self.unit_us, "time", "on and off each"),
            Setting("variable", self.variable, "variable", "times"),
        )

    @property
    def word(self) -> str:
        """See `DriveModel.word`."""
        return f"blink-rate {self.variable}"

    @property
    def form(self) -> str:
        """See `DriveModel.form`."""
        return "rate"

    def started(self) -> Started:
        """See `DriveModel.started`."""
        return Started("rate", ("@rated", whole_ms(self.unit_us)))

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return RateCourse(world, self.variable, self.unit_us // 1000)

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return True


class RateCourse(Course):
    """At most one change a pass; keeps its beat."""

    __slots__ = ("of", "on", "since_ms", "unit_ms", "world")

    def __init__(self, world: World, of: str, unit_ms: int) -> None:
        self.world, self.of, self.unit_ms = world, of, unit_ms
        self.on = True
        self.since_ms = 0

    def _wait(self) -> int:
        return max(self.world.variable_value(self.of), 1) * self.unit_ms

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        self.on = True
        self.since_ms = now_ms
        return FULL

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        wait = self._wait()
        if (now_ms - self.since_ms) & MASK >= wait:
            self.since_ms = (self.since_ms + wait) & MASK
            self.on = not self.on
        return FULL if self.on else OFF

    def due(self) -> tuple[int, int] | None:
        """See `Course.due`."""
        return (self.since_ms, self._wait())
