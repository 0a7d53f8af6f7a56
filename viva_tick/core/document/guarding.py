"""What guards the firmware: the watchdog, what outlives a reset, sleep and the cell that it saves."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Doc, Ref
from .events import AtLeastMs

FedFrom = Literal["start", "end", "task", "reports", "action", "interrupt"]
AlsoFrom = Literal["start", "end", "task", "reports", "action", "interrupt", "wait"]


class Watchdog(Doc):
    """Acts when it has not been fed for `timeout_us`: calls its interrupt, resets the board, or the first and
    then the other. Fed at the `start` or `end` of every pass, by a `task` (`feed_task`), at the end of a pass
    once every task has done a job since (`reports`), by a machine's `action`, or in a timer `interrupt`; `also`
    from further places, "wait" being inside every blocking wait. `off_at_start`: turned off first thing, so
    that it does not bite during set-up after a reset. `cause`: what becomes of the reset's cause: "lost",
    "kept" in memory that a reset does not erase, "stored" where it outlives the supply. `told_by`: the program
    knows that it was the watchdog by the board's own flag, or by a mark in memory that start-up leaves alone,
    written by the watchdog's interrupt or, where it has none, before each feed. `margin_percent` is what the
    user wants between the longest healthy pass and the fastest corner of the timeout; `hazard_us` how long an
    output that can hurt may stay on after a hang."""

    mode: Literal["off", "interrupt", "reset", "interrupt-reset"] = "off"
    timeout_us: Annotated[int, Field(ge=1000, le=60_000_000)] = 250_000
    feed: FedFrom = "end"
    feed_task: Ref | None = None
    also: Annotated[
        tuple[Literal["start", "end", "task", "reports", "action", "interrupt", "wait"], ...], Field(max_length=7)
    ] = ()
    off_at_start: bool = True
    cause: Literal["lost", "kept", "stored"] = "lost"
    told_by: Literal["flag", "mark"] = "flag"
    hazard_us: AtLeastMs = 2_000_000
    margin_percent: Annotated[int, Field(ge=0, le=1000)] = 50

    @property
    def on(self) -> bool:
        """Whether there is one."""
        return self.mode != "off"

    @property
    def resets(self) -> bool:
        """Whether it can reset the board."""
        return self.mode in ("reset", "interrupt-reset")

    @property
    def places(self) -> frozenset[str]:
        """Everywhere that it is fed."""
        return frozenset({self.feed, *self.also})


class Keep(Doc):
    """A variable's number or a machine's state that outlives a reset: in `ram` that start-up does not erase (a reset
    keeps it, a lost supply does not), or in the `store`, which wears. Written at each `change`, at each `feed`, every
    `every_us`, or by the watchdog's `interrupt` alone."""

    of: Ref
    where: Literal["ram", "store"] = "ram"
    when: Literal["change", "feed", "every", "interrupt"] = "change"
    every_us: AtLeastMs = 60_000_000


class Sleep(Doc):
    """After each pass the board sleeps until the watchdog's interrupt, or a timer, wakes it, every `every_us`; or,
    where nothing has moved for `awake_us`, until a `pin` does."""

    wakes: Literal["watchdog", "timer", "pin"] = "watchdog"
    every_us: AtLeastMs = 125_000
    awake_us: AtLeastMs = 200_000

    @property
    def each_us(self) -> int:
        """How long it sleeps after each pass, whatever happens; 0 where a pin wakes it."""
        return 0 if self.wakes == "pin" else self.every_us

    @property
    def stands(self) -> bool:
        """Whether the millisecond counter stands still meanwhile."""
        return self.wakes != "timer"


class Power(Doc):
    """The board's own supply: what is said to hold it up (`bulk_uf`, µF, 0: nothing), and whether the board resets
    itself when it dips (`brown_out`)."""

    bulk_uf: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    brown_out: bool = True


class Cell(Doc):
    """What the bench runs on, where it is not a supply: mAh, of which so much can be used, and what it loses of itself
    in a year."""

    capacity_mah: Annotated[int, Field(ge=1, le=1_000_000)] = 1000
    usable_percent: Annotated[int, Field(ge=1, le=100)] = 80
    lost_a_year_percent: Annotated[int, Field(ge=0, le=100)] = 3
