"""What a debounce method is: the stepper that runs in the firmware model, the same rule over arrays, its C++.

The three stand in one file so that they can be read against each other; tests hold them together.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

Times = NDArray[np.int32]
Places = NDArray[np.intp]
NOWHERE: Final[Places] = np.zeros(0, dtype=np.intp)
NO_TIMES: Final[Times] = np.zeros(0, dtype=np.int32)

PRESS: Final = 1
RELEASE: Final = -1
NO_EDGE: Final = 0
FAR = np.int32(2_000_000_000)


def of(table: NDArray[Any], places: Places) -> NDArray[Any]:
    """What stands at some places of a table, which are counted row after row."""
    found: NDArray[Any] = table.reshape(-1)[places]
    return found


def put(table: NDArray[Any], places: Places, values: Any) -> None:
    """Put something at some places of a table."""
    table.reshape(-1)[places] = values


class Stepper(ABC):
    """One input's debounce state. Starts believing "released"."""

    __slots__ = ("accepted", "wait_ms")

    def __init__(self, interval_us: int, sample_us: int = 1000) -> None:
        self.accepted = False
        self.wait_ms = interval_us // 1000

    @abstractmethod
    def step(self, now_ms: int, pressed: bool) -> int:
        """Take one reading at counter value `now_ms`; answer PRESS, RELEASE or NO_EDGE."""

    def join(self, common: dict[str, Any]) -> None:  # noqa: B027  (most share nothing)
        """Take hold of what all inputs of the board share; `common` is new at each boot."""

    def due(self) -> tuple[int, int] | None:
        """(counter value, wait in ms) after which `step` could act on an unchanged reading, or None."""
        return None


