"""Tasks as the loop runs them, and the serial line that some of them print on."""

from __future__ import annotations

from typing import final

from ..clock import MASK, as_kept
from ..document import Serial, Task, Timekeeping
from .trace import Kind, Recording


class SerialOut:
    """The transmit buffer: it drains at the baud, whatever the loop does. `idle_ns` is when the last bit is out."""

    __slots__ = ("buffer", "character_ns", "idle_ns")

    def __init__(self, serial: Serial, baud: int) -> None:
        self.buffer = serial.buffer_bytes
        self.character_ns = 10_000_000_000 // baud
        self.idle_ns = 0

    def waiting(self, clock_us: int) -> int:
        """How many characters are not out yet."""
        return -(-max(self.idle_ns - clock_us * 1000, 0) // self.character_ns)

    def room_us(self, clock_us: int, characters: int) -> int:
        """How long it takes until the last of so many has room."""
        over_ns = self.idle_ns - clock_us * 1000 - (self.buffer - characters) * self.character_ns
        return -(-max(over_ns, 0) // 1000)

    def put(self, clock_us: int, characters: int) -> None:
        """So many more."""
        self.idle_ns = max(self.idle_ns, clock_us * 1000) + characters * self.character_ns


@final
class TaskSlot:
    """A task, when it was last due, and what is left of its job. Jobs are recorded as they begin: how long until they
    gave the pass back, how late they were in µs (−1: a later slice of one), how many before it were let go."""

    __slots__ = (
        "blocking",
        "characters",
        "first_ms",
        "id",
        "jobs",
        "keeps_now",
        "last_ms",
        "late",
        "left_us",
        "letters",
        "missed",
        "period_ms",
        "run_us",
        "slice_us",
        "until",
        "wait_ms",
    )

    def __init__(self, task: Task, timekeeping: Timekeeping, int_bits: int) -> None:
        self.id = task.id
        self.period_ms = as_kept(task.period_us // 1000, timekeeping.product == "int", int_bits)
        self.first_ms = self.period_ms if task.offset_us is None else task.offset_us // 1000
        self.run_us = task.run_us
        self.characters = task.characters if task.talks else 0
        self.blocking = task.blocking
        self.slice_us = task.slice_us
        self.keeps_now = task.keeps == "now"
        self.late = task.late
        self.until = timekeeping.compares == "until"
        self.jobs = Recording(Kind.JOB, task.id)
        self.begin(0)

    def begin(self, now_ms: int) -> None:
        """Set-up is done."""
        # A first job that comes later than a period is waited for by itself: the time since is never below nothing.
        later = self.first_ms > self.period_ms and not self.until
        self.wait_ms = self.first_ms if later else self.period_ms
        self.last_ms = (now_ms + self.first_ms - self.wait_ms) & MASK
        self.left_us = self.letters = 0
        self.missed = 0

    def due(self, now_ms: int) -> bool:
        """Whether its time has come, as the firmware compares it."""
        if self.until:
            return now_ms >= (self.last_ms + self.period_ms) & MASK
        return (now_ms - self.last_ms) & MASK >= self.wait_ms

    def mark(self, now_ms: int) -> tuple[int, int]:
        """(counter value, wait) of when its time comes."""
        if self.until:
            due_ms = (self.last_ms + self.period_ms) & MASK
            return (now_ms, max(due_ms - now_ms, 0))
        return (self.last_ms, self.wait_ms)

    def start(self, now_ms: int) -> bool:
        """Its time has come: take up the job that is due. False where a late one is let go."""
        self.last_ms, self.wait_ms = (self.last_ms + self.wait_ms - self.period_ms) & MASK, self.period_ms
        behind_ms = (now_ms - self.last_ms) & MASK
        gone = behind_ms // self.period_ms - 1 if self.period_ms and behind_ms < 1 << 31 else 0
        if self.keeps_now:
            self.last_ms = now_ms
            self.missed += max(gone, 0)
        elif gone > 0 and self.late != "catch-up":
            self.last_ms = (self.last_ms + (gone + 1) * self.period_ms) & MASK
            self.missed += gone
            if self.late == "skip":
                self.missed += 1
                return False
        else:
            self.last_ms = (self.last_ms + self.period_ms) & MASK
        self.left_us = self.run_us
        self.letters = self.characters
        return True
