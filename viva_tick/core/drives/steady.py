"""Steady: on, off, or at a level, until something else is asked for."""

from __future__ import annotations

from typing import ClassVar, Literal

from .base import FULL, OFF, Course, DriveModel, Percent, StrictBool, World
from .described import Drawn, Offer, Setting, Started


class Steady(DriveModel):
    """On or off."""

    kind: Literal["steady"] = "steady"
    on: StrictBool
    offered: ClassVar = (
        Offer("on", "on", {"kind": "steady", "on": True}),
        Offer("off", "off", {"kind": "steady", "on": False}),
    )

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        return Drawn(rest=FULL if self.on else OFF)

    @property
    def word(self) -> str:
        """See `DriveModel.word`."""
        return "on" if self.on else "off"

    def started(self) -> Started:
        """See `DriveModel.started`."""
        return Started("steady", (str(FULL if self.on else OFF),))

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return SteadyCourse(FULL if self.on else OFF)

    @property
    def ever_on(self) -> bool:
        """See `DriveModel.ever_on`."""
        return self.on

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return self.on


class Dimmed(DriveModel):
    """At a level."""

    kind: Literal["level"] = "level"
    percent: Percent
    needs_level: ClassVar[bool] = True
    offered: ClassVar = (Offer("level", "dimmed", {"kind": "level", "percent": 40}),)

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        return Drawn(rest=self.percent, words=f"{self.percent} %")

    def settings(self) -> tuple[Setting, ...]:
        """See `DriveModel.settings`."""
        return (Setting("percent", self.percent, "percent", "at"),)

    def started(self) -> Started:
        """See `DriveModel.started`."""
        return Started("steady", (str(self.percent),))

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return SteadyCourse(self.percent)

    @property
    def ever_on(self) -> bool:
        """See `DriveModel.ever_on`."""
        return self.percent > 0

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return self.percent > 0


class SteadyCourse(Course):
    """A constant."""

    __slots__ = ("level",)
    still = True

    def __init__(self, level: int) -> None:
        self.level = level

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        return self.level

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        return self.level
