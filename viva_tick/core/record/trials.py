"""Trials: the same thing tried over and over under several conditions, and what can be said of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from ..debounce import METHODS
from ..document import Bench, pointer
from ..document.base import Doc, Name, Note
from ..document.parts import Commands
from ..rates import wilson

MOST_MORE = 100_000
COUNTED = 1_000  # up to so many one by one: a whole try more or less can decide

Outcome = Literal["heard", "missed", "doubled", "other"]


class Condition(Doc):
    """One condition: its value, in the trial's unit, and of how many tries how many came out so."""

    at: Annotated[float, Field(ge=-1e9, le=1e9)]
    so: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    of: Annotated[int, Field(ge=0, le=1_000_000)] = 0


class Trial(Doc):
    """What is tried (a sentence), of which part if of one, what is counted, the conditions' name and unit, and what is
    aimed at: that at least, or (of a fault) at most, `aim` of a hundred come out so."""

    title: Name
    of: Annotated[str, Field(max_length=80)] = ""
    outcome: Outcome = "heard"
    condition: Name = "distance"
    unit: Annotated[str, Field(max_length=12)] = "m"
    aim: Annotated[float, Field(ge=0, le=100)] = 90
    note: Note = ""
    rows: Annotated[tuple[Condition, ...], Field(max_length=40)] = ()

    @property
    def wants_many(self) -> bool:
        """Whether what is counted is wanted; doubled and missed presses are not."""
        return self.outcome in ("heard", "other")


@dataclass(frozen=True)
class Said:
    """What can be said of one condition: its rate and interval, whether it is sure that the aim is met or missed, and
    if not how many more tries it takes where they come out as they did (None: more than `MOST_MORE`)."""

    row: Condition
    rate: float | None
    low: float
    high: float
    verdict: Literal["met", "missed", "unsure", "untried"]
    more: int | None


def _sure(so: int, of: int, aim: float, wants_many: bool) -> str:
    low, high = wilson(so, of)
    if wants_many:
        return "met" if low >= aim else "missed" if high < aim else "unsure"
    return "met" if high <= aim else "missed" if low > aim else "unsure"


def _more(so: int, of: int, aim: float, wants_many: bool) -> int | None:
    """The least number of tries more after which one can be sure, if the rate stays as it is; of very many about so."""

    def sure(more: int) -> bool:
        return _sure(round(so * (of + more) / of), of + more, aim, wants_many) != "unsure"

    for more in range(1, COUNTED):
        if sure(more):
            return more
    step = COUNTED
    while step <= MOST_MORE and not sure(step):
        step *= 2
    if step > MOST_MORE:
        return None
    low, high = step // 2, step
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if sure(middle) else (middle, high)
    return high


def said_of(trial: Trial) -> list[Said]:
    """Every condition, in order of its value."""
    aim = trial.aim / 100
    found = []
    for row in sorted(trial.rows, key=lambda one: one.at):
        low, high = wilson(row.so, row.of)
        if not row.of:
            found.append(Said(row, None, low, high, "untried", None))
            continue
        verdict = _sure(row.so, row.of, aim, trial.wants_many)
        more = _more(row.so, row.of, aim, trial.wants_many) if verdict == "unsure" else 0
        found.append(Said(row, row.so / row.of, low, high, verdict, more))  # type: ignore[arg-type]
    return found


def over_to(bench: Bench, trial: Trial) -> tuple[str, list[dict[str, object]]] | None:
    """(words, patch) of what the bench can take from a trial: how well commands are recognised by distance; how long a
    contact must be waited for. None where it can take nothing."""
    tried = [one for one in said_of(trial) if one.rate is not None]
    for place, part in enumerate(bench.inputs):
        if part.id == trial.of and isinstance(part, Commands) and trial.outcome == "heard" and tried:
            to_cm = {"m": 100, "cm": 1, "mm": 0.1}.get(trial.unit)
            if to_cm is None:
                return None
            hits = [{"cm": round(one.row.at * to_cm), "percent": round(100 * (one.rate or 0))} for one in tried]
            path = pointer("inputs", place, "hits")
            return f"{part.name} is recognised as often as here", [{"op": "replace", "path": path, "value": hits[:12]}]
    debounce = bench.firmware.debounce.get(trial.of)
    if debounce and not trial.wants_many and trial.unit == "ms" and METHODS[debounce.method].has_interval:
        good = [one.row.at for one in tried if one.verdict == "met"]
        if good and min(good) * 1000 != debounce.interval_us:
            path = pointer("firmware", "debounce", trial.of, "interval_us")
            return (
                f"wait {min(good):g} ms, the shortest that is sure",
                [{"op": "replace", "path": path, "value": round(min(good) * 1000)}],
            )
    return None
