"""Captures of several channels, read as they come: of ten million changes no more is in hand than one piece of text.

A reader is given text piece by piece and answers the changes in it, by channel. Between two pieces it is a few numbers
that can be kept as JSON, so that another process can go on with it.
"""

from __future__ import annotations

import io
import re
from abc import ABC, abstractmethod
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray
from vcd.reader import TokenKind, VCDParseError, tokenize

from .edges_csv import MOST_US, EdgesError
from .tables import Head, head_of

UNIT_NS = {"s": 1e9, "ms": 1e6, "us": 1e3, "ns": 1.0, "ps": 1e-3, "fs": 1e-6}
MOST_NS = MOST_US * 1000
HYSTERESIS = 0.1  # of the swing, around the threshold, so that noise on a slow edge is not taken for bounce
STILL = 0.3  # V: what moves by less does not move (common practice)
END = "$enddefinitions"
Changes = dict[str, tuple[list[int], list[int]]]  # by channel: instants, ns; the level from then on


class Reader(ABC):
    """Reads one file."""

    kind = ""

    @abstractmethod
    def feed(self, text: str, last: bool = False) -> Changes:
        """The changes in the next piece of the file; the first of a channel is its level as it begins. `last`: there
        is no more. Raises `EdgesError`, naming the line."""

    def state(self) -> dict[str, Any]:
        """What must be known to go on."""
        return {"kind": self.kind, **asdict(self)}  # type: ignore[call-overload]


@dataclass
class VcdReader(Reader):
    """A value change dump (IEEE 1364-2001 §18): every signal of a single bit in it."""

    head: str | None = ""  # what came before its declarations ended; none: they did
    names: dict[str, str] = field(default_factory=dict)
    tick_ns: float = 1.0
    at_ns: int = 0
    levels: dict[str, int] = field(default_factory=dict)
    tail: str = ""
    line: int = 0  # so many lines are behind
    aside: bool = False  # in a comment
    skips: bool = False  # what comes next is the name of what has several bits

    kind = "vcd"

    def feed(self, text: str, last: bool = False) -> Changes:
        """See `Reader.feed`."""
        if self.head is not None:
            self.head += text
            before, end, text = self.head.partition(END)
            _, closed, text = text.partition("$end")
            if not closed:
                if last or len(self.head) > 2_000_000:
                    raise EdgesError("This is not a value change dump that can be read: its declarations do not end.")
                return {}
            self.names, self.tick_ns = vcd_head(f"{before}{end} $end\n")
            self.line = self.head.count("\n", 0, len(self.head) - len(text))
            self.head = None
        text = self.tail + text
        cut = len(text) if last else text.rfind("\n") + 1
        self.tail, text = text[cut:], text[:cut]
        found = self._changes(text)
        self.line += text.count("\n")
        return {self.names[code]: rows for code, rows in found.items()}

    def _changes(self, text: str) -> Changes:
        names, levels, tick_ns = self.names, self.levels, self.tick_ns
        found: Changes = {code: ([], []) for code in names}
        at_ns, aside, skips = self.at_ns, self.aside, self.skips
        # Written by hand, for there are millions: a reader of every kind of token takes ten times as long.
        for place, word in enumerate(words := text.split()):
            first = word[0]
            if aside or skips:
                aside, skips = aside and word != "$end", False
            elif first == "#" and word[1:].isdigit():
                now_ns = round(int(word[1:]) * tick_ns) if len(word) < 40 else MOST_NS + 1
                if now_ns > MOST_NS:
                    raise EdgesError("Its times go on for longer than a week; nothing was imported.")
                if now_ns < at_ns:
                    raise self._wrong(text, words[:place], word, "is a time before the one above it")
                at_ns = now_ns
            elif first in "01":
                code = word[1:]
                level = 1 if first == "1" else 0
                if code in found and levels.get(code) != level:
                    levels[code] = level
                    at, to = found[code]
                    at.append(at_ns)
                    to.append(level)
            elif first in "bBrR":
                skips = True
            elif word == "$comment":
                aside = True
            elif first not in "xXzZ$":
                raise self._wrong(text, words[:place], word, "is no change of a signal")
        self.at_ns, self.aside, self.skips = at_ns, aside, skips
        return {code: rows for code, rows in found.items() if rows[0]}

    def _wrong(self, text: str, before: list[str], word: str, said: str) -> EdgesError:
        at = 0
        for one in before:
            at = text.index(one, at) + len(one)
        at = text.index(word, at)
        column = at - text.rfind("\n", 0, at)
        return EdgesError(f"Line {self.line + text.count(chr(10), 0, at) + 1}, column {column}: “{word[:20]}” {said}.")


