"""A machine as tables of numbers, so that a step of it is a few look-ups.

Order of evaluation, here and in the emitted code: the pass's events in the order of the inputs, each against the
state that the one before it left; then, once, the timeouts of the state reached, in list order.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Machine, TimeoutEvent
from ..drives import Drive
from .keys import EventName


@dataclass(frozen=True)
class CompiledMachine:
    """States are numbers. `on[state]` maps the number of an event (see `event_keys`) to the next state;
    `timeouts[state]` holds (ms, next state); `drives[state]` holds (output's place, drive)."""

    id: str
    names: tuple[str, ...]
    initial: int
    on: tuple[dict[int, int], ...]
    timeouts: tuple[tuple[tuple[int, int], ...], ...]
    drives: tuple[tuple[tuple[int, Drive], ...], ...]


def compile_machine(machine: Machine, events: dict[EventName, int], outputs: list[str]) -> CompiledMachine:
    """The machine over the numbers of `events` and the places of `outputs`. A way whose event nothing gives any more is
    left out."""
    place = {state.id: number for number, state in enumerate(machine.states)}
    on: list[dict[int, int]] = [{} for _ in machine.states]
    timeouts: list[list[tuple[int, int]]] = [[] for _ in machine.states]
    for transition in machine.transitions:
        source, target = place[transition.source], place[transition.target]
        event = transition.on
        if isinstance(event, TimeoutEvent):
            timeouts[source].append((event.after_us // 1000, target))
        elif (key := events.get((event.kind, event.input, event.of))) is not None:
            on[source].setdefault(key, target)
    drives = tuple(
        tuple((outputs.index(output), drive) for output, drive in state.drives.items()) for state in machine.states
    )
    return CompiledMachine(
        machine.id,
        tuple(state.id for state in machine.states),
        place[machine.initial],
        tuple(on),
        tuple(map(tuple, timeouts)),
        drives,
    )
