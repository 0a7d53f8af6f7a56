"""A debounce method over every trial and every interval at once.

The rule of each method is its own (`Method.walked`); this walks the edges once and counts.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..debounce import FAR, Method, PassClock, Rows
from ..debounce.base import of, put
from .trials import Trials

CHUNK = 1024  # trials at a time, so that the working arrays stay in the processor's cache


@dataclass(frozen=True)
class Swept:
    """For each interval: presses counted more than once and not at all, of all presses; the wait of the others.

    `interval_us`, `doubled`, `missed` are (intervals,); `wait_us` is (intervals, 3): median, 95 %, worst, −1 where
    no press was counted.
    """

    method: str
    presses: int
    interval_us: NDArray[np.int32]
    doubled: NDArray[np.int64]
    missed: NDArray[np.int64]
    wait_us: NDArray[np.int32]


def _walk(method: Method, trials: Trials, chunk: slice, wait_ms: Any, sample_ms: int) -> tuple[Any, Any]:
    """Presses counted in each tap's window, 2 where there are more, (2, intervals, trials); when the first was."""
    # A trial is a column here, so that one operation goes over many of them side by side.
    edges = np.ascontiguousarray((trials.raw_us if method.by == "interrupt" else trials.edges_us)[chunk].T)
    clock = PassClock(trials.clock.period_us, trials.clock.phase_us[chunk].T)
    second = trials.second_us[chunk]
    shape = (len(wait_ms), edges.shape[1])
    walk = method.walked(Rows(shape, wait_ms, sample_ms, clock, method.acts_on))
    counts = np.zeros((2, *shape), dtype=np.int8)
    first = np.full((2, *shape), FAR, dtype=np.int32)
    for number in range(len(edges) - 1):
        edge, until = edges[number : number + 1], edges[number + 1 : number + 2]
        if edge.min() == FAR:
            break
        pressed = number % 2 == 0
        places, at = walk.segment(edge, np.where(edge < FAR, until, 0), pressed)
        if pressed == (method.acts_on == "press") and len(places):
            # A look that waits falls into the tap in whose time it accepts, not that in whose it began.
            told = at if method.blocks else edge
            if told.min() >= second.max():
                places += counts[0].size
            elif told.max() >= second.min():
                tapped = places % shape[1]
                places += ((at if method.blocks else of(edge, tapped)) >= of(second, tapped)) * counts[0].size
            before = of(counts, places)
            anew = before == 0
            if anew.all():
                put(first, places, at)
                put(counts, places, 1)
            else:
                put(first, places[anew], at[anew])
                put(counts, places, np.minimum(before, 1) + 1)  # more than twice is twice here
    return counts, first


def evaluate(method: Method, trials: Trials, intervals_us: list[int], sample_us: int = 1000) -> Swept:
    """Sweep the method's interval over the trials."""
    if not method.has_interval and len(intervals_us) > 1:
        return _same_for_all(evaluate(method, trials, intervals_us[:1], sample_us), intervals_us)
    wait_ms = (np.array(intervals_us, dtype=np.int32) // 1000)[:, None]
    doubled = np.zeros(len(intervals_us), dtype=np.int64)
    missed = np.zeros(len(intervals_us), dtype=np.int64)
    waits: list[Any] = []
    total = len(trials.first_us)
    chunks = [slice(begin, min(begin + CHUNK, total)) for begin in range(0, total, CHUNK)]
    sample_ms = max(sample_us // 1000, 1)

    for chunk in chunks:
        counts, first = _walk(method, trials, chunk, wait_ms, sample_ms)
        doubled += (counts > 1).sum(axis=(0, 2))
        missed += (counts == 0).sum(axis=(0, 2))
        for window, starts in ((0, trials.first_us), (1, trials.second_us)):
            waits.append(np.where(first[window] < FAR, first[window] - starts[chunk].T, FAR))
    ranked = np.sort(np.concatenate(waits, axis=1), axis=1)
    found = (ranked < FAR).sum(axis=1)
    figures = np.full((len(intervals_us), 3), -1, dtype=np.int32)
    for index, count in enumerate(found):
        if count:
            ranks = [max(0, -(-int(count) * percent // 100) - 1) for percent in (50, 95, 100)]
            figures[index] = ranked[index, ranks]
    return Swept(method.id, trials.presses, np.array(intervals_us, dtype=np.int32), doubled, missed, figures)


def _same_for_all(one: Swept, intervals_us: list[int]) -> Swept:
    """What came out at one interval, where there is none to choose."""
    many = len(intervals_us)
    doubled, missed = np.repeat(one.doubled, many), np.repeat(one.missed, many)
    waits_us = np.repeat(one.wait_us, many, axis=0)
    return Swept(one.method, one.presses, np.array(intervals_us, dtype=np.int32), doubled, missed, waits_us)
