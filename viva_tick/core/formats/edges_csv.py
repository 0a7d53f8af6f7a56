"""Edges as CSV (RFC 4180): time and level, with a header or none, in s, ms or µs."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass
from typing import Literal

from ..document import Edge

Unit = Literal["s", "ms", "us"]
UNITS: dict[str, tuple[int, str]] = {
    "s": (1_000_000, "seconds"),
    "ms": (1000, "milliseconds"),
    "us": (1, "microseconds"),
}
MOST_BYTES = 2_000_000
MOST_ROWS = 100_000
MOST_EDGES = 20_000
MOST_US = 604_800_000_000  # a week, as in the document
SHOWN = 8
LEVELS = {"0": 0, "1": 1, "low": 0, "high": 1, "l": 0, "h": 1, "false": 0, "true": 1, "off": 0, "on": 1}
LEVELS |= {"0.0": 0, "1.0": 1}


class EdgesError(ValueError):
    """The file was refused as a whole; `rows` says which lines are wrong, as sentences."""

    def __init__(self, sentence: str, rows: tuple[str, ...] = ()) -> None:
        self.sentence = sentence
        self.rows = rows
        super().__init__(" ".join([sentence, *rows]))


@dataclass(frozen=True)
class EdgesFile:
    """What was read: the changes only, from time 0; and what was made of the file."""

    edges: tuple[Edge, ...]
    unit: Unit
    rows: int
    header: bool


def header_unit(header: list[str]) -> Unit | None:
    """The unit that a header names for the time column, or None."""
    found = re.search(
        r"(?:^|[^a-zµμ])(us|µs|μs|ms|s|seconds?|milliseconds?|microseconds?)\W*$", header[0].strip().lower()
    )
    if not found:
        return None
    word = found[1]
    if word.startswith(("us", "µ", "μ", "micro")):
        return "us"
    return "ms" if word.startswith(("ms", "milli")) else "s"


def _number(text: str) -> float:
    value = float(text.strip().replace(",", "."))
    if value != value or value in (float("inf"), float("-inf")):
        raise ValueError(text)
    return value


def _is_header(row: list[str]) -> bool:
    try:
        _number(row[0])
    except ValueError:
        return True
    return False


def _row(row: list[str], scale: int) -> tuple[int, int] | str:
    """(µs, level), or what is wrong with the row."""
    if len(row) != 2:
        return f"has {len(row)} columns, not two (time, level)"
    try:
        at = _number(row[0])
    except ValueError:
        return f"“{row[0][:20]}” is not a time"
    level = LEVELS.get(row[1].strip().lower())
    if level is None:
        return f"“{row[1][:20]}” is not a level; 0 and 1, or low and high, are"
    if abs(at) * scale > MOST_US:
        return f"“{row[0][:20]}” is a time of more than a week"
    return round(at * scale), level


def read_edges(text: str, unit: Unit | None = None) -> EdgesFile:
    """Read a capture. The unit is the one asked for, else the header's (“time (ms)”, “t_us”), else seconds.

    Times may begin anywhere and must not run backwards. Raises `EdgesError`, naming bad rows by line; nothing is
    half-read.
    """
    if len(text.encode("utf-8", "replace")) > MOST_BYTES:
        raise EdgesError(f"The file is over {MOST_BYTES // 1_000_000} MB; cut it to the presses that matter.")
    text = text.removeprefix("\ufeff")
    first_line = text.split("\n", 1)[0]
    delimiter = ";" if ";" in first_line else "\t" if "\t" in first_line and "," not in first_line else ","
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    read: list[tuple[int, list[str]]] = []
    try:
        for row in reader:
            if row and any(cell.strip() for cell in row):
                read.append((reader.line_num, row))
            if len(read) > MOST_ROWS:
                raise EdgesError(f"The file has more than {MOST_ROWS:,} rows; cut it to the presses that matter.")
    except csv.Error as error:
        raise EdgesError(f"Line {reader.line_num} is not CSV: {error}.") from None
    header = bool(read) and _is_header(read[0][1]) and len(read) > 1
    chosen: Unit = unit or (header_unit(read[0][1]) if header else None) or "s"
    points, faults = _points(read[1:] if header else read, UNITS[chosen][0])
    if faults:
        more = (f"and {len(faults) - SHOWN} lines more.",) if len(faults) > SHOWN else ()
        count = "1 line is" if len(faults) == 1 else f"{len(faults)} lines are"
        raise EdgesError(f"{count} wrong, and nothing was imported.", (*faults[:SHOWN], *more))
    edges = _changes(points)
    if len(edges) > MOST_EDGES:
        raise EdgesError(f"The level changes {len(edges):,} times; {MOST_EDGES:,} is the most. Nothing was imported.")
    if len(edges) < 2:
        raise EdgesError("The level never changes in this file, so there is no press in it; nothing was imported.")
    return EdgesFile(edges, chosen, len(points), header)


def _points(rows: list[tuple[int, list[str]]], scale: int) -> tuple[list[tuple[int, int]], list[str]]:
    points: list[tuple[int, int]] = []
    faults: list[str] = []
    for line, row in rows:
        point = _row(row, scale)
        if isinstance(point, str):
            faults.append(f"Line {line}: {point}.")
        elif points and point[0] < points[-1][0]:
            faults.append(f"Line {line}: its time is before the line above it.")
        else:
            points.append(point)
    return points, faults


def _changes(points: list[tuple[int, int]]) -> tuple[Edge, ...]:
    edges: list[Edge] = []
    for at_us, level in points:
        if not edges or edges[-1].level != level:
            edges.append(Edge(at_us=at_us - points[0][0], level=level))
    return tuple(edges)


def write_edges(edges: tuple[Edge, ...]) -> str:
    """A capture as CSV with a header, times in µs, as `read_edges` reads it."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(["time_us", "level"])
    writer.writerows((edge.at_us, edge.level) for edge in edges)
    return out.getvalue()
