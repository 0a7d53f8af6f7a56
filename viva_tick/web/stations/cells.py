"""What an event does in a state, as a battery of the grid."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.document import HEARD, AlwaysEvent, Bench, Machine, TimeoutEvent
from .brief import Brief
from .columns import ALWAYS, TIMEOUT, Column, column_of


@dataclass(frozen=True)
class Line:
    """One transition in a cell: its place in the list, the id of its target, and in short what it asks for and does."""

    index: int
    target: str
    brief: str


@dataclass(frozen=True)
class Cell:
    """What an event does in a state: its transitions, in order; where there are none, whether it is ignored on
    purpose, and those that the parent state has, with its name."""

    lines: tuple[Line, ...] = ()
    ignored: bool = False
    inherited: tuple[Line, ...] = ()
    parent: str = ""


def cells_of(bench: Bench, machine: Machine, columns: list[Column]) -> dict[str, list[Cell]]:
    """For each state a cell for each column, in their order."""
    brief = Brief(bench)
    found: dict[tuple[str, str], list[Line]] = {}
    for index, transition in enumerate(machine.transitions):
        line = Line(index, transition.target, brief.transition(transition))
        found.setdefault((transition.source, column_name(transition.on)), []).append(line)
    names = {state.id: state.name for state in machine.states}

    def cell(state: str, parent: str | None, ignores: tuple[str, ...], column: str) -> Cell:
        lines = tuple(found.get((state, column), ()))
        above = tuple(found.get((parent, column), ())) if parent and not lines else ()
        return Cell(lines, column in ignores, above, names[parent] if above and parent else "")

    return {
        state.id: [cell(state.id, state.parent, state.ignores, column.name) for column in columns]
        for state in machine.states
    }


def column_name(on: object) -> str:
    """The column that a transition's event stands in."""
    if isinstance(on, TimeoutEvent):
        return TIMEOUT.name
    return " ".join(filter(None, on.name)) if isinstance(on, HEARD) else ALWAYS.name


def event_words(bench: Bench, machine: Machine, index: int) -> str:
    """What a transition waits for."""
    on = machine.transitions[index].on
    if isinstance(on, HEARD):
        return column_of(bench, on.name).title
    return ALWAYS.title if isinstance(on, AlwaysEvent) else f"after {Brief(bench).time(on)}"
