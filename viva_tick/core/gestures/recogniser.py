"""The presses and releases of a button, as gestures; and the same in C++."""

from __future__ import annotations

from dataclasses import dataclass

from ..clock import MASK
from ..debounce import PRESS, RELEASE

CLICKS = ("click", "double", "triple")
HELD = ("hold", "repeat", "long-release")
GESTURES = (*CLICKS, *HELD)
QUICKEST_MS = 40  # repeats that quicken come no faster


@dataclass(frozen=True)
class Wanted:
    """What is told apart of a button, times in ms. `most` clicks are counted together (1: each is a click at once);
    `hold_ms` 0: nothing is a hold; `repeat_ms` 0: no repeats; `quicken`: each repeat comes a quarter sooner."""

    most: int
    window_ms: int
    hold_ms: int
    repeat_ms: int
    quicken: bool


class Recogniser:
    """The state of a button in the firmware."""

    __slots__ = ("clicks", "down", "gap_ms", "held", "repeated_ms", "since_ms", "wanted")

    def __init__(self, wanted: Wanted) -> None:
        self.wanted = wanted
        self.clicks = 0
        self.down = False
        self.held = False
        self.since_ms = 0
        self.repeated_ms = 0
        self.gap_ms = wanted.repeat_ms

    def step(self, now_ms: int, edge: int) -> list[str]:
        """Take the pass's edge (PRESS, RELEASE or 0); answer what it makes, in the order of `GESTURES`."""
        said: list[str] = []
        wanted = self.wanted
        if self.clicks and not self.down and (now_ms - self.since_ms) & MASK >= wanted.window_ms:
            said.append(CLICKS[self.clicks - 1])
            self.clicks = 0
        if edge == PRESS:
            self.down, self.held, self.since_ms = True, False, now_ms
        elif edge == RELEASE and self.down:
            self.down, self.since_ms = False, now_ms
            if self.held:
                said.append("long-release")
            else:
                self.clicks += 1
                if self.clicks == wanted.most:
                    said.append(CLICKS[self.clicks - 1])
                    self.clicks = 0
        if not self.down or not wanted.hold_ms:
            return said
        if not self.held and (now_ms - self.since_ms) & MASK >= wanted.hold_ms:
            if self.clicks:  # clicked, then held
                said.append(CLICKS[self.clicks - 1])
                self.clicks = 0
            said.append("hold")
            self.held, self.repeated_ms, self.gap_ms = True, now_ms, wanted.repeat_ms
        elif self.held and wanted.repeat_ms and (now_ms - self.repeated_ms) & MASK >= self.gap_ms:
            said.append("repeat")
            self.repeated_ms = now_ms
            if wanted.quicken:
                self.gap_ms = max(self.gap_ms * 3 // 4, QUICKEST_MS)
        return said

    def spend(self) -> None:
        """What is down now has been taken for something else: it makes no gesture any more."""
        self.clicks = 0
        self.down = False

    def due(self) -> tuple[int, int] | None:
        """(counter value, wait in ms) after which `step` could answer without an edge, or None."""
        wanted = self.wanted
        if not self.down:
            return (self.since_ms, wanted.window_ms) if self.clicks else None
        if not wanted.hold_ms:
            return None
        if not self.held:
            return self.since_ms, wanted.hold_ms
        return (self.repeated_ms, self.gap_ms) if wanted.repeat_ms else None


GESTURES_SKETCH = """\
// A button's gestures: while more clicks can come a click waits for them; what is held is no click.
enum Gesture : uint8_t { CLICK = 1, DOUBLE = 2, TRIPLE = 4, HOLD = 8, REPEAT = 16, LONG_RELEASE = 32 };

struct Gestures {
  const uint8_t most;
  const uint32_t window, hold_after, repeat_every;
  const bool quicken;
  uint8_t now_said = 0, clicks = 0;
  bool down = false, held = false;
  uint32_t since = 0, repeated = 0, gap = 0;

  Gestures(uint8_t most_, uint32_t window_, uint32_t hold_, uint32_t repeat_, bool quicken_)
      : most(most_), window(window_), hold_after(hold_), repeat_every(repeat_), quicken(quicken_) {}

  bool said(Gesture what) const { return now_said & what; }

  void clicked() {
    now_said |= uint8_t(1 << (clicks - 1));
    clicks = 0;
  }

  void spend() {
    clicks = 0;
    down = false;
  }

  void step(uint32_t now, Edge edge) {
    now_said = 0;
    if (clicks && !down && uint32_t(now - since) >= window) clicked();
    if (edge == PRESS) {
      down = true;
      held = false;
      since = now;
    } else if (edge == RELEASE && down) {
      down = false;
      since = now;
      if (held) now_said |= LONG_RELEASE;
      else if (++clicks == most) clicked();
    }
    if (!down || !hold_after) return;
    if (!held && uint32_t(now - since) >= hold_after) {
      if (clicks) clicked();
      now_said |= HOLD;
      held = true;
      repeated = now;
      gap = repeat_every;
    } else if (held && repeat_every && uint32_t(now - repeated) >= gap) {
      now_said |= REPEAT;
      repeated = now;
      if (quicken) gap = gap * 3 / 4 > 40 ? gap * 3 / 4 : 40;
    }
  }
};
"""

CHORD_SKETCH = """\
// Two buttons pressed together: the second no later than so long after the first.
struct Chord {
  const uint32_t together;
  bool down[2] = {false, false};
  uint32_t pressed[2] = {0, 0};

  explicit Chord(uint32_t together_) : together(together_) {}

  bool step(uint32_t now, Edge one, Edge other) {
    const Edge edges[2] = {one, other};
    for (uint8_t n = 0; n < 2; ++n) {
      if (edges[n] == NO_EDGE) continue;
      down[n] = edges[n] == PRESS;
      pressed[n] = now;
    }
    if ((one != PRESS && other != PRESS) || !down[0] || !down[1]) return false;
    return uint32_t(now - pressed[0]) <= together && uint32_t(now - pressed[1]) <= together;
  }
};
"""
