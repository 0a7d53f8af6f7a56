"""Responsiveness: how long each input can go unread, the shortest tap that cannot be missed, contact to output."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from ..contacts import bounce_figures
from ..debounce import METHODS
from ..document import Bench, TapTiming
from ..engine import Kind, Run
from ..kernel import LOOP
from ..timing import Answers, Spread
from .anatomy import Anatomy, anatomy
from .schedulable import schedulability


@dataclass(frozen=True)
class InputReach:
    """One contact. `unread_us` is the longest that it can go unread (None: for ever), `seen_unread_us` the longest in
    the run; `surest_us` the shortest tap that cannot be missed; `output_us` the worst from contact to output as
    computed; `seen` its spread in the run; `wanted_us` what was promised."""

    id: str
    name: str
    unread_us: int | None
    seen_unread_us: int
    surest_us: int | None
    output_us: int | None
    seen: Spread | None
    missed: int
    made: int
    wanted_us: int | None
    tap_us: int

    @property
    def keeps_promise(self) -> bool:
        """Whether what was promised holds, computed and in the run."""
        if self.wanted_us is None:
            return True
        return (
            self.output_us is not None
            and self.output_us <= self.wanted_us
            and (self.seen is None or self.seen.most <= self.wanted_us)
        )


def longest_unread_us(bench: Bench, parts: Anatomy) -> int | None:
    """From one reading of an input to the next, at the longest: one whole pass; under the kernel the loop's period and
    its longest response. None where the loop never gets its turn."""
    if bench.firmware.school != "kernel":
        return parts.longest_us
    found = next(one for one in schedulability(bench).responses if one.task.id == LOOP)
    if found.response_us is None:
        return None
    return bench.firmware.kernel.loop_us + found.response_us + parts.longest_us - parts.usual_us


def _seen_unread_us(bench: Bench, run: Run | None) -> dict[str, int]:
    """By owner ("": the loop), the longest from one reading to the next in the run, where tasks of a kernel wait for
    each other: none of that is worked out beforehand. Without a run, the periods."""
    kernel = bench.firmware.kernel
    found = {"": kernel.loop_us} | {body.id: body.period_us for body in kernel.between.bodies}
    for owner in found if run else ():
        begun = run.trace.signal(Kind.PASS if not owner else Kind.JOB, owner).times_us if run else []
        if owner and begun:
            found[owner] = max([found[owner], *(late - early for early, late in pairwise(begun))])
        elif run:
            found[owner] = max([found[owner], *(length for length, _ in run.trace.signal(Kind.PASS).values)])
    return found


def reach(bench: Bench, run: Run | None, said: Answers | None) -> list[InputReach]:
    """Every contact of the bench."""
    parts = anatomy(bench)
    between = bench.firmware.kernel.between
    live = bench.firmware.school == "kernel" and between.used
    seen = _seen_unread_us(bench, run) if live else {}
    unread_us = None if live else longest_unread_us(bench, parts)
    lengths = [length for length, _ in run.trace.signal(Kind.PASS).values] if run else []
    found = []
    for line in bench.contacts:
        if live:
            unread_us = seen[between.owners.get(line.id, "")]
        debounce = bench.debounce(line.id)
        method = METHODS[debounce.method]
        interval_us = debounce.interval_us if method.has_interval else 0
        asked = bench.taps.get(line.id, TapTiming())
        waits = method.acts_on == "press" and method.id in ("rest-first", "count-samples", "history")
        wait_us = interval_us if waits or method.blocks else 0
        settle_us = bounce_figures(bench, line).longest_settle_us if waits else 0
        surest_us = output_us = None
        if unread_us is not None:
            # Touching long enough to rest, and to be read before and after that: one pass more than the wait.
            surest_us = 2_000 if method.by == "interrupt" else unread_us + wait_us + settle_us + 1_000
            output_us = settle_us + wait_us + 1_000 * bool(wait_us) + 2 * unread_us
        tally = said.tallies.get(line.id) if said else None
        found.append(
            InputReach(
                line.id,
                line.name,
                unread_us,
                max(lengths, default=0),
                surest_us,
                output_us,
                said.to_output_us.get(line.id) if said else None,
                len(tally.missed_us) if tally else 0,
                tally.made if tally else 0,
                asked.respond_us,
                asked.hold_us,
            )
        )
    return found
