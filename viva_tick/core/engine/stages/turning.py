"""Servos go where they were told."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from ...clock import MASK
from ...document.parts import Servo
from ...drives import Angle, angle_at
from ...program import Program, Stage
from ..blocking import Blocking
from ..clock import Counter, Pass
from ..host import BoardHost
from ..trace import Kind, Recording
from .base import Due, StageRunner


class ServoSlot:
    """A servo: where it is told to be, where it goes, since when."""

    __slots__ = (
        "angles",
        "degrees",
        "end",
        "ends",
        "going",
        "pending",
        "rest",
        "since_ms",
        "start",
        "time_ms",
        "variable",
    )

    def __init__(self, part: Servo) -> None:
        self.rest = part.rest_degrees
        self.angles = Recording(Kind.ANGLE, part.id)
        self.ends: Callable[[], None] | None = None  # who hears that it is there
        self.begin()

    def begin(self) -> None:
        """Set-up is done."""
        self.pending: Angle | None = None
        self.variable: str | None = None
        self.degrees = self.start = self.end = self.rest
        self.going = False
        self.since_ms = self.time_ms = 0

    def at(self, now_ms: int) -> int:
        """Where it is told to be at a counter value."""
        if not self.going:
            return self.end
        return angle_at(self.start, self.end, (now_ms - self.since_ms) & MASK, self.time_ms)

    def due(self) -> Due | None:
        """(counter value, wait in ms) of its next degree, found by halving: it never turns back."""
        if not self.going:
            return None
        gone = abs(self.degrees - self.start)
        low, high = 0, self.time_ms
        while low < high:
            middle = (low + high) // 2
            if abs(angle_at(self.start, self.end, middle, self.time_ms) - self.start) > gone:
                high = middle
            else:
                low = middle + 1
        return (self.since_ms, low)


class TurnStage(StageRunner):
    """`servos` by id, in list order."""

    def __init__(self, program: Program, this: Pass, counter: Counter, blocking: Blocking, host: BoardHost) -> None:
        self.this, self.counter, self.blocking, self.host = this, counter, blocking, host
        self.servos = {block.of: ServoSlot(block.subject) for block in program.of(Stage.TURN)}
        self.order = list(self.servos.values())
        self.turn_us = program.bench.costs.drive
        host.servos = self.servos
        for ident, servo in self.servos.items():
            if ident in program.ends_heard:
                servo.ends = partial(host.tell, ("ended", ident, ""))

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        for servo in self.order:
            servo.begin()
            servo.angles.add(ready_us, servo.degrees)

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        now_ms = self.this.now_ms
        for servo in self.order:
            clock_us += self.turn_us
            if clock_us >= self.blocking.taken_us:
                clock_us = self.blocking.give_way(clock_us)
            if (asked := servo.pending) is not None:
                servo.pending, servo.variable = None, asked.variable
                servo.start, servo.end = servo.degrees, asked.degrees
                servo.since_ms, servo.time_ms = now_ms, asked.time_us // 1000
                servo.going = asked.time_us > 0 and asked.variable is None
            if servo.variable is not None:
                servo.end = min(max(self.host.held[servo.variable], 0), 180)
            degrees = servo.at(now_ms)
            if servo.going and (now_ms - servo.since_ms) & MASK >= servo.time_ms:
                servo.going = False
                if servo.ends is not None:
                    servo.ends()
            if degrees != servo.degrees:
                servo.degrees = degrees
                servo.angles.add(clock_us, degrees)
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`."""
        for servo in self.order:
            if servo.pending is not None:
                return start_us
            if due := servo.due():
                dues.append(due)
        return horizon_us

    @property
    def recordings(self) -> list[Recording]:
        """See `StageRunner.recordings`."""
        return [servo.angles for servo in self.order]
