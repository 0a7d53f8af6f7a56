"""What an event does in a state, as a cell of the grid."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.document import HEARD, AlwaysEvent, Bench, Machine, TimeoutEvent
from ...core.units import ms
from .columns import ALWAYS, Column, column_of


@dataclass(frozen=True)
class Line:
    """One transition in a cell: its place in the list, where it leads, and what it asks for and does, in short."""

    index: int
    target: str
    asks: str
    does: str
    after: str = ""


@dataclass(frozen=True)
class Cell:
    """What an event does in a state: its transitions, in order; and, where there is none, whether that was decided."""

    lines: tuple[Line, ...] = ()
    passed: bool = False


def line_of(bench: Bench, machine: Machine, index: int) -> Line:
    transition = machine.transitions[index]
    on = transition.on
    asks = f"{len(transition.guards)} if" if transition.guards else ""
    does = f"{len(transition.actions)} do" if transition.actions else ""
    after = ""
    if isinstance(on, TimeoutEvent):
        names = {one.id: one.name for one in bench.firmware.variables}
        after = f"{names.get(on.variable, '')} × {ms(on.unit_us)}" if on.variable else ms(on.after_us)
        after += f" to {ms(on.until_us)}" if on.until_us else ""
    return Line(index, transition.target, asks, does, after)


def cells_of(bench: Bench, machine: Machine, columns: list[Column]) -> dict[str, list[Cell]]:
    found: dict[tuple[str, str], list[Line]] = {}
    for index, transition in enumerate(machine.transitions):
        if not isinstance(transition.on, TimeoutEvent):
            name = transition.on.name if isinstance(transition.on, HEARD) else ("always", "", "")
            found.setdefault((transition.source, " ".join(filter(None, name))), []).append(
                line_of(bench, machine, index)
            )
    return {
        state.id: [
            Cell(tuple(found.get((state.id, column.name), ())), column.name in state.ignores) for column in columns
        ]
        for state in machine.states
    }


def timeouts_of(bench: Bench, machine: Machine) -> dict[str, Cell]:
    found: dict[str, list[Line]] = {state.id: [] for state in machine.states}
    for index, transition in enumerate(machine.transitions):
        if isinstance(transition.on, TimeoutEvent):
            found[transition.source].append(line_of(bench, machine, index))
    return {ident: Cell(tuple(lines)) for ident, lines in found.items()}


def event_words(bench: Bench, machine: Machine, index: int) -> str:
    on = machine.transitions[index].on
    if isinstance(on, HEARD):
        return column_of(bench, on.name).title
    return ALWAYS.title if isinstance(on, AlwaysEvent) else f"after {line_of(bench, machine, index).after}"
