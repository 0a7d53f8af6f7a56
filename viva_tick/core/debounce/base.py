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

PRESS: Final = 1
RELEASE: Final = -1
NO_EDGE: Final = 0
FAR = np.int32(2_000_000_000)


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

    The arrays give one trial a row, to be broadcast over intervals.
    """

    period_us: int
    phase_us: Times

    def next_pass(self, at_us: Times) -> Times:
        """The first pass at or after each instant."""
        # Rounded up to a whole number of periods. numpy divides by a scalar many at a time; a remainder it does not.
        period = np.int32(self.period_us)
        passes: Times = (self.phase_us - at_us) // period
        return self.phase_us - passes * period

    def counter_reaches(self, since_us: Times, wait_ms: Times) -> Times:
        """The first pass whose millisecond counter is `wait_ms` past its value at `since_us`."""
        return self.next_pass((since_us // 1000 + wait_ms) * 1000)


@dataclass(frozen=True)
class Rows:
    """What a method is tried with over arrays: one row a trial, one column an interval."""

    shape: tuple[int, int]
    wait_ms: Times
    sample_ms: int
    clock: PassClock


class Walk(ABC):
    """A method over arrays, edge after edge; `accepted` is what the firmware accepts.

    The reading stands from each edge to the next; a method that samples must have passes no longer than a millisecond
    for this to be exact.
    """

    def __init__(self, rows: Rows) -> None:
        self.accepted = np.zeros(rows.shape, dtype=bool)
        self.wait_ms = rows.wait_ms
        self.sample_ms = rows.sample_ms
        self.clock = rows.clock

    @abstractmethod
    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Any, Any]:
        """The reading is `pressed` from `edge` until just before `until`, both (trials, 1): (where a change is
        accepted, when)."""


class RuleWalk(Walk):
    """The walk of a method whose rule needs no more than the last belief: see `Method.accept_us`."""

    def __init__(self, rule: Callable[[Times, Times, Times, PassClock], Times], rows: Rows) -> None:
        super().__init__(rows)
        self.rule = rule
        self.last = np.full(self.accepted.shape, -1_000_000, dtype=np.int32)

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Any, Any]:
        """See `Walk.segment`."""
        at = self.rule(edge, self.last, self.wait_ms, self.clock)
        taken = (self.accepted != pressed) & (at < until)
        if taken.any():
            np.copyto(self.last, at, where=taken)
            self.accepted ^= taken  # to the other one, and many at a time
        return taken, at


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

    `accept_us(edge, last, wait_ms, clock)` answers, for sampled edges that differ from what is accepted, when the
    method would accept them if the contact stayed put; `last` is when it last accepted something. All in µs. A
    method that must remember more brings a `walk` of its own instead.
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
    accept_us: Callable[[Times, Times, Times, PassClock], Any] | None = None
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
        assert self.accept_us is not None
        return RuleWalk(self.accept_us, rows)

    def variant(self, **fields: Any) -> Method:
        """The same method but for some fields, of the same family."""
        return replace(self, family=self.id, **fields)

    @property
    def has_interval(self) -> bool:
        """Whether the method has an interval at all."""
        return self.limits_us[1] > 0
