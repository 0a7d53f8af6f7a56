"""A source of commands: numbers from the receive buffer, one at most in a pass."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ...courses import Arrival, active_words, sent
from ...document import Listen, Scenario, Serial
from ...document.parts import Commands
from ...readers import Listener
from ..trace import Kind, Recording
from .base import NEVER, SensedSlot

MOST = 65_535
MOST_APART_PERCENT = 4.5  # see `pace.serial`


def _typed(came: list[tuple[int, int]]) -> Iterator[tuple[int, int, int]]:
    """(begun, whole, number) of each number that is typed: digits, up to something that is none. Without an end none
    is ever whole."""
    number, begun_us = -1, 0
    for at_us, code in came:
        if 48 <= code <= 57:
            begun_us = at_us if number < 0 else begun_us
            number = min(max(number, 0) * 10 + code - 48, MOST)
        elif number >= 0:
            yield begun_us, at_us, number
            number = -1


class ListenSlot(SensedSlot):
    """Numbers from the receive buffer, one at most in a pass."""

    def __init__(
        self, part: Commands, reading: Listen, scenario: Scenario, seed: int, serial: Serial, line_baud: int, *rest: Any
    ) -> None:
        super().__init__(part, *rest)
        active = active_words(part, reading.names, reading.numbers_from)
        self.arrivals: tuple[Arrival, ...] = sent(part, scenario, seed, serial.ending_codes, active)
        self.reading = reading
        self.idle_us = self.board.cost_us.task
        self.listener = Listener(1, (), 0)
        self.place = 0
        came = sorted(byte for one in self.arrivals for byte in one.bytes_us)
        if abs(part.baud - line_baud) * 100 > MOST_APART_PERCENT * line_baud:
            came = []  # at another baud nothing of it is understood
        if part.source == "typed":
            self.numbers = list(_typed(came))
        else:  # a byte is a number, and so is a line's end that is not read away
            skipped = (10, 13) if serial.reads == "line" else ()
            self.numbers = [(at, at, code) for at, code in came if code not in skipped]

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `SensedSlot.begin`. What came before set-up is lost."""
        self.listener = Listener(self.reading.numbers_from, self.reading.names, self.reading.repeat_us // 1000)
        while self.place < len(self.numbers) and self.numbers[self.place][0] <= ready_us:
            self.place += 1

    @property
    def next_us(self) -> int:
        """When the next whole number is in the buffer."""
        return self.numbers[self.place][1] if self.place < len(self.numbers) else NEVER

    def read(self, clock_us: int, now_ms: int, events: list[int]) -> int:
        """See `SensedSlot.read`."""
        clock_us += self.idle_us
        self.listener.rest(now_ms)
        if self.next_us <= clock_us:
            name = self.listener.hear(now_ms, self.numbers[self.place][2])
            self.place += 1
            if name:
                self._say(clock_us, "command", events, name)
        return clock_us

    def quiet_before(self, offset_us: int) -> int:
        """See `SensedSlot.quiet_before`."""
        return self.next_us - offset_us - self.idle_us

    def due(self) -> tuple[int, int] | None:
        """See `SensedSlot.due`: a number is forgotten when it can no longer be the same one again."""
        return (self.listener.last_ms, self.listener.repeat_ms) if self.listener.last >= 0 else None

    @property
    def recordings(self) -> list[Recording]:
        """See `SensedSlot.recordings`."""
        return [self.events]

    def world(self) -> list[Recording]:
        """See `SensedSlot.world`. A number that was not recognised is there as its negative, less one."""
        made = Recording(Kind.MADE, self.id)
        for one in self.arrivals:
            made.add(one.sent_us, one.number if one.bytes_us else -one.number - 1)
        return [made]
