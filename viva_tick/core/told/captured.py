"""A capture of several channels, held against the bench: which channel is which pin, what was done to the contacts, how
they bounced, how fast the board's clock is."""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import pairwise
from statistics import median

from ..document import Bench, Edge
from ..document import Capture as ContactCapture
from ..document.parts import ContactLine
from ..formats import EdgesError, is_table, table_signals, vcd_signals
from ..ids import free_id
from .lines import Told

REST_US = 30_000  # a contact that stands so long has come to rest
CLOSE_US = 20_000  # changes so close are no output's
MOST_EDGES = 20_000
TOGGLE = "pass"  # a channel that toggles once a pass
Points = list[tuple[float, int]]


@dataclass(frozen=True)
class Signal:
    """What a channel can be: the pin of a contact or of an output."""

    what: str
    of: str
    name: str
    pin: str

    @property
    def key(self) -> str:
        """As a form says it."""
        return f"{self.what} {self.of}"


@dataclass(frozen=True)
class Channel:
    """One channel: its name, how often it changes, what it was taken for, and by what: "name", "you", "activity"."""

    name: str
    changes: int
    signal: Signal | None
    by: str


@dataclass(frozen=True)
class Bounce:
    """How a contact bounced: how many moves were seen, and the longest time until it was at rest, µs."""

    of: str
    name: str
    moves: int
    longest_us: int


@dataclass(frozen=True)
class Capture:
    """What was read: the channels; what they say, as rows; how contacts bounced; what stands in the file for each."""

    channels: tuple[Channel, ...]
    rows: tuple[Told, ...]
    bounces: tuple[Bounce, ...]
    length_us: int
    points: dict[str, Points]


def is_capture(text: str) -> bool:
    """Whether a text is a value change dump or a table of numbers."""
    return "$enddefinitions" in text[:200_000] or is_table(text)


def signals_of(bench: Bench) -> list[Signal]:
    """Everything that a channel can be."""
    found = [Signal("cleaned", line.id, line.name, line.pin) for line in bench.contacts]
    found += [Signal("output", one.id, one.name, one.pin) for one in bench.channels]
    return [*found, Signal(TOGGLE, TOGGLE, "each pass toggles it", "spare pin")]


def _plain(text: str) -> str:
    return re.sub(r"[^a-z0-9]", "", text.lower())


def _matched(bench: Bench, points: dict[str, Points], said: dict[str, str]) -> dict[str, tuple[Signal | None, str]]:
    """What each channel is: as the person said, by its name, or as it moves where that leaves no choice."""
    known = {one.key: one for one in signals_of(bench)}
    found: dict[str, tuple[Signal | None, str]] = {
        name: (known.get(said[name]), "you") for name in points if name in said
    }
    free = [one for one in known.values() if one not in {signal for signal, _ in found.values()}]
    for name in points:
        if name in found:
            continue
        plain = {_plain(name), _plain(name.rpartition(".")[2])}
        of = [one for one in free if plain & {*map(_plain, (one.of, one.name, one.pin))}]
        if len(of) == 1:
            found[name] = (of[0], "name")
            free.remove(of[0])
    for what in ("cleaned", "output"):
        left = [name for name in points if name not in found and _bounces(points[name]) == (what == "cleaned")]
        left = [name for name in left if len(points[name]) > 1]
        mine = [one for one in free if one.what == what]
        if len(left) == len(mine) == 1:
            found[left[0]] = (mine[0], "activity")
    return {name: found.get(name, (None, "")) for name in points}


def _bounces(points: Points) -> bool:
    return any(later - at < CLOSE_US for (at, _), (later, _) in pairwise(points))


def _moves(points: Points) -> list[tuple[float, float, int]]:
    """(begins, comes to rest, level then) of every move of a contact, its bounce and all."""
    found: list[tuple[float, float, int]] = []
    accepted = points[0][1]
    begins: float | None = None
    for place in range(1, len(points)):
        at, level = points[place]
        begins = at if begins is None else begins
        if place + 1 < len(points) and points[place + 1][0] - at < REST_US:
            continue
        if level != accepted:
            found.append((begins, at, level))
            accepted = level
        begins = None
    return found


