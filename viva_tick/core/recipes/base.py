"""What a recipe is: it asks for what it needs, and becomes an ordinary machine."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..document import Bench, ContactEvent, InputEvent, Machine, State, TimeoutEvent, Transition
from ..drives import Drive, Steady

ON, OFF = Steady(on=True), Steady(on=False)


@dataclass(frozen=True)
class Ask:
    """One thing that a recipe needs: a "contact", a "sensor" (an analogue part), an "output" or a "time", with what to
    call it and, for a time, what it is at first."""

    id: str
    label: str
    kind: str
    default_us: int = 0


WHEN = Ask("input", "When", "contact")
THEN = Ask("output", "then", "output")


@dataclass(frozen=True)
class Recipe:
    """A ready machine. `make(plan)` gives its states and ways; `asks` is what a plan must name."""

    id: str
    title: str
    sentence: str
    group: str
    make: Callable[[Plan], tuple[list[State], list[Transition]]]
    asks: tuple[Ask, ...] = (WHEN, THEN)


class Plan:
    """What was given to a recipe, and short words to say its machine with. Times are in µs, whole milliseconds."""

    def __init__(self, recipe: Recipe, bench: Bench, given: dict[str, Any]) -> None:
        self.names: dict[str, str] = {}
        self.ids: dict[str, str] = {}
        self.times: dict[str, int] = {}
        sensors = {part.id: part.name for _, part in bench.sensed}
        for ask in recipe.asks:
            value = given.get(ask.id)
            if ask.kind == "time":
                us = value if isinstance(value, int) and not isinstance(value, bool) else ask.default_us
                self.times[ask.id] = max(us // 1000, 1) * 1000
                continue
            ident = str(value)
            self.ids[ask.id] = ident
            if ask.kind == "sensor":
                self.names[ask.id] = sensors[ident]
            elif ask.kind == "contact":
                self.names[ask.id] = bench.contact(ident).name
            else:
                self.names[ask.id] = bench.channel(ident).name

    def on(self, kind: str, ask: str = "input") -> ContactEvent | InputEvent:
        """An event of what was given."""
        if kind in ("above", "below"):
            return InputEvent(kind=kind, input=self.ids[ask])  # type: ignore[arg-type]
        return ContactEvent(kind=kind, input=self.ids[ask])  # type: ignore[arg-type]

    def after(self, ask: str = "time") -> TimeoutEvent:
        """The time that was given has passed."""
        return TimeoutEvent(after_us=self.times[ask])

    def state(self, ident: str, name: str, **drives: Drive) -> State:
        """A state; `drives` by what the outputs were asked for as."""
        return State(id=ident, name=name, drives={self.ids[ask]: drive for ask, drive in drives.items()})


def way(source: str, event: ContactEvent | InputEvent | TimeoutEvent, target: str) -> Transition:
    """From a state, on an event, to a state."""
    return Transition(source=source, on=event, target=target)


def free_id(wanted: str, taken: set[str]) -> str:
    """`wanted`, or with the first number behind it that makes it new; at most 40 characters."""
    wanted = wanted[:36].rstrip("-")
    if wanted not in taken:
        return wanted
    return next(name for number in range(2, 10_000) if (name := f"{wanted}-{number}") not in taken)


def machine_from(recipe: Recipe, bench: Bench, given: dict[str, Any]) -> Machine:
    """The recipe's machine for what was given, by the ids of its asks, under an id of its own. KeyError for unknown
    parts; ValueError where two things that must differ are one."""
    plan = Plan(recipe, bench, given)
    for kind in ("contact", "output"):
        named = [plan.ids[ask.id] for ask in recipe.asks if ask.kind == kind]
        if len(named) != len(set(named)):
            raise ValueError(f"{recipe.title} needs two different {kind}s.")
    states, transitions = recipe.make(plan)
    taken = {machine.id for machine in bench.firmware.machines}
    ident = free_id(f"{plan.ids['output'].replace('.', '-')}-{recipe.id}", taken)
    name = f"{plan.names['output']}: {recipe.title.lower()}"[:60]
    return Machine(id=ident, name=name, initial=states[0].id, states=tuple(states), transitions=tuple(transitions))
