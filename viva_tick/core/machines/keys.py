"""Every event of a bench as a number, so that a step of a machine is a look-up."""

from __future__ import annotations

from itertools import permutations

from ..document import (
    BOARD_EVENTS,
    HEARD,
    Bench,
    DriveEvent,
    EventName,
    Measure,
    SignalEvent,
    TimeoutEvent,
    VariableEvent,
)
from ..document.parts import Commands, Encoder, KeyMatrix
from ..gestures import GESTURES

PRESS_KEY, RELEASE_KEY = 0, 1
RAISED = ("entered", "left", "reached", "ended", "taken", *BOARD_EVENTS)  # not by inputs


def event_names(bench: Bench) -> list[EventName]:
    """Every event that the inputs can give, in the order of their numbers: press and release of each contact, then
    its gestures, chords, and what the other inputs give; then what machines, variables, outputs and the board raise."""
    names: list[EventName] = []
    contacts = [line.id for line in bench.contacts]
    for ident in contacts:
        names += [("press", ident, ""), ("release", ident, "")]
    for ident in contacts:
        names += [(kind, ident, "") for kind in GESTURES]
    names += [("chord", one, other) for one, other in permutations(contacts, 2)]
    for _, part in bench.sensed:
        reading = bench.firmware.readings.get(part.id)
        if isinstance(part, Encoder):
            names += [(kind, part.id, "") for kind in ("step", "back", "fast", "fast-back")]
        elif isinstance(part, KeyMatrix):
            names += [("key", part.id, key) for key in part.names]
            names += [(kind, part.id, "") for kind in ("code", "wrong")]
        elif isinstance(part, Commands):
            known = reading.names if reading and reading.kind == "listen" else ()
            names += [("command", part.id, name) for name in dict.fromkeys((*part.names, *known)) if name]
            names += [(kind, part.id, "") for kind in ("number", "outside")]
        else:
            pairs = reading.pairs if isinstance(reading, Measure) else ("",)
            names += [(kind, part.id, of) for of in pairs for kind in ("above", "below")]
            names.append(("stays", part.id, ""))
    return [*names, *raised_names(bench)]


def raised_names(bench: Bench) -> list[EventName]:
    """What machines, variables, outputs and the board can raise, in the order in which a machine takes it."""
    machines = bench.firmware.machines
    names: list[EventName] = [(kind, "", "") for kind in BOARD_EVENTS]
    for kind in ("entered", "left"):
        names += [(kind, machine.id, state.id) for machine in machines for state in machine.states]
    heard = [transition.on for machine in machines for transition in machine.transitions]
    names += dict.fromkeys(on.name for on in heard if isinstance(on, VariableEvent))
    return [*names, *dict.fromkeys(on.name for on in heard if isinstance(on, DriveEvent | SignalEvent))]


def event_keys(bench: Bench) -> dict[EventName, int]:
    """The number of each event: 2 × a contact's place, + 1 for its release; the others follow."""
    return {name: number for number, name in enumerate(event_names(bench))}


def heard_by(bench: Bench) -> dict[str, tuple[EventName, ...]]:
    """By machine, which of the raised events it listens to, in the order in which it takes them."""
    order = {name: number for number, name in enumerate(raised_names(bench))}
    found = {}
    for machine in bench.firmware.machines:
        mine = {
            transition.on.name
            for transition in machine.transitions
            if isinstance(transition.on, HEARD) and transition.on.name in order
        }
        found[machine.id] = tuple(sorted(mine, key=order.__getitem__))
    return found


def longest_wait_us(event: TimeoutEvent, bench: Bench) -> int:
    """The longest that a timeout can take."""
    if event.variable is not None:
        most = next((one.most for one in bench.firmware.variables if one.id == event.variable), 0)
        return max(most, 0) * event.unit_us
    return event.until_us or event.after_us
