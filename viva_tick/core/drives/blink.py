"""Blink: on for a time, off for a time, over and over; keeps its beat (next = last + time)."""

from __future__ import annotations

from typing import Literal

from ..clock import MASK
from .base import Course, DriveModel, WholeMs


class Blink(DriveModel):
    """Starts on."""

    kind: Literal["blink"] = "blink"
    on_us: WholeMs
    off_us: WholeMs

    def course(self) -> Course:
        """The drive, ready to run."""
        return BlinkCourse(self.on_us // 1000, self.off_us // 1000)


class BlinkCourse(Course):
    """At most one change a pass, so that a blocked loop shows as a late blink and then catches up."""

    __slots__ = ("off_ms", "on", "on_ms", "since_ms")

    def __init__(self, on_ms: int, off_ms: int) -> None:
        self.on_ms = on_ms
        self.off_ms = off_ms
        self.on = False
        self.since_ms = 0

    def begin(self, now_ms: int) -> bool:
        """See `Course.begin`."""
        self.on = True
        self.since_ms = now_ms
        return True

    def update(self, now_ms: int) -> bool:
        """See `Course.update`."""
        wait = self.on_ms if self.on else self.off_ms
        if (now_ms - self.since_ms) & MASK >= wait:
            self.since_ms = (self.since_ms + wait) & MASK
            self.on = not self.on
        return self.on

    def due(self) -> tuple[int, int] | None:
        """See `Course.due`."""
        return (self.since_ms, self.on_ms if self.on else self.off_ms)
