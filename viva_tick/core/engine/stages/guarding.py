"""Where a pass itself looks after the watchdog: before anything else, and at its end."""

from __future__ import annotations

from ..host import BoardHost
from ..upsets import Upsets
from ..watchdog import Reset, Watchdog
from .base import StageRunner


class FeedStage(StageRunner):
    """Fed before anything else."""

    def __init__(self, watchdog: Watchdog) -> None:
        self.watchdog = watchdog

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        self.watchdog.feed(clock_us)
        return clock_us


class GuardStage(StageRunner):
    """It has bitten, if the pass took too long; it is fed, if that is where the pass feeds it."""

    def __init__(self, watchdog: Watchdog, upsets: Upsets) -> None:
        self.watchdog, self.upsets = watchdog, upsets

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        if clock_us > self.watchdog.bites_us:
            if self.upsets.next_us <= self.watchdog.bites_us:  # the board was upset before that
                self.upsets.come()
            clock_us = self.watchdog.bite(clock_us, clock_us, "")
        watchdog = self.watchdog
        if watchdog.reporters and watchdog.reported >= watchdog.reporters:
            watchdog.reported.clear()
            watchdog.feed(clock_us)
        elif watchdog.feeds_last:
            watchdog.feed(clock_us)
        return clock_us


class RestartStage(StageRunner):
    """The board restarts itself, if an action has asked for it: all else of the pass has been done."""

    def __init__(self, host: BoardHost, takes_us: int) -> None:
        self.host, self.takes_us = host, takes_us

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        if self.host.restarts:
            raise Reset(clock_us + self.takes_us, "software")
        return clock_us
