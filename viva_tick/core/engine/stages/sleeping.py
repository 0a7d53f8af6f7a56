"""Asleep between passes; under a kernel, until the loop's next turn."""

from __future__ import annotations

from ...clock import MASK, NEVER, US_PER_MS
from ...program import Program
from ..blocking import Blocking
from ..clock import Counter, Pass
from ..sensed.encoder import EncoderSlot
from .base import Due, StageRunner
from .reading import ReadStage


class SleepStage(StageRunner):
    """`sleep_us` long, or, where a pin wakes it, until one changes: not before nothing has for `awake_ms`. `pin_us` is
    how long that was in the pass that has just been."""

    def __init__(
        self, program: Program, this: Pass, counter: Counter, blocking: Blocking, reading: ReadStage, length_us: int
    ) -> None:
        sleep = program.bench.firmware.sleep
        self.this, self.counter, self.blocking, self.reading = this, counter, blocking, reading
        self.length_us, self.idle_us = length_us, program.idle_us
        self.sleep_us = program.asleep_us
        self.awake_ms = sleep.awake_us // US_PER_MS if sleep and sleep.wakes == "pin" else 0
        self.stands = bool(sleep and sleep.stands)  # the counter stands still meanwhile
        self.by_tick = bool(sleep and sleep.wakes == "timer") and blocking.processor is None
        self.woke_ms = self.moves_seen = self.pin_us = 0

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        if self.awake_ms:
            self.moves_seen = -1
            self._note_moves(ready_us)

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        self.pin_us = self._until_a_pin(clock_us) if self.awake_ms else 0
        asleep_us = self.sleep_us or self.pin_us
        if self.by_tick:  # it ends as the counter counts
            asleep_us -= (clock_us - self.counter.zero_us) % US_PER_MS
        if asleep_us:
            clock_us += asleep_us
            self.blocking.watchdog.begin_anew(clock_us)  # asleep, nothing feeds it: it is off, or wakes the board
            if self.stands:
                self.counter.zero_us += asleep_us
        return clock_us

    def _until_a_pin(self, clock_us: int) -> int:
        """How long it sleeps now: not before nothing has moved for a while."""
        self._note_moves(clock_us)
        if (self.this.now_ms - self.woke_ms) & MASK < self.awake_ms:
            return 0
        return max(min(self._next_move_us, self.length_us) - clock_us, 0)

    @property
    def _encoders(self) -> list[EncoderSlot]:
        return [slot for slot in self.reading.sensed.values() if isinstance(slot, EncoderSlot)]

    @property
    def _next_move_us(self) -> int:
        """When a pin of a contact or an encoder next changes."""
        contacts = self.reading.contacts.values()
        return min([*(slot.next_us for slot in contacts), *(one.next_us for one in self._encoders)], default=NEVER)

    def _note_moves(self, clock_us: int) -> None:
        """Whether a pin has changed: then it stays awake for a while."""
        self.reading.catch_up(clock_us)
        contacts = self.reading.contacts.values()
        moves = sum(len(slot.levels.times_us) for slot in contacts) + sum(one.moves for one in self._encoders)
        if moves != self.moves_seen:
            self.moves_seen, self.woke_ms = moves, self.this.now_ms

    def beat_us(self, idle_us: int) -> int:
        """From one idle pass to the next: where the timer wakes it, it wakes as the counter counts."""
        if not self.by_tick:
            return idle_us
        return ((idle_us - self.sleep_us) // US_PER_MS + self.sleep_us // US_PER_MS) * US_PER_MS

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`. The pass in which a pin changes says since when nothing has."""
        if self.by_tick and (start_us - self.counter.zero_us) % US_PER_MS:
            return start_us
        if not self.awake_ms:
            return start_us if self.stands else horizon_us
        dues.append((self.woke_ms, self.awake_ms))
        return min(horizon_us, self._next_move_us - self.idle_us)


class YieldStage(StageRunner):
    """Under a kernel: the loop waits for its next turn, if it waits at all, and then for the processor."""

    def __init__(self, blocking: Blocking) -> None:
        self.blocking = blocking

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        return self.blocking.rest(clock_us)

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`."""
        processor = self.blocking.processor
        return start_us if processor and processor.off_beat(start_us) else horizon_us
