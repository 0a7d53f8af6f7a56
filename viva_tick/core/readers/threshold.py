"""An analogue part: samples smoothed, then held against one threshold or two, in counts of the converter.

Whole numbers only, as a small board computes: the same in the sketch, sample by sample.
"""

from __future__ import annotations

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
    """What is believed of a level: below, until it reaches `upper`; above, until it falls under `lower`; each only
    when it has been so for `dwell_ms`. With `falling` the counts fall as what is measured rises, and it is above at
    `upper` or less, below over `lower`."""

    __slots__ = ("believed", "dwell_ms", "falling", "lower", "since_ms", "upper", "waiting")

    def __init__(self, upper: int, lower: int, falling: bool, dwell_ms: int) -> None:
        self.upper, self.lower, self.falling, self.dwell_ms = upper, lower, falling, dwell_ms
        self.believed = False
        self.waiting = False
        self.since_ms = 0

    def step(self, now_ms: int, count: int) -> int:
        """Take one smoothed count; answer ABOVE, BELOW or 0."""
        line = self.lower if self.believed else self.upper
        beyond = count <= line if self.falling else count >= line
        if beyond == self.believed:
            self.waiting = False
            return 0
        if not self.waiting:
            self.waiting = True
            self.since_ms = now_ms
        if (now_ms - self.since_ms) & 0xFFFF_FFFF < self.dwell_ms:
            return 0
        self.waiting = False
        self.believed = beyond
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


_SMOOTHERS = {
    "average": """\
// The average of the last samples; of as many as there are, at first.
template <uint8_t OVER>
struct Average {
  uint16_t kept[OVER];
  uint8_t have = 0, next = 0;
  uint32_t sum = 0;

  uint16_t take(uint16_t count) {
    if (have == OVER) sum -= kept[next];
    else ++have;
    kept[next] = count;
    sum += count;
    next = uint8_t((next + 1) % OVER);
    return uint16_t(sum / have);
  }
};
""",
    "median": """\
// The middle one of the last samples: a single spike is never seen.
template <uint8_t OVER>
struct Median {
  uint16_t kept[OVER];
  uint8_t have = 0, next = 0;

  uint16_t take(uint16_t count) {
    kept[next] = count;
    next = uint8_t((next + 1) % OVER);
    if (have < OVER) ++have;
    uint16_t sorted[OVER];
    for (uint8_t n = 0; n < have; ++n) {
      uint8_t at = n;
      for (; at && sorted[at - 1] > kept[n]; --at) sorted[at] = sorted[at - 1];
      sorted[at] = kept[n];
    }
    return sorted[have / 2];
  }
};
""",
    "slow": """\
// A slow follower: each sample moves it by 1/2^SHIFT of the difference.
template <uint8_t SHIFT>
struct Slow {
  int32_t slow = -1;

  uint16_t take(uint16_t count) {
    if (slow < 0) slow = int32_t(count) << SHIFT;
    else slow += int32_t(count) - (slow >> SHIFT);
    return uint16_t(slow >> SHIFT);
  }
};
""",
    "none": """\
// Each sample as it is.
struct Plain {
  uint16_t take(uint16_t count) { return count; }
};
""",
}


def smoother_sketch(method: str, over: int) -> tuple[str, str]:
    """(type, definition) of the smoother in C++."""
    names = {"average": f"Average<{over}>", "median": f"Median<{over}>", "none": "Plain"}
    return names.get(method, f"Slow<{max(over, 1).bit_length() - 1}>"), _SMOOTHERS[method]


THRESHOLD_SKETCH = """\
enum Crossing : int8_t { BELOW = -1, NO_CROSSING = 0, ABOVE = 1 };

// Above from `upper` on, below again under `lower`, each only when it has been so for a while.
struct Threshold {
  const int32_t upper, lower;  // one that is never reached may lie beyond the scale
  const bool falling;
  const uint32_t dwell;
  bool believed = false, waiting = false;
  uint32_t since = 0;

  Threshold(int32_t upper_, int32_t lower_, bool falling_, uint32_t dwell_)
      : upper(upper_), lower(lower_), falling(falling_), dwell(dwell_) {}

  Crossing step(uint32_t now, uint16_t count) {
    const int32_t line = believed ? lower : upper;
    const bool beyond = falling ? count <= line : count >= line;
    if (beyond == believed) {
      waiting = false;
      return NO_CROSSING;
    }
    if (!waiting) {
      waiting = true;
      since = now;
    }
    if (uint32_t(now - since) < dwell) return NO_CROSSING;
    waiting = false;
    believed = beyond;
    return beyond ? ABOVE : BELOW;
  }
};
"""

BAND_SKETCH = """\
// Whether a level has stayed between two thresholds for a while: said once each time that it has.
struct Band {
  const int32_t low, high;
  const uint32_t wait;
  bool inside = false, said = false;
  uint32_t since = 0;

  Band(int32_t low_, int32_t high_, uint32_t wait_) : low(low_), high(high_), wait(wait_) {}

  bool step(uint32_t now, uint16_t count) {
    if (count < low || count > high) {
      inside = false;
      return false;
    }
    if (!inside) {
      inside = true;
      said = false;
      since = now;
    }
    if (said || uint32_t(now - since) < wait) return false;
    said = true;
    return true;
  }
};
"""
