"""Whether two outputs can be on together: the machines that drive them, explored side by side.

Every event is taken to be able to come in any state, alone; a drive that goes on and off counts as on. What is found
is a way through the machines, not a promise that the contacts will ever take it.
"""

from __future__ import annotations

from collections import deque

from ..document import Bench, EventName, Machine, TimeoutEvent
from ..drives import Steady

MOST = 20_000
Standing = tuple[tuple[str, ...], bool, bool]


def _on(machine: Machine, state_id: str, channel: str, was: bool) -> bool:
    drive = machine.state(state_id).drives.get(channel)
    if drive is None:
        return was
    return drive.on if isinstance(drive, Steady) else True


def _events(machines: list[Machine]) -> list[EventName | int]:
    """What can happen: an event of an input, which every machine hears, or a timeout of one machine, by its place."""
    edges = {
        (transition.on.kind, transition.on.input, transition.on.of)
        for machine in machines
        for transition in machine.transitions
        if not isinstance(transition.on, TimeoutEvent)
    }
    return [*sorted(edges), *range(len(machines))]


def _next(machine: Machine, state: str, event: EventName | None) -> list[str]:
    """Where the event leads from a state: one target at most for an event of an input, any of its timeouts for None."""
    found = []
    for transition in machine.transitions:
        on = transition.on
        if transition.source != state:
            continue
        if isinstance(on, TimeoutEvent):
            if event is None:
                found.append(transition.target)
        elif (on.kind, on.input, on.of) == event:
            return [transition.target]
    return found


def together(bench: Bench, one: str, other: str) -> str | None:
    """Names of the states in which both channels are on; None where none is reached (or not within the bound)."""
    machines = [
        machine
        for machine in bench.firmware.machines
        if any(channel in state.drives for state in machine.states for channel in (one, other))
    ]
    if not machines:
        return None
    start: Standing = (tuple(machine.initial for machine in machines), False, False)
    a = b = False
    for machine in machines:
        a, b = _on(machine, machine.initial, one, a), _on(machine, machine.initial, other, b)
    start = (start[0], a, b)
    seen = {start}
    queue = deque([start])
    while queue and len(seen) < MOST:
        states, a, b = queue.popleft()
        if a and b:
            return " with ".join(m.state(s).name for m, s in zip(machines, states, strict=True))
        for event in _events(machines):
            for after in _steps(machines, (states, a, b), event, one, other):
                if after not in seen:
                    seen.add(after)
                    queue.append(after)
    return None


def _steps(machines: list[Machine], before: Standing, event: EventName | int, one: str, other: str) -> list[Standing]:
    """Every standing that one event leads to."""
    reached = [before]
    for place, machine in enumerate(machines):
        if isinstance(event, int) and event != place:
            continue
        following: list[Standing] = []
        for states, a, b in reached:
            targets = _next(machine, states[place], None if isinstance(event, int) else event)
            for target in targets:
                moved = (*states[:place], target, *states[place + 1 :])
                following.append((moved, _on(machine, target, one, a), _on(machine, target, other, b)))
            if not targets:
                following.append((states, a, b))
        reached = following
    return reached
