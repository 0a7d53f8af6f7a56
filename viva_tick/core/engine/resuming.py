"""A running firmware, put down and taken up again: what follows is the same as if it had never stopped.

What is designed (the bench, the program, the board) is shared and not written down; what has happened, and how
everything stands, is. What is done to the inputs comes from the scenario that it is taken up with, which must be the
same up to that instant.
"""

from __future__ import annotations

import io
import pickle
from bisect import bisect_right
from collections.abc import Callable, Iterator
from contextvars import ContextVar
from dataclasses import dataclass
from types import GeneratorType
from typing import Any

from ..boards import Board
from ..clock import NEVER
from ..document.base import Doc
from ..machines import CompiledMachine
from ..program import Program
from .firmware import Firmware
from .trace import Kind, Recording

EVERY_US = 2_000_000
KEPT_US = 10_000_000
SHARED = (Doc, Board, Program, CompiledMachine)
_TAKEN_UP: ContextVar[tuple[Any, ...]] = ContextVar("taken up")


@dataclass(frozen=True)
class Checkpoint:
    """A firmware as it stood before the pass that begins at `at_us`; `shared` is what it refers to. Of what it has
    recorded only that from `since_us` on is kept, and how everything stood then."""

    at_us: int
    since_us: int
    data: bytes
    shared: tuple[Any, ...]

    @property
    def size(self) -> int:
        """How many bytes it takes."""
        return len(self.data)


@dataclass
class Going:
    """How a run is taken up and put down: from `begun`, or from the beginning; `kept` is what was put down last, every
    `EVERY_US` or so between the two instants `keep_us`. `short`: its passes were used up."""

    begun: Checkpoint | None
    keep_us: tuple[int, int]
    kept: Checkpoint | None = None
    short: bool = False

    def keep(self, firmware: Firmware, at_us: int) -> int:
        """A pass begins that is late enough; when to ask again."""
        if at_us > self.keep_us[1]:
            return NEVER
        self.kept = put_down(firmware, at_us)
        return at_us + EVERY_US

    def runs_out(self, firmware: Firmware, at_us: int) -> bool:
        """Its passes are used up: whether it stops for now, which it does not before what is asked for."""
        self.short = at_us > self.keep_us[1] + 1
        return self.short


def _shared(number: int) -> Any:
    return _TAKEN_UP.get()[number]


def _recorded(kind: Kind, of: str, times_us: list[int], values: list[Any]) -> Recording:
    found = Recording(kind, of)
    found.times_us, found.values = times_us, values
    return found


def _nothing() -> Iterator[tuple[int, int]]:
    """What follows comes from the scenario that it is taken up with."""
    return iter(())


class _Reducers(dict[type, Callable[[Any], Any]]):
    """How each type is written down that is not written as it is."""

    def __init__(self, since_us: int) -> None:
        super().__init__()
        self.since_us = since_us
        self.shared: list[Any] = []
        self[Recording] = self._recording
        self[GeneratorType] = lambda one: (_nothing, ())

    def __missing__(self, kind: type) -> Callable[[Any], Any]:
        if not issubclass(kind, SHARED):
            raise KeyError(kind)
        self[kind] = self._share
        return self._share

    def _recording(self, one: Recording) -> Any:
        first = max(bisect_right(one.times_us, self.since_us) - 1, 0)
        return _recorded, (one.kind, one.of, one.times_us[first:], one.values[first:])

    def _share(self, one: Any) -> Any:
        self.shared.append(one)
        return _shared, (len(self.shared) - 1,)


def put_down(firmware: Firmware, at_us: int) -> Checkpoint | None:
    """The firmware before the pass that begins at `at_us`; None under a kernel, which is planned from beginning to
    end."""
    if firmware.blocking.processor is not None:
        return None
    file = io.BytesIO()
    pickler = pickle.Pickler(file, pickle.HIGHEST_PROTOCOL)
    since_us = max(at_us - KEPT_US, -1)
    pickler.dispatch_table = reducers = _Reducers(since_us)
    pickler.dump(firmware)
    return Checkpoint(at_us, since_us, file.getvalue(), tuple(reducers.shared))


def taken_up(checkpoint: Checkpoint, fresh: Firmware) -> Firmware:
    """The firmware of a checkpoint, with what is done to the inputs, to the board and to its length taken from one
    that has not begun."""
    token = _TAKEN_UP.set(checkpoint.shared)
    try:
        found: Firmware = pickle.loads(checkpoint.data)  # noqa: S301  (what this process wrote)
    finally:
        _TAKEN_UP.reset(token)
    found.go_on_with(fresh, checkpoint.at_us)
    return found
