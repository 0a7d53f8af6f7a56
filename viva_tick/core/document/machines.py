"""Machines in the document: what they hear, what a transition asks for and does, states, variables."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field

from ..drives import Drive
from .base import Doc, Id, Name, Ref
from .events import AtLeastMs, Event, Whole


class Variable(Doc):
    """A whole number that machines share, from `least` to `most`; beyond an end it stops there, or comes in again at
    the other ("wrap")."""

    id: Id
    name: Name
    least: Whole = 0
    most: Whole = 100
    begins: Whole = 0
    ends: Literal["stop", "wrap"] = "stop"

    def held(self, value: int) -> int:
        """The value as the variable takes it."""
        if self.least <= value <= self.most:
            return value
        if self.ends == "wrap":
            return self.least + (value - self.least) % (self.most - self.least + 1)
        return self.least if value < self.least else self.most


class IfContact(Doc):
    """A contact is accepted pressed, or not."""

    kind: Literal["contact"] = "contact"
    input: Ref
    pressed: bool = True


class IfLevel(Doc):
    """An analogue part is accepted above, or not: `of` one of its marks, where that is given."""

    kind: Literal["level"] = "level"
    input: Ref
    of: Annotated[str, Field(max_length=80)] = ""
    above: bool = True


class IfIn(Doc):
    """A machine is in a state (or in one inside it), or not."""

    kind: Literal["in"] = "in"
    machine: Id
    state: Id
    there: bool = True


class IfVariable(Doc):
    """A variable against a number, or against another variable."""

    kind: Literal["compare"] = "compare"
    variable: Id
    sign: Literal["<", "<=", "=", "!=", ">=", ">"]
    number: Whole = 0
    other: Id | None = None


class IfRange(Doc):
    """A variable lies from `least` to `most`, both included, or not."""

    kind: Literal["range"] = "range"
    variable: Id
    least: Whole
    most: Whole
    inside: bool = True


Guard = Annotated[IfContact | IfLevel | IfIn | IfVariable | IfRange, Field(discriminator="kind")]


class SetVariable(Doc):
    """A variable takes a number."""

    do: Literal["set"] = "set"
    variable: Id
    number: Whole


class AddTo(Doc):
    """A number (or less than nothing) is added to a variable."""

    do: Literal["add"] = "add"
    variable: Id
    number: Annotated[int, Field(ge=-1_000_000, le=1_000_000)]


class CopyTo(Doc):
    """A variable takes the value of another."""

    do: Literal["copy"] = "copy"
    variable: Id
    other: Id


class RandomFor(Doc):
    """A variable takes a number at random, both ends included."""

    do: Literal["random"] = "random"
    variable: Id
    least: Whole
    most: Whole


class TakeLevel(Doc):
    """A variable takes what an analogue part was last converted to: its whole scale over the variable's range."""

    do: Literal["take"] = "take"
    variable: Id
    input: Ref


class SendBytes(Doc):
    """Bytes are sent to a module, over the line that it sends on."""

    do: Literal["send"] = "send"
    input: Ref
    bytes: Annotated[tuple[Annotated[int, Field(ge=0, le=255)], ...], Field(min_length=1, max_length=16)]


class Feed(Doc):
    """The watchdog is fed, where the bench has it fed by actions."""

    do: Literal["feed"] = "feed"


class Restart(Doc):
    """The board restarts itself, at the end of the pass: what is kept has been written then."""

    do: Literal["restart"] = "restart"


class Signal(Doc):
    """Under a kernel: a flag is given, one put into a queue, a software timer started. The loop never waits for it."""

    do: Literal["signal"] = "signal"
    of: Id


class StartDrive(Doc):
    """An output is made to do something."""

    do: Literal["drive"] = "drive"
    output: Ref
    drive: Drive


Action = Annotated[
    SetVariable | AddTo | CopyTo | RandomFor | TakeLevel | SendBytes | Feed | Restart | Signal | StartDrive,
    Field(discriminator="do"),
]
Actions = Annotated[tuple[Action, ...], Field(max_length=16)]


