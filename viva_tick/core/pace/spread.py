"""Offsets that spread tasks over time, so that fewer of their jobs fall into one pass."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from ..document import Bench, Task
from .schedulable import hyperperiod_us

MOST_MS = 20_000
POINTS = 50  # offsets looked at for each task
MOST_JOBS = 20_000  # looked at for one arrangement
MOST_WORK = 1_000_000  # jobs looked at in all: about a second
ROUNDS = 4


@dataclass(frozen=True)
class Spread:
    """Offsets in ms by task id; what falls into one pass at the longest, as the bench has it and with them, in µs;
    how many arrangements were looked at, over how long: as many as there is time for."""

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
    due: list[tuple[int, int]] = []
    for task, offset in zip(tasks, offsets_ms, strict=True):
        length_us = _length_us(task)
        due += [(at * 1000, length_us) for at in range(offset, over_ms, task.period_us // 1000)]
    due.sort()
    worst = waiting = load = 0
    begun_us = end_us = -1  # of the pass that runs; what comes due meanwhile shares the next one
    for at_us, length_us in due:
        while at_us >= end_us and waiting:
            begun_us, end_us, load, waiting = end_us, end_us + waiting, waiting, 0
            worst = max(worst, load)
        if at_us >= end_us:
            begun_us, end_us, load = at_us, at_us + length_us, length_us
        elif at_us == begun_us:
            end_us, load = end_us + length_us, load + length_us
        else:
            waiting += length_us
        worst = max(worst, load)
    return max(worst, waiting)


@lru_cache(maxsize=64)
def spread_tasks(tasks: tuple[Task, ...]) -> Spread | None:
    """See `spread`."""
    if len(tasks) < 2:
        return None
    tasks = tuple(sorted(tasks, key=lambda task: -_length_us(task)))
    periods = [task.period_us // 1000 for task in tasks]
    over_ms = min(hyperperiod_us(periods), MOST_MS) + min(max(periods), MOST_MS)
    a_ms = sum(1 / period for period in periods)
    over_ms = min(over_ms, int(MOST_JOBS / a_ms) + 1)
    most = int(MOST_WORK / (a_ms * over_ms)) + 1
    now = [(task.period_us if task.offset_us is None else task.offset_us) // 1000 for task in tasks]
    before_us = piled(tasks, now, over_ms)
    least_us = max(map(_length_us, tasks))
    best, best_us, tried = list(now), before_us, 0
    start = [offset % period for offset, period in zip(now, periods, strict=True)]
    for turn in range(ROUNDS + 1):  # first one by one, from none; then each again among all the others
        was = best_us
        for number, period in enumerate(periods):
            count = number + 1 if not turn else len(tasks)
            scored = []
            for offset in range(0, period, max(period // POINTS, 1)):
                if tried >= most:
                    break
                tried += 1
                offsets = [*start[:number], offset, *start[number + 1 : count]]
                scored.append((piled(tasks[:count], offsets, over_ms), offset))
            if not scored:
                break
            start[number] = _middle(scored)
        after_us = piled(tasks, start, over_ms)
        if after_us < best_us:
            best, best_us = list(start), after_us
        if tried >= most or best_us <= least_us or (turn and best_us >= was):
            break
    offsets_ms = {task.id: offset for task, offset in zip(tasks, best, strict=True)}
    return Spread(offsets_ms, before_us, best_us, tried, over_ms)


def spread(bench: Bench) -> Spread | None:
    """The best offsets found: each task in turn, the longest first, where it piles up least; then all again, until
    nothing gets better, or nothing can. None with fewer than two tasks."""
    return spread_tasks(bench.firmware.tasks)


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
