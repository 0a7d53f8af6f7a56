"""The lines of a trace as a terminal shows them, among whatever else the program prints."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..document import Bench

LINE = re.compile(r"(?:^|\D)(\d{1,16}),(cleaned|state|output),([a-z0-9.-]{1,80}),(\d{1,3})\s*$")
CAME = re.compile(r"\s*\[?(\d{1,2}):(\d\d):(\d\d(?:[.,]\d{1,6})?)\]?\s*(?:->|>|:|\s)")
MOST = 100_000  # lines that are read


@dataclass(frozen=True)
class Told:
    """One change: when (µs of the board's counter), what it is, of which part or machine, its value now (of a state its
    place), in which line it stands."""

    at_us: int
    what: str
    of: str
    value: int
    line: int


@dataclass(frozen=True)
class Lines:
    """What was read: the changes, from the board's last start; how often it had started anew before; what else stands
    in the text, by line; what is told of things that the bench does not have; whether there was more."""

    rows: tuple[Told, ...]
    starts: int
    others: tuple[tuple[int, str], ...]
    strangers: tuple[tuple[int, str], ...]
    more: bool


def read_lines(text: str, bench: Bench) -> Lines:
    """The changes in a text. Lines that are no changes are kept apart, none is lost; where the counter goes back, the
    board has started anew."""
    sizes = {("cleaned", line.id): 2 for line in bench.contacts}
    sizes |= {("state", machine.id): len(machine.states) for machine in bench.firmware.machines}
    sizes |= {("output", channel.id): 101 for channel in bench.channels}
    rows: list[Told] = []
    others: list[tuple[int, str]] = []
    strangers: list[tuple[int, str]] = []
    starts = 0
    lines = text.splitlines()
    for number, line in enumerate(lines[:MOST], 1):
        found = LINE.search(line)
        if found is None:
            if line.strip():
                others.append((number, line.strip()[:120]))
            continue
        at_us, what, of, value = int(found[1]), found[2], found[3], int(found[4])
        if value >= sizes.get((what, of), 0):
            strangers.append((number, f"{what},{of},{value}"))
            continue
        if rows and at_us < rows[-1].at_us:
            starts, rows = starts + 1, []
        rows.append(Told(at_us, what, of, value, number))
    return Lines(tuple(rows), starts, tuple(others), tuple(strangers), len(lines) > MOST)


def arrivals(text: str) -> dict[int, float]:
    """When lines came, µs, by number, where a terminal wrote the time of day before each: “12:00:01.250 -> …”. Past
    midnight it goes on."""
    found: dict[int, float] = {}
    days = 0
    for number, line in enumerate(text.splitlines()[:MOST], 1):
        if said := CAME.match(line):
            hours, minutes, seconds = int(said[1]), int(said[2]), float(said[3].replace(",", "."))
            at_us = ((days * 24 + hours) * 60 + minutes) * 60e6 + seconds * 1e6
            if found and at_us < max(found.values()) - 43_200e6:
                days, at_us = days + 1, at_us + 86_400e6
            found[number] = at_us
    return found
