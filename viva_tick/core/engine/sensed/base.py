"""A slot reads in its place of the pass, makes events, and says until when it is certain to make none."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import Any

from ...boards import Board
from ...clock import NEVER
from ...document.parts import Sensed
from ...machines import EventName
from ..trace import Kind, Recording


class SensedSlot(ABC):
    """What all of them have. `idle_us` is what it takes of a pass in which it has nothing to do; `known_until_us` is as
    far as its moves were worked out, None where that is to the end."""

    idle_us = 0
    known_until_us: int | None = None

    def __init__(self, part: Sensed, board: Board, keys: dict[EventName, int]) -> None:
        self.id = part.id
        self.board = board
        self.keys = keys
        self.events = Recording(Kind.EVENT, part.id)

    @abstractmethod
    def begin(self, ready_us: int, now_ms: int) -> None:
        """Set-up is done: forget everything."""

    @abstractmethod
    def read(self, clock_us: int, now_ms: int, events: list[int]) -> int:
        """Its place in the pass: answers when it is done, adds the numbers of its events."""

    def quiet_before(self, offset_us: int) -> int:
        """Passes that begin before this, and read it `offset_us` later, change nothing; 0 where that is not certain."""
        return NEVER

    def due(self) -> tuple[int, int] | None:
        """(counter value, wait in ms) after which it has something to do in any case, or None."""
        return None

    @property
    @abstractmethod
    def recordings(self) -> list[Recording]:
        """What it records as the firmware runs."""

    def world(self) -> list[Recording]:
        """What happens to it whether the firmware looks or not."""
        return []

    def catch_up(self, clock_us: int) -> None:  # noqa: B027  (most have nothing to follow)
        """Take what has happened up to an instant."""

    @abstractmethod
    def go_on_with(self, fresh: Any, since_us: int) -> None:
        """What happens to it comes from a slot that has not begun; up to an instant both have the same."""

    def is_above(self, of: str = "") -> bool:
        """Whether it is accepted above, or above one of its marks; of what has no such threshold, no."""
        return False

    def last_count(self) -> tuple[int, int]:
        """What was last converted and smoothed, and the end of the scale; of what is not converted, nothing."""
        return 0, 1

    def _say(self, clock_us: int, kind: str, events: list[int], of: str = "") -> None:
        self.events.add(clock_us, f"{kind} {of}" if of else kind)
        if (key := self.keys.get((kind, self.id, of))) is not None:
            events.append(key)
