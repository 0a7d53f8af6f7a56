"""Captures from other instruments: edges or evenly spaced samples as CSV, digital or analogue, and value changes (VCD).

A million samples are read with numpy; a file that it cannot read is read again row by row, so that the wrong rows
can be named. Nothing is half-read.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document import Edge
from .edges_csv import MOST_EDGES, MOST_US, UNITS, EdgesError, EdgesFile, Unit, header_unit, read_edges
from .streams import END, HYSTERESIS, Reader, TableReader, VcdReader, signals_in
from .tables import head_of, is_number

LARGE_BYTES = 40_000_000
FAST_BYTES = 400_000  # above this numpy reads; below, the reader that names every fault


@dataclass(frozen=True)
class Asked:
    """What the person said of the file, if anything: the unit of its times, samples a second where it has no times,
    the threshold of an analogue signal, the name of the signal in a VCD."""

    unit: Unit | None = None
    rate_hz: float | None = None
    threshold: float | None = None
    signal: str | None = None


def read_capture(text: str, asked: Asked | None = None) -> EdgesFile:
    """The changes in a file, from time 0. Raises `EdgesError`, naming what is wrong; nothing is half-read."""
    asked = asked or Asked()
    if len(text) > LARGE_BYTES:
        raise EdgesError(f"The file is over {LARGE_BYTES // 1_000_000} MB; cut it to the presses that matter.")
    if "$enddefinitions" in text[:200_000]:
        return _vcd(text, asked)
    first = next((line for line in text[:4000].splitlines()[1:] if line.strip()), "")
    columns = len(first.replace(";", ",").replace("\t", ",").split(","))
    if len(text) > FAST_BYTES or columns == 1 or asked.threshold is not None or _analogue(first):
        return _table(text, asked)
    return read_edges(text, asked.unit)


def _analogue(line: str) -> bool:
    cell = line.replace(";", ",").replace("\t", ",").split(",")[-1].strip()
    try:
        return float(cell) not in (0.0, 1.0)
    except ValueError:
        return False


def _table(text: str, asked: Asked) -> EdgesFile:
    """A table of numbers: time and level or volts, or one column of samples."""
    lines = text.removeprefix("\ufeff")
    first_line, _, rest = lines.partition("\n")
    delimiter = ";" if ";" in first_line else "\t" if "\t" in first_line and "," not in first_line else ","
    header = not is_number(first_line.split(delimiter)[0])
    chosen = asked.unit or (header_unit(first_line.split(delimiter)) if header else None) or "s"
    body = rest if header else lines
    if delimiter == ";":
        body = body.replace(",", ".")
    try:
        table = np.loadtxt(io.StringIO(body), delimiter=delimiter, ndmin=2)
    except (ValueError, OverflowError) as error:
        if len(text) <= 1_000_000 and asked.threshold is None and asked.rate_hz is None:
            return read_edges(text, asked.unit)  # it will name the rows
        raise EdgesError(f"{_row_fault(str(error), header)} Nothing was imported.") from None
    if table.size == 0 or not np.isfinite(table).all():
        raise EdgesError("The file holds no numbers, or some that are not finite; nothing was imported.")
    if table.shape[1] > 2:
        raise EdgesError(f"The file has {table.shape[1]} columns, not two (time, level); nothing was imported.")
    if table.shape[1] == 1:
        if not asked.rate_hz or asked.rate_hz <= 0:
            raise EdgesError("The file has samples without times; say how many a second. Nothing was imported.")
        at_us = np.arange(len(table)) * (1e6 / asked.rate_hz)
    else:
        at_us = (table[:, 0] - table[0, 0]) * UNITS[chosen][0]
        back = np.flatnonzero(np.diff(at_us) < 0)
        if len(back):
            line = int(back[0]) + 2 + header
            fault = f"Line {line}: its time is before the line above it."
            raise EdgesError("1 line is wrong, and nothing was imported.", (fault,))
    levels = _levels(table[:, -1], asked.threshold)
    return _edges(at_us, levels, chosen, len(table), header)


def _row_fault(said: str, header: bool) -> str:
    """numpy's words for a bad cell, as a line of the file."""
    words = said.replace("'", "“", 1).replace("'", "”", 1)
    if " at row " in words:
        place = words.split(" at row ")[1].split(",")[0].split(";")[0]
        if place.strip().isdigit():
            return f"Line {int(place) + 1 + header} is not a row of numbers."
    return f"The file is not a table of numbers ({words[:80]})."


