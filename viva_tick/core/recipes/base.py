"""What a recipe is: it asks for what it needs, and becomes an ordinary machine, with the numbers it counts with."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import TypeAdapter

from ..document import (
    Action,
    AddTo,
    AlwaysEvent,
    Bench,
    ContactEvent,
    Guard,
    IfContact,
    IfLevel,
    IfVariable,
    InputEvent,
    Interlock,
    Machine,
    Reading,
    SetVariable,
    StartDrive,
    State,
    TimeoutEvent,
    Transition,
    Variable,
)
from ..document.parts import Analogue, Commands, Encoder, KeyMatrix
from ..drives import Drive, Steady
from ..ids import free_id
from ..pins import first_reading

ON, OFF = Steady(on=True), Steady(on=False)
Event = ContactEvent | InputEvent | TimeoutEvent | AlwaysEvent
KINDS = {"sensor": Analogue, "dial": Encoder, "keys": KeyMatrix, "commands": Commands}


@dataclass(frozen=True)
class Ask:
    """One thing that a recipe needs: a "contact", a "sensor" (an analogue part), a "dial" (an encoder), "keys",
    "commands", an "output", a "time" or a "number", with what to call it and, for the last two, what it is at first.
    One that is `optional` may be left out."""

    id: str
    label: str
    kind: str
    default_us: int = 0
    optional: bool = False


WHEN = Ask("input", "When", "contact")
THEN = Ask("output", "then", "output")


@dataclass(frozen=True)
class Recipe:
    """A ready machine. `make(plan)` gives its states and transitions; `asks` is what a plan must name."""

    id: str
    title: str
    sentence: str
    group: str
    make: Callable[[Plan], tuple[list[State], list[Transition]]]
    asks: tuple[Ask, ...] = (WHEN, THEN)


@dataclass(frozen=True)
class Made:
    """What a recipe makes: a machine, and what goes with it."""

    machine: Machine
    variables: tuple[Variable, ...] = ()
    interlocks: tuple[Interlock, ...] = ()
    readings: dict[str, Any] = field(default_factory=dict)

    def patch(self) -> list[dict[str, Any]]:
        """The edit that adds it."""
        found = [
            {"op": "add", "path": f"/firmware/readings/{ident}", "value": reading.model_dump(mode="json")}
            for ident, reading in self.readings.items()
        ]
        for where, ones in (
            ("variables", self.variables),
            ("machines", (self.machine,)),
            ("interlocks", self.interlocks),
        ):
            found += [
                {"op": "add", "path": f"/firmware/{where}/-", "value": one.model_dump(mode="json")} for one in ones
            ]
        return found


class Plan:
    """What was given to a recipe, and short words to say its machine with. Times are in µs, whole milliseconds."""

    def __init__(self, recipe: Recipe, bench: Bench, given: dict[str, Any]) -> None:
        self.bench = bench
        self.names: dict[str, str] = {}
        self.ids: dict[str, str] = {}
        self.times: dict[str, int] = {}
        self.numbers: dict[str, int] = {}
        self.variables: list[Variable] = []
        self.interlocks: list[Interlock] = []
        self.readings: dict[str, Any] = {}
        sensed = {part.id: part for _, part in bench.sensed}
        for ask in recipe.asks:
            value = given.get(ask.id)
            if ask.kind == "time":
                us = value if isinstance(value, int) and not isinstance(value, bool) else ask.default_us
                self.times[ask.id] = max(us // 1000, 1) * 1000
                continue
            if ask.kind == "number":
                number = value if isinstance(value, int) and not isinstance(value, bool) else ask.default_us
                self.numbers[ask.id] = min(max(number, 1), 1000)
                continue
            ident = str(value or "")
            if ask.optional and not ident:
                continue
            self.ids[ask.id] = ident
            if wanted := KINDS.get(ask.kind):
                if not isinstance(sensed[ident], wanted):
                    raise KeyError(ident)
                self.names[ask.id] = sensed[ident].name
            elif ask.kind == "contact":
                self.names[ask.id] = bench.contact(ident).name
            else:
                self.names[ask.id] = bench.channel(ident).name

    def given(self, *asks: str) -> list[str]:
        """Of the asks, those that were answered."""
        return [ask for ask in asks if ask in self.ids]

    def on(self, kind: str, ask: str = "input", of: str = "") -> ContactEvent | InputEvent:
        """An event of what was given."""
        if kind in ("above", "below", "step", "back", "code", "wrong", "key", "command"):
            return InputEvent(kind=kind, input=self.ids[ask], of=of)  # type: ignore[arg-type]
        return ContactEvent(kind=kind, input=self.ids[ask])  # type: ignore[arg-type]

    def after(self, ask: str = "time", until: str | None = None) -> TimeoutEvent:
        """The time that was given has passed; with `until`, one drawn between the two."""
        until_us = max(self.times[until], self.times[ask]) if until else None
        return TimeoutEvent(after_us=self.times[ask], until_us=until_us)

    def state(self, ident: str, name: str, **drives: Drive) -> State:
        """A state; `drives` by what the outputs were asked for as."""
        return State(id=ident, name=name, drives={self.ids[ask]: drive for ask, drive in drives.items()})

    def number(
        self, name: str, most: int, begins: int = 0, least: int = 0, ends: Literal["stop", "wrap"] = "stop"
    ) -> str:
        """A variable of its own: its id."""
        taken = {one.id for one in (*self.bench.firmware.variables, *self.variables)}
        ident = free_id(name.lower().replace(" ", "-"), taken)
        self.variables.append(Variable(id=ident, name=name, least=least, most=most, begins=begins, ends=ends))
        return ident

    def held(self, ask: str, pressed: bool = True) -> Guard:
        """A contact that was given is pressed, or not."""
        return IfContact(input=self.ids[ask], pressed=pressed)

    def level(self, ask: str, above: bool = True) -> Guard:
        """A sensor that was given is above, or not."""
        return IfLevel(input=self.ids[ask], above=above)

    def drive(self, ask: str, drive: Drive) -> Action:
        """An output that was given is made to do something."""
        return StartDrive(output=self.ids[ask], drive=drive)

    def read(self, ask: str) -> None:
        """Have the firmware read what was given, if it does not yet."""
        ident = self.ids[ask]
        if ident in self.bench.firmware.readings:
            return
        part = next(part for _, part in self.bench.sensed if part.id == ident)
        self.readings[ident] = READING.validate_python(first_reading(part, self.bench.the_board), strict=False)


READING: TypeAdapter[Any] = TypeAdapter(Reading)


def transition(source: str, event: Event, target: str, *actions: Action, when: Sequence[Guard] = ()) -> Transition:
    """From a state, on an event, if the guards hold, to a state, doing something on the way."""
    return Transition(source=source, on=event, target=target, guards=tuple(when), actions=actions)


def count(variable: str, by: int = 1) -> Action:
    """A variable is counted up."""
    return AddTo(variable=variable, number=by)


def put(variable: str, number: int) -> Action:
    """A variable is set."""
    return SetVariable(variable=variable, number=number)


def is_so(variable: str, sign: str, number: int) -> Guard:
    """A variable against a number."""
    return IfVariable(variable=variable, sign=sign, number=number)  # type: ignore[arg-type]


ALWAYS = AlwaysEvent()


def made_from(recipe: Recipe, bench: Bench, given: dict[str, Any]) -> Made:
    """What the recipe makes of what was given, by the ids of its asks, under an id of its own. KeyError for unknown
    parts; ValueError where two things that must differ are one."""
    plan = Plan(recipe, bench, given)
    for kind in ("contact", "output"):
        named = [plan.ids[ask.id] for ask in recipe.asks if ask.kind == kind and ask.id in plan.ids]
        if len(named) != len(set(named)):
            raise ValueError(f"{recipe.title} needs two different {kind}s.")
    for ask in recipe.asks:
        if ask.kind in KINDS:
            plan.read(ask.id)
    states, transitions = recipe.make(plan)
    taken = {machine.id for machine in bench.firmware.machines}
    ident = free_id(f"{plan.ids['output'].replace('.', '-')}-{recipe.id}", taken)
    name = f"{plan.names['output']}: {recipe.title.lower()}"[:60]
    machine = Machine(id=ident, name=name, initial=states[0].id, states=tuple(states), transitions=tuple(transitions))
    return Made(machine, tuple(plan.variables), tuple(plan.interlocks), plan.readings)


def machine_from(recipe: Recipe, bench: Bench, given: dict[str, Any]) -> Machine:
    """The machine alone: see `made_from`."""
    return made_from(recipe, bench, given).machine
