"""The board's counter of milliseconds, and the pass that is being run."""

from __future__ import annotations

from typing import Any

from ..clock import MASK, US_PER_MS
from .slots import InputSlot


class Counter:
    """The millisecond counter: it shows `start_ms` at `zero_us`, and counts from there."""

    __slots__ = ("start_ms", "zero_us")

    def __init__(self) -> None:
        self.zero_us = self.start_ms = 0

    def at(self, at_us: int) -> int:
        """What it shows at an instant."""
        return (self.start_ms + (at_us - self.zero_us) // US_PER_MS) & MASK


class Pass:
    """What the stages of one pass tell each other. `now_ms` is the counter as the pass read it; `events` are the
    numbers of what the inputs gave, `edges` by contact what it did, `waits` the contacts whose interval is to be stood
    out; `changed`: something changed that a machine may look at."""

    __slots__ = ("changed", "edges", "events", "now_ms", "started_us", "waits")

    def __init__(self) -> None:
        self.changed = True
        self.begin(0, 0)

    def begin(self, start_us: int, now_ms: int) -> None:
        """Another pass."""
        self.started_us, self.now_ms = start_us, now_ms
        self.events: list[int] = []
        self.edges: dict[str, int] = {}
        self.waits: list[InputSlot] = []

    def saved(self) -> tuple[Any, ...]:
        """All of it, while another pass comes between: see `restore`."""
        return self.started_us, self.now_ms, self.events, self.edges, self.waits

    def restore(self, saved: tuple[Any, ...]) -> None:
        """It goes on where it was."""
        self.begin(saved[0], saved[1])
        self.events, self.edges, self.waits = saved[2:]
        self.changed = True
