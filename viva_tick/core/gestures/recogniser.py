"""The presses and releases of a button, as gestures; and the same in C++."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from ..clock import MASK
from ..debounce import PRESS, RELEASE
from ..pieces import piece

CLICKS = ("click", "double", "triple")
HELD = ("hold", "repeat", "long-release")
GESTURES = (*CLICKS, *HELD)
QUICKEST_MS: Final = 40  # repeats that quicken come no faster


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


GESTURES_SKETCH = piece(__file__, "gestures")

CHORD_SKETCH = piece(__file__, "chord")
