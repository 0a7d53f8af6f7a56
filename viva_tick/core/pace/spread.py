"""Offsets that spread tasks over time, so that fewer of their jobs fall into one pass."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..document import Bench, Task
from .schedulable import hyperperiod_us

MOST_MS = 60_000
ROUNDS = 4


@dataclass(frozen=True)
class Spread:
    """Offsets in ms by task id; what falls into one pass at the longest, as the bench has it and with them, in µs;
    how many arrangements were looked at, over how long."""

    offsets_ms: dict[str, int]
    before_us: int
    after_us: int
    tried: int
    over_ms: int

    @property
    def gained_us(self) -> int:
        """How much shorter the longest pass becomes."""
        return self.before_us - self.after_us


def _length_us(task: Task) -> int:
    return task.run_us if task.blocking else min(task.run_us, task.slice_us)


def piled(tasks: Sequence[Task], offsets_ms: Sequence[int], over_ms: int) -> int:
    """The most work in µs that falls into one pass: what is due at once, and what comes due while that is done."""
    load = np.zeros(over_ms, dtype=np.int64)
    for task, offset in zip(tasks, offsets_ms, strict=True):
        load[offset % over_ms :: task.period_us // 1000] += _length_us(task)
    return _worst(load)


def _worst(load: NDArray[np.int64]) -> int:
    """Work is carried into the next milliseconds where it takes longer than one; a job that comes due meanwhile joins
    the pass after, which begins when this one ends."""
    worst = waiting = 0
    free_us = 0
    for at in np.flatnonzero(load).tolist():
        now_us = at * 1000
        if now_us >= free_us:  # the loop is free: this is a pass of its own
            worst = max(worst, waiting)
            waiting = 0
            free_us = now_us + int(load[at])
            worst = max(worst, int(load[at]))
        else:  # it waits for the pass that runs; all that wait share the next
            waiting += int(load[at])
            free_us += int(load[at])
            worst = max(worst, waiting)
    return int(worst)


def spread(bench: Bench) -> Spread | None:
    """The best offsets found: each task in turn, the longest first, where it piles up least; then all again, until
    nothing gets better. None with fewer than two tasks."""
    tasks = sorted(bench.firmware.tasks, key=lambda task: -_length_us(task))
    if len(tasks) < 2:
        return None
    periods = [task.period_us // 1000 for task in tasks]
    over_ms = min(hyperperiod_us(periods), MOST_MS) + max(periods)
    now = [
        period if task.offset_us is None else task.offset_us // 1000
        for task, period in zip(tasks, periods, strict=True)
    ]
    before_us = piled(tasks, now, over_ms)
    best, best_us, tried = list(now), before_us, 0
    start = [offset % period for offset, period in zip(now, periods, strict=True)]
    for number in range(len(tasks)):  # one by one, from none
        placed = tasks[: number + 1]
        scored = []
        step = max(periods[number] // 200, 1)
        for offset in range(0, periods[number], step):
            tried += 1
            scored.append((piled(placed, [*start[:number], offset], over_ms), offset))
        start[number] = _middle(scored)
    for _ in range(ROUNDS):
        was = piled(tasks, start, over_ms)
        for number in range(len(tasks)):
            step = max(periods[number] // 200, 1)
            scored = []
            for offset in range(0, periods[number], step):
                tried += 1
                scored.append((piled(tasks, [*start[:number], offset, *start[number + 1 :]], over_ms), offset))
            start[number] = _middle(scored)
        if piled(tasks, start, over_ms) >= was:
            break
    if (after_us := piled(tasks, start, over_ms)) < best_us:
        best, best_us = start, after_us
    return Spread(
        {task.id: offset for task, offset in zip(tasks, best, strict=True)}, before_us, best_us, tried, over_ms
    )


def _middle(scored: list[tuple[int, int]]) -> int:
    """Of the offsets that pile up least, one with the most room to both sides."""
    least = min(score for score, _ in scored)
    runs: list[list[int]] = []
    for place, (score, offset) in enumerate(scored):
        if score == least:
            if runs and scored[place - 1][0] == least and place:
                runs[-1].append(offset)
            else:
                runs.append([offset])
    longest = max(runs, key=len)
    return longest[len(longest) // 2]
