"""What a debounce method is: the stepper that runs in the firmware model, the same rule over arrays, its C++.

The three stand in one file so that they can be read against each other; tests hold them together.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Times = NDArray[np.int32]

PRESS, RELEASE, NO_EDGE = 1, -1, 0


class Stepper(ABC):
    """One input's debounce state. Starts believing "released"."""

    __slots__ = ("believed", "wait_ms")

    def __init__(self, interval_us: int) -> None:
        self.believed = False
        self.wait_ms = interval_us // 1000

    @abstractmethod
    def step(self, now_ms: int, pressed: bool) -> int:
        """Take one reading at counter value `now_ms`; answer PRESS, RELEASE or NO_EDGE."""

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
        late = (at_us - self.phase_us) % self.period_us
        return at_us + np.where(late, self.period_us - late, 0).astype(np.int32)

    def counter_reaches(self, since_us: Times, wait_ms: Times) -> Times:
        """The first pass whose millisecond counter is `wait_ms` past its value at `since_us`."""
        return self.next_pass((since_us // 1000 + wait_ms) * 1000)


@dataclass(frozen=True)
class SketchPart:
    """The method in C++: a struct name, and the text that defines it with its `step(now, pressed, wait)`."""

    struct: str
    text: str


@dataclass(frozen=True)
class Method:
    """A debounce method as the rest of the core and the screens see it.

    `accept_us(edge, last, wait_ms, clock)` answers, for sampled edges that differ from what is believed, when the
    method would believe them if the contact stayed put; `last` is when it last believed something. All in µs.
    `statistic` names what the interval must exceed: "gap" (longest gap between bounces), "settle" (total length).
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
    make: Callable[[int], Stepper]
    accept_us: Callable[[Times, Times, Times, PassClock], Any]
    sketch: SketchPart

    @property
    def has_interval(self) -> bool:
        """Whether the method has an interval at all."""
        return self.limits_us[1] > 0
