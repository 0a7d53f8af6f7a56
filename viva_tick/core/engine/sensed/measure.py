"""An analogue part: a sample now and then, smoothed, held against the thresholds."""

from __future__ import annotations

from ...boards import Board
from ...clock import MASK
from ...courses import LevelCourse, level_course, noise_mv
from ...document import Measure, Scenario
from ...document.parts import Analogue
from ...electrics import broken_mv, counts_of, threshold_counts
from ...machines import EventName
from ...readers import ABOVE, Band, Smoother, Threshold
from ...seeds import stream
from ..trace import Kind, Recording
from .base import SensedSlot


class MeasureSlot(SensedSlot):
    """A sample now and then, smoothed, held against the thresholds."""

    def __init__(
        self, part: Analogue, reading: Measure, scenario: Scenario, seed: int, board: Board, keys: dict[EventName, int]
    ) -> None:
        super().__init__(part, board, keys)
        self.course: LevelCourse = level_course(part, scenario)
        self.reading = reading
        self.counts = {of: threshold_counts(part, pair, self.board) for of, pair in reading.pairs.items()}
        self.upper, self.lower, self.falling = self.counts[""]
        self.noise = stream("noise", seed, part.id)
        self.sample_ms, self.stays = reading.sample_us // 1000, bool(reading.stays_us)
        self.idle_us = self.board.cost_us.task
        self.convert_us = self.board.analogue.convert_us if self.board.analogue else 0
        self.samples, self.smooth = Recording(Kind.SAMPLE, part.id), Recording(Kind.SMOOTH, part.id)
        self.cleaned = {of: Recording(Kind.CLEANED, f"{part.id}.{of}" if of else part.id) for of in self.counts}
        self.peak_mv = part.noise_mv
        self.value: float | None = None
        self.clean_mv = 0.0
        self.last_ms = 0
        self.smoother, self.thresholds = Smoother("none", 1), {"": Threshold(0, 0, False, 0)}
        self.full = (1 << self.board.analogue.bits) - 1 if self.board.analogue else 1
        self.count = 0
        self.band = Band(0, 0, 0)
        self.offs: list[tuple[int, int]] = []  # from when to when its wire is off
        self.off_mv = broken_mv(part, self.board, shorted=False)

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `SensedSlot.begin`."""
        self.last_ms = now_ms
        self.smoother = Smoother(self.reading.smooth, self.reading.over)
        dwell_ms = self.reading.dwell_us // 1000
        self.thresholds = {of: Threshold(*counts, dwell_ms) for of, counts in self.counts.items()}
        for cleaned in self.cleaned.values():
            cleaned.add(ready_us, 0)
        self.count = 0
        self.band = Band(self.upper, self.lower, (self.reading.stays_us or 0) // 1000)

    def go_on_with(self, fresh: MeasureSlot, since_us: int) -> None:
        """See `SensedSlot.go_on_with`."""
        self.course, self.offs = fresh.course, fresh.offs

    def is_above(self, of: str = "") -> bool:
        """See `SensedSlot.is_above`."""
        return of in self.thresholds and self.thresholds[of].accepted

    def last_count(self) -> tuple[int, int]:
        """See `SensedSlot.last_count`."""
        return self.count, self.full

    def read(self, clock_us: int, now_ms: int, events: list[int]) -> int:
        """See `SensedSlot.read`."""
        clock_us += self.idle_us
        if (now_ms - self.last_ms) & MASK < self.sample_ms:
            return clock_us
        self.last_ms = now_ms
        clock_us += self.convert_us
        value = self.course.value(clock_us)
        if value != self.value:  # a level that stands is worked out once
            self.value, self.clean_mv = value, self.course.clean_mv(value, self.board)
        clean_mv = self.clean_mv
        if self.offs and any(from_us <= clock_us < until_us for from_us, until_us in self.offs):
            clean_mv = self.off_mv
        count = counts_of(clean_mv + noise_mv(self.noise, self.peak_mv), self.board) or 0
        smooth = self.smoother.take(count)
        self.samples.add(clock_us, count)
        self.smooth.add(clock_us, smooth)
        self.count = smooth
        for of, threshold in self.thresholds.items():
            if crossing := threshold.step(now_ms, smooth):
                self.cleaned[of].add(clock_us, 1 if crossing == ABOVE else 0)
                self._say(clock_us, "above" if crossing == ABOVE else "below", events, of)
        if self.stays and self.band.step(now_ms, smooth):
            self._say(clock_us, "stays", events)
        return clock_us

    def due(self) -> tuple[int, int]:
        """See `SensedSlot.due`."""
        return self.last_ms, self.sample_ms

    @property
    def recordings(self) -> list[Recording]:
        """See `SensedSlot.recordings`."""
        return [self.samples, self.smooth, *self.cleaned.values(), self.events]

    def world(self) -> list[Recording]:
        """See `SensedSlot.world`."""
        made = Recording(Kind.MADE, self.id)
        for at_us, value in self.course.points:
            made.add(at_us, value)
        return [made]
