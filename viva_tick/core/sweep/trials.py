"""Trials for a sweep: taps of a contact, as the firmware samples them, in arrays.

Each trial is two taps, one after the other, so that a tap lost because the one before it still deafens the input
is seen. Shapes: `edges_us` is (trials, edges), int32, padded with FAR; edge j is towards pressed where j is even.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from random import Random

import numpy as np

from ..contacts import Bouncer, Filter, pin_levels, source_bouncer
from ..debounce import FAR, PassClock, Times
from ..document import Capture
from ..seeds import stream

START_US = 2_000_000


@dataclass(frozen=True)
class Filtered:
    """A contact behind a resistor and a capacitor: what bounces, and what the pin makes of it."""

    source: str | Capture
    rc: Filter
    closed_at_rest: bool


Source = str | Capture | Filtered


@dataclass(frozen=True)
class TapStyle:
    """How the person taps: held for, and then let go for, in µs (defaults: FACTS, a quick tap)."""

    hold_us: int = 80_000
    rest_us: int = 120_000


@dataclass(frozen=True)
class Trials:
    """Edges of every trial as the passes sample them and as they are, when each trial's taps begin, the pass clock."""

    edges_us: Times
    raw_us: Times
    first_us: Times
    second_us: Times
    clock: PassClock

    @property
    def presses(self) -> int:
        """Presses in all: two a trial."""
        return 2 * len(self.first_us)


def _trial(bouncer: Bouncer, number: int, style: TapStyle) -> list[int]:
    """Edges of the contact relative to the first touch, alternately pressed and released."""
    edges: list[int] = []
    begins = (0, style.hold_us, style.hold_us + style.rest_us, 2 * style.hold_us + style.rest_us)
    for move, begin_us in enumerate(begins):
        end_us = begins[move + 1] if move < 3 else int(FAR)
        # A move begins only where the contact is not over already: a bounce may have been cut off by the next move.
        towards = move % 2
        if len(edges) % 2 == towards:
            edges.append(begin_us)
        for offset in bouncer.burst(towards == 0, 4 * number + move):
            if begin_us + offset >= end_us:
                break
            edges.append(begin_us + offset)
    return edges


def _at_the_pin(edges: list[int], source: Filtered, noise: Random) -> list[int]:
    """The edges of the level that means pressed, for a contact whose edges are these."""
    rest = source.closed_at_rest
    settled = -10_000_000
    changes = [(settled, rest), *((at_us, (number % 2 == 0) != rest) for number, at_us in enumerate(edges))]
    end_us = edges[-1] + 10_000_000
    levels = list(pin_levels(changes, source.rc, end_us, noise))
    # A tap too short to reach the threshold leaves no edge at all.
    return [at_us for at_us, _ in levels[1:]]


def sampled(edges: Times, clock: PassClock) -> Times:
    """Edges as the passes see them: at the next pass, and pairs that fall between two passes not at all."""
    seen = np.where(edges < FAR, clock.next_pass(np.minimum(edges, FAR - 10_000_000)), FAR).astype(np.int32)
    rows = []
    for row in seen.tolist():
        kept: list[int] = []
        for at_us in row:
            if at_us == FAR:
                break
            if kept and kept[-1] == at_us:
                kept.pop()
            else:
                kept.append(at_us)
        rows.append(kept)
    return _padded(rows)


def _padded(rows: list[list[int]]) -> Times:
    table = np.full((len(rows), max(map(len, rows), default=0) + 1), FAR, dtype=np.int32)
    for index, row in enumerate(rows):
        table[index, : len(row)] = row
    return table


LONGEST_PASS_US = 60_000_000
MOST_EDGES = 400  # of a trial; where a contact bounces longer, there are fewer trials of it
FEWEST = 40


@lru_cache(maxsize=16)
def make_trials(source: Source, period_us: int, style: TapStyle, trials: int) -> Trials:
    """`trials` trials of a contact source, sampled by passes of `period_us`; the same for the same arguments. A pass is
    taken for a minute at most: in that every tap is over, and 32 bits hold it. Of a contact that bounces hundreds of
    times there are fewer trials, so that the work stays the same."""
    period_us = min(period_us, LONGEST_PASS_US)
    inner = source.source if isinstance(source, Filtered) else source
    bouncer = source_bouncer(inner)
    rng = stream("trials", trials)
    some = source_bouncer(inner)  # one of their own: a model's draws follow one another
    longest = max(len(_trial(some, number, style)) for number in range(min(trials, FEWEST)))
    if longest > MOST_EDGES:
        trials = max(trials * MOST_EDGES // longest, min(trials, FEWEST))
    # Sorted by length so that the walk over the edges ends early for most of them.
    made = (_trial(bouncer, number, style) for number in range(trials))
    if isinstance(source, Filtered):
        noise = stream("trial noise", trials)
        made = (_at_the_pin(row, source, noise) for row in made)
    rows = sorted(made, key=len)
    # Where in a pass, and in a millisecond of the counter, a tap falls is chance.
    starts = np.array([START_US + int(rng.random() * 1000) for _ in rows], dtype=np.int32)[:, None]
    phases = np.array([int(rng.random() * period_us) for _ in rows], dtype=np.int32)[:, None]
    clock = PassClock(period_us, phases)
    table = _padded(rows)
    edges = np.where(table < FAR, np.minimum(table, FAR - START_US - 2000) + starts, FAR).astype(np.int32)
    second = starts + np.int32(style.hold_us + style.rest_us)
    return Trials(sampled(edges, clock), edges, starts, second, clock)
