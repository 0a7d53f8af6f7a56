"""Traces: for each signal its changes in order of time. What a run leaves behind."""

from __future__ import annotations

import json
from bisect import bisect_right
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import Any


class Kind(StrEnum):
    """What a signal is, and what its values are."""

    CONTACT = "contact"  # 1 touching, 0 not
    LEVEL = "level"  # 1 high, 0 low, -1 floating
    READING = "reading"  # 1 high, 0 low
    CLEANED = "cleaned"  # 1 pressed, 0 released, None before set-up
    EVENT = "event"  # "press", "release", "step", "back", "above", "below", "key 5", "command up"
    MADE = "made"  # what the person did: clicks so far, keys held, a number said, a value of the level's line
    COUNT = "count"  # steps that the firmware has counted
    ERROR = "error"  # readings of an encoder that made no sense, so far
    SAMPLE = "sample"  # counts as converted
    SMOOTH = "smooth"  # counts as smoothed
    STATE = "state"  # a state's id, None before set-up
    TRANSITION = "transition"  # the place of the transition that led into the state, -1 as the machine begins
    VALUE = "value"  # what a variable holds
    TEXT = "text"  # what a line of a display shows, or the last line that went out over the serial line
    OUTPUT = "output"  # 1 on, 0 off, -1 floating
    DUTY = "duty"  # percent, of an output that something dims
    PITCH = "pitch"  # Hz, of an output that something gives a note
    ANGLE = "angle"  # degrees that a servo is told
    CUT = "cut"  # an output is held off: "limit" or "interlock", "" when it is free again
    PASS = "pass"  # noqa: S105  (length in µs, how many of that length follow each other)
    BLOCKED = "blocked"  # (length in µs, what holds the pass)
    RESET = "reset"  # the cause: see `Reset`
    BARK = "bark"  # the watchdog's interrupt: how long it took, µs
    STANDS = "stands"  # a task under a kernel: “running”, “ready”, “waiting”, or what it waits for
    FILL = "fill"  # how many are in a queue
    LOST = "lost"  # how many a full queue has lost so far
    JOB = "job"  # (µs until it gave the processor back, µs late or −1 of a later slice, jobs let go before it)
    WRITE = "write"  # what was written to memory that outlives a reset


@dataclass(frozen=True)
class Signal:
    """Changes of one signal: `values[i]` from `times_us[i]` on. `of` is the part's or machine's id."""

    kind: Kind
    of: str
    times_us: list[int] = field(repr=False)
    values: list[Any] = field(repr=False)


@dataclass(frozen=True)
class Trace:
    """All signals of a run, `length_us` long."""

    length_us: int
    signals: tuple[Signal, ...]

    @cached_property
    def _by_name(self) -> dict[tuple[Kind, str], Signal]:
        return {(signal.kind, signal.of): signal for signal in self.signals}

    def signal(self, kind: Kind, of: str = "") -> Signal:
        """The signal of that kind and part or machine; KeyError if there is none."""
        return self._by_name[kind, of]

    def __contains__(self, name: tuple[Kind, str]) -> bool:
        return name in self._by_name

    @cached_property
    def changes(self) -> int:
        """How many changes all signals hold."""
        return sum(len(signal.times_us) for signal in self.signals)

    def data(self) -> dict[str, Any]:
        """As plain JSON data."""
        rows = [[str(signal.kind), signal.of, signal.times_us, signal.values] for signal in self.signals]
        return {"length_us": self.length_us, "signals": rows}

    def to_bytes(self) -> bytes:
        """As bytes that are the same for the same run on any machine."""
        return json.dumps(self.data(), separators=(",", ":")).encode()

    @staticmethod
    def from_data(data: dict[str, Any]) -> Trace:
        """The trace that `data` gave."""
        signals = []
        for kind, of, times, values in data["signals"]:
            if values and type(values[-1]) is list:  # JSON has no tuples
                values = list(map(tuple, values))
            signals.append(Signal(Kind(kind), of, times, values))
        return Trace(data["length_us"], tuple(signals))

    @staticmethod
    def from_bytes(raw: bytes) -> Trace:
        """The trace that `to_bytes` wrote."""
        return Trace.from_data(json.loads(raw))


class Recording:
    """A signal while it is being recorded."""

    __slots__ = ("kind", "of", "times_us", "values")

    def __init__(self, kind: Kind, of: str = "") -> None:
        self.kind = kind
        self.of = of
        self.times_us: list[int] = []
        self.values: list[Any] = []

    def add(self, at_us: int, value: Any) -> None:
        """The signal has `value` from `at_us` on."""
        self.times_us.append(at_us)
        self.values.append(value)

    def put_in(self, at_us: int, value: Any) -> None:
        """`add`, where others that began later may have been added before."""
        place = bisect_right(self.times_us, at_us)
        self.times_us.insert(place, at_us)
        self.values.insert(place, value)

    def add_passes(self, at_us: int, length_us: int, count: int) -> None:
        """`count` passes of the same length, one after another; joined to the last entry where they continue it."""
        if self.values:
            last_length, last_count = self.values[-1]
            if last_length == length_us and self.times_us[-1] + last_length * last_count == at_us:
                self.values[-1] = (length_us, last_count + count)
                return
        self.add(at_us, (length_us, count))

    def forget_after(self, at_us: int) -> None:
        """What was recorded for later never happened."""
        while self.times_us and self.times_us[-1] > at_us:
            self.times_us.pop()
            self.values.pop()

    def cut(self, length_us: int) -> Signal:
        """The finished signal, without what lies beyond the end of the run. Nothing is recorded after that."""
        keep = len(self.times_us)
        while keep and self.times_us[keep - 1] >= length_us:
            keep -= 1
        del self.times_us[keep:], self.values[keep:]
        return Signal(self.kind, self.of, self.times_us, self.values)
