"""What came of what a hand meant: counted once, missed, counted twice, taken for something else."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter
from dataclasses import dataclass, field

from ..document import Bench, Gestures, Turns
from ..document.parts import Encoder
from ..engine import Budget, Kind, Run, SkippingEngine, Trace
from .doing import Meant, a_round
from .people import Person

SETTLES_US = 200_000
BUDGET = Budget(passes=400_000, changes=200_000)  # of a round
MOST_EXAMPLES = 40
WRONG = {
    "missed": "did not count",
    "doubled": "counted more than once",
    "slip": "the finger slipped, and that counted again",
    "twice": "tapped twice in haste, and both counted",
    "not-held": "a long press was not taken for one",
    "held": "a tap was taken for a long press",
    "not-double": "a double click was not taken for one",
    "merged": "taps were taken for a double click",
    "wrong-count": "counted another number of steps",
    "other": "taken for something else",
    "nobody": "counted, and nobody pressed",
    "reset": "the board started anew",
    "stopped": "the run could not be followed to its end",
}


@dataclass(frozen=True)
class Example:
    """One thing that went wrong: in which round, when, of what, and how."""

    round: int
    at_us: int
    of: str
    wrong: str


@dataclass
class Played:
    """What came of some rounds: how many actions of each input, of these how many came out as they were meant, what
    went wrong how often, by input, and examples of it."""

    rounds: int = 0
    done: Counter[str] = field(default_factory=Counter)
    right: Counter[str] = field(default_factory=Counter)
    wrong: Counter[tuple[str, str]] = field(default_factory=Counter)
    examples: list[Example] = field(default_factory=list)

    def add(self, other: Played) -> None:
        """Other rounds, too."""
        self.rounds += other.rounds
        self.done += other.done
        self.right += other.right
        self.wrong += other.wrong
        self.examples = (self.examples + other.examples)[:MOST_EXAMPLES]

    @property
    def actions(self) -> int:
        """How many there were."""
        return sum(self.done.values())


def play_round(bench: Bench, person: Person, number: int) -> Played:
    """One round, run and judged."""
    scenario, meant = a_round(bench, person, number)
    run = SkippingEngine().run(bench, scenario, budget=BUDGET)
    found = Played(rounds=1)
    end_us = run.trace.length_us
    starts: dict[str, list[int]] = {}
    for one in meant:
        starts.setdefault(one.of, []).append(one.from_us)
    spans: dict[str, list[tuple[int, int]]] = {}
    for one in meant:
        after = starts[one.of][bisect_right(starts[one.of], one.from_us) :]
        window_us = bench.firmware.gestures.get(one.of, Gestures()).window_us
        until_us = min([one.to_us + SETTLES_US + window_us, *after[:1]])
        if until_us > end_us:
            continue  # the run was stopped before that
        spans.setdefault(one.of, []).append((one.from_us, until_us))
        found.done[one.of] += 1
        wrong = judged(bench, run.trace, one, until_us)
        if wrong:
            _tell(found, number, one.from_us, one.of, wrong)
        else:
            found.right[one.of] += 1
    for line in bench.contacts:
        for at_us in _times(run.trace, Kind.EVENT, line.id, "press"):
            if not any(from_us <= at_us <= until_us for from_us, until_us in spans.get(line.id, [])):
                _tell(found, number, at_us, line.id, "nobody")
    _board(found, number, run)
    return found


def _board(found: Played, number: int, run: Run) -> None:
    """What befell the board."""
    resets = run.trace.signal(Kind.RESET)
    for at_us, cause in zip(resets.times_us, resets.values, strict=True):
        if cause == "watchdog":
            _tell(found, number, at_us, "", "reset")
    if run.stopped:
        _tell(found, number, run.trace.length_us, "", "stopped")


def _tell(found: Played, number: int, at_us: int, of: str, wrong: str) -> None:
    found.wrong[of, wrong] += 1
    found.examples.append(Example(number, at_us, of, wrong))


def _times(trace: Trace, kind: Kind, of: str, value: object) -> list[int]:
    if (kind, of) not in trace:
        return []
    signal = trace.signal(kind, of)
    return [at for at, one in zip(signal.times_us, signal.values, strict=True) if one == value]


def judged(bench: Bench, trace: Trace, meant: Meant, until_us: int) -> str:
    """What went wrong with one action, a word of `WRONG`; empty where it came out as it was meant."""

    def said(value: str) -> int:
        times = _times(trace, Kind.EVENT, meant.of, value)
        return bisect_right(times, until_us) - bisect_left(times, meant.from_us)

    if meant.what in ("slide", "touch"):
        return ""
    if meant.what == "turn":
        return _turned(bench, trace, meant, until_us)
    if meant.what in ("key", "say"):
        right = f"{'key' if meant.what == 'key' else 'command'} {meant.which}"
        heard = trace.signal(Kind.EVENT, meant.of) if (Kind.EVENT, meant.of) in trace else None
        others = [
            value
            for at, value in zip(heard.times_us, heard.values, strict=True)
            if meant.from_us <= at < until_us and value.startswith(right.split(" ")[0])
        ] if heard else []  # fmt: skip
        if not others:
            return "missed"
        return "" if others == [right] else "doubled" if set(others) == {right} else "other"
    if meant.what in ("over", "back"):
        counted = said("press" if meant.what == "over" else "release")
        return "" if counted == 1 else "doubled" if counted else "missed"
    presses = said("press")
    if not presses:
        return "missed"
    if meant.what == "hold":
        return (
            "doubled" if presses > 1 else "" if said("hold") or said("long-release") or said("repeat") else "not-held"
        )
    if meant.what == "double":
        return "" if said("double") == 1 else "not-double"
    if said("hold"):
        return "held"
    if presses > 1:
        return meant.amiss or "doubled"
    return "merged" if said("double") else ""


def _turned(bench: Bench, trace: Trace, meant: Meant, until_us: int) -> str:
    part, reading = bench.part(meant.of), bench.firmware.readings[meant.of]
    assert isinstance(part, Encoder)
    assert isinstance(reading, Turns)
    counts = trace.signal(Kind.COUNT, meant.of)

    def total(at_us: int) -> int:
        place = bisect_right(counts.times_us, at_us) - 1
        return int(counts.values[place]) if place >= 0 else 0

    steps = total(until_us) - total(meant.from_us)
    wanted = meant.many * part.counts_a_click // reading.counts_a_step
    if not steps and wanted:
        return "missed"
    if reading.fast_steps > 1:
        return "" if (steps > 0) == (wanted > 0) else "wrong-count"
    return "" if steps == wanted else "wrong-count"


def play_rounds(bench: Bench, person: Person, numbers: range) -> Played:
    """Several rounds, one after another."""
    found = Played()
    for number in numbers:
        found.add(play_round(bench, person, number))
    return found
