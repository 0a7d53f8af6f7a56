"""An analogue part: samples smoothed, then held against one threshold or two, in counts of the converter.

Whole numbers only, as a small board computes: the same in the sketch, sample by sample.
"""

from __future__ import annotations

from ..pieces import piece

ABOVE, BELOW = 1, -1


class Smoother:
    """The last samples made into one. "average" and "median" look at `over` of them (at as many as there are, at
    first); "slow" is a follower that takes 1/2^k of the difference at each sample, with 2^k the power of two at or
    below `over`; "none" takes each as it is."""

    __slots__ = ("kept", "method", "over", "shift", "slow")

    def __init__(self, method: str, over: int) -> None:
        self.method = method
        self.over = over
        self.shift = max(over, 1).bit_length() - 1
        self.kept: list[int] = []
        self.slow = -1

    def take(self, count: int) -> int:
        """One more sample; answers the smoothed count."""
        if self.method == "none":
            return count
        if self.method == "slow":
            if self.slow < 0:
                self.slow = count << self.shift
            else:
                self.slow += count - (self.slow >> self.shift)
            return self.slow >> self.shift
        self.kept.append(count)
        if len(self.kept) > self.over:
            self.kept.pop(0)
        if self.method == "average":
            return sum(self.kept) // len(self.kept)
        return sorted(self.kept)[len(self.kept) // 2]


class Threshold:
    """What is accepted of a level: below, until it reaches `upper`; above, until it falls under `lower`; each only
    when it has been so for `dwell_ms`. With `falling` the counts fall as what is measured rises, and it is above at
    `upper` or less, below over `lower`."""

    __slots__ = ("accepted", "dwell_ms", "falling", "lower", "since_ms", "upper", "waiting")

    def __init__(self, upper: int, lower: int, falling: bool, dwell_ms: int) -> None:
        self.upper, self.lower, self.falling, self.dwell_ms = upper, lower, falling, dwell_ms
        self.accepted = False
        self.waiting = False
        self.since_ms = 0

    def step(self, now_ms: int, count: int) -> int:
        """Take one smoothed count; answer ABOVE, BELOW or 0."""
        line = self.lower if self.accepted else self.upper
        beyond = count <= line if self.falling else count >= line
        if beyond == self.accepted:
            self.waiting = False
            return 0
        if not self.waiting:
            self.waiting = True
            self.since_ms = now_ms
        if (now_ms - self.since_ms) & 0xFFFF_FFFF < self.dwell_ms:
            return 0
        self.waiting = False
        self.accepted = beyond
        return ABOVE if beyond else BELOW


class Band:
    """Whether a level has stayed between two thresholds for `wait_ms`: said once each time that it has."""

    __slots__ = ("high", "inside", "low", "said", "since_ms", "wait_ms")

    def __init__(self, one: int, other: int, wait_ms: int) -> None:
        self.low, self.high = min(one, other), max(one, other)
        self.wait_ms = wait_ms
        self.inside = self.said = False
        self.since_ms = 0

    def step(self, now_ms: int, count: int) -> bool:
        """Take one smoothed count; whether it has just stayed long enough."""
        if not self.low <= count <= self.high:
            self.inside = False
            return False
        if not self.inside:
            self.inside, self.said = True, False
            self.since_ms = now_ms
        if self.said or (now_ms - self.since_ms) & 0xFFFF_FFFF < self.wait_ms:
            return False
        self.said = True
        return True


def smoother_sketch(method: str, over: int) -> tuple[str, str]:
    """(type, definition) of the smoother in C++."""
    names = {"average": f"Average<{over}>", "median": f"Median<{over}>", "none": "Plain"}
    return names.get(method, f"Slow<{max(over, 1).bit_length() - 1}>"), piece(__file__, f"smooth_{method}")


THRESHOLD_SKETCH = piece(__file__, "threshold")

BAND_SKETCH = piece(__file__, "band")
