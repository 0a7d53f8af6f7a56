"""Pulse: on for a time, then off. Blocking, the pass stands still meanwhile."""

from __future__ import annotations

from typing import ClassVar, Literal

from ..clock import MASK
from .base import FULL, OFF, Blockable, Course, Waiting, WholeMs, World
from .described import Drawn, Offer, Setting, Started, whole_ms


class Pulse(Blockable):
    """On for `length_us`, then off."""

    kind: Literal["pulse"] = "pulse"
    length_us: WholeMs
    offered: ClassVar = (
        Offer("pulse", "pulse", {"kind": "pulse", "length_us": 200_000, "blocking": False}),
        Offer("pulse-wait", "pulse, waits", {"kind": "pulse", "length_us": 200_000, "blocking": True}),
    )

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        length_us = self.length_us
        return Drawn(
            ((OFF, length_us // 6, "", ""), (FULL, length_us, "length_us", "Length"), (OFF, length_us // 2, "", ""))
        )

    def figures(self) -> tuple[Setting, ...]:
        """See `Blockable.figures`."""
        return (Setting("length_us", self.length_us, "time", "on for"),)

    @property
    def word(self) -> str:
        """See `DriveModel.word`."""
        return "pulse-wait" if self.blocking else "pulse"

    @property
    def form(self) -> str:
        """See `DriveModel.form`."""
        return "pulse"

    def started(self) -> Started:
        """See `DriveModel.started`."""
        return Started("pulse", (whole_ms(self.length_us),))

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return Waiting(self.spans(), OFF) if self.blocking else PulseCourse(self.length_us // 1000)

    def spans(self) -> list[tuple[int, int]]:
        """See `Blockable.spans`."""
        return [(FULL, self.length_us)]


class PulseCourse(Course):
    """Timed with the counter, beside everything else."""

    __slots__ = ("hz", "length_ms", "on", "since_ms")

    def __init__(self, length_ms: int, hz: int = 0) -> None:
        self.length_ms = length_ms
        self.hz = hz
        self.on = False
        self.since_ms = 0

    @property
    def ended(self) -> bool:
        """See `Course.ended`."""
        return not self.on

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        self.on = True
        self.since_ms = now_ms
        return FULL

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        if self.on and (now_ms - self.since_ms) & MASK >= self.length_ms:
            self.on = False
        return FULL if self.on else OFF

    def due(self) -> tuple[int, int] | None:
        """See `Course.due`."""
        return (self.since_ms, self.length_ms) if self.on else None