class State(Doc):
    """A state, what its entry makes the outputs do (outputs not named keep doing what they did), and what else is done
    as it is entered and left. With `parent` it is inside another, which starts in its first state, or in `starts_in`,
    or, if it `remembers`, in the one that it was left in. `ignores` are events that are ignored here on purpose
    (kind, giver and which, with spaces between); `place` is where it was put on the map."""

    id: Id
    name: Name
    drives: dict[Ref, Drive] = Field(default_factory=dict)
    parent: Id | None = None
    starts_in: Id | None = None
    remembers: bool = False
    entry: Actions = ()
    exit: Actions = ()
    ignores: Annotated[tuple[Annotated[str, Field(max_length=200)], ...], Field(max_length=200)] = ()
    place: tuple[int, int] | None = None


class Transition(Doc):
    """In `source`, on the event, if every guard holds, to `target`, doing the actions on the way. Of two that fit, one
    of the state itself comes before one of the state around it, and then the first in the list."""

    source: Id
    on: Event
    target: Id
    guards: Annotated[tuple[Guard, ...], Field(max_length=8)] = ()
    actions: Actions = ()


class Machine(Doc):
    """A finite state machine. Entered in `initial` when set-up ends. `columns` are those of its grid that nothing uses
    yet: events, named as in `ignores`, and outputs (“output lamp”); they change nothing in how it runs."""

    id: Id
    name: Name
    initial: Id
    states: Annotated[tuple[State, ...], Field(min_length=1, max_length=64)]
    transitions: Annotated[tuple[Transition, ...], Field(max_length=512)] = ()
    columns: Annotated[tuple[Annotated[str, Field(max_length=200)], ...], Field(max_length=200)] = ()

    def state(self, state_id: str) -> State:
        """The state of that id; KeyError if there is none."""
        for state in self.states:
            if state.id == state_id:
                return state
        raise KeyError(state_id)

    def insides(self, state_id: str) -> tuple[State, ...]:
        """The states inside that one."""
        return tuple(state for state in self.states if state.parent == state_id)

    def opening(self, state_id: str) -> str:
        """The state in which one begins that is entered for the first time: itself, or one inside it."""
        insides = self.insides(state_id)
        return (self.state(state_id).starts_in or insides[0].id) if insides else state_id

    @cached_property
    def drives(self) -> tuple[tuple[tuple[str | int, ...], str, Drive], ...]:
        """(steps of its JSON Pointer within the machine, output, drive) of every drive that it starts anywhere."""
        found: list[tuple[tuple[str | int, ...], str, Drive]] = []
        for place, state in enumerate(self.states):
            found += ((("states", place, "drives", output), output, drive) for output, drive in state.drives.items())
        for steps, action in self.actions:
            if isinstance(action, StartDrive):
                found.append(((*steps, "drive"), action.output, action.drive))
        return tuple(found)

    @cached_property
    def actions(self) -> tuple[tuple[tuple[str | int, ...], Action], ...]:
        """(steps of its JSON Pointer, action) of everything that it does beside its states' drives."""
        rows = [
            (("states", place, side), row)
            for place, state in enumerate(self.states)
            for side, row in (("entry", state.entry), ("exit", state.exit))
        ]
        rows += [
            (("transitions", place, "actions"), transition.actions) for place, transition in enumerate(self.transitions)
        ]
        return tuple(((*steps, number), action) for steps, row in rows for number, action in enumerate(row))

    @cached_property
    def driven(self) -> frozenset[str]:
        """The outputs that it drives."""
        return frozenset(output for _, output, _ in self.drives)

    @cached_property
    def leaves(self) -> tuple[State, ...]:
        """The states that the machine can stand in: those with none inside."""
        around = {state.parent for state in self.states}
        return tuple(state for state in self.states if state.id not in around)


class Interlock(Doc):
    """Two outputs that are never both on: one waits to come on until the other has been off for `dead_us`."""

    one: Ref
    other: Ref
    dead_us: Annotated[int, Field(ge=0, le=60_000_000, multiple_of=1000)] = 0


class OutputRow(Doc):
    """Outputs that are one thing, in this order: a machine drives all of them at once, or those that a number picks."""

    id: Id
    name: Name
    outputs: Annotated[tuple[Ref, ...], Field(min_length=2, max_length=16)]


class Limit(Doc):
    """The longest that an output stays on: then it is off until its drive has wanted it off, or a new one begins."""

    longest_us: AtLeastMs
