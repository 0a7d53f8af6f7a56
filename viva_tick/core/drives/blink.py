"""Blink and burst: on for a time, off for a time, over and over; both keep their beat (next = last + time)."""

from __future__ import annotations

from typing import ClassVar, Literal

from ..clock import MASK, NEVER
from .base import FULL, OFF, Blockable, Course, NoneOrMs, Times, Waiting, WholeMs, World
from .described import Drawn, Offer, Setting, Started, whole_ms

MOST_HELD = 5_000
TOO_MANY = "more than 5,000 flashes that hold the loop are a mistake; let it run beside."


def _flash(on_us: int, off_us: int) -> tuple[tuple[int, int, str, str], ...]:
    return ((FULL, on_us, "on_us", "On for"), (OFF, off_us, "off_us", "Off for"))


class Blink(Blockable):
    """Starts on. Ends, off, after so many `times` or after `for_us`; with neither it goes on."""

    kind: Literal["blink"] = "blink"
    on_us: WholeMs
    off_us: WholeMs
    times: Times = 0
    for_us: NoneOrMs = 0
    offered: ClassVar = (Offer("blink", "blink", {"kind": "blink", "on_us": 250_000, "off_us": 250_000}),)

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        return Drawn(_flash(self.on_us, self.off_us) * min(self.times or 3, 3), self.lasting or self.times > 3)

    def figures(self) -> tuple[Setting, ...]:
        """See `Blockable.figures`."""
        return (
            Setting("on_us", self.on_us, "time", "on"),
            Setting("off_us", self.off_us, "time", "off"),
            Setting("times", self.times, "number", "times (0: on and on)"),
            Setting("for_us", self.for_us, "time", "for at most (0: no end)"),
        )

    @property
    def form(self) -> str:
        """See `DriveModel.form`. One that ends counts, as a burst does."""
        return "blink" if self.endless else "beat"

    def started(self) -> Started:
        """See `DriveModel.started`."""
        on, off = whole_ms(self.on_us), whole_ms(self.off_us)
        if self.endless:
            return Started("blink", (on, off))
        held = -(-self.for_us // (self.on_us + self.off_us)) if self.blocking else 0
        return Started("beat", (on, off, off, "1", str(self.times or held), whole_ms(self.for_us)))

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        if self.blocking:
            return Waiting(self.spans(), OFF, again=self.endless)
        on_ms, off_ms = self.on_us // 1000, self.off_us // 1000
        return BeatCourse(on_ms, off_ms, off_ms, 1, self.times, self.for_us // 1000)

    def spans(self) -> list[tuple[int, int]]:
        """See `Blockable.spans`."""
        found, left_us = [], self.for_us or NEVER
        times = self.times or -(-self.for_us // (self.on_us + self.off_us)) or 1
        for level, us in [(FULL, self.on_us), (OFF, self.off_us)] * times:
            if left_us > 0:
                found.append((level, min(us, left_us)))
            left_us -= us
        return found

    @property
    def endless(self) -> bool:
        """See `Blockable.endless`."""
        return not self.times and not self.for_us

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return self.endless

    @property
    def fault(self) -> str:
        """See `DriveModel.fault`."""
        if self.blocking and self.lasting:
            return "a blink that holds the loop needs an end: so many times, or for so long."
        flashes = self.times or self.for_us // (self.on_us + self.off_us)
        return TOO_MANY if self.blocking and flashes > MOST_HELD else ""


class Burst(Blockable):
    """`times` flashes, a rest, and again; `rounds` of it (0: it goes on)."""

    kind: Literal["burst"] = "burst"
    on_us: WholeMs
    off_us: WholeMs
    times: Times = 3
    rest_us: WholeMs
    rounds: Times = 0
    offered: ClassVar = (
        Offer(
            "burst",
            "burst, rest",
            {"kind": "burst", "on_us": 80_000, "off_us": 120_000, "times": 3, "rest_us": 900_000},
        ),
    )

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        flashes = _flash(self.on_us, self.off_us) * min(self.times, 4)
        return Drawn((*flashes[:-1], (OFF, self.rest_us, "rest_us", "Rest")), self.rounds != 1)

    def figures(self) -> tuple[Setting, ...]:
        """See `Blockable.figures`."""
        return (
            Setting("times", self.times, "number", "flashes"),
            Setting("on_us", self.on_us, "time", "on"),
            Setting("off_us", self.off_us, "time", "off"),
            Setting("rest_us", self.rest_us, "time", "rest"),
            Setting("rounds", self.rounds, "number", "rounds (0: on and on)"),
        )

    @property
    def form(self) -> str:
        """See `DriveModel.form`."""
        return "beat"

    def started(self) -> Started:
        """See `DriveModel.started`."""
        times = map(whole_ms, (self.on_us, self.off_us, self.rest_us))
        return Started("beat", (*times, str(self.times), str(self.rounds), "0"))

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        if self.blocking:
            return Waiting(self.spans(), OFF, again=self.endless)
        on_ms, off_ms = self.on_us // 1000, self.off_us // 1000
        return BeatCourse(on_ms, off_ms, self.rest_us // 1000, self.times, self.rounds, 0)

    def spans(self) -> list[tuple[int, int]]:
        """See `Blockable.spans`."""
        flash = [(FULL, self.on_us), (OFF, self.off_us)]
        return [*(flash * self.times)[:-1], (OFF, self.rest_us)] * (self.rounds or 1)

    @property
    def endless(self) -> bool:
        """See `Blockable.endless`."""
        return not self.rounds

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return self.endless

    @property
    def fault(self) -> str:
        """See `DriveModel.fault`."""
        if not self.times:
            return "a burst needs at least one flash."
        if self.blocking and not self.rounds:
            return "a burst that holds the loop needs a number of rounds."
        return TOO_MANY if self.blocking and self.times * self.rounds > MOST_HELD else ""


class BeatCourse(Course):
    """At most one change a pass, so that a blocked loop shows as a late beat and then catches up."""

    __slots__ = ("begun_ms", "for_ms", "left", "off_ms", "on", "on_ms", "over", "place", "rest_ms", "since_ms", "times")

    def __init__(self, on_ms: int, off_ms: int, rest_ms: int, times: int, rounds: int, for_ms: int) -> None:
        self.on_ms, self.off_ms, self.rest_ms = on_ms, off_ms, rest_ms
        self.times, self.left, self.for_ms = times, rounds, for_ms
        self.on = self.over = False
        self.place = 0
        self.since_ms = self.begun_ms = 0

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        self.on = True
        self.since_ms = self.begun_ms = now_ms
        return FULL

    @property
    def ended(self) -> bool:
        """See `Course.ended`."""
        return self.over

    def _wait(self) -> int:
        return self.on_ms if self.on else self.rest_ms if self.place + 1 == self.times else self.off_ms

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        if self.over:
            return OFF
        if self.for_ms and (now_ms - self.begun_ms) & MASK >= self.for_ms:
            self.over, self.on = True, False
            return OFF
        wait = self._wait()
        if (now_ms - self.since_ms) & MASK >= wait:
            self.since_ms = (self.since_ms + wait) & MASK
            if not self.on:
                self.place += 1
                if self.place == self.times:
                    self.place = 0
                    if self.left == 1:
                        self.over = True
                        return OFF
                    self.left -= self.left > 0
            self.on = not self.on
        return FULL if self.on else OFF

    def due(self) -> tuple[int, int] | None:
        """See `Course.due`."""
        if self.over:
            return None
        wait = self._wait()
        if self.for_ms:
            wait = min(wait, self.for_ms - ((self.since_ms - self.begun_ms) & MASK))
        return (self.since_ms, wait)
