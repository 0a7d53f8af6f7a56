"""Steady: on or off until something else is asked for."""

from __future__ import annotations

from typing import Literal

from .base import Course, DriveModel, StrictBool


class Steady(DriveModel):
    """On or off."""

    kind: Literal["steady"] = "steady"
    on: StrictBool

    def course(self) -> Course:
        """The drive, ready to run."""
        return SteadyCourse(self.on)


class SteadyCourse(Course):
    """A constant."""

    __slots__ = ("on",)

    def __init__(self, on: bool) -> None:
        self.on = on

    def begin(self, now_ms: int) -> bool:
        """See `Course.begin`."""
        return self.on

    def update(self, now_ms: int) -> bool:
        """See `Course.update`."""
        return self.on