def vcd_head(text: str) -> tuple[dict[str, str], float]:
    """(names of single bits by their codes, ns of a tick) of what a dump declares. Raises `EdgesError`."""
    names: dict[str, str] = {}
    scope: list[str] = []
    tick_ns = 1e3
    try:
        for token in tokenize(io.BytesIO(text.encode())):
            if token.kind is TokenKind.TIMESCALE:
                tick_ns = int(token.timescale.magnitude) * UNIT_NS[str(token.timescale.unit.value)]
            elif token.kind is TokenKind.SCOPE:
                scope.append(token.scope.ident)
            elif token.kind is TokenKind.UPSCOPE:
                scope.pop()
            elif token.kind is TokenKind.VAR and token.var.size == 1:
                names.setdefault(token.var.id_code, ".".join([*scope, token.var.reference]))
    except (VCDParseError, IndexError, KeyError, ValueError, OverflowError) as error:
        raise EdgesError(f"This is not a value change dump that can be read: {str(error)[:80]}.") from None
    return names, tick_ns


@dataclass
class TableReader(Reader):
    """A table of numbers: a time and levels or volts in each row, or samples at a rate that its head names."""

    head: dict[str, Any] | None = None
    tail: str = ""
    line: int = 0
    row: int = 0
    begins: float | None = None  # the time of the first row, as it stands there
    last: float = 0.0
    spans: dict[str, list[float]] = field(default_factory=dict)  # by channel the least and the most so far
    levels: dict[str, int] = field(default_factory=dict)

    kind = "table"

    def feed(self, text: str, last: bool = False) -> Changes:
        """See `Reader.feed`."""
        text = self.tail + (text if self.line or self.tail else text.removeprefix("\ufeff"))
        cut = len(text) if last else text.rfind("\n") + 1
        self.tail, text = text[cut:], text[:cut]
        if self.head is None:
            if not last and text.count("\n") < 64:
                self.tail = text + self.tail
                return {}
            found = head_of(text)
            self.head = asdict(found)
            text = "".join(text.splitlines(keepends=True)[found.lines :])
            self.line = found.lines
        if not text.strip():
            return {}
        rows = self._numbers(text, head := Head(**self.head))
        at_ns = self._times(rows, head)
        self.line += text.count("\n")
        self.row += len(rows)
        return self._changes(rows, at_ns, head)

    def _numbers(self, text: str, head: Head) -> NDArray[np.float64]:
        body = text.replace(",", ".") if head.comma else text
        try:
            rows = np.loadtxt(io.StringIO(body), delimiter=head.delimiter, ndmin=2, comments="#")
        except (ValueError, OverflowError) as error:
            raise EdgesError(f"{self._fault(str(error))} Nothing was imported.") from None
        if rows.shape[1] != len(head.names) + head.timed:
            raise EdgesError(
                f"Line {self.line + 1} has {rows.shape[1]} columns, not {len(head.names) + head.timed}; nothing was"
                " imported."
            )
        if not np.isfinite(rows).all():
            bad = int(np.flatnonzero(~np.isfinite(rows).all(axis=1))[0])
            raise EdgesError(f"Line {self.line + bad + 1} has a number that is not finite; nothing was imported.")
        return rows

    def _fault(self, said: str) -> str:
        """numpy's words for a bad row, as a line and a column of the file."""
        if bad := re.search(r"could not convert string '(.*)' to \w+ at row (\d+), column (\d+)", said):
            return f"Line {self.line + int(bad[2]) + 1}, column {bad[3]}: “{bad[1][:20]}” is not a number."
        if row := re.search(r"at row (\d+)", said):
            return f"Line {self.line + int(row[1])} has another number of columns than the one above it."
        return f"The file is not a table of numbers ({said[:80]})."

    def _times(self, rows: NDArray[np.float64], head: Head) -> NDArray[np.int64]:
        if head.step_ns is not None:
            samples: NDArray[np.int64] = np.rint((self.row + np.arange(len(rows))) * head.step_ns).astype(np.int64)
            return samples
        times = rows[:, 0]
        before = times[0] if self.begins is None else self.last
        back = np.flatnonzero(np.diff(times, prepend=before) < 0)
        if len(back):
            raise EdgesError(f"Line {self.line + int(back[0]) + 1}: its time is before the line above it.")
        self.begins = float(times[0]) if self.begins is None else self.begins
        self.last = float(times[-1])
        if (self.last - self.begins) * head.tick_ns > MOST_NS:
            raise EdgesError("Its times go on for longer than a week; nothing was imported.")
        return np.rint((times - self.begins) * head.tick_ns).astype(np.int64)

    def _changes(self, rows: NDArray[np.float64], at_ns: NDArray[np.int64], head: Head) -> Changes:
        found: Changes = {}
        for place, name in enumerate(head.names):
            values = rows[:, place + head.timed] * head.scales[place]
            levels = self._levels(name, values)
            known = name in self.levels
            before = self.levels.get(name, 1 - int(levels[0]))
            places = np.flatnonzero(np.diff(levels.astype(np.int8), prepend=np.int8(before)))
            if len(places):
                at = at_ns[places].tolist()
                found[name] = ([0, *at[1:]] if not known and places[0] == 0 else at, levels[places].tolist())
            self.levels[name] = int(levels[-1])
        return found

    def _levels(self, name: str, values: NDArray[np.float64]) -> NDArray[np.int64]:
        """Above or below the middle of what was seen so far, with hysteresis; 0 and 1 as they are."""
        low, high = self.spans.get(name, [np.inf, -np.inf])
        low, high = min(low, float(values.min())), max(high, float(values.max()))
        self.spans[name] = [low, high]
        if low >= 0.0 and high <= 1.0 and np.isin(values[:1000], (0.0, 1.0)).all():
            return (values > 0.5).astype(np.int64)
        if high - low < STILL:
            level = self.levels.get(name, int(high > 2 * STILL))
            return np.full(len(values), level, dtype=np.int64)
        middle, band = (low + high) / 2, (high - low) * HYSTERESIS / 2
        sure = np.where(values >= middle + band, 1, np.where(values <= middle - band, 0, -1))
        # Between the two, the level is the last that was sure.
        place = np.maximum.accumulate(np.where(sure >= 0, np.arange(len(sure)), -1))
        first = self.levels.get(name, int(sure[np.argmax(sure >= 0)]) if (sure >= 0).any() else int(high > 2 * STILL))
        found: NDArray[np.int64] = np.array(np.where(place < 0, first, sure[np.maximum(place, 0)]), dtype=np.int64)
        return found


READERS: dict[str, type[Reader]] = {one.kind: one for one in (VcdReader, TableReader)}


def reader_of(state: dict[str, Any]) -> Reader:
    """The reader that `Reader.state` was of."""
    said = dict(state)
    return READERS[said.pop("kind")](**said)


def signals_in(reader: Reader, text: str) -> dict[str, list[tuple[float, int]]]:
    """By name the changes of every channel in a whole text: (µs, level). Raises `EdgesError`."""
    found = reader.feed(text, last=True)
    return {name: [(ns / 1000, level) for ns, level in zip(*rows, strict=True)] for name, rows in found.items()}
