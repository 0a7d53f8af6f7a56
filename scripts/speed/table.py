"""Figures, each against its budget and as so many yardsticks of now; the table that comes of them."""

from __future__ import annotations

import platform
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

OUT = Path(__file__).parents[2] / "docs" / "speed.md"

SECONDS = {"s": 1.0, "ms": 0.001}
# The slowest yardstick that a figure of the first table with them had beside it (20.8 to 35.5 ms): who keeps a budget in
# these would have kept it in seconds at every moment of that table.
REFERENCE_S = 0.0355


class Row(NamedTuple):
    """A figure, its budget, and both in yardsticks of the time it was taken at, where it is a time."""

    what: str
    got: float
    budget: float
    unit: str
    least: bool
    yardsticks: float | None

    def kept(self, got: float, budget: float) -> bool:
        """Whether a figure is within a budget."""
        return got >= budget if self.least else got <= budget

    @property
    def budget_yardsticks(self) -> float:
        """The budget as so many yardsticks."""
        return self.budget * SECONDS[self.unit] / REFERENCE_S

    @property
    def cells(self) -> list[str]:
        """What the table shows of it."""
        said = [
            self.what,
            number(self.got, self.unit),
            f"{self.budget:g} {self.unit}",
            self.said(self.got, self.budget),
        ]
        if self.yardsticks is None:
            return [*said, "", "", ""]
        asked = self.budget_yardsticks
        return [*said, f"{self.yardsticks:.3g}", f"{asked:.3g}", self.said(self.yardsticks, asked)]

    def said(self, got: float, budget: float) -> str:
        """The same in a word."""
        return "yes" if self.kept(got, budget) else "**no**"


ROWS: list[Row] = []
PACE_S: list[float] = []  # the yardsticks so far


def yardstick_s() -> float:
    """The seconds of a fixed piece of plain Python: what a figure is held against in the same run, since a shared
    machine is not always as fast."""
    taken = []
    for _ in range(3):
        began, total, known = time.perf_counter(), 0, {n: n for n in range(1_000)}
        for n in range(300_000):
            total = (total + known[n % 1_000] * 3) & 0xFFFF
        taken.append(time.perf_counter() - began)
    return min(taken)


class Took(NamedTuple):
    """Seconds, and as so many yardsticks of the same moments."""

    seconds: float
    yardsticks: float

    def times(self, factor: float) -> Took:
        """As much of it."""
        return Took(self.seconds * factor, self.yardsticks * factor)


class Times:
    """What something took, again and again: each in yardsticks of its moment, the mean of one taken before it, or a few
    of them, and one after."""

    def __init__(self) -> None:
        self.seconds: list[float] = []
        self.yardsticks: list[float] = []
        self._pace_s = pace_s()

    def mark(self) -> None:
        """Take a yardstick: what was added since the last has lain between the two."""
        before_s, self._pace_s = self._pace_s, pace_s()
        between_s = (before_s + self._pace_s) / 2
        self.yardsticks += [one / between_s for one in self.seconds[len(self.yardsticks) :]]

    def of(self, figure: Callable[[list[float]], float]) -> Took:
        """A median, a percentile, of both."""
        self.mark()
        return Took(figure(self.seconds), figure(self.yardsticks))


def pace_s() -> float:
    """A yardstick, noted."""
    PACE_S.append(yardstick_s())
    return PACE_S[-1]


def number(got: float, unit: str) -> str:
    """A figure with its unit."""
    return f"{got:,.3g} {unit}" if got < 100 else f"{got:,.0f} {unit}"


def row(what: str, got: float | Took, budget: float, unit: str, least: bool = False) -> None:
    """Note a figure against its budget (the most, or with `least` the least); what took time in seconds and yardsticks,
    shown in its unit."""
    yardsticks = got.yardsticks if isinstance(got, Took) else None
    got = got.seconds / SECONDS[unit] if isinstance(got, Took) else got
    ROWS.append(one := Row(what, got, budget, unit, least, yardsticks))
    ratio = f"; {one.yardsticks:.3g} yardsticks of {one.budget_yardsticks:.3g}" if one.yardsticks is not None else ""
    head = "ok  " if one.kept(got, budget) else "OVER"
    print(f"{head} {what}: {number(got, unit)} (budget {budget:g} {unit}{ratio})", flush=True)


def median(job: Callable[[], Any], times: int = 7) -> Took:
    """The median of what a job takes."""
    taken = Times()
    for _ in range(times):
        began = time.perf_counter()
        job()
        taken.seconds.append(time.perf_counter() - began)
        taken.mark()
    return taken.of(statistics.median)


def stolen() -> tuple[int, int]:
    """(processor time that others on the same machine have taken from this one, all that was worked or taken), in
    ticks since it started; zeros where the system does not say."""
    stat = Path("/proc/stat")
    fields = (
        [int(field) for field in stat.read_text(encoding="ascii").split("\n")[0].split()[1:9]] if stat.exists() else []
    )
    return (fields[7], sum(fields) - fields[3] - fields[4]) if len(fields) == 8 else (0, 0)


def write(share: float) -> None:
    """The table, for the documentation; `share` of the processors' time was taken by others."""
    slow = f"{min(PACE_S) * 1000:.0f} to {max(PACE_S) * 1000:.0f} ms"
    lines = [
        "# Speed", "", f"As measured by `make speed` on {time.strftime('%Y-%m-%d')}: {platform.machine()}, Python "
        f"{platform.python_version()}, two cores of a shared machine, headless Chromium without a graphics processor. Others took "
        f"{share:.0%} of the processors' time while it was measured.", "",
        "A yardstick is a fixed piece of plain Python (300,000 steps with a dictionary), timed before and after each time, or "
        f"a few of them: {slow} this time. A budget in yardsticks is that in seconds where one takes "
        f"{REFERENCE_S * 1000:g} ms, the slowest beside a figure of the first table with them (from 20.8): whoever keeps it "
        "would have kept the seconds at every moment of that table. It is a measure of plain Python: what runs elsewhere (the "
        "browser, arrays) is not slowed as much by the same neighbours.", "",
        "| What | Measured | Budget | Kept | Yardsticks | Budget | Kept |", "|---|---|---|---|---|---|---|",
        *(f"| {' | '.join(one.cells)} |" for one in ROWS), "",
    ]  # fmt: skip
    OUT.write_text("\n".join(lines), encoding="utf-8")
