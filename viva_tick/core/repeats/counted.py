"""How often each thing held over many runs. Sums of whole numbers, so that pieces come together in any order."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

from ..document import Bench, Scenario
from ..engine import SkippingEngine
from ..rates import wilson
from ..timing import answers, expected_words, judged
from .drawn import FACTORS, Draw, drawn, redrawn, varied

ENOUGH = 60  # runs of which every factor is drawn anew, one by one


def outcomes(bench: Bench, scenario: Scenario) -> dict[str, str]:
    """What is looked at in each run, with its words: every check, and of each contact that is moved whether its presses
    count once each."""
    found = {f"check {place}": expected_words(bench, one) for place, one in enumerate(scenario.expects)}
    moved = {one.input for one in (*scenario.stimuli, *(each.do for each in scenario.repeats))}
    return found | {
        f"press {line.id}": f"{line.name}: every press counts once"
        for line in bench.contacts
        if line.id in moved and line.id in bench.firmware.debounce
    }


def _held(bench: Bench, scenario: Scenario, draw: Draw, wanted: Iterable[str]) -> dict[str, bool]:
    """What held in one run, of that which its run came to."""
    bench, scenario, seed = varied(bench, scenario, draw)
    run = SkippingEngine().run(bench, scenario, seed)
    verdicts = judged(bench, scenario, run)
    held = {f"check {place}": one.met for place, one in enumerate(verdicts) if one.reached}
    tallies = answers(bench, run).tallies
    held |= {f"press {ident}": one.agrees for ident, one in tallies.items()}
    return {name: held[name] for name in wanted if name in held}


@dataclass
class Tally:
    """Runs counted: of each outcome (runs that came to it, those in which it held, the first number in which it did
    not)."""

    runs: int = 0
    rows: dict[str, tuple[int, int, int | None]] = field(default_factory=dict)

    def add(self, number: int, held: dict[str, bool]) -> None:
        """One run."""
        self.merge(Tally(1, {name: (1, int(so), None if so else number) for name, so in held.items()}))

    def merge(self, other: Tally) -> None:
        """Others besides, in any order."""
        self.runs += other.runs
        for name, (of, so, worst) in other.rows.items():
            mine = self.rows.get(name, (0, 0, None))
            first = min((one for one in (mine[2], worst) if one is not None), default=None)
            self.rows[name] = (mine[0] + of, mine[1] + so, first)

    def data(self) -> dict[str, object]:
        """As JSON data, with the 95 % intervals (Wilson)."""
        rows = {}
        for name in sorted(self.rows):
            of, so, worst = self.rows[name]
            least, most = wilson(so, of)
            rows[name] = {"of": of, "held": so, "least": round(least, 6), "most": round(most, 6), "first_not": worst}
        return {"runs": self.runs, "outcomes": rows}

    def text(self) -> str:
        """As JSON, the same bytes whatever the order in which pieces came."""
        return json.dumps(self.data(), sort_keys=True)


def holds_without(bench: Bench, scenario: Scenario, outcome: str) -> bool | None:
    """Whether an outcome holds in a scenario as it is; None where its run does not come to it."""
    return _held(bench, scenario, Draw(0), [outcome]).get(outcome)


def repeat(bench: Bench, scenario: Scenario, numbers: Iterable[int], go_on: Callable[[], None] = lambda: None) -> Tally:
    """The runs of these numbers, counted. A pure function of what it is given; `go_on` is called before each and may
    raise."""
    done, wanted = Tally(), outcomes(bench, scenario)
    for number in numbers:
        go_on()
        done.add(number, _held(bench, scenario, drawn(number), wanted))
    return done


@dataclass(frozen=True)
class Flips:
    """Of so many runs, in how many an outcome changes if one factor alone is drawn anew; and of all that were run for
    it (`seen`), in how many it held."""

    of: int
    changed: dict[str, int]
    seen: int = 0
    held: int = 0

    @property
    def marginal(self) -> bool:
        """Whether only the instant within a millisecond decides."""
        return self.changed["phase"] > 0 and not any(many for factor, many in self.changed.items() if factor != "phase")

    @property
    def variance(self) -> float:
        """The variance of the outcome (1 where it holds, 0 where not)."""
        share = self.held / self.seen if self.seen else 0.0
        return share * (1 - share)

    def effects(self) -> dict[str, float]:
        """Of each factor its total effect, 0 to 1: how much of the outcome's variance it has a hand in, alone or with
        others. Half of the share of runs that it changes, over the variance (Jansen 1999; a test holds it to a library
        of statistics). Together they come to more than 1 where factors act together."""
        variance = self.variance
        if not variance or not self.of:
            return dict.fromkeys(self.changed, 0.0)
        return {factor: min(many / self.of / 2 / variance, 1.0) for factor, many in self.changed.items()}


def flips(
    bench: Bench, scenario: Scenario, outcome: str, many: int = ENOUGH, go_on: Callable[[], None] = lambda: None
) -> Flips:
    """What an outcome hangs on: each factor drawn anew in `many` runs, the others as they were."""
    changed = dict.fromkeys(FACTORS, 0)
    of = seen = held = 0
    for number in range(1, many + 1):
        go_on()
        draw = drawn(number)
        was = _held(bench, scenario, draw, [outcome]).get(outcome)
        if was is None:
            continue
        of, seen, held = of + 1, seen + 1, held + was
        for factor in FACTORS:
            now = _held(bench, scenario, redrawn(draw, factor), [outcome]).get(outcome)
            if now is not None:
                seen, held = seen + 1, held + now
                changed[factor] += now != was
    return Flips(of, changed, seen, held)


@dataclass(frozen=True)
class Repeats:
    """What is known of a scenario's repeats: how often each outcome held, and of some what it hangs on."""

    tally: Tally
    hung: dict[str, Flips] = field(default_factory=dict)


def said(bench: Bench, scenario: Scenario, done: Tally, hung: dict[str, Flips]) -> list[str]:
    """In words, what holds least often first."""
    words = outcomes(bench, scenario)
    lines = []
    for name, (of, so, worst) in sorted(done.rows.items(), key=lambda row: (row[1][1] / row[1][0], row[0])):
        least, most = wilson(so, of)
        if so == of:
            lines.append(f"{words[name]}: in all {of:,} (at least {100 * least:.2f} %)")
            continue
        lines.append(
            f"{words[name]}: in {so:,} of {of:,} ({100 * least:.1f} to {100 * most:.1f} %); not in number {worst}"
        )
        if name in hung:
            found = sorted(hung[name].effects().items(), key=lambda row: (-row[1], row[0]))
            on = ", ".join(f"{FACTORS[factor]} {100 * share:.0f} %" for factor, share in found if share)
            lines.append(f"    of its variance, over {hung[name].of} runs: {on or 'nothing that was drawn anew'}")
            if hung[name].marginal:
                lines.append("    marginal: only the instant within a millisecond decides")
    return lines