@dataclass(frozen=True)
class PassClock:
    """When passes start (a whole number of `period_us` after `phase_us`) and what the counter says then.

    The arrays give one trial a column, to be broadcast over intervals.
    """

    period_us: int
    phase_us: Times

    def next_pass(self, at_us: Times) -> Times:
        """The first pass at or after each instant."""
        # Rounded up to a whole number of periods. numpy divides by a scalar many at a time; a remainder it does not.
        period = np.int32(self.period_us)
        passes: Times = (self.phase_us - at_us) // period
        return self.phase_us - passes * period

    def of(self, trials: Places) -> PassClock:
        """That of some of the trials, one after another."""
        return PassClock(self.period_us, of(self.phase_us, trials))

    def counter_reaches(self, since_us: Times, wait_ms: Times) -> Times:
        """The first pass whose millisecond counter is `wait_ms` past its value at `since_us`."""
        return self.next_pass((since_us // 1000 + wait_ms) * 1000)


@dataclass(frozen=True)
class Rows:
    """What a method is tried with over arrays: one row an interval, one column a trial."""

    shape: tuple[int, int]
    wait_ms: Times
    sample_ms: int
    clock: PassClock
    acts_on: str = "press"


class Walk(ABC):
    """A method over arrays, edge after edge; `accepted` is what the firmware accepts.

    The reading stands from each edge to the next; a method that samples must have passes no longer than a millisecond
    for this to be exact. Changes are few beside trials and intervals: what they touch is told by its places in the
    table, and all that happens at them is worked out there alone.
    """

    def __init__(self, rows: Rows) -> None:
        self.shape = rows.shape
        self.accepted = np.zeros(rows.shape, dtype=bool)
        self.wait_ms = rows.wait_ms
        self.sample_ms = rows.sample_ms
        self.clock = rows.clock
        self.acts_on_press = rows.acts_on == "press"

    def table(self, value: int) -> Times:
        """One value for every trial and interval."""
        return np.full(self.shape, value, dtype=np.int32)

    def located(self, where: NDArray[np.bool_]) -> tuple[Places, Places, Times]:
        """The places of a table where it holds, the trial of each, and its wait in ms."""
        places = np.flatnonzero(where)
        rows = places // self.shape[1]
        return places, places - rows * self.shape[1], of(self.wait_ms, rows)

    def last_ms(self, until: Times) -> Times:
        """The last counter value whose first pass lies before `until`, which is a pass itself."""
        last: Times = (until - np.int32(self.clock.period_us)) // 1000
        return last

    @abstractmethod
    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """The reading is `pressed` from `edge` until just before `until`, both (1, trials), and there is no reading
        where `until` is no later than that: (the places where a change is accepted, when). Of the edge that the method
        does not act on it may answer nothing."""


class ReadyWalk(Walk):
    """A method that accepts every change as soon as it is ready for one: see `Method.ready_us`."""

    def __init__(self, ready_us: Callable[[Times, Times, PassClock], Times], rows: Rows) -> None:
        super().__init__(rows)
        self.ready_us = ready_us
        self.ready = self.table(0)

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Places, Times]:
        """See `Walk.segment`."""
        taken = (self.ready < until) & (self.accepted != pressed)
        places, trials, wait_ms = self.located(taken)
        at = np.maximum(of(edge, trials), of(self.ready, places))
        self.accepted ^= taken
        put(self.ready, places, self.ready_us(at, wait_ms, self.clock.of(trials)))
        return places, at


class SampleWalk(Walk):
    """A method that samples."""

    def sampled(self, edge: Times, trials: Places, due_ms: Times, needed: Times) -> Times:
        """When the last of so many samples is taken of a reading from `edge`: the first in the edge's own pass; or, if
        one is due later, in the first pass of its millisecond."""
        edge_ms = edge // 1000
        last_ms = np.maximum(edge_ms, due_ms) + (needed - 1) * np.int32(self.sample_ms)
        full = self.clock.of(trials).next_pass(last_ms * np.int32(1000))
        at: Times = np.where((due_ms > edge_ms) | (needed > 1), np.maximum(full, edge), edge)
        return at


@dataclass(frozen=True)
class SketchPart:
    """The method in C++: a struct name, and the text that defines it with its `step(now, pressed, wait)`. What the
    struct is made with: "sample" (its period in ms), "pin" (its pin and active level) or nothing; a "handler" of its
    own is written for it; each is told to "join" those that share it."""

    struct: str
    text: str
    takes: str = ""


@dataclass(frozen=True)
class Method:
    """A debounce method as the rest of the core and the screens see it.

    `ready_us(at, wait_ms, clock)` answers when a method that accepts every change as soon as it is ready for one is so
    again, after one at `at`, in µs. Any other brings a `walk` of its own instead.
    `statistic` names what the interval must exceed: "gap" (longest gap between bounces), "settle" (total length).
    `samples`: the interval is a number of samples, `sample_us` apart. `by` is how it comes to its readings: "polling",
    "looking" (waits inside the pass and looks again) or "interrupt".
    `edges`: "press" where only that edge is filtered; `acts_on` "release": the press is an event when it is let go.
    `one_handler`: all inputs that are cleaned so have one handler. `family` is the id of the method that it is a
    variant of, "" for one that stands by itself.
    """

    id: str
    title: str
    sentence: str
    right_when: str
    costs: str
    statistic: str | None
    limits_us: tuple[int, int]
    default_us: int
    blocks: bool
    make: Callable[..., Stepper]
    sketch: SketchPart
    ready_us: Callable[[Times, Times, PassClock], Times] | None = None
    walk: Callable[[Rows], Walk] | None = None
    samples: bool = False
    by: str = "polling"
    edges: str = "both"
    acts_on: str = "press"
    one_handler: bool = False
    family: str = ""

    def walked(self, rows: Rows) -> Walk:
        """The method over arrays, at its beginning."""
        if self.walk is not None:
            return self.walk(rows)
        assert self.ready_us is not None
        return ReadyWalk(self.ready_us, rows)

    def variant(self, **fields: Any) -> Method:
        """The same method but for some fields, of the same family."""
        return replace(self, family=self.id, **fields)

    @property
    def has_interval(self) -> bool:
        """Whether the method has an interval at all."""
        return self.limits_us[1] > 0
