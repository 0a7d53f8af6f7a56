"""Pulse: on for a time, then off. Blocking, the pass stands still meanwhile."""

from __future__ import annotations

from typing import Literal

from ..clock import MASK
from .base import Course, DriveModel, StrictBool, WholeMs


class Pulse(DriveModel):
    """On for `length_us`, then off."""

    kind: Literal["pulse"] = "pulse"
    length_us: WholeMs
    blocking: StrictBool = False

    def course(self) -> Course:
        """The drive, ready to run."""
        return BlockingPulse(self.length_us) if self.blocking else PulseCourse(self.length_us // 1000)


class PulseCourse(Course):
    """Timed with the counter, beside everything else."""

    __slots__ = ("length_ms", "on", "since_ms")

    def __init__(self, length_ms: int) -> None:
        self.length_ms = length_ms
        self.on = False
        self.since_ms = 0

    def begin(self, now_ms: int) -> bool:
        """See `Course.begin`."""
        self.on = True
        self.since_ms = now_ms
        return True

    def update(self, now_ms: int) -> bool:
        """See `Course.update`."""
        if self.on and (now_ms - self.since_ms) & MASK >= self.length_ms:
            self.on = False
        return self.on

    def due(self) -> tuple[int, int] | None:
        """See `Course.due`."""
        return (self.since_ms, self.length_ms) if self.on else None


class BlockingPulse(Course):
    """On, a delay, off; the engine holds the pass for `blocking_us` after `begin`."""

    __slots__ = ("blocking_us",)

    def __init__(self, length_us: int) -> None:
        self.blocking_us = length_us

    def begin(self, now_ms: int) -> bool:
        """See `Course.begin`."""
        return True

    def update(self, now_ms: int) -> bool:
        """See `Course.update`."""
        return False
