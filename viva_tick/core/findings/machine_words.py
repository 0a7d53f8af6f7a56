"""Events and rows of them in words, as something to do."""

from __future__ import annotations

from collections.abc import Iterable

from ..document import (
    HEARD,
    Bench,
    EventName,
    TimeoutEvent,
    Transition,
    pointer,
)
from ..exploring import Cause
from ..units import ms

SAID = {
    "press": "press",
    "release": "release",
    "click": "click",
    "double": "click twice",
    "triple": "click three times",
    "hold": "hold",
    "repeat": "hold on to",
    "long-release": "release, after a hold,",
    "step": "turn",
    "back": "turn back",
    "fast": "turn fast",
    "fast-back": "turn back fast",
    "stays": "leave within the band",
    "code": "key in the code of",
    "wrong": "key in a wrong code of",
    "boot": "start the board",
    "power-on": "switch the board on",
    "pin-reset": "pull the board's reset pin",
    "dip-reset": "let the board's supply dip",
    "software-reset": "let the board restart itself",
    "watchdog-reset": "let the watchdog reset the board",
    "watchdog-bark": "let the watchdog call its interrupt",
    "above": "raise",
    "below": "lower",
    "key": "key",
    "command": "command",
    "chord": "press together",
    "number": "a number arrives from",
    "outside": "a number out of range arrives from",
    "ended": "wait for",
}


def event_words(bench: Bench, name: EventName) -> str:
    """An event as something to do: “press Foot pedal”."""
    kind, ident, which = name
    machines = {machine.id: machine for machine in bench.firmware.machines}
    if kind in ("entered", "left"):
        machine = machines[ident]
        return f"{machine.name} {'enters' if kind == 'entered' else 'leaves'} {machine.state(which).name}"
    if kind == "reached":
        named = {one.id: one.name for one in bench.firmware.variables}
        return f"{named.get(ident, ident)} reaches {which}"
    if kind == "taken":
        return f"{bench.firmware.kernel.between.taken.get(ident, ident)} is there"
    if kind == "ended":
        return f"{next((one.name for one in bench.drivable if one.id == ident), ident)} has finished"
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}
    of = names.get(which, which) if kind == "chord" else which
    if kind in ("above", "below") and which:
        of = f"{'over' if kind == 'above' else 'under'} {bench.mark_names.get((ident, which), which)}"
    return " ".join(filter(None, (SAID[kind], names.get(ident, ident), of)))


def in_words(bench: Bench, transition: Transition) -> str:
    """One cause as something to do: “press Foot pedal”, “wait 1.2 s”."""
    on = transition.on
    if isinstance(on, HEARD):
        return event_words(bench, on.name)
    if not isinstance(on, TimeoutEvent):
        return "go on"
    if on.variable is not None:
        named = {one.id: one.name for one in bench.firmware.variables}
        return f"wait {named.get(on.variable, on.variable)} × {ms(on.unit_us)}"
    return f"wait {ms(on.after_us)}" + (f" to {ms(on.until_us)}" if on.until_us else "")


def row_words(bench: Bench, causes: Iterable[Cause]) -> str:
    """A row of causes in words."""
    said = []
    for cause in causes:
        if cause[0] == "timeout":
            machine = next(one for one in bench.firmware.machines if one.id == cause[1])
            said.append(in_words(bench, machine.transitions[int(cause[2])]))
        else:
            said.append(event_words(bench, cause))
    return ", ".join(said) or "as it begins"


def machine_at(number: int, *steps: str | int) -> str:
    return pointer("firmware", "machines", number, *steps)