def _levels(values: NDArray[np.float64], threshold: float | None) -> NDArray[np.bool_]:
    """Above or below, with hysteresis for volts; 0 and 1 as they are."""
    low, high = float(values.min()), float(values.max())
    if threshold is None and set(np.unique(values[:1000])) <= {0.0, 1.0} and (low, high) == (0.0, 1.0):
        return values > 0.5
    if low == high:
        raise EdgesError("The level never changes in this file, so there is no press in it; nothing was imported.")
    middle = (low + high) / 2 if threshold is None else threshold
    if not low < middle < high:
        raise EdgesError(f"The signal lies between {low:.3g} and {high:.3g}; {middle:.3g} is no threshold for it.")
    band = (high - low) * HYSTERESIS / 2
    sure = np.where(values >= middle + band, 1, np.where(values <= middle - band, 0, -1))
    # Between the two, the level is the last that was sure.
    place = np.where(sure >= 0, np.arange(len(sure)), -1)
    place = np.maximum.accumulate(place)
    first = sure[np.argmax(sure >= 0)]
    levels: NDArray[np.bool_] = np.where(place < 0, first, sure[np.maximum(place, 0)]) == 1
    return levels


def _edges(at_us: NDArray[Any], levels: NDArray[np.bool_], unit: Unit, rows: int, header: bool) -> EdgesFile:
    changes = np.flatnonzero(np.diff(levels.astype(np.int8))) + 1
    if len(changes) + 1 > MOST_EDGES:
        raise EdgesError(f"The level changes {len(changes):,} times; {MOST_EDGES:,} is the most. Nothing was imported.")
    if not len(changes):
        raise EdgesError("The level never changes in this file, so there is no press in it; nothing was imported.")
    places = [0, *changes.tolist()]
    last_us = float(at_us[places[-1]])
    if not last_us <= MOST_US:
        raise EdgesError(f"The last change comes after {last_us / 1e6:.3g} s; a week is the most.")
    edges = tuple(Edge(at_us=round(float(at_us[place])), level=int(levels[place])) for place in places)
    return EdgesFile(edges, unit, rows, header)


def vcd_signals(text: str) -> dict[str, list[tuple[float, int]]]:
    """By name the changes of every signal of a single bit in a value change dump (IEEE 1364-2001 §18): (µs, level).
    Raises `EdgesError`, naming the line."""
    return signals_in(VcdReader(), text)


def _vcd(text: str, asked: Asked) -> EdgesFile:
    """One signal of a value change dump."""
    points = vcd_signals(text)
    moving = [name for name, rows in points.items() if len({value for _, value in rows}) > 1]
    if not moving:
        raise EdgesError("No signal of a single bit changes in this file; nothing was imported.")
    chosen = asked.signal or (moving[0] if len(moving) == 1 else None)
    found = next((name for name in moving if chosen in (name, name.rpartition(".")[2])), None)
    if found is None:
        listed = ", ".join(moving[:8]) + (" …" if len(moving) > 8 else "")
        raise EdgesError(f"Which signal? The file has {listed}. Type its name and import it again.")
    rows = points[found]
    at_us = np.array([when - rows[0][0] for when, _ in rows])
    return _edges(at_us, np.array([value == 1 for _, value in rows]), "us", len(rows), header=False)


def table_signals(text: str) -> dict[str, list[tuple[float, int]]]:
    """By name the changes of every channel of a table of numbers: levels as they are, volts by a threshold in the
    middle. Raises `EdgesError`, naming the line."""
    return signals_in(TableReader(), text.lstrip("\ufeff\r\n \t"))


def reader_for(text: str) -> Reader | None:
    """What reads a file that begins so: a value change dump or a table of numbers; None where it is neither."""
    if END in text[:200_000] or text.lstrip().startswith(("$date", "$version", "$timescale", "$comment")):
        return VcdReader()
    return TableReader() if is_table(text) else None


def is_table(text: str) -> bool:
    """Whether a text looks like a table of several numbers a row, whatever stands above it."""
    try:
        head_of(text[:8000])
    except EdgesError:
        return False
    return True
