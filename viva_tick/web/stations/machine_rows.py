"""What a transition asks for and does, and what a state is, as rows of things that can be set."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.document import (
    Action,
    AddTo,
    Bench,
    CopyTo,
    Feed,
    Guard,
    IfContact,
    IfIn,
    IfLevel,
    IfRange,
    IfVariable,
    Machine,
    Measure,
    RandomFor,
    Restart,
    SendBytes,
    SetVariable,
    Signal,
    StartDrive,
    State,
    TakeLevel,
    TextLine,
    TimeoutEvent,
    VariableEvent,
)
from ...core.document.parts import Analogue, Commands, Servo
from ...core.drives import Drive
from .controls import Control

Options = tuple[tuple[Any, str], ...]
Patch = list[dict[str, Any]]
SIGNS: Options = (("<", "<"), ("<=", "≤"), ("=", "="), ("!=", "≠"), (">=", "≥"), (">", ">"))


@dataclass(frozen=True)
class Row:
    """A row: its words, what can be set in it, and the patch that takes it out."""

    words: str
    controls: tuple[Control, ...]
    remove: Patch


@dataclass(frozen=True)
class Names:
    """What can be chosen on a bench, by id and name."""

    contacts: Options
    sensors: Options
    variables: Options
    outputs: Options
    lines: Options
    modules: Options
    servos: Options
    fed_by_actions: bool
    machines: tuple[Machine, ...]
    marks: dict[str, Options]
    signals: Options

    @staticmethod
    def of(bench: Bench) -> Names:
        """Of a bench."""
        return Names(
            tuple((line.id, line.name) for line in bench.contacts),
            tuple((part.id, part.name) for _, part in bench.sensed if isinstance(part, Analogue)),
            tuple((one.id, one.name) for one in bench.firmware.variables),
            tuple((one.id, one.name) for one in bench.drivable if not isinstance(one, TextLine | Servo)),
            tuple((line.id, line.name) for line in bench.text_lines),
            tuple((p.id, p.name) for _, p in bench.sensed if isinstance(p, Commands) and p.source != "typed"),
            tuple((part.id, part.name) for part in bench.servos),
            "action" in bench.firmware.watchdog.places,
            bench.firmware.machines,
            {
                ident: tuple((mark.id, mark.name) for mark in reading.marks)
                for ident, reading in bench.firmware.readings.items()
                if isinstance(reading, Measure)
            },
            tuple(bench.firmware.kernel.between.signals.items()),
        )

    def states(self, machine: str) -> Options:
        """The states of a machine."""
        return next((tuple((s.id, s.name) for s in m.states) for m in self.machines if m.id == machine), ())


def menu(label: str, path: str, value: Any, options: Options) -> Control:
    """A list of which one holds."""
    return Control(label, path, value, options, menu=True)


def _number(label: str, path: str, value: int, unit: str = "") -> Control:
    return Control(label, path, value, reads="int", unit=unit)


def _time(label: str, path: str, us: int) -> Control:
    return Control(label, path, us, reads="time")


UNITS = {"percent": "%", "hz": "Hz"}


def drive_controls(drive: Drive, at: str, names: Names) -> tuple[Control, ...]:
    """Everything that can be set of a drive, as it says of itself."""
    lists: dict[str, Options] = {
        "contact-or-sensor": names.contacts + names.sensors,
        "variable": names.variables,
    }
    rows: list[Control] = []
    for one in drive.settings():
        path = f"{at}/{one.field}"
        if one.reads == "time":
            rows.append(_time(one.label, path, one.value))
        elif one.reads in ("percent", "number", "hz"):
            rows.append(_number(one.label, path, one.value, UNITS.get(one.reads, "")))
        elif one.reads == "text":
            rows.append(Control(one.label, path, one.value, reads="text", wide=True))
        else:
            rows.append(menu(one.label, path, one.value, lists.get(one.reads, one.choices)))
    return tuple(rows)


def guard_row(guard: Guard, at: str, names: Names) -> Row:
    """One guard."""
    remove: Patch = [{"op": "remove", "path": at}]
    controls: tuple[Control, ...]
    match guard:
        case IfContact():
            held: Options = ((True, "pressed"), (False, "released"))
            controls = (
                menu("", f"{at}/input", guard.input, names.contacts),
                menu("is", f"{at}/pressed", guard.pressed, held),
            )
        case IfLevel():
            where: Options = ((True, "above"), (False, "below"))
            controls = (
                menu("", f"{at}/input", guard.input, names.sensors),
                menu("is", f"{at}/above", guard.above, where),
            )
            if marks := names.marks.get(guard.input):
                controls += (menu("", f"{at}/of", guard.of, (("", "its first threshold"), *marks)),)
        case IfIn():
            name = next((m.name for m in names.machines if m.id == guard.machine), guard.machine)
            there: Options = ((True, "is in"), (False, "is not in"))
            return Row(
                name,
                (
                    menu("", f"{at}/there", guard.there, there),
                    menu("", f"{at}/state", guard.state, names.states(guard.machine)),
                ),
                remove,
            )
        case IfVariable():
            other: Options = ((None, "a number"), *names.variables)
            controls = (
                menu("", f"{at}/variable", guard.variable, names.variables),
                menu("", f"{at}/sign", guard.sign, SIGNS),
                menu("", f"{at}/other", guard.other, other),
            )
            if guard.other is None:
                controls = (*controls, _number("", f"{at}/number", guard.number))
        case IfRange():
            inside: Options = ((True, "is from"), (False, "is not from"))
            controls = (
                menu("", f"{at}/variable", guard.variable, names.variables),
                menu("", f"{at}/inside", guard.inside, inside),
                _number("", f"{at}/least", guard.least),
                _number("to", f"{at}/most", guard.most),
            )
    return Row("", controls, remove)


def action_row(action: Action, at: str, names: Names) -> Row:
    """One action."""
    remove: Patch = [{"op": "remove", "path": at}]
    if isinstance(action, StartDrive):
        among = names.lines if action.drive.writes else names.servos if action.drive.turns else names.outputs
        controls = (menu("", f"{at}/output", action.output, among),)
        return Row("", (*controls, *drive_controls(action.drive, f"{at}/drive", names)), remove)
    if isinstance(action, Feed | Restart):
        return Row("feed the watchdog" if isinstance(action, Feed) else "restart the board", (), remove)
    if isinstance(action, Signal):
        return Row("signal", (menu("", f"{at}/of", action.of, names.signals),), remove)
    if isinstance(action, SendBytes):
        to = menu("to", f"{at}/input", action.input, names.modules)
        codes = Control("bytes", f"{at}/bytes", " ".join(map(str, action.bytes)), reads="numbers")
        return Row("send", (to, codes), remove)
    variable = menu("", f"{at}/variable", action.variable, names.variables)
    match action:
        case SetVariable():
            return Row("set", (variable, _number("to", f"{at}/number", action.number)), remove)
        case AddTo():
            return Row(
                "add",
                (
                    _number("", f"{at}/number", action.number),
                    menu("to", f"{at}/variable", action.variable, names.variables),
                ),
                remove,
            )
        case CopyTo():
            return Row("set", (variable, menu("to", f"{at}/other", action.other, names.variables)), remove)
        case RandomFor():
            return Row(
                "set",
                (
                    variable,
                    _number("to a random number from", f"{at}/least", action.least),
                    _number("to", f"{at}/most", action.most),
                ),
                remove,
            )
        case TakeLevel():
            return Row("set", (variable, menu("to the level of", f"{at}/input", action.input, names.sensors)), remove)


def new_guards(at: str, names: Names, own: str) -> list[tuple[str, Patch]]:
    """(words, patch) of every kind of guard that the bench allows."""
    found: list[tuple[str, Any]] = []
    found += [(f"{name} is pressed", {"kind": "contact", "input": ident}) for ident, name in names.contacts]
    found += [(f"{name} is above", {"kind": "level", "input": ident}) for ident, name in names.sensors]
    for ident, name in names.variables:
        found.append(
            (f"{name} compared with a number", {"kind": "compare", "variable": ident, "sign": ">=", "number": 1})
        )
        found.append((f"{name} within a range", {"kind": "range", "variable": ident, "least": 0, "most": 10}))
    for machine in names.machines:
        if machine.id != own:
            value = {"kind": "in", "machine": machine.id, "state": machine.states[0].id}
            found.append((f"{machine.name} is in a state", value))
    return [(words, [{"op": "add", "path": f"{at}/-", "value": value}]) for words, value in found]


def new_actions(at: str, names: Names) -> list[tuple[str, Patch]]:
    """(words, patch) of every kind of action that the bench allows."""
    found: list[tuple[str, Any]] = []
    for ident, name in names.variables:
        found.append((f"set {name}", {"do": "set", "variable": ident, "number": 0}))
        found.append((f"count {name} up", {"do": "add", "variable": ident, "number": 1}))
        found.append((f"count {name} down", {"do": "add", "variable": ident, "number": -1}))
        found.append((f"set {name} to a random number", {"do": "random", "variable": ident, "least": 0, "most": 3}))
        found += [
            (f"set {name} to {other}", {"do": "copy", "variable": ident, "other": other_id})
            for other_id, other in names.variables
            if other_id != ident
        ]
        found += [
            (f"set {name} to the level of {sensor}", {"do": "take", "variable": ident, "input": sensor_id})
            for sensor_id, sensor in names.sensors
        ]
    pulse = {"kind": "pulse", "length_us": 100_000, "blocking": False}
    found += [(f"pulse {name}", {"do": "drive", "output": ident, "drive": pulse}) for ident, name in names.outputs]
    found += [(f"send bytes to {name}", {"do": "send", "input": i, "bytes": [0]}) for i, name in names.modules]
    angle = {"kind": "angle", "degrees": 90}
    found += [(f"turn {name}", {"do": "drive", "output": i, "drive": angle}) for i, name in names.servos]
    if names.fed_by_actions:
        found.append(("feed the watchdog", {"do": "feed"}))
    found.append(("restart the board", {"do": "restart"}))
    found += [(f"signal {name}", {"do": "signal", "of": ident}) for ident, name in names.signals]
    text = {"kind": "text", "text": "Hello"}
    found += [(f"show a text on {name}", {"do": "drive", "output": i, "drive": text}) for i, name in names.lines]
    return [(words, [{"op": "add", "path": f"{at}/-", "value": value}]) for words, value in found]


def event_controls(machine: Machine, place: int, at: str, names: Names) -> tuple[Control, ...]:
    """What can be set of the event of a transition: the times of a timeout, the value that is waited for."""
    on = machine.transitions[place].on
    if isinstance(on, VariableEvent):
        return (_number("reaches", f"{at}/on/value", on.value),)
    if not isinstance(on, TimeoutEvent):
        return ()
    options: Options = ((None, "a fixed time"), *((ident, f"{name} ×") for ident, name in names.variables))
    kind = menu("after", f"{at}/on/variable", on.variable, options) if names.variables else None
    if on.variable is not None:
        rows = [_time("", f"{at}/on/unit_us", on.unit_us)]
    else:
        rows = [_time("" if kind else "after", f"{at}/on/after_us", on.after_us)]
        if on.until_us is not None:
            rows.append(_time("to at most", f"{at}/on/until_us", on.until_us))
    return (kind, *rows) if kind else tuple(rows)


def state_controls(machine: Machine, place: int, at: str) -> tuple[Control, ...]:
    """What can be set of a state beside its name: its parent, and what it starts in."""
    state: State = machine.states[place]
    insides = machine.insides(state.id)
    rows: list[Control] = []
    if not insides:
        around = [one for one in machine.states if one.id != state.id and one.parent is None]
        options: Options = ((None, "none"), *((one.id, one.name) for one in around))
        rows.append(menu("parent state", f"{at}/parent", state.parent, options))
    else:
        starts: Options = ((None, "its first"), *((one.id, one.name) for one in insides))
        rows.append(menu("starts in", f"{at}/starts_in", state.starts_in, starts))
        kept: Options = ((False, "every time"), (True, "the first time; then where it was left"))
        rows.append(menu("", f"{at}/remembers", state.remembers, kept))
    return tuple(rows)
