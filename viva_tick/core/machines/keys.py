"""Every event of a bench's inputs as a number, so that a step of a machine is a look-up."""

from __future__ import annotations

from itertools import permutations

from ..document import Bench
from ..document.parts import Commands, Encoder, KeyMatrix
from ..gestures import GESTURES

PRESS_KEY, RELEASE_KEY = 0, 1
EventName = tuple[str, str, str]  # kind, input, which of several


def event_names(bench: Bench) -> list[EventName]:
    """Every event that the inputs can give, in the order of their numbers: press and release of each contact, then
    its gestures, chords, and what the other inputs give."""
    names: list[EventName] = []
    contacts = [line.id for line in bench.contacts]
    for ident in contacts:
        names += [("press", ident, ""), ("release", ident, "")]
    for ident in contacts:
        names += [(kind, ident, "") for kind in GESTURES]
    names += [("chord", one, other) for one, other in permutations(contacts, 2)]
    for _, part in bench.sensed:
        if isinstance(part, Encoder):
            names += [("step", part.id, ""), ("back", part.id, "")]
        elif isinstance(part, KeyMatrix):
            names += [("key", part.id, key) for key in part.names]
        elif isinstance(part, Commands):
            reading = bench.firmware.readings.get(part.id)
            known = reading.names if reading and reading.kind == "listen" else ()
            names += [("command", part.id, name) for name in dict.fromkeys((*part.names, *known)) if name]
        else:
            names += [("above", part.id, ""), ("below", part.id, "")]
    return names


def event_keys(bench: Bench) -> dict[EventName, int]:
    """The number of each event: 2 × a contact's place, + 1 for its release; the others follow."""
    return {name: number for number, name in enumerate(event_names(bench))}
