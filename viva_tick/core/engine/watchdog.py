"""The watchdog: fed, or else it resets the board, or calls its handler."""

from __future__ import annotations

from collections.abc import Callable

from ..clock import NEVER
from ..program import Program
from .trace import Kind, Recording

MOST_BITES = 200_000  # of a run
HANDLER_US = 2  # what its handler takes that writes nothing


class Reset(Exception):
    """The board resets at `at_us`, and can start `off_us` later. `cause`: "power" (it is unplugged), "pin", "dip",
    "watchdog" or "software"."""

    def __init__(self, at_us: int, cause: str = "watchdog", off_us: int = 0) -> None:
        self.at_us = at_us
        self.cause = cause
        self.off_us = off_us


class Exhausted(Exception):
    """There is no end to it: the run stops at `at_us`."""

    def __init__(self, at_us: int, what: str) -> None:
        self.at_us = at_us
        self.what = what


def _nobody() -> None:
    """Nobody is told."""


def _writes_nothing(at_us: int) -> int:
    """Nothing is written, which takes no time."""
    return 0


class Watchdog:
    """`bites_us` is when it acts if it is not fed. `guards`: it can bite at all; one that an interrupt feeds guards
    nothing. `fed`: each pass feeds it, whatever happens in it. `marked`: what is written to memory before each feed,
    and its handler takes away, stands there."""

    def __init__(self, program: Program) -> None:
        bench = program.bench
        watchdog = bench.firmware.watchdog
        board = bench.the_board
        on = bench.firmware.guards
        places = watchdog.places if on else frozenset()
        self.guards = on and "interrupt" not in places
        self.feeds_last = self.guards and "end" in places
        self.fed = bool(places & {"start", "end"})
        self.feeds_in_waits = "wait" in places
        self.feed_task = watchdog.feed_task if "task" in places else None
        # By reports: those tasks that have done a job since it was fed last.
        self.reporters = frozenset(one.id for one in bench.firmware.tasks) if "reports" in places else frozenset()
        self.reported: set[str] = set()
        self.called: Callable[[], None] = _nobody  # told when its interrupt is called
        self.timeout_us = watchdog.timeout_us
        self.mode = watchdog.mode
        self.barked = False
        self.off_early = watchdog.off_at_start or bench.firmware.restarts  # what restarts the board needs it off
        # Left on after a reset, it counts with its shortest step until set-up takes it in hand.
        shortest_us = min(board.watchdog_steps_us, default=NEVER)
        self.stays_on_us = NEVER if self.off_early or not on else shortest_us
        self.bites_us = NEVER
        self.marked = False
        # Whether the program can know, as it starts, that the watchdog has reset the board: by its flag, unless what
        # loads programs has cleared it, or by a mark in memory.
        self.by_mark = watchdog.told_by == "mark"
        self.flag_lives = not board.loader_clears_cause
        self.handler: Callable[[int], int] = _writes_nothing  # what its handler writes: how long that takes
        self.blocked = Recording(Kind.BLOCKED)
        self.resets = Recording(Kind.RESET)
        self.barks = Recording(Kind.BARK)

    def taken_for(self, cause: str) -> str:
        """What the program takes the cause of a start for; empty: it knows none. A restart of its own leaves a mark;
        one before each feed stands after a pull of the reset pin, too."""
        if cause == "software" or (cause != "watchdog" and self.flag_lives):
            return cause
        if self.guards and self.by_mark:
            return "watchdog" if self.marked else ""
        return cause if cause == "watchdog" and self.flag_lives else ""

    def switch_off(self) -> None:
        """A reset."""
        self.barked = False
        self.bites_us = NEVER
        self.reported.clear()

    def bites_again(self, from_us: int, to_us: int, end_us: int, upset_us: int) -> int:
        """Left on after a reset, it bites before set-up is done, and again, until something else resets the board: when
        the last boot of these begins, which would be done with set-up `to_us` after it began."""
        while self.stays_on_us < to_us and from_us < end_us and from_us + self.stays_on_us <= upset_us:
            from_us += self.stays_on_us
            self.resets.add(from_us, "watchdog")
            if len(self.resets.times_us) > MOST_BITES:
                raise Exhausted(from_us, f"{MOST_BITES:,} resets")
        return from_us

    def begin_anew(self, at_us: int) -> None:
        """It counts from here."""
        self.bites_us = at_us + self.timeout_us if self.guards else NEVER
        self.barked = False

    def feed(self, at_us: int) -> None:
        """It begins anew, and the mark is written."""
        if self.guards:
            self.bites_us = at_us + self.timeout_us
            self.barked = False
            self.marked = self.mode == "reset"

    def go_on(self, next_us: int) -> None:
        """Passes that did nothing else fed it, the last of them up to `next_us`."""
        self.bites_us = next_us + self.timeout_us if self.guards else NEVER
        self.marked = self.mode == "reset"

    def bite(self, clock_us: int, end_us: int, what: str, works: bool = False) -> int:
        """It was not fed from `clock_us` to `end_us`: its reset ends that, its interrupt takes its time, which work has
        to make up for, and a wait has not. Raises `Reset`."""
        while end_us > self.bites_us:
            bite_us = self.bites_us
            if self.mode == "reset" or (self.mode == "interrupt-reset" and self.barked):
                if what:
                    self.blocked.add(clock_us, (max(bite_us - clock_us, 0), what))
                raise Reset(bite_us)
            took_us = HANDLER_US + self.handler(bite_us)
            self.barks.add(bite_us, took_us)
            self.called()
            if len(self.barks.times_us) > MOST_BITES:
                raise Exhausted(bite_us, f"{MOST_BITES:,} calls of the watchdog's interrupt")
            self.barked = self.marked = True
            self.bites_us = bite_us + self.timeout_us
            end_us = end_us + took_us if works else max(end_us, bite_us + took_us)
        return end_us
