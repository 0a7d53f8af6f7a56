"""Which faults can be hidden in a bench: those that a finding names there, and that can be seen from outside."""

from __future__ import annotations

import random
from dataclasses import dataclass
from typing import Any

from ..document import Bench, DocumentError, Scenario, bench_data, bench_from_data
from ..electrics import both_states, circuit_of, lamp_legs, sums
from ..engine import Budget, Kind, Run, SkippingEngine
from ..first_scenario import with_first
from ..study import study
from .base import Data, Hidden

OUTSIDE = (Kind.LEVEL, Kind.OUTPUT, Kind.DUTY, Kind.PITCH, Kind.ANGLE, Kind.TEXT, Kind.SAMPLE, Kind.RESET)
BUDGET = Budget(passes=400_000)
Signature = dict[str, Any]


@dataclass(frozen=True)
class Planted:
    """One fault that was put in: which kind, of what, in a scenario where it shows; the bench with it."""

    hidden: Hidden
    of: str
    bench: Bench
    scenario: str
    shows: tuple[str, ...]  # what of the outside differs

    @property
    def words(self) -> str:
        """What it is."""
        return self.hidden.words.replace("{of}", self.of)


def codes(bench: Bench) -> set[tuple[str, str]]:
    """(code, part) of all findings of a bench, in all its scenarios."""
    found: set[tuple[str, str]] = set()
    for scenario in bench.scenarios or (None,):
        found |= {(one.code, one.part) for one in study(bench, scenario, budget=BUDGET, mends=False).findings}
    return found


def meter(bench: Bench) -> Signature:
    """What a meter shows: contacts' pins pressed and let go (mV), lamps' currents (µA), the supply."""
    board = bench.the_board
    found: Signature = {}
    for line in bench.contacts:
        states = both_states(circuit_of(line, board), board)
        found[f"volts {line.id}"] = [tuple(round(mv) for mv in state.pin_mv) for state in states]
    for leg in lamp_legs(bench):
        through = leg.current_ua(board)
        found[f"current {leg.channel}"] = None if through is None else round(through)
    found["supply"] = [round(one.drawn_ua) for one in sums(bench)]
    return found


def signals(run: Run) -> Signature:
    """What a probe sees in a run."""
    return {
        f"{one.kind} {one.of}": (tuple(one.times_us), tuple(map(str, one.values)))
        for one in run.trace.signals
        if one.kind in OUTSIDE
    }


def differences(sound: Bench, faulty: Bench, scenario: Scenario) -> list[str]:
    """What of the outside differs: in the run of a scenario, or on the meter."""
    before, after = (signals(SkippingEngine().run(one, scenario, budget=BUDGET)) for one in (sound, faulty))
    found = [name for name in before | after if before.get(name) != after.get(name)]
    one, other = meter(sound), meter(faulty)
    return found + [name for name in one | other if one.get(name) != other.get(name)]


def plant(sound: Bench, known: set[tuple[str, str]], hidden: Hidden, rng: random.Random) -> Planted | None:
    """A fault of a kind in a bench, chosen by chance among the ways that are findable; None where there is none.
    `known` are the codes of the sound bench."""
    ways = list(hidden.plants(bench_data(sound)))
    rng.shuffle(ways)
    for of, data in ways[:12]:
        found = _tried(sound, known, hidden, of, data)
        if found:
            return found
    return None


def _tried(sound: Bench, known: set[tuple[str, str]], hidden: Hidden, of: str, data: Data) -> Planted | None:
    try:
        faulty = bench_from_data(data)
    except DocumentError:
        return None
    named = {one for one in codes(faulty) if one[0] == hidden.code} - known
    if not named:
        return None
    for scenario in sound.scenarios:
        shows = differences(sound, faulty, scenario)
        if shows:
            return Planted(hidden, of, faulty, scenario.name, tuple(shows))
    return None


def ready(bench: Bench) -> Bench:
    """A bench as drills take it: with a scenario that does something to it."""
    return with_first(bench)
