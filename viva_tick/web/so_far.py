"""What has been counted of a scenario's repeats, kept as long as the bench is the same.

Numbers are counted in whole tens, and each stretch of them is a note under the run's key. Stretches that touch become
one; two that overlap, because two pages counted at once, are both kept until one holds the other, and the longer is
believed.
"""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass

from ..core.document import Bench, Scenario
from ..core.repeats import Flips, Repeats, Tally, flips, outcomes, repeat
from ..core.study import run_key
from .answers import runs

TEN = 10
BESIDE = 20  # beside every edit


@dataclass(frozen=True)
class SoFar:
    """The stretches of numbers that are counted (from, to before), their notes by name, and what they come to;
    over how many runs it was asked what an outcome hangs on."""

    stretches: dict[tuple[int, int], str]
    repeats: Repeats
    asked: dict[str, int]

    def holds(self, number: int) -> bool:
        """Whether a number is counted."""
        return any(begin <= number < end for begin, end in self.stretches)


def _tally(said: bytes) -> Tally:
    data = json.loads(said)
    return Tally(data["runs"], {ident: (of, so, first) for ident, (of, so, first) in data["rows"].items()})


def _beginning(bench: Bench, scenario: Scenario) -> str:
    return f"{run_key(bench, scenario)}-repeat-"


def so_far(bench: Bench, scenario: Scenario) -> SoFar:
    """All that is known."""
    notes = runs().notes(_beginning(bench, scenario))
    found: dict[tuple[int, int], Tally] = {}
    hung: dict[str, Flips] = {}
    asked: dict[str, int] = {}
    for name, said in notes.items():
        kind, _, rest = name.partition(" ")
        if kind == "runs":
            first, _, last = rest.partition("-")
            found[int(first), int(last)] = _tally(said)
        elif kind == "on":
            many, _, outcome = rest.partition(" ")
            if asked.get(outcome, 0) < int(many):
                asked[outcome], hung[outcome] = int(many), Flips(**json.loads(said))
    done = Tally()
    stretches: dict[tuple[int, int], str] = {}
    for begin, end in sorted(found, key=lambda one: (one[0] - one[1], one)):
        if not any(begin < other_end and other < end for other, other_end in stretches):
            stretches[begin, end] = f"runs {begin}-{end}"
            done.merge(found[begin, end])
    return SoFar(stretches, Repeats(done, hung), asked)


def count(
    bench: Bench, scenario: Scenario, begin: int, end: int, most_s: float, go_on: Callable[[], None] = lambda: None
) -> int:
    """Count numbers from `begin` on, as many as there is time for, ten at least, those that are not counted yet; and
    the number before which all are counted now."""
    known, began = so_far(bench, scenario), time.monotonic()
    begin -= begin % TEN
    if (held := _end_of(known, begin)) is not None:
        return min(held, end)
    at, done = begin, Tally()
    while at < end and not known.holds(at):
        done.merge(repeat(bench, scenario, range(at, at + TEN), go_on))
        at += TEN
        if time.monotonic() - began > most_s:
            break
    _keep(bench, scenario, known, begin, at, done)
    return at


def _end_of(known: SoFar, number: int) -> int | None:
    return next((end for begin, end in known.stretches if begin <= number < end), None)


def _keep(bench: Bench, scenario: Scenario, known: SoFar, begin: int, end: int, done: Tally) -> None:
    """A stretch, as one with those that it touches."""
    notes = runs().notes(_beginning(bench, scenario))
    instead = []
    for (other, other_end), name in known.stretches.items():
        if other_end == begin or other == end:
            if name not in notes:
                continue
            done.merge(_tally(notes[name]))
            begin, end = min(begin, other), max(end, other_end)
            instead.append(f"{_beginning(bench, scenario)}{name}")
    said = json.dumps({"runs": done.runs, "rows": done.rows}).encode()
    runs().note(f"{_beginning(bench, scenario)}runs {begin}-{end}", said, instead)


def hang_on(
    bench: Bench, scenario: Scenario, outcome: str, many: int, go_on: Callable[[], None] = lambda: None
) -> None:
    """Find out what an outcome hangs on, unless that is known over as many runs."""
    known = so_far(bench, scenario).asked.get(outcome, 0)
    if outcome not in outcomes(bench, scenario) or known >= many:
        return
    found = flips(bench, scenario, outcome, many, go_on)
    runs().note(f"{_beginning(bench, scenario)}on {many} {outcome}", json.dumps(asdict(found)).encode())
