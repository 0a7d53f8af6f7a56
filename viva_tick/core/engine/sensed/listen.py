"""A source of commands: numbers from the receive buffer, one at most in a pass."""

from __future__ import annotations

from collections.abc import Callable

from ...boards import Board
from ...clock import MASK, NEVER
from ...courses import BITS_A_CHARACTER, Arrival, active_words, sent, words_after
from ...document import Listen, Scenario, Serial
from ...document.parts import Commands
from ...machines import EventName
from ...readers import Listener
from ..trace import Kind, Recording
from .base import SensedSlot

MOST = 65_535
MOST_APART_PERCENT = 4.5  # see `pace.serial`


class ListenSlot(SensedSlot):
    """Bytes become numbers as the firmware reads them: digits up to something that is none, or up to a rest; or each
    byte a number. `take` puts a number into the variable that takes them."""

    def __init__(
        self,
        part: Commands,
        reading: Listen,
        scenario: Scenario,
        seed: int,
        serial: Serial,
        line_baud: int,
        board: Board,
        keys: dict[EventName, int],
    ) -> None:
        super().__init__(part, board, keys)
        # A module that can be told to listen for others is asked, word by word, what it listens for just then.
        self.active = active_words(part, reading)
        told = self.active if not part.sets else None
        self.arrivals: tuple[Arrival, ...] = sent(part, scenario, seed, serial.ending_codes, told)
        self.part, self.reading = part, reading
        self.idle_us = self.board.cost_us.task
        self.listener = Listener(reading.by_number, 0)
        self.typed = part.source == "typed"
        self.ends_ms = reading.ends_us // 1000 if self.typed else 0
        self.skipped = (10, 13) if serial.reads == "line" and not self.typed else ()
        self.byte_us = -(-BITS_A_CHARACTER * 1_000_000 // line_baud)
        self.understood = abs(part.baud - line_baud) * 100 <= MOST_APART_PERCENT * line_baud
        came = [(at_us, code, one) for one in self.arrivals for at_us, code in one.bytes_us]
        self.came = sorted(came, key=lambda row: row[:2]) if self.understood else []
        self.loaded: list[tuple[int, frozenset[int]]] = []
        self.place = 0
        self.typing, self.typing_ms = -1, 0
        self.take: Callable[[int, int], None] | None = None

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `SensedSlot.begin`. What came before set-up is lost."""
        self.listener = Listener(self.reading.by_number, self.reading.repeat_us // 1000)
        self.typing = -1
        while self.place < len(self.came) and self.came[self.place][0] <= ready_us:
            self.place += 1

    def go_on_with(self, fresh: ListenSlot, since_us: int) -> None:
        """See `SensedSlot.go_on_with`. What came before is in the same places."""
        self.arrivals, self.came = fresh.arrivals, fresh.came

    def _listens_for(self, one: Arrival) -> bool:
        """Whether the module listens for a word as it is said."""
        active = self.active
        for from_us, words in self.loaded:
            if from_us <= one.sent_us:
                active = words
        return active is None or one.number in active

    @property
    def next_us(self) -> int:
        """When the next byte is in the buffer."""
        while self.part.sets and self.place < len(self.came) and not self._listens_for(self.came[self.place][2]):
            self.place += 1
        return self.came[self.place][0] if self.place < len(self.came) else NEVER

    def told(self, done_us: int, codes: tuple[int, ...]) -> None:
        """The firmware has sent it bytes, the last of which is out at an instant."""
        words = words_after(self.part, codes) if self.understood else None
        if words is not None:
            self.loaded.append((done_us, words))

    def _arrived(self, clock_us: int, now_ms: int) -> int:
        """A number that is whole, as the program takes it; −1 for none."""
        while self.next_us <= clock_us:
            code = self.came[self.place][1]
            self.place += 1
            if not self.typed:
                if code in self.skipped:
                    continue
                return code
            if 48 <= code <= 57:
                self.typing = min(max(self.typing, 0) * 10 + code - 48, MOST)
                self.typing_ms = now_ms
            elif self.typing >= 0:
                number, self.typing = self.typing, -1
                return number
        if self.ends_ms and self.typing >= 0 and (now_ms - self.typing_ms) & MASK >= self.ends_ms:
            number, self.typing = self.typing, -1
            return number
        return -1

    def read(self, clock_us: int, now_ms: int, events: list[int]) -> int:
        """See `SensedSlot.read`."""
        clock_us += self.idle_us
        self.listener.rest(now_ms)
        number = self._arrived(clock_us, now_ms)
        if number < 0 or not self.listener.is_new(now_ms, number):
            return clock_us
        if name := self.listener.meaning(number):
            self._say(clock_us, "command", events, name)
        reading = self.reading
        inside = reading.least <= number <= reading.most
        if inside or reading.outside == "nearest":
            if self.take is not None:
                self.take(clock_us, min(max(number, reading.least), reading.most))
            if ("number", self.id, "") in self.keys:
                self._tell(events, "number")
        elif reading.outside == "told":
            self._tell(events, "outside")
        return clock_us

    def _tell(self, events: list[int], kind: str) -> None:
        """An event that is told and not written down: the number is there already."""
        if (key := self.keys.get((kind, self.id, ""))) is not None:
            events.append(key)

    def quiet_before(self, offset_us: int) -> int:
        """See `SensedSlot.quiet_before`."""
        return self.next_us - offset_us - self.idle_us

    def due(self) -> tuple[int, int] | None:
        """See `SensedSlot.due`: a number is whole after a rest; it is forgotten when it can no longer be the same one
        again."""
        if self.ends_ms and self.typing >= 0:
            return (self.typing_ms, self.ends_ms)
        return (self.listener.last_ms, self.listener.repeat_ms) if self.listener.last >= 0 else None

    @property
    def recordings(self) -> list[Recording]:
        """See `SensedSlot.recordings`."""
        return [self.events]

    def world(self) -> list[Recording]:
        """See `SensedSlot.world`. A number that was not recognised is there as its negative, less one."""
        made = Recording(Kind.MADE, self.id)
        for one in self.arrivals:
            heard = one.bytes_us and (not self.part.sets or self._listens_for(one))
            made.add(one.sent_us, one.number if heard else -one.number - 1)
        return [made]