def _pressed_level(line: ContactLine) -> int:
    return 1 if line.active_level == "high" else 0


def read_channels(text: str, bench: Bench, said: dict[str, str] | None = None) -> Capture:
    """The capture in a text; `said`: what the person takes channels for, by name (“cleaned foot-pedal”). Raises
    `EdgesError`."""
    points = vcd_signals(text) if "$enddefinitions" in text[:200_000] else table_signals(text)
    return read_points(points, bench, said)


def read_points(points: dict[str, Points], bench: Bench, said: dict[str, str] | None = None) -> Capture:
    """The same of changes that were read already: by channel (µs, level)."""
    points = {name: rows for name, rows in points.items() if rows}
    if not any(len(rows) > 1 for rows in points.values()):
        raise EdgesError("No channel of this file ever changes.")
    matched = _matched(bench, points, said or {})
    rows: list[Told] = []
    bounces = []
    lines, outputs = {one.id: one for one in bench.contacts}, {one.id: one for one in bench.channels}
    for name, (signal, _) in matched.items():
        if signal is None:
            continue
        if signal.what == "cleaned":
            line, moves = lines[signal.of], _moves(points[name])
            down = _pressed_level(line)
            rows.append(Told(0, "cleaned", line.id, int(points[name][0][1] == down), 0))
            rows += [Told(round(at), "cleaned", line.id, int(level == down), 0) for at, _, level in moves]
            longest = max((round(rest - at) for at, rest, _ in moves), default=0)
            bounces.append(Bounce(line.id, line.name, len(moves), longest))
        elif signal.what == "output":
            on = 1 if outputs[signal.of].active_level == "high" else 0
            rows += [Told(round(at), "output", signal.of, 100 if level == on else 0, 0) for at, level in points[name]]
    channels = tuple(Channel(name, len(points[name]) - 1, *matched[name]) for name in points)
    length_us = round(max(rows_[-1][0] for rows_ in points.values()))
    return Capture(channels, tuple(sorted(rows, key=lambda one: one.at_us)), tuple(bounces), length_us, points)


@dataclass(frozen=True)
class Clock:
    """The board's clock against the one of the instrument: what must be added to the instants of the one, µs, by how
    many millionths it is fast, and how far single instants lie from that, µs (the median)."""

    offset_us: float
    ppm: float
    jitter_us: float


def aligned(pairs: list[tuple[float, float]]) -> Clock | None:
    """The line through (instant by the one, instant by the other) of the same events: the median of the slopes
    between any two that are not close together (H. Theil, P. K. Sen), so that a few wrong pairs do no harm. None for
    fewer than three."""
    if len(pairs) < 3:
        return None
    ordered = sorted(pairs)[:: max(1, len(pairs) // 300)]
    slopes = [
        (v2 - v1) / (t2 - t1)
        for n, (t1, v1) in enumerate(ordered)
        for t2, v2 in ordered[n + 1 :]
        if t2 - t1 > (ordered[-1][0] - ordered[0][0]) / 50
    ]
    slope = median(slopes) if slopes else 1.0
    offset = median(other - slope * one for one, other in ordered)
    jitter = median(abs(other - slope * one - offset) for one, other in ordered)
    return Clock(offset, (slope - 1) * 1e6, jitter)


def capture_of(bench: Bench, capture: Capture, contact_id: str) -> ContactCapture:
    """The moves of a contact as a capture of a bench. Raises KeyError where no channel is that contact."""
    mine = ("cleaned", contact_id)
    name = next((one.name for one in capture.channels if one.signal and (one.signal.what, one.signal.of) == mine), None)
    if name is None:
        raise KeyError("no channel of the capture is that contact.")
    ident = free_id(f"{contact_id.replace('.', '-')}-captured"[:36], {one.id for one in bench.captures})
    edges = tuple(Edge(at_us=round(at), level=level) for at, level in capture.points[name][:MOST_EDGES])
    title = f"{bench.contact(contact_id).name}, captured"[:60]
    return ContactCapture(id=ident, name=title, rest_us=REST_US, edges=edges)
