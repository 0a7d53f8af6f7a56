"""What the watchdog does while the pass stands still, and what outlives a reset."""

from __future__ import annotations

from typing import Any

from ..clock import MASK, US_PER_MS
from ..document import Bench, Keep
from .host import BoardHost
from .trace import Kind, Tape

NEVER = 1 << 62
RAM_US = 1  # what a write to memory takes that does not wear
LATE = ("change", "feed", "every")  # what is kept in a pass, in this order


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
        guards = bench.firmware.guards
        places = watchdog.places if guards else frozenset()
        self.guarded = guards and "interrupt" not in places  # an interrupt feeds it whatever the loop does
        self.feed_at_start, self.feed_at_end = "start" in places, self.guarded and "end" in places
        self.fed = bool(places & {"start", "end"})  # in every pass, whatever happens in it
        self.feed_in_waits = "wait" in places
        self.feed_task = watchdog.feed_task if "task" in places else None
        self.timeout_us = watchdog.timeout_us
        self.mode = watchdog.mode
        self.barked = False
        # Left on after a reset, it counts with its shortest step until set-up takes it in hand.
        shortest_us = min(board.watchdog_steps_us, default=NEVER)
        self.stays_on_us = NEVER if watchdog.off_at_start or not guards else shortest_us
        self.bites_us = NEVER
        self.blocked = Tape(Kind.BLOCKED)
        self.resets = Tape(Kind.RESET)
        self.barks = Tape(Kind.BARK)
        self.writes = Tape(Kind.WRITE)
        self.keeps: tuple[Keep, ...] = bench.firmware.keeps
        self.kept: dict[tuple[str, str], Any] = {}  # by (where, of)
        self.written_ms: dict[str, int] = {}  # when what is kept now and then was last written
        self.cell_us = board.store.write_us if board.store else 0
        self.kept_bytes = {keep.of: bench.kept_bytes(keep.of) for keep in self.keeps}
        # Whether the program can know, as it starts, that the watchdog has reset the board: by its flag, unless what
        # loads programs has cleared it, or by a mark in memory.
        self.by_mark = watchdog.told_by == "mark"
        self.flag_lives = not board.loader_clears_cause
        self.marked = False
        self.keeps_late = sorted(
            (keep for keep in self.keeps if keep.when != "interrupt"), key=lambda keep: LATE.index(keep.when)
        )

    def begin_anew(self, at_us: int) -> None:
        """It counts from here."""
        self.bites_us = at_us + self.timeout_us if self.guarded else NEVER
        self.barked = False

    def feed(self, at_us: int) -> None:
        """The watchdog begins anew."""
        if self.guarded:
            self.begin_anew(at_us)
            self.marked = self.mode == "reset"  # the mark is written before each feed; a handler's is taken away

    def bitten(self, clock_us: int, end_us: int, what: str, works: bool = False) -> int:
        """The watchdog was not fed from `clock_us` to `end_us`: its reset ends it, its interrupt takes its time, which
        work has to make up for, and a wait has not."""
        while end_us > self.bites_us:
            bite_us = self.bites_us
            if self.mode == "reset" or (self.mode == "interrupt-reset" and self.barked):
                if what:
                    self.blocked.add(clock_us, (max(bite_us - clock_us, 0), what))
                raise Reset(bite_us)
            took_us = 2 + sum(self.save(keep, bite_us) for keep in self.keeps if keep.when == "interrupt")
            self.barks.add(bite_us, took_us)
            self.barked = self.marked = True
            self.bites_us = bite_us + self.timeout_us
            end_us = end_us + took_us if works else max(end_us, bite_us + took_us)
        return end_us

    def hold(self, clock_us: int, length_us: int, what: str, works: bool = False, feeds: bool = True) -> int:
        """The pass stands still, the watchdog does not. `works`: the processor has to do all of it, whatever comes
        between; otherwise it waits for a time, which goes on. `feeds`: a watchdog that is fed in waits is fed in it."""
        end_us = clock_us + length_us
        if self.feed_in_waits and feeds and not works:
            self.feed(end_us)
        elif end_us > self.bites_us:
            end_us = self.bitten(clock_us, end_us, what, works)
        self.blocked.add(clock_us, (end_us - clock_us, what))
        return end_us

    def now_is(self, of: str) -> Any:
        """What a variable holds, or the state that a machine is in."""
        return self.held[of] if of in self.held else self.by_machine[of].running.state

    def takes_us(self, keep: Keep) -> int:
        """How long writing it takes now: of the store only bytes that differ are written."""
        if keep.where != "store":
            return RAM_US
        size = self.kept_bytes[keep.of]
        old, new = (
            int(value).to_bytes(size, "little", signed=value < 0)
            for value in (self.kept.get(("store", keep.of), 0), self.now_is(keep.of))
        )
        return self.cell_us * sum(one != other for one, other in zip(old, new, strict=True))

    def save(self, keep: Keep, at_us: int) -> int:
        """It is written; how long that takes."""
        took_us = self.takes_us(keep)
        self.kept[keep.where, keep.of] = self.now_is(keep.of)
        if keep.where == "store" and took_us:
            self.writes.add(at_us, keep.of)
        return took_us

    def to_be_saved(self, keep: Keep) -> bool:
        """Whether it is written in this pass."""
        if keep.when == "change":
            return bool(self.kept.get((keep.where, keep.of)) != self.now_is(keep.of))
        if keep.when == "every":
            if (self.now_ms - self.written_ms[keep.of]) & MASK < keep.every_us // US_PER_MS:
                return False
            self.written_ms[keep.of] = self.now_ms
        return True

    def save_all(self, clock_us: int) -> int:
        """What is kept in the course of a pass; the instant after it. A reset in the middle of writing leaves what was
        there before."""
        for keep in self.keeps_late:
            if self.to_be_saved(keep):
                took_us = self.takes_us(keep)
                if keep.where == "store" and took_us:
                    clock_us = self.hold(clock_us, took_us, "keeping", works=True)
                elif keep.where != "store":
                    clock_us += took_us
                self.save(keep, clock_us)
        return clock_us

    def forget(self, cause: str) -> None:
        """A reset: a lost supply takes the memory with it that does not wear."""
        if cause == "supply":
            self.marked = False
            self.kept = {key: value for key, value in self.kept.items() if key[0] == "store"}

    def remembered(self, of: str) -> Any:
        """What was kept of it; None if nothing was."""
        return self.kept.get(("store", of), self.kept.get(("ram", of)))

    def save_dues(self) -> list[tuple[int, int]]:
        """(counter value, wait in ms) until something is kept that is kept now and then."""
        return [
            (self.written_ms[keep.of], keep.every_us // US_PER_MS) for keep in self.keeps_late if keep.when == "every"
        ]
