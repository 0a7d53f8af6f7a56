"""Test cards: what a hand with the real board does, line by line, and what must come of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import inf
from typing import Literal

from ..document import Bench, Scenario
from ..document.parts import Commands
from ..document.scenario import Command, KeyPress, Level, Press, SetTo, Stimulus, Touch, Turn
from ..guard import fault_at, hang_run, judge_run
from ..guard.hangs import BEFALLS
from ..timing import expected_words
from ..units import ms, short
from ..wiring.meter import first_power_on

BRIEFLY_US = 400_000
SOON_S = 0.1  # nobody is quicker
Group = Literal["power", "scenario", "fault"]
GROUPS: dict[Group, str] = {
    "power": "First power-on",
    "scenario": "What it must do",
    "fault": "What it must survive",
}
# What a hand can do to a board on the table, and what the bench says must come of it.
BY_HAND = {
    "off": "While it runs pull a wire of {} off, and put it on again",
    "closed": "While it runs bridge the contact of {} with a piece of wire",
    "dip": "While it runs interrupt the supply for a moment",
}
COMES = {
    "reset": "it starts anew by itself, and goes on",
    "by-itself": "it goes on by itself",
    "unnoticed": "it goes on, and nothing tells of it",
    "outside": "the rest goes on as before",
    "hangs": "it hangs: mend that first, in Guard",
    "boot-loop": "it boots over and over: mend that first, in Guard",
    "unmet": "nothing comes of it",
    "too-late": "it goes on",
}


@dataclass(frozen=True)
class Line:
    """One line: its id (the same on every card of the bench), what to do, what must come of it; where a number is asked
    for its unit, what is right (None: no end), and what it means where it is below or above."""

    id: str
    group: Group
    do: str
    expect: str
    unit: str = ""
    least: float | None = None
    most: float | None = None
    below: str = ""
    above: str = ""

    def judged(self, value: float) -> str:
        """ "" where a number is right; else what is wrong."""
        if self.least is not None and value < self.least:
            return self.below or "too little"
        return (self.above or "too much") if self.most is not None and value > self.most else ""


def step_words(bench: Bench, one: Stimulus) -> str:
    """What is done, for a hand: “press Foot pedal briefly”."""
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}
    name = names[one.input]
    match one:
        case Press():
            return f"press {name} {'briefly' if one.hold_us < BRIEFLY_US else f'for {ms(one.hold_us)}'}"
        case SetTo():
            return f"{'switch on' if one.pressed else 'switch off'} {name}"
        case Touch():
            return f"touch the wire of {name}"
        case Turn():
            clicks = f"{abs(one.clicks)} {'click' if abs(one.clicks) == 1 else 'clicks'}"
            return f"turn {name} {clicks} to the {'right' if one.clicks > 0 else 'left'}"
        case Level():
            part = next(part for part in bench.parts if part.id == one.input)
            return f"bring {name} to {short(one.value)} {getattr(part, 'unit', '')}".rstrip()
        case KeyPress():
            return f"press {one.key} on {name}"
        case Command():
            part = next(part for part in bench.parts if part.id == one.input)
            known = enumerate(part.names) if isinstance(part, Commands) else ()
            said = {part.number(n): word for n, word in known} if isinstance(part, Commands) else {}
            return f"say {said.get(one.number, one.number)} to {name}"


def steps(bench: Bench, scenario: Scenario) -> str:
    """A scenario as steps for a hand, each with when it comes."""
    done = [(one.at_us, step_words(bench, one)) for one in scenario.stimuli]
    done += [(one.at_us, f"unplug it for {ms(one.for_us)}") for one in scenario.upsets if one.kind == "off"]
    said: list[str] = []
    before_us = 0
    for at_us, words in sorted(done):
        later_s = (at_us - before_us) / 1e6
        said.append(f"{later_s:.1f} s later {words}" if said and later_s >= SOON_S else words)
        before_us = at_us
    return "switch it on; " + ("; ".join(said) or "wait")


def _power(bench: Bench) -> Iterator[Line]:
    for _, title, rows in first_power_on(bench):
        for one in rows:
            most = None if one.most == inf else one.most
            do = f"{title}: {one.do}, {one.between}"
            yield Line(f"power {one.id}", "power", do, one.wanted, one.unit, one.least, most, one.below, one.above)


def _does(bench: Bench) -> Iterator[Line]:
    for scenario in bench.scenarios:
        if scenario.answers or scenario.repeats:
            continue  # nobody does that by hand
        do = f"{scenario.name}: {steps(bench, scenario)}"
        for number, one in enumerate(scenario.expects):
            yield Line(f"scenario {scenario.name} {number}", "scenario", do, expected_words(bench, one))
        if not scenario.expects:
            yield Line(f"scenario {scenario.name}", "scenario", do, "as the strip shows it")


def _survives(bench: Bench) -> Iterator[Line]:
    if not bench.scenarios:
        return
    scenario = bench.scenarios[0]
    healthy = hang_run(bench, scenario, None)
    for kind, words in BY_HAND.items():
        befallen = {"off": "wire", "closed": "contact"}.get(kind, "")
        for of, name in BEFALLS[befallen](bench):
            fault = fault_at(bench, kind, of, scenario.length_us // 2)  # type: ignore[arg-type]
            found = judge_run(bench, fault, hang_run(bench, scenario, fault), healthy)
            yield Line(f"fault {kind} {of}".rstrip(), "fault", words.format(name), COMES[found.verdict])


def lines_of(bench: Bench) -> list[Line]:
    """All lines of a card for the bench as it is."""
    return [*_power(bench), *_does(bench), *_survives(bench)]


def stale(card: list[Line], bench: Bench) -> tuple[set[str], list[Line]]:
    """(ids of lines that are no longer so, lines that have come) since a card was made."""
    now = {one.id: one for one in lines_of(bench)}
    return {one.id for one in card if now.get(one.id) != one}, [one for one in now.values() if one not in card]
