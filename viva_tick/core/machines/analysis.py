"""What can be said of a machine before it runs: which states are reached, and by which shortest row of events."""

from __future__ import annotations

from collections import deque

from ..document import HEARD, Bench, EventName, Machine, TimeoutEvent, Transition
from ..document.parts import Encoder, KeyMatrix
from ..drives import Steady


def name_of(transition: Transition) -> EventName:
    """The event of a way as a name; a timeout's is its time."""
    on = transition.on
    if isinstance(on, HEARD):
        return on.name
    return ("timeout", "", str(on.after_us)) if isinstance(on, TimeoutEvent) else ("always", "", "")


def ways(machine: Machine, produced: set[EventName] | None = None) -> list[Transition]:
    """The ways that can ever be taken: not one whose event an earlier one of the same state takes, and, with
    `produced`, not one whose event nothing gives."""
    taken: set[tuple[str, EventName]] = set()
    found = []
    for transition in machine.transitions:
        mine = (transition.source, name_of(transition))
        if mine in taken:
            continue
        taken.add(mine)
        if produced is None or isinstance(transition.on, TimeoutEvent) or mine[1] in produced:
            found.append(transition)
    return found


def reached(machine: Machine, produced: set[EventName] | None = None) -> dict[str, tuple[Transition, ...]]:
    """By state that can be reached from the beginning, the fewest ways that lead there."""
    found: dict[str, tuple[Transition, ...]] = {machine.initial: ()}
    queue = deque([machine.initial])
    possible = ways(machine, produced)
    while queue:
        state = queue.popleft()
        for way in possible:
            if way.source == state and way.target not in found:
                found[way.target] = (*found[state], way)
                queue.append(way.target)
    return found


def produced_events(bench: Bench, every: list[EventName]) -> set[EventName]:
    """Of every event that the inputs could give, those that they do give as they are read."""
    found: set[EventName] = set()
    parts = {part.id: part for _, part in bench.sensed}
    for kind, ident, of in every:
        part = parts.get(ident)
        reading = bench.firmware.readings.get(ident)
        if part is None or (reading is not None and isinstance(part, Encoder)):
            found.add((kind, ident, of))
        elif isinstance(part, KeyMatrix) and reading is not None and reading.kind == "scan":
            if of not in reading.ignored:
                found.add((kind, ident, of))
        elif reading is not None and (reading.kind != "listen" or of in reading.names):
            found.add((kind, ident, of))
    return found


def left_on(machine: Machine, output: str) -> list[str]:
    """States in which a drive leaves the output on for as long as the state stands, and nothing but an event of an
    input ends it: no time leads out."""
    timed = {way.source for way in machine.transitions if isinstance(way.on, TimeoutEvent)}
    stay = []
    for state in machine.states:
        drive = state.drives.get(output)
        lasting = (isinstance(drive, Steady) and drive.on) or (drive is not None and drive.kind == "blink")
        if lasting and state.id not in timed:
            stay.append(state.id)
    return stay
