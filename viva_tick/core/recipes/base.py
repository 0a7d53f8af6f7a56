"""What a recipe is: it asks for what it needs, and becomes an ordinary machine, with the numbers it counts with."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import ConfigDict, TypeAdapter

from ..document import (
    Action,
    AddTo,
    AlwaysEvent,
    Bench,
    ContactEvent,
    DriveEvent,
    Guard,
    IfContact,
    IfLevel,
    IfVariable,
    InputEvent,
    Interlock,
    Machine,
    OutputRow,
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
Event = ContactEvent | InputEvent | DriveEvent | TimeoutEvent | AlwaysEvent
KINDS = {"sensor": Analogue, "dial": Encoder, "keys": KeyMatrix, "commands": Commands}


@dataclass(frozen=True)
class Ask:
    """One thing that a recipe needs: a "contact", a "sensor" (an analogue part), a "dial" (an encoder), "keys",
    "commands", an "output", a "line" that shows text, a "time" or a "number", with what to call it and, for the last
    two, what it is at first; or several "contacts" or "outputs", `least` at least, in order. One that is `optional` may
    be left out."""

    id: str
    label: str
    kind: str
    default_us: int = 0
    optional: bool = False
    least: int = 2

    @property
    def of(self) -> str:
        """What each of them is, where there are several."""
        return MANY.get(self.kind, self.kind)


MANY = {"contacts": "contact", "outputs": "output"}
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
    rows: tuple[OutputRow, ...] = ()
    more: tuple[Machine, ...] = ()
    wiring: tuple[dict[str, Any], ...] = ()

    def patch(self) -> list[dict[str, Any]]:
        """The edit that adds it."""
        found = [
            {"op": "add", "path": f"/firmware/readings/{ident}", "value": reading.model_dump(mode="json")}
            for ident, reading in self.readings.items()
        ]
        found += self.wiring
        for where, ones in (
            ("variables", self.variables),
            ("rows", self.rows),
            ("machines", (self.machine, *self.more)),
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
        self.rows: list[OutputRow] = []
        self.many: dict[str, list[str]] = {}
        self.more: list[tuple[str, list[State], list[Transition]]] = []
        self.wiring: list[dict[str, Any]] = []
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
            if ask.kind in MANY:
                self._several(ask, value)
                continue
            ident = str(value or "")
            if ask.optional and not ident:
                continue
            self.ids[ask.id] = ident
            if wanted := KINDS.get(ask.kind):
                if not isinstance(sensed[ident], wanted):
                    raise KeyError(ident)
                self.names[ask.id] = sensed[ident].name
            elif ask.kind == "line":
                self.names[ask.id] = next(line.name for line in bench.text_lines if line.id == ident)
            elif ask.kind == "contact":
                self.names[ask.id] = bench.contact(ident).name
            else:
                self.names[ask.id] = bench.channel(ident).name

    def _several(self, ask: Ask, value: Any) -> None:
        """Several of a kind, in order; each is known as `ask-1`, `ask-2` …, and the first of them as `ask` alone."""
        known = [str(one) for one in value] if isinstance(value, list | tuple) else str(value or "").split(",")
        found = list(dict.fromkeys(one for one in known if one))[:16]
        look = self.bench.contact if ask.of == "contact" else self.bench.channel
        if len(found) < ask.least:
            raise ValueError(f"It takes at least {ask.least} {ask.kind}; {len(found)} were chosen.")
        self.many[ask.id] = []
        for number, ident in enumerate(found, 1):
            self.ids[f"{ask.id}-{number}"], self.names[f"{ask.id}-{number}"] = ident, look(ident).name
            self.many[ask.id].append(f"{ask.id}-{number}")

    def row(self, ask: str, name: str) -> int:
        """Several outputs that were given as a row, known as "row": how many are in it. One that is there already is
        taken."""
        outputs = tuple(self.ids[one] for one in self.many[ask])
        there = next((one for one in self.bench.firmware.rows if one.outputs == outputs), None)
        if there is None:
            taken = {part.id for part in self.bench.parts} | set(self.bench.groups)
            there = OutputRow(id=free_id(name.lower().replace(" ", "-"), taken), name=name, outputs=outputs)
            self.rows.append(there)
        self.ids["row"] = there.id
        return len(outputs)

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


READING: TypeAdapter[Any] = TypeAdapter(Reading, config=ConfigDict(defer_build=True))


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
    first = next(plan.ids[name] for name in ("output", *plan.many.get("outputs", ())[:1], "line") if name in plan.ids)
    for kind in ("contact", "output"):
        named = [plan.ids[ask.id] for ask in recipe.asks if ask.kind == kind and ask.id in plan.ids]
        if len(named) != len(set(named)):
            raise ValueError(f"{recipe.title} needs two different {kind}s.")
    for ask in recipe.asks:
        if ask.kind in KINDS:
            plan.read(ask.id)
    states, transitions = recipe.make(plan)
    taken = {machine.id for machine in bench.firmware.machines}
    made = []
    for output, rows, moves in [(first, states, transitions), *plan.more]:
        ident = free_id(f"{output.replace('.', '-')}-{recipe.id}", taken)
        taken.add(ident)
        title = next((one.name for one in bench.drivable if one.id == output), output)
        name = recipe.title if plan.many and not plan.more else f"{title}: {recipe.title.lower()}"
        made.append(Machine(id=ident, name=name[:60], initial=rows[0].id, states=tuple(rows), transitions=tuple(moves)))
    return Made(
        made[0],
        tuple(plan.variables),
        tuple(plan.interlocks),
        plan.readings,
        tuple(plan.rows),
        tuple(made[1:]),
        tuple(plan.wiring),
    )


def machine_from(recipe: Recipe, bench: Bench, given: dict[str, Any]) -> Machine:
    """The machine alone: see `made_from`."""
    return made_from(recipe, bench, given).machine
