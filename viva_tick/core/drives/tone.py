"""Tone: a note, for a time or until something else is asked for."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field, StrictInt

from .base import FULL, OFF, Blockable, Course, NoneOrMs, Waiting, World
from .described import Drawn, Offer, Setting, Started, whole_ms
from .pulse import PulseCourse
from .steady import SteadyCourse


class Tone(Blockable):
    """A square wave of `hz`, for `length_us`; 0: it goes on."""

    kind: Literal["tone"] = "tone"
    hz: Annotated[StrictInt, Field(ge=31, le=20_000)]
    length_us: NoneOrMs = 0
    plays: ClassVar[bool] = True
    offered: ClassVar = (Offer("tone", "tone", {"kind": "tone", "hz": 880, "length_us": 300_000}),)

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        rows = ((FULL, self.length_us, "length_us", "Length"),) if self.length_us else ()
        return Drawn(rows, wave=True, words=f"{self.hz} Hz")

    def figures(self) -> tuple[Setting, ...]:
        """See `Blockable.figures`."""
        return (
            Setting("hz", self.hz, "hz", "note"),
            Setting("length_us", self.length_us, "time", "for (0: no end)"),
        )

    @property
    def form(self) -> str:
        """See `DriveModel.form`. With an end it is a pulse with a note."""
        return "pulse" if self.length_us else ""

    def started(self) -> Started:
        """See `DriveModel.started`."""
        note = (("hz", str(self.hz)),)
        if not self.length_us:
            return Started("steady", (str(FULL),), note)
        return Started("pulse", (whole_ms(self.length_us),), note)

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
