"""What the watchdog does while the pass stands still, and what outlives a reset."""

from __future__ import annotations

from typing import Any

from ..clock import MASK, US_PER_MS
from ..document import Bench, Keep
from .host import BoardHost
from .trace import Kind, Tape

NEVER = 1 << 62
RAM_US = 1  # what a write to memory takes that does not wear


class Reset(Exception):
    """The board resets at `at_us`; `cause` is "watchdog" or "supply"."""

    def __init__(self, at_us: int, cause: str = "watchdog") -> None:
        self.at_us = at_us
        self.cause = cause


class GuardedBoard(BoardHost):
    """`bites_us` is when the watchdog acts if it is not fed; `kept` is what outlives a reset, by what it is of."""

    bites_us: int
    now_ms: int
    counter_zero_us: int

    def guard(self, bench: Bench) -> None:
        """Set the watchdog up as the bench has it."""
        watchdog = bench.firmware.watchdog
        board = bench.the_board
        places = watchdog.places if watchdog.on else frozenset()
        self.guarded = watchdog.on and "interrupt" not in places  # an interrupt feeds it whatever the loop does
        self.feed_at_start, self.feed_at_end = "start" in places, self.guarded and "end" in places
        self.fed = bool(places & {"start", "end"})  # in every pass, whatever happens in it
        self.feed_in_waits = "wait" in places
        self.feed_task = watchdog.feed_task if "task" in places else None
        self.timeout_us = watchdog.timeout_us
        self.mode = watchdog.mode
        self.barked = False
        # Left on after a reset, it counts with its shortest step until set-up takes it in hand.
        shortest_us = min(board.watchdog_steps_us, default=NEVER)
        self.stays_on_us = NEVER if watchdog.off_at_start or not watchdog.on else shortest_us
        self.bites_us = NEVER
        self.blocked = Tape(Kind.BLOCKED)
        self.resets = Tape(Kind.RESET)
        self.barks = Tape(Kind.BARK)
        self.writes = Tape(Kind.WRITE)
        self.keeps: tuple[Keep, ...] = bench.firmware.keeps
        self.kept: dict[tuple[str, str], Any] = {}  # by (where, of)
        self.written_ms = 0
        self.store_us = board.store.write_us if board.store else 0
        self.keeps_late = tuple(keep for keep in self.keeps if keep.when != "interrupt")

    def feed(self, at_us: int) -> None:
        """The watchdog begins anew."""
        if self.guarded:
            self.bites_us = at_us + self.timeout_us
            self.barked = False

    def bitten(self, clock_us: int, end_us: int, what: str) -> int:
        """The watchdog was not fed from `clock_us` to `end_us`: its interrupt makes that later, its reset ends it."""
        while end_us > self.bites_us:
            bite_us = self.bites_us
            if self.mode == "reset" or (self.mode == "interrupt-reset" and self.barked):
                if what:
                    self.blocked.add(clock_us, (max(bite_us - clock_us, 0), what))
                raise Reset(bite_us)
            took_us = 2 + self.save("interrupt", bite_us)
            self.barks.add(bite_us, took_us)
            self.barked = True
            self.bites_us = bite_us + self.timeout_us
            end_us += took_us
        return end_us

    def hold(self, clock_us: int, length_us: int, what: str) -> int:
        """Blocking work: the pass stands still, the watchdog does not."""
        end_us = clock_us + length_us
        if self.feed_in_waits:
            self.feed(end_us)
        elif end_us > self.bites_us:
            end_us = self.bitten(clock_us, end_us, what)
        self.blocked.add(clock_us, (end_us - clock_us, what))
        return end_us

    def now_is(self, of: str) -> Any:
        """What a variable holds, or the state that a machine is in."""
        return self.held[of] if of in self.held else self.by_machine[of].running.state

    def save(self, when: str, at_us: int) -> int:
        """Write what is kept at such a moment; how long that takes."""
        took_us = 0
        for keep in self.keeps:
            if keep.when != when:
                continue
            value = self.now_is(keep.of)
            if when == "change" and self.kept.get((keep.where, keep.of)) == value:
                continue
            if when == "every" and (self.now_ms - self.written_ms) & MASK < keep.every_us // US_PER_MS:
                continue
            self.kept[keep.where, keep.of] = value
            stored = keep.where == "store"
            took_us += (2 if keep.of in self.held else 1) * self.store_us if stored else RAM_US
            if stored:
                self.writes.add(at_us, keep.of)
        if when == "every" and took_us:
            self.written_ms = self.now_ms
        return took_us

    def save_all(self, clock_us: int) -> int:
        """What is kept in the course of a pass; the instant after it."""
        for when in ("change", "feed", "every"):
            if took_us := self.save(when, clock_us):
                clock_us = self.hold(clock_us, took_us, "keeping")
        return clock_us

    def forget(self, cause: str) -> None:
        """A reset: a lost supply takes the memory with it that does not wear."""
        if cause == "supply":
            self.kept = {key: value for key, value in self.kept.items() if key[0] == "store"}

    def remembered(self, of: str) -> Any:
        """What was kept of it; None if nothing was."""
        return self.kept.get(("store", of), self.kept.get(("ram", of)))

    def save_due(self) -> tuple[int, int] | None:
        """(counter value, wait in ms) until something is kept that is kept now and then."""
        every = [keep.every_us for keep in self.keeps_late if keep.when == "every"]
        return (self.written_ms, min(every) // US_PER_MS) if every else None
