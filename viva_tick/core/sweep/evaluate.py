"""A debounce method over every trial and every interval at once.

The rule of each method is its own (`Method.walked`); this walks the edges once and counts.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..debounce import FAR, Method, Rows
from .trials import Trials

FEW = 4  # chunks that are not worth a second thread
_POOL = ThreadPoolExecutor(max_workers=2, thread_name_prefix="sweep")
CHUNK = 768  # trials at a time, so that the working arrays stay in the processor's cache


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
    """Presses counted in each tap's window, (2, trials, intervals), and when the first of each was."""
    edges = (trials.raw_us if method.by == "interrupt" else trials.edges_us)[chunk]
    clock = type(trials.clock)(trials.clock.period_us, trials.clock.phase_us[chunk])
    second = trials.second_us[chunk]
    shape = (len(edges), wait_ms.shape[1])
    walk = method.walked(Rows(shape, wait_ms, sample_ms, clock))
    counts = np.zeros((2, *shape), dtype=np.int8)
    first = np.full((2, *shape), FAR, dtype=np.int32)
    for column in range(edges.shape[1] - 1):
        edge = edges[:, column : column + 1]
        if edge.min() == FAR:
            break
        pressed = column % 2 == 0
        taken, at = walk.segment(edge, edges[:, column + 1 : column + 2], pressed)
        if pressed == (method.acts_on == "press") and taken.any():
            taken = taken & (edge != FAR)
            # A look that waits falls into the tap in whose time it accepts, not that in whose it began.
            later = (at if method.blocks else edge) >= second
            if not later.any():
                windows = [(0, taken)]
            elif later.all():
                windows = [(1, taken)]
            else:
                windows = [(0, taken & ~later), (1, taken & later)]
            for window, mine in windows:
                np.copyto(first[window], at, where=mine & (counts[window] == 0))
                counts[window] += mine.view(np.int8)
    return counts, first


def evaluate(method: Method, trials: Trials, intervals_us: list[int], sample_us: int = 1000) -> Swept:
    """Sweep the method's interval over the trials."""
    if not method.has_interval and len(intervals_us) > 1:
        return _same_for_all(evaluate(method, trials, intervals_us[:1], sample_us), intervals_us)
    wait_ms = (np.array(intervals_us, dtype=np.int32) // 1000)[None, :]
    doubled = np.zeros(len(intervals_us), dtype=np.int64)
    missed = np.zeros(len(intervals_us), dtype=np.int64)
    waits: list[Any] = []
    total = len(trials.first_us)
    chunks = [slice(begin, min(begin + CHUNK, total)) for begin in range(0, total, CHUNK)]
    sample_ms = max(sample_us // 1000, 1)

    def walked(chunk: slice) -> tuple[Any, Any]:
        return _walk(method, trials, chunk, wait_ms, sample_ms)

    # numpy lets go of the interpreter in its loops, so that two threads walk on two processors.
    walks = _POOL.map(walked, chunks) if len(chunks) > FEW else map(walked, chunks)
    for chunk, (counts, first) in zip(chunks, walks, strict=True):
        doubled += (counts > 1).sum(axis=(0, 1))
        missed += (counts == 0).sum(axis=(0, 1))
        for window, starts in ((0, trials.first_us), (1, trials.second_us)):
            waits.append(np.where(first[window] < FAR, first[window] - starts[chunk], FAR))
    # One interval a row, so that what is sorted lies side by side.
    ranked = np.sort(np.ascontiguousarray(np.concatenate(waits).T), axis=1)
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
