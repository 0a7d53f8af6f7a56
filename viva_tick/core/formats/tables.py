"""The head of a table of numbers, as instruments write it: lines about the recording, names, units, then the rows."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .edges_csv import EdgesError

MOST_LINES = 60  # that may stand above the first row
TIMES = {"s": 1e9, "ms": 1e6, "us": 1e3, "µs": 1e3, "μs": 1e3, "ns": 1.0, "sec": 1e9, "seconds": 1e9, "second": 1e9}
TIMES |= {"milliseconds": 1e6, "microseconds": 1e3, "nanoseconds": 1.0}
VOLTS = {"v": 1.0, "volt": 1.0, "volts": 1.0, "mv": 1e-3}
HERTZ = {"hz": 1.0, "khz": 1e3, "mhz": 1e6, "ghz": 1e9, "sa/s": 1.0, "s/s": 1.0, "": 1.0}
UNIT = re.compile(r"(?:^|[^a-zµμ])([a-zµμ/]+)[\s)\]]*$", re.IGNORECASE)
RATE = re.compile(r"(?:sample|sampling)?[ _]*rate[^0-9]*([0-9][0-9.,e+]*)\s*([a-z/]*)", re.IGNORECASE)
STEP = re.compile(r"(?:interval|increment|period|step)[^0-9]*([0-9][0-9.,e+-]*)\s*([a-zµμ]*)", re.IGNORECASE)


@dataclass(frozen=True)
class Head:
    """How a table is to be read: what parts its cells, whether numbers have a decimal comma, the channels' names and
    what their numbers are multiplied by; whether a time (or a number of the sample) stands first, and ns of its unit;
    or ns from one sample to the next; how many lines stand above the first row."""

    delimiter: str
    comma: bool
    names: tuple[str, ...]
    scales: tuple[float, ...]
    timed: bool
    tick_ns: float
    step_ns: float | None
    lines: int


def is_number(text: str) -> bool:
    """Whether a cell is a number, with a decimal point or a decimal comma."""
    try:
        float(text.strip().strip('"').replace(",", "."))
    except ValueError:
        return False
    return True


def _cells(line: str, delimiter: str) -> list[str]:
    return [cell.strip().strip('"') for cell in line.rstrip("\r\n").split(delimiter)]


def _first_row(lines: list[str]) -> tuple[int, str] | None:
    """(which line is the first row of numbers, what parts its cells)."""
    for place, line in enumerate(lines[:MOST_LINES]):
        for delimiter in (";", "\t", ","):
            cells = _cells(line, delimiter)
            if len(cells) > 1 and all(is_number(cell) for cell in cells):
                return place, delimiter
    return None


def _unit(cell: str, known: dict[str, float]) -> float | None:
    found = UNIT.search(cell)
    return known.get(found[1].lower()) if found else None


def head_of(text: str) -> Head:
    """The head of a table. Raises `EdgesError` where there is no row of two numbers."""
    lines = text[:200_000].splitlines()
    found = _first_row(lines)
    if found is None:
        raise EdgesError("The table needs a time and a level at least in each row, all of them numbers.")
    place, delimiter = found
    row = _cells(lines[place], delimiter)
    above = [cells for cells in (_cells(line, delimiter) for line in lines[:place]) if any(cells)]
    units: list[str] = []
    if above and len(above[-1]) == len(row) and _is_units(above[-1]) and len(above) > 1:
        units = above.pop()
    names = above.pop() if above and len(above[-1]) in (len(row), len(row) + 1) else []
    said = "\n".join(" ".join(cells) for cells in above)
    first = f"{names[0] if names else ''} {units[0] if units else ''}".strip()
    numbered = bool(re.fullmatch(r"(sample|index|no\.?|#|n)[a-z ]*", first.lower()))
    named = bool(re.search(r"time|zeit|temps|^t\b|^t_|second", first.lower())) or _unit(first, TIMES) is not None
    step_ns = _step(said)
    timed = named or numbered or step_ns is None
    if numbered and step_ns is None:
        raise EdgesError("Its rows are numbered and nothing says how many there are a second; write it above them.")
    titles = [*(names[1:] if timed else names)][: len(row) - timed]
    titles += [""] * (len(row) - timed - len(titles))
    scales = [
        _unit(units[n + timed] if units else title, VOLTS) or 1.0 for n, title in enumerate(titles)
    ]  # a title of its own may end in “V” too: “D4 (V)”
    return Head(
        delimiter=delimiter,
        comma=delimiter != ",",
        names=_apart([re.sub(r"\s*[(\[]\s*m?v(olts?)?\s*[)\]]$", "", one, flags=re.IGNORECASE) for one in titles]),
        scales=tuple(scales),
        timed=timed,
        tick_ns=_unit(first, TIMES) or 1e9,
        step_ns=None if named and not numbered else step_ns,
        lines=place,
    )


def _is_units(cells: list[str]) -> bool:
    bare = [re.sub(r"[()\[\]\s]", "", cell).lower() for cell in cells]
    return all(not cell or cell in TIMES or cell in VOLTS for cell in bare) and any(bare)


def _step(said: str) -> float | None:
    """ns from one sample to the next, as the lines above say it."""
    if rate := RATE.search(said):
        per_s = float(rate[1].rstrip(".,").replace(",", ".")) * HERTZ.get(rate[2].lower(), 1.0)
        return 1e9 / per_s if per_s > 0 else None
    if step := STEP.search(said):
        return float(step[1].rstrip(".,").replace(",", ".")) * TIMES.get(step[2].lower(), 1e9) or None
    return None


def _apart(titles: list[str]) -> tuple[str, ...]:
    """Names for all, no two alike."""
    found: list[str] = []
    for place, title in enumerate(titles, 1):
        name = title.strip() or f"channel {place}"
        found.append(name if name not in found else f"{name} {place}")
    return tuple(found)
