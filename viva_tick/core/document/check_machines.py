"""The same for machines: what they hear, ask for and do must be there."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..drives import Angle, BlinkRate, Drive, Follow, FollowVariable, Picked, Text
from ..texts import named
from .base import LONGEST_US
from .bench import Bench
from .check_readings import either, no_mark, unheard
from .events import (
    BoardEvent,
    ContactEvent,
    DriveEvent,
    InputEvent,
    MachineEvent,
    SignalEvent,
    TimeoutEvent,
    VariableEvent,
)
from .machines import (
    Action,
    CopyTo,
    Feed,
    Guard,
    IfContact,
    IfIn,
    IfLevel,
    IfRange,
    IfVariable,
    Machine,
    RandomFor,
    Restart,
    SendBytes,
    Signal,
    StartDrive,
    TakeLevel,
    Transition,
)
from .parts import Analogue, Commands
from .problems import Problem, pointer

Place = tuple[Any, ...]


class _Names:
    """What is on the bench, by id."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.contacts = {line.id for line in bench.contacts}
        self.channels = {channel.id for channel in bench.channels}
        self.lines = {line.id for line in bench.text_lines}
        self.servos = frozenset(part.id for part in bench.servos)
        self.analogue = {part.id for _, part in bench.sensed if isinstance(part, Analogue)}
        self.variables = {one.id: one for one in bench.firmware.variables}
        self.states = {one.id: {state.id for state in one.states} for one in bench.firmware.machines}

    def variable(self, where: Place, name: str | None) -> Iterator[Problem]:
        if name is not None and name not in self.variables:
            yield Problem(pointer(*where), f"there is no variable “{name}”; {either(sorted(self.variables))} are.")

    def contact(self, where: Place, name: str) -> Iterator[Problem]:
        if name not in self.contacts:
            yield Problem(pointer(*where), f"there is no input “{name}” on this bench.")

    def output(self, where: Place, name: str, among: frozenset[str] = frozenset()) -> Iterator[Problem]:
        if name not in self.channels | among:
            yield Problem(pointer(*where), f"there is no output “{name}” on this bench.")

    def level(self, where: Place, name: str) -> Iterator[Problem]:
        if name not in self.analogue:
            yield Problem(pointer(*where), f"“{name}” is not an analogue part of this bench.")

    def signalled(self, where: Place, name: str, known: dict[str, str]) -> Iterator[Problem]:
        if name not in known:
            yield Problem(pointer(*where), f"the kernel has no “{name}” to signal; {either(known)} are there.")

    def state(self, where: Place, machine: str, state: str) -> Iterator[Problem]:
        if state not in self.states.get(machine, ()):
            yield Problem(pointer(*where, "state"), f"there is no state “{state}” in “{machine}”.")

    def driven(self, where: Place, output: str, drive: Drive) -> Iterator[Problem]:
        """An output, a line of text or a group, and what it is asked to do."""
        group = self.bench.groups.get(output)
        yield from self.output(where, output, frozenset({*self.lines, *self.servos, *self.bench.groups}))
        if drive.writes != (output in self.lines):
            said = "shows text and nothing else" if output in self.lines else "shows no text"
            yield Problem(pointer(*where), f"“{output}” {said}.")
        elif drive.turns != (output in self.servos):
            said = "goes to an angle and nothing else" if output in self.servos else "is no servo"
            yield Problem(pointer(*where), f"“{output}” {said}.")
        elif drive.for_group and (group is None or group.kind != drive.for_group):
            what = {"row": "a row of outputs", "rgb": "a lamp of three colours"}[drive.for_group]
            yield Problem(pointer(*where), f"“{output}” is not {what}.")
        yield from self.drive(where, drive)

    def drive(self, where: Place, drive: Drive) -> Iterator[Problem]:
        if drive.fault:
            yield Problem(pointer(*where), drive.fault)
        if isinstance(drive, Follow):
            if drive.input not in self.contacts | self.analogue:
                yield Problem(pointer(*where, "input"), f"“{drive.input}” is no contact and no analogue part here.")
        elif isinstance(drive, Text):
            for name in named(drive.text):
                if name not in self.variables and name not in self.states:
                    known = either(sorted({*self.variables, *self.states})) if self.variables or self.states else "none"
                    yield Problem(
                        pointer(*where, "text"), f"there is no variable and no machine “{name}”; {known} are."
                    )
        elif isinstance(drive, FollowVariable | BlinkRate | Picked | Angle):
            yield from self.variable((*where, "variable"), drive.variable)

    def action(self, where: Place, action: Action) -> Iterator[Problem]:
        if isinstance(action, StartDrive):
            yield from self.driven((*where, "output"), action.output, action.drive)
            return
        if isinstance(action, Feed | Restart):
            return
        if isinstance(action, Signal):
            yield from self.signalled((*where, "of"), action.of, self.bench.firmware.kernel.between.signals)
            return
        if isinstance(action, SendBytes):
            part = next((part for _, part in self.bench.sensed if part.id == action.input), None)
            if not isinstance(part, Commands) or part.source == "typed":
                yield Problem(pointer(*where, "input"), f"“{action.input}” is no module on this bench.")
            return
        yield from self.variable((*where, "variable"), action.variable)
        if isinstance(action, CopyTo):
            yield from self.variable((*where, "other"), action.other)
        elif isinstance(action, TakeLevel):
            yield from self.level((*where, "input"), action.input)
        elif isinstance(action, RandomFor) and action.least > action.most:
            yield Problem(pointer(*where, "most"), f"{action.most} is less than the least, {action.least}.")

    def guard(self, where: Place, guard: Guard) -> Iterator[Problem]:
        match guard:
            case IfContact():
                yield from self.contact((*where, "input"), guard.input)
            case IfLevel():
                yield from self.level((*where, "input"), guard.input)
                if why := no_mark(self.bench, guard.input, guard.of):
                    yield Problem(pointer(*where, "of"), why)
            case IfIn():
                yield from self.state(where, guard.machine, guard.state)
            case IfVariable():
                yield from self.variable((*where, "variable"), guard.variable)
                yield from self.variable((*where, "other"), guard.other)
            case IfRange():
                yield from self.variable((*where, "variable"), guard.variable)
                if guard.least > guard.most:
                    yield Problem(pointer(*where, "most"), f"{guard.most} is less than the least, {guard.least}.")

    def event(self, where: Place, transition: Transition) -> Iterator[Problem]:
        match transition.on:
            case ContactEvent(input=name):
                yield from self.contact((*where, "input"), name)
            case InputEvent() as event:
                if why := unheard(self.bench, event):
                    yield Problem(pointer(*where, "input"), why)
            case MachineEvent(machine=machine, state=state):
                yield from self.state(where, machine, state)
            case VariableEvent(variable=name):
                yield from self.variable((*where, "variable"), name)
            case TimeoutEvent() as event:
                yield from self.variable((*where, "variable"), event.variable)
                one = self.variables.get(event.variable or "")
                if one is not None and one.most * event.unit_us > LONGEST_US:
                    days = LONGEST_US // 86_400_000_000
                    sentence = f"{one.name} goes up to {one.most}: that many times this is more than {days} days."
                    yield Problem(pointer(*where, "unit_us"), sentence)
                if event.until_us is not None and event.until_us < event.after_us:
                    yield Problem(pointer(*where, "until_us"), "ends before it begins.")
                if event.until_us is not None and event.variable is not None:
                    yield Problem(pointer(*where, "until_us"), "a time is drawn, or a variable's; not both.")
            case DriveEvent(output=output):
                yield from self.output((*where, "output"), output, self.servos)
            case SignalEvent(signal=name):
                yield from self.signalled((*where, "signal"), name, self.bench.firmware.kernel.between.taken)
            case BoardEvent():
                pass


