"""An encoder by the table of its Gray code. Right means that A leads B: with 1 for a closed contact, A and B go
through 10, 11, 01, 00. A state is a number with A in its lowest bit and B above it: 0 → 1 → 3 → 2 → 0.

A change of both contacts at once cannot be told apart from one the other way round: it is an error, and counts for
nothing. A contact that bounces runs to and fro between two neighbours, which adds up to nothing.
"""

from __future__ import annotations

from ..pieces import piece

A_BIT, B_BIT = 1, 2
GRAY = (0, 1, 3, 2)  # the four states in the order of a turn to the right
ERROR = 2
MOST_STEPS = 32_000  # what a handler's sum of 16 bits holds between two passes; one more is lost, not turned round
# From the state before and the state now, as (before << 2) | now: one count, none, or an error.
STEP = (0, 1, -1, ERROR, -1, 0, ERROR, 1, 1, ERROR, 0, -1, ERROR, -1, 1, 0)


def move(before: int, now: int) -> int:
    """1, 0, −1 or ERROR from one state of the two contacts to the next."""
    return STEP[before << 2 | now]


class Quadrature:
    """The state of one encoder in the firmware: what was seen last, the counts that are not a whole step yet."""

    __slots__ = ("counts", "counts_a_step", "errors", "last_ms", "least_ms", "recent", "seen", "sign")

    def __init__(self, counts_a_step: int = 1, reverse: bool = False, least_ms: int = 0) -> None:
        self.least_ms = least_ms
        self.recent = False  # a change was accepted not long ago, at `last_ms`
        self.last_ms = 0
        self.counts_a_step = counts_a_step
        self.sign = -1 if reverse else 1
        self.seen = -1
        self.counts = 0
        self.errors = 0

    def rest(self, now_ms: int) -> None:
        """Each pass: a change so long ago is over, before the counter comes round to it."""
        if self.recent and (now_ms - self.last_ms) & 0xFFFF_FFFF >= self.least_ms:
            self.recent = False

    def see(self, state: int, now_ms: int = 0) -> int:
        """Take one reading, A_BIT and B_BIT for those that are closed; answer the whole steps it makes: 1, 0 or −1."""
        if self.seen < 0:  # the first reading only says where it stands
            self.seen = state
            return 0
        if self.least_ms and state != self.seen:
            self.rest(now_ms)
            if self.recent:
                return 0
            self.recent, self.last_ms = True, now_ms
        step = STEP[self.seen << 2 | state]
        self.seen = state
        if step == ERROR:
            self.errors += 1
            return 0
        self.counts += step
        if abs(self.counts) < self.counts_a_step:
            return 0
        whole = self.sign if self.counts > 0 else -self.sign
        self.counts = 0
        return whole


class Pace:
    """Whether a step follows the one before, the same way, within `fast_ms`."""

    __slots__ = ("fast_ms", "last_ms", "way")

    def __init__(self, fast_ms: int) -> None:
        self.fast_ms = fast_ms
        self.way = 0
        self.last_ms = 0

    def rest(self, now_ms: int) -> None:
        """Each pass: a step so long ago is over, before the counter comes round to it."""
        if self.way and (now_ms - self.last_ms) & 0xFFFF_FFFF > self.fast_ms:
            self.way = 0

    def step(self, now_ms: int, right: bool) -> bool:
        """Take one step."""
        way = 1 if right else -1
        fast = way == self.way and (now_ms - self.last_ms) & 0xFFFF_FFFF <= self.fast_ms
        self.way, self.last_ms = way, now_ms
        return fast


PACE_SKETCH = piece(__file__, "pace")


def quadrature_sketch(least: bool) -> str:
    """The same in C++; `least`: some encoder has a least time between two changes."""
    return piece(__file__, "quadrature", {"USE_LEAST"} if least else ())
