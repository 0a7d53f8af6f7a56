"""Figures, each against its budget and as so many yardsticks of now; the table that comes of them."""

from __future__ import annotations

import platform
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

OUT = Path(__file__).parents[2] / "docs" / "speed.md"

ROWS: list[tuple[str, str, str, str, bool]] = []

SECONDS = {"s": 1.0, "ms": 0.001}


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


def row(what: str, got: float, budget: float, unit: str, least: bool = False) -> None:
    """Note a figure against its budget (the most, or with `least` the least), and as so many yardsticks of now."""
    kept = got >= budget if least else got <= budget
    ratio = f"{got * SECONDS[unit] / yardstick_s():.3g}" if unit in SECONDS else ""
    said = f"{got:,.3g} {unit}" if got < 100 else f"{got:,.0f} {unit}"
    ROWS.append((what, said, ratio, f"{budget:g} {unit}", kept))
    print(
        f"{'ok  ' if kept else 'OVER'} {what}: {said} (budget {budget:g} {unit}; {ratio or '–'} yardsticks)", flush=True
    )


def median(job: Callable[[], Any], times: int = 7) -> float:
    """Median seconds of a job."""
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        job()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


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
    lines = [
        "# Speed", "", f"As measured by `make speed` on {time.strftime('%Y-%m-%d')}: {platform.machine()}, Python "
        f"{platform.python_version()}, two cores of a shared machine, headless Chromium without a graphics processor. Others took "
        f"{share:.0%} of the processors' time while it was measured.", "",
        "A yardstick is a fixed piece of plain Python (300,000 steps with a dictionary), timed right after each figure.", "",
        "| What | Measured | Yardsticks | Budget | Kept |", "|---|---|---|---|---|",
        *(
            f"| {what} | {got} | {ratio} | {budget} | {'yes' if kept else '**no**'} |"
            for what, got, ratio, budget, kept in ROWS
        ), "",
    ]  # fmt: skip
    OUT.write_text("\n".join(lines), encoding="utf-8")
