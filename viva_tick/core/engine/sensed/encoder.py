"""An encoder: both pins at each pass, or at each edge of either."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ...boards import Board
from ...clock import NEVER
from ...courses import turn_course
from ...document import Scenario, Turns
from ...document.parts import Encoder
from ...electrics import level_changes
from ...machines import EventName
from ...readers import A_BIT, B_BIT, MOST_STEPS, Pace, Quadrature
from ..trace import Kind, Recording
from .base import SensedSlot


class PinTrack:
    """The level at a pin as time passes."""

    __slots__ = ("_changes", "level", "levels", "next_level", "next_us")

    def __init__(self, of: str, changes: Iterator[tuple[int, int]]) -> None:
        self._changes = changes
        self.levels = Recording(Kind.LEVEL, of)
        self.level = 0
        self.next_us, self.next_level = next(changes, (NEVER, 0))

    def advance(self) -> None:
        """Take the next change."""
        self.level = self.next_level
        self.levels.add(self.next_us, self.level)
        self.next_us, self.next_level = next(self._changes, (NEVER, 0))

    def go_on_with(self, fresh: PinTrack, since_us: int) -> None:
        """The changes of one that has not begun, but for those that were taken; up to an instant both are the same."""
        next_us = self.next_us
        self._changes, self.next_us, self.next_level = fresh._changes, fresh.next_us, fresh.next_level
        while self.next_us < next_us and self.next_us <= since_us:
            self.next_us, self.next_level = next(self._changes, (NEVER, 0))


class EncoderSlot(SensedSlot):
    """Both pins at each pass, or at each edge of either."""

    def __init__(
        self,
        at: str,
        part: Encoder,
        reading: Turns,
        scenario: Scenario,
        seed: int,
        length_us: int,
        board: Board,
        keys: dict[EventName, int],
    ) -> None:
        super().__init__(part, board, keys)
        self.course = turn_course(part, scenario, seed)
        self.known_until_us = self.course.until_us
        self.reading = reading
        ends = part.ends(at)
        self.a, self.b = (
            PinTrack(line.id, level_changes(line, self.board, course, length_us, seed))
            for line, course in zip(ends, (self.course.a, self.course.b), strict=True)
        )
        self.by_interrupt = part.read_by == "interrupt"
        cost = self.board.cost_us
        self.read_us = cost.read
        self.idle_us = cost.task if self.by_interrupt else 2 * cost.read
        self.counts, self.errors = Recording(Kind.COUNT, part.id), Recording(Kind.ERROR, part.id)
        self.total = 0
        self.handling = False
        self.pending = 0
        self.settled = False  # what was read last is how both stand
        self.decoder = Quadrature()
        self.pace = Pace(0)
        self.counter: Callable[[int], int] | None = None  # the board's, for the handler

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `SensedSlot.begin`."""
        self.handling = False
        self.catch_up(ready_us)
        self.decoder = Quadrature(self.reading.counts_a_step, self.reading.reversed, self.reading.least_us // 1000)
        self.settled = False
        self.pending = 0
        self.total = 0
        self.pace = Pace(self.reading.fast_us // 1000)
        self.counts.add(ready_us, 0)
        if self.by_interrupt:
            self.handling = True
            self.decoder.see(self._state(), now_ms)

    def go_on_with(self, fresh: EncoderSlot, since_us: int) -> None:
        """See `SensedSlot.go_on_with`."""
        self.course, self.known_until_us = fresh.course, fresh.known_until_us
        self.a.go_on_with(fresh.a, since_us)
        self.b.go_on_with(fresh.b, since_us)

    def _state(self) -> int:
        """Those of the two contacts that are closed, to ground."""
        return (A_BIT if self.a.level == 0 else 0) | (B_BIT if self.b.level == 0 else 0)

    def _see(self, at_us: int, state: int, now_ms: int) -> int:
        errors = self.decoder.errors
        step = self.decoder.see(state, now_ms)
        if self.decoder.errors != errors:
            self.errors.add(at_us, self.decoder.errors)
        return step

    def _count(self, step: int) -> None:
        """One more, of as many as the handler's sum can hold."""
        self.pending = max(-MOST_STEPS, min(MOST_STEPS, self.pending + step))

    def catch_up(self, clock_us: int) -> None:
        """See `SensedSlot.catch_up`. With interrupts each change calls the handler."""
        a, b = self.a, self.b
        while True:
            track = a if a.next_us <= b.next_us else b
            if track.next_us > clock_us:
                return
            at_us = track.next_us
            track.advance()
            self.settled = False
            if self.handling:
                called_us = at_us + self.board.interrupt_latency_us
                self._count(self._see(called_us, self._state(), self.counter(called_us) if self.counter else 0))

    @property
    def next_us(self) -> int:
        """When a pin of it next changes."""
        return min(self.a.next_us, self.b.next_us)

    @property
    def moves(self) -> int:
        """How often its pins have changed."""
        return len(self.a.levels.times_us) + len(self.b.levels.times_us)

    def due(self) -> tuple[int, int] | None:
        """See `SensedSlot.due`: a step is forgotten when none can follow it quickly any more."""
        if self.decoder.recent:
            return (self.decoder.last_ms, self.decoder.least_ms)
        return (self.pace.last_ms, self.pace.fast_ms + 1) if self.pace.way else None

    def read(self, clock_us: int, now_ms: int, events: list[int]) -> int:
        """See `SensedSlot.read`."""
        if self.by_interrupt:
            clock_us += self.idle_us
            self.catch_up(clock_us)
            steps, self.pending = self.pending, 0
        else:
            end_us = clock_us + self.idle_us
            if self.settled and self.a.next_us > end_us and self.b.next_us > end_us:
                self.pace.rest(now_ms)
                self.decoder.rest(now_ms)
                return end_us
            # A first, then B, a reading apart: what B does between is seen, what A does is not.
            clock_us += self.read_us
            self.catch_up(clock_us)
            a = A_BIT if self.a.level == 0 else 0
            clock_us += self.read_us
            self.catch_up(clock_us)
            steps = self._see(clock_us, a | (B_BIT if self.b.level == 0 else 0), now_ms)
            self.settled = self.decoder.seen == self._state()
        self.decoder.rest(now_ms)
        self.pace.rest(now_ms)
        quick = sum(self.pace.step(now_ms, steps > 0) for _ in range(abs(steps)))
        # With acceleration a fast step is several.
        for _ in range(abs(steps) + quick * (self.reading.fast_steps - 1)):
            self.total += 1 if steps > 0 else -1
            self._say(clock_us, "step" if steps > 0 else "back", events)
        for _ in range(quick):
            self._say(clock_us, "fast" if steps > 0 else "fast-back", events)
        if steps:
            self.counts.add(clock_us, self.total)
        return clock_us

    def quiet_before(self, offset_us: int) -> int:
        """See `SensedSlot.quiet_before`."""
        if self.by_interrupt:
            return 0 if self.pending else min(self.a.next_us, self.b.next_us) - offset_us - self.idle_us
        if not self.settled:
            return 0
        a_us, b_us = self.a.next_us - offset_us - self.read_us, self.b.next_us - offset_us - 2 * self.read_us
        return min(a_us, b_us)

    @property
    def recordings(self) -> list[Recording]:
        """See `SensedSlot.recordings`."""
        return [self.counts, self.errors, self.events]

    def world(self) -> list[Recording]:
        """See `SensedSlot.world`."""
        made = Recording(Kind.MADE, self.id)
        for at_us, clicks in ((0, 0), *self.course.clicks):
            made.add(at_us, clicks)
        contacts = []
        for end, course in (("a", self.course.a), ("b", self.course.b)):
            recording = Recording(Kind.CONTACT, f"{self.id}.{end}")
            for at_us, touching in course.changes:
                recording.add(at_us, int(touching))
            contacts.append(recording)
        return [made, *contacts, self.a.levels, self.b.levels]
