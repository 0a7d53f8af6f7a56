"""Presses made against presses counted, from a run."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass

from ..contacts import Move
from ..engine import Kind, Run

GRACE_US = 5_000  # beyond the release's bounce, the interval and the longest pass, a press came from nothing


@dataclass(frozen=True)
class PressTally:
    """One input's presses in a run. Instants in µs.

    `counted` is the number of press events; `doubled_us` holds each event beyond the first of a press, `missed_us`
    the presses that made none, `from_nothing_us` the events that no press made. `waits_us` are from the metal's
    first touch to the press event.
    """

    input: str
    made: int
    counted: int
    missed_us: tuple[int, ...]
    doubled_us: tuple[int, ...]
    from_nothing_us: tuple[int, ...]
    waits_us: tuple[int, ...]

    @property
    def agrees(self) -> bool:
        """Every press counted once, and nothing else."""
        return not (self.missed_us or self.doubled_us or self.from_nothing_us)


def _spans(moves: tuple[Move, ...], length_us: int, slack_us: int) -> list[tuple[int, int]]:
    """From each press to where an event can no longer be its own."""
    spans: list[tuple[int, int]] = []
    for index, move in enumerate(moves):
        if move.pressed:
            after = moves[index + 1] if index + 1 < len(moves) else None
            next_press_us = moves[index + 2].at_us if index + 2 < len(moves) else length_us
            spans.append((move.at_us, min(next_press_us, after.rest_us + slack_us) if after else length_us))
    return spans


def tally(run: Run, input_id: str, interval_us: int) -> PressTally:
    """How the run counted an input's presses."""
    events = run.trace.signal(Kind.EVENT, input_id)
    presses = [at for at, what in zip(events.times_us, events.values, strict=True) if what == "press"]
    longest_us = max((length for length, _ in run.trace.signal(Kind.PASS).values), default=0)
    moves = tuple(move for move in run.moves[input_id] if move.at_us < run.trace.length_us or not run.stopped)
    spans = _spans(moves, run.trace.length_us, interval_us + longest_us + GRACE_US)
    missed: list[int] = []
    doubled: list[int] = []
    waits: list[int] = []
    own = 0
    made = len(spans)
    for from_us, to_us in spans:
        mine = presses[bisect_left(presses, from_us) : bisect_left(presses, to_us)]
        own += len(mine)
        if not mine and run.stopped and to_us >= run.trace.length_us:
            made -= 1  # the run stopped before it could be counted
            continue
        if mine:
            waits.append(mine[0] - from_us)
            doubled += mine[1:]
        else:
            missed.append(from_us)
    belonging = {
        at for from_us, to_us in spans for at in presses[bisect_left(presses, from_us) : bisect_left(presses, to_us)]
    }
    nothing = tuple(at for at in presses if at not in belonging)
    return PressTally(input_id, made, len(presses), tuple(missed), tuple(doubled), nothing, tuple(waits))
