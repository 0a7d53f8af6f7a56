"""A key matrix: all crossings, row by row, now and then."""

from __future__ import annotations

from ...boards import Board
from ...clock import MASK
from ...courses import KeyCourse, key_course
from ...document import Scan, Scenario
from ...document.parts import KeyMatrix
from ...electrics import columns_float, joined
from ...machines import EventName
from ...readers import CodeLock, KeyCleaner
from ..trace import Kind, Recording
from .base import SensedSlot


class ScanSlot(SensedSlot):
    """All crossings, row by row, now and then."""

    def __init__(
        self, part: KeyMatrix, reading: Scan, scenario: Scenario, seed: int, board: Board, keys: dict[EventName, int]
    ) -> None:
        super().__init__(part, board, keys)
        self.part = part
        self.course: KeyCourse = key_course(part, scenario, seed, columns_float(part, self.board))
        self.known_until_us = self.course.until_us
        self.scan_ms = reading.scan_us // 1000
        self.wait_ms = reading.interval_us // 1000
        self.ignored = frozenset(part.names.index(name) for name in reading.ignored)
        self.idle_us = self.board.cost_us.task
        self.read_us = self.board.cost_us.read
        self.rows, self.columns = len(part.rows), len(part.columns)
        self.crossings = self.rows * self.columns
        self.cleaned = Recording(Kind.CLEANED, part.id)
        self.last_ms = 0
        self.keys_down = KeyCleaner(self.crossings, self.wait_ms)
        self.code = [part.names.index(key) for key in reading.code]
        self.forget_ms = reading.forget_us // 1000
        self.lock = CodeLock(self.code, self.forget_ms)
        self._whole: dict[frozenset[int], list[bool]] = {}

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `SensedSlot.begin`."""
        self.last_ms = now_ms
        self.keys_down = KeyCleaner(self.crossings, self.wait_ms)
        self.cleaned.add(ready_us, "")
        self.lock = CodeLock(self.code, self.forget_ms)

    def go_on_with(self, fresh: ScanSlot, since_us: int) -> None:
        """See `SensedSlot.go_on_with`."""
        self.course, self.known_until_us = fresh.course, fresh.known_until_us
        self._whole = {}

    def _closed(self, clock_us: int) -> list[bool]:
        course = self.course
        first = course.touching(clock_us + self.read_us)
        if first is course.touching(clock_us + self.crossings * self.read_us):  # the same through the whole scan
            if first not in self._whole:
                self._whole = {first: self._scanned(clock_us)}  # most scans find what the last one found
            return self._whole[first]
        return self._scanned(clock_us)

    def _scanned(self, clock_us: int) -> list[bool]:
        course, columns = self.course, self.columns
        closed = []
        for place in range(self.crossings):
            clock_us += self.read_us
            row, column = divmod(place, columns)
            touching = course.touching(clock_us)
            if self.part.diodes or not touching:
                closed.append(place in touching)
            else:
                closed.append(column in joined(frozenset(divmod(key, columns) for key in touching), row))
        return closed

    def read(self, clock_us: int, now_ms: int, events: list[int]) -> int:
        """See `SensedSlot.read`."""
        clock_us += self.idle_us
        if (now_ms - self.last_ms) & MASK < self.scan_ms:
            return clock_us
        self.last_ms = now_ms
        closed = self._closed(clock_us)
        clock_us += self.crossings * self.read_us
        changed = self.keys_down.scan(now_ms, closed)
        names = self.part.names
        if changed:
            down = (name for name, held in zip(names, self.keys_down.accepted, strict=True) if held)
            self.cleaned.add(clock_us, " ".join(down))
        said: set[str] = set()
        for place, pressed in changed:
            if pressed and place not in self.ignored:
                self._say(clock_us, "key", events, names[place])
                said.add(self.lock.key(now_ms, place))
        for kind in ("code", "wrong"):
            if kind in said:
                self._say(clock_us, kind, events)
        return clock_us

    def due(self) -> tuple[int, int]:
        """See `SensedSlot.due`."""
        return self.last_ms, self.scan_ms

    @property
    def recordings(self) -> list[Recording]:
        """See `SensedSlot.recordings`."""
        return [self.cleaned, self.events]

    def world(self) -> list[Recording]:
        """See `SensedSlot.world`."""
        made = Recording(Kind.MADE, self.id)
        held: list[str] = []
        made.add(0, "")
        for at_us, name, closes in self.course.held:
            held = [*held, name] if closes else [one for one in held if one != name]
            made.add(at_us, " ".join(held))
        return [made]