def _nesting(where: Place, machine: Machine) -> Iterator[Problem]:
    around = {state.id: state.parent for state in machine.states}
    for number, state in enumerate(machine.states):
        here = (*where, "states", number)
        if state.parent is not None:
            if state.parent not in around or state.parent == state.id:
                yield Problem(pointer(*here, "parent"), f"“{state.parent}” is not another state of {machine.name}.")
            elif around[state.parent] is not None:
                yield Problem(pointer(*here, "parent"), f"“{state.parent}” is inside a state itself; one level is all.")
        if state.starts_in is not None and around.get(state.starts_in) != state.id:
            yield Problem(pointer(*here, "starts_in"), f"“{state.starts_in}” is not a state inside {state.name}.")


def _machine(names: _Names, index: int, machine: Machine) -> Iterator[Problem]:
    where = ("firmware", "machines", index)
    states = [state.id for state in machine.states]
    if machine.initial not in states:
        yield Problem(
            pointer(*where, "initial"), f"“{machine.initial}” is not a state of {machine.name}; {either(states)} are."
        )
    yield from _nesting(where, machine)
    for number, state in enumerate(machine.states):
        here = (*where, "states", number)
        for output, drive in state.drives.items():
            yield from names.driven((*here, "drives", output), output, drive)
        for side, actions in (("entry", state.entry), ("exit", state.exit)):
            for place, action in enumerate(actions):
                yield from names.action((*here, side, place), action)
    for number, transition in enumerate(machine.transitions):
        here = (*where, "transitions", number)
        for end in ("source", "target"):
            if (name := getattr(transition, end)) not in states:
                yield Problem(pointer(*here, end), f"“{name}” is not a state of {machine.name}; {either(states)} are.")
        yield from names.event((*here, "on"), transition)
        for place, guard in enumerate(transition.guards):
            yield from names.guard((*here, "guards", place), guard)
        for place, action in enumerate(transition.actions):
            yield from names.action((*here, "actions", place), action)


def machine_problems(bench: Bench) -> Iterator[Problem]:
    """Faults of machines, their variables, interlocks and limits."""
    names = _Names(bench)
    firmware = bench.firmware
    for number, one in enumerate(firmware.variables):
        where = ("firmware", "variables", number)
        if one.least > one.most:
            yield Problem(pointer(*where, "most"), f"{one.most} is less than the least, {one.least}.")
        elif not one.least <= one.begins <= one.most:
            yield Problem(pointer(*where, "begins"), f"{one.begins} lies outside {one.least} to {one.most}.")
    for index, machine in enumerate(firmware.machines):
        yield from _machine(names, index, machine)
    for number, row in enumerate(firmware.rows):
        where = ("firmware", "rows", number)
        for place, output in enumerate(row.outputs):
            yield from names.output((*where, "outputs", place), output)
            if output in row.outputs[:place]:
                yield Problem(pointer(*where, "outputs", place), f"“{output}” is in the row twice.")
        if row.id in names.channels | names.lines | names.contacts or row.id in {part.id for part in bench.parts}:
            yield Problem(pointer(*where, "id"), f"“{row.id}” is taken by a part; give the row its own.")
    for number, lock in enumerate(firmware.interlocks):
        where = ("firmware", "interlocks", number)
        yield from names.output((*where, "one"), lock.one)
        yield from names.output((*where, "other"), lock.other)
        if lock.one == lock.other:
            yield Problem(pointer(*where, "other"), "an interlock is between two outputs.")
    for field in ("limits", "on_levels"):
        for name in getattr(firmware, field):
            yield from names.output(("firmware", field, name), name)
