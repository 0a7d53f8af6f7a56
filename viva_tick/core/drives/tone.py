"""Tone: a note, for a time or until something else is asked for."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StrictInt

from .base import FULL, OFF, Blockable, Course, NoneOrMs, Waiting, World
from .pulse import PulseCourse
from .steady import SteadyCourse


class Tone(Blockable):
    """A square wave of `hz`, for `length_us`; 0: it goes on."""

    kind: Literal["tone"] = "tone"
    hz: Annotated[StrictInt, Field(ge=31, le=20_000)]
    length_us: NoneOrMs = 0

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        if self.blocking:
            return Waiting(self.spans(), OFF, self.hz)
        return PulseCourse(self.length_us // 1000, self.hz) if self.length_us else LongNote(self.hz)

    def spans(self) -> list[tuple[int, int]]:
        """See `Blockable.spans`."""
        return [(FULL, self.length_us)]

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return not self.length_us

    @property
    def fault(self) -> str:
        """See `DriveModel.fault`."""
        return "a tone that holds the loop needs a length." if self.blocking and not self.length_us else ""


class LongNote(SteadyCourse):
    """A note without an end."""

    __slots__ = ("hz",)

    def __init__(self, hz: int) -> None:
        super().__init__(FULL)
        self.hz = hz
