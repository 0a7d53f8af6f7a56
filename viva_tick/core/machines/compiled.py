"""A machine as tables of numbers, so that a step of it is a few look-ups.

Order of evaluation, here and in the emitted code: the pass's events in the order of the inputs, each against the
state that the one before it left; then, once, the timeouts of the state reached, in list order.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Machine
from ..document.firmware import ContactEvent
from ..drives import Drive

PRESS_KEY, RELEASE_KEY = 0, 1


@dataclass(frozen=True)
class CompiledMachine:
    """States are numbers. `on[state]` maps an event key (2 × input's place, + 1 for a release) to the next state;
    `timeouts[state]` holds (ms, next state); `drives[state]` holds (output's place, drive)."""

    id: str
    names: tuple[str, ...]
    initial: int
    on: tuple[dict[int, int], ...]
    timeouts: tuple[tuple[tuple[int, int], ...], ...]
    drives: tuple[tuple[tuple[int, Drive], ...], ...]


def compile_machine(machine: Machine, inputs: list[str], outputs: list[str]) -> CompiledMachine:
    """The machine over the places of `inputs` and `outputs` in their lists."""
    place = {state.id: number for number, state in enumerate(machine.states)}
    on: list[dict[int, int]] = [{} for _ in machine.states]
    timeouts: list[list[tuple[int, int]]] = [[] for _ in machine.states]
    for transition in machine.transitions:
        source, target = place[transition.source], place[transition.target]
        event = transition.on
        if isinstance(event, ContactEvent):
            key = 2 * inputs.index(event.input) + (PRESS_KEY if event.kind == "press" else RELEASE_KEY)
            on[source].setdefault(key, target)
        else:
            timeouts[source].append((event.after_us // 1000, target))
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
