"""Behave: what should happen when."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.document import Bench, ExpectState, Gestures, Machine, TimeoutEvent
from ...core.document.parts import Analogue
from ...core.drives import Blink, Drive, Pulse
from ...core.gestures import wanted_by
from ...core.machines import EventName, event_names
from ...core.recipes import RECIPES, Ask, Recipe, free_id
from .base import Desk, Station

DRIVE_W, DRIVE_H = 92, 22


@dataclass(frozen=True)
class Cell:
    """Where an event leads from a state: the transition's place in the list, or None where the event is let pass."""

    index: int | None
    target: str | None
    after_ms: int | None = None


@dataclass(frozen=True)
class Column:
    """An event that the machine knows."""

    kind: str
    input: str
    title: str
    of: str = ""

    @property
    def event(self) -> dict[str, str]:
        """As the document has it."""
        event = {"kind": self.kind, "input": self.input}
        return event | {"of": self.of} if self.of else event

    @property
    def key(self) -> str:
        """What tells it from the others on the screen."""
        return "-".join(filter(None, (self.kind, self.input, self.of.replace(" ", "-"))))


def _items(bench: Bench) -> list[str]:
    return [machine.id for machine in bench.firmware.machines]


def _columns(bench: Bench, machine: Machine) -> list[Column]:
    found: dict[EventName, Column] = {}
    for transition in machine.transitions:
        on = transition.on
        if not isinstance(on, TimeoutEvent):
            found.setdefault((on.kind, on.input, on.of), _column(bench, (on.kind, on.input, on.of)))
    return list(found.values())


WORDS = {
    "press": "pressed",
    "release": "let go",
    "step": "step",
    "back": "step back",
    "above": "above",
    "below": "below",
    "click": "clicked",
    "double": "clicked twice",
    "triple": "clicked three times",
    "hold": "held",
    "repeat": "still held",
    "long-release": "let go after a hold",
}


def _column(bench: Bench, event: EventName) -> Column:
    kind, ident, of = event
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}
    more = f"with {names[of]}" if kind == "chord" else WORDS.get(kind) or of
    return Column(kind, ident, f"{names[ident]} {more}", of)


def _offered(bench: Bench, known: set[EventName]) -> list[tuple[str, list[Column]]]:
    """Events that the machine could listen for, by the input that gives them; of a chord and its mirror, one."""
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}
    order = [line.id for line in bench.contacts]
    groups: dict[str, list[Column]] = {}
    for event in event_names(bench):
        mirrored = event[0] == "chord" and order.index(event[1]) > order.index(event[2])
        if event not in known and not mirrored:
            groups.setdefault(event[1], []).append(_column(bench, event))
    return [(names[ident], columns) for ident, columns in groups.items()]


def _gestures(bench: Bench, machine: Machine) -> list[dict[str, Any]]:
    """For each contact whose gestures the machine hears: the times that tell them apart, and what that costs."""
    rows = []
    heard = {way.on.input for way in machine.transitions if not isinstance(way.on, TimeoutEvent)}
    for ident, wanted in wanted_by(bench).items():
        if ident not in heard:
            continue
        times = bench.firmware.gestures.get(ident, Gestures())
        named = ident in bench.firmware.gestures
        fields = [("window_us", "another click within", times.window_us)] if wanted.most > 1 else []
        fields += [("hold_us", "held after", times.hold_us)] if wanted.hold_ms else []
        fields += [("repeat_us", "and again every", times.repeat_us)] if wanted.repeat_ms else []
        costs = f"A single click waits {wanted.window_ms} ms, for another may follow." if wanted.most > 1 else ""
        rows.append({"id": ident, "name": bench.contact(ident).name, "named": named, "fields": fields, "costs": costs})
    return rows


def _cells(machine: Machine, columns: list[Column]) -> dict[str, list[Cell]]:
    rows: dict[str, list[Cell]] = {state.id: [Cell(None, None) for _ in columns] for state in machine.states}
    for index, transition in enumerate(machine.transitions):
        event = transition.on
        if not isinstance(event, TimeoutEvent):
            mine = (event.kind, event.input, event.of)
            place = next(n for n, c in enumerate(columns) if (c.kind, c.input, c.of) == mine)
            if rows[transition.source][place].index is None:
                rows[transition.source][place] = Cell(index, transition.target)
    return rows


def _timeouts(machine: Machine) -> dict[str, Cell]:
    found: dict[str, Cell] = {state.id: Cell(None, None) for state in machine.states}
    for index, transition in enumerate(machine.transitions):
        if isinstance(transition.on, TimeoutEvent) and found[transition.source].index is None:
            found[transition.source] = Cell(index, transition.target, transition.on.after_us // 1000)
    return found


def drive_path(drive: Drive) -> str:
    """The drive's time course as an SVG path in a box of `DRIVE_W` by `DRIVE_H`."""
    low, high = DRIVE_H - 3, 3
    if isinstance(drive, Blink):
        beat = drive.on_us / (drive.on_us + drive.off_us)
        period = (DRIVE_W - 8) / 3
        path, at = f"M4 {high}", 4.0
        for _ in range(3):
            path += f" H{at + period * beat:.1f} V{low} H{at + period:.1f} V{high}"
            at += period
        return path.rsplit(" V", 1)[0]
    if isinstance(drive, Pulse):
        return f"M4 {low} H12 V{high} H46 V{low} H{DRIVE_W - 4}"
    return f"M4 {high if drive.on else low} H{DRIVE_W - 4}"


def drive_word(drive: Drive | None) -> str:
    """What the drive is called in the grid."""
    if drive is None:
        return "as-it-was"
    if isinstance(drive, Pulse):
        return "pulse-wait" if drive.blocking else "pulse"
    return "blink" if isinstance(drive, Blink) else "on" if drive.on else "off"


def _removals(bench: Bench, place: int, machine: Machine) -> dict[str, list[dict[str, Any]]]:
    """For each state that can go, the patch that takes it out with every way to it and from it."""
    at = f"/firmware/machines/{place}"
    removals: dict[str, list[dict[str, Any]]] = {}
    for number, state in enumerate(machine.states):
        if state.id != machine.initial:
            ways = [n for n, way in enumerate(machine.transitions) if state.id in (way.source, way.target)]
            patch = [{"op": "remove", "path": f"{at}/transitions/{n}"} for n in reversed(ways)]
            forget = _unexpect(bench, machine.id, state.id)
            removals[state.id] = [*patch, *forget, {"op": "remove", "path": f"{at}/states/{number}"}]
    return removals


def _unexpect(bench: Bench, machine: str, state: str | None = None) -> list[dict[str, Any]]:
    """The patch that takes out what the scenarios expect of a machine, or of one of its states."""
    return [
        {"op": "remove", "path": f"/scenarios/{index}/expects/{number}"}
        for index, scenario in enumerate(bench.scenarios)
        for number, one in reversed(list(enumerate(scenario.expects)))
        if isinstance(one, ExpectState) and one.machine == machine and state in (None, one.state)
    ]


def _new_state(machine: Machine) -> dict[str, Any]:
    ident = free_id("state", {state.id for state in machine.states})
    return {"id": ident, "name": ident.replace("-", " ").capitalize(), "drives": {}}


def _recipes() -> list[tuple[str, list[Recipe]]]:
    """The recipes by what they are about."""
    groups: dict[str, list[Recipe]] = {}
    for recipe in RECIPES.values():
        groups.setdefault(recipe.group, []).append(recipe)
    return list(groups.items())


def _asked(bench: Bench) -> list[tuple[Ask, list[tuple[str, str]], str]]:
    """Everything that any recipe asks for: the ask, what would do, and the recipes that want it, by id."""
    would_do = {
        "contact": [(line.id, line.name) for line in bench.contacts],
        "output": [(channel.id, channel.name) for channel in bench.channels],
        "sensor": [(part.id, part.name) for _, part in bench.sensed if isinstance(part, Analogue)],
    }
    rows: dict[tuple[str, str, int], tuple[Ask, list[str]]] = {}
    for recipe in RECIPES.values():
        for ask in recipe.asks:
            rows.setdefault((ask.id, ask.label, ask.default_us), (ask, []))[1].append(recipe.id)
    return [(ask, would_do.get(ask.kind, []), " ".join(ids)) for ask, ids in rows.values()]


def _context(desk: Desk) -> dict[str, Any]:
    bench = desk.bench
    context: dict[str, Any] = {"recipes": _recipes(), "asked": _asked(bench)}
    for place, machine in enumerate(bench.firmware.machines):
        if machine.id == desk.picked:
            columns = _columns(bench, machine)
            driven = {output for state in machine.states for output in state.drives}
            known = {(column.kind, column.input, column.of) for column in columns}
            context |= {
                "machine": machine,
                "place": place,
                "columns": columns,
                "cells": _cells(machine, columns),
                "timeouts": _timeouts(machine),
                "outputs": [part for part in bench.channels if part.id in driven],
                "others": [part for part in bench.channels if part.id not in driven],
                "new_events": _offered(bench, known),
                "gestures": _gestures(bench, machine),
                "new_state": _new_state(machine),
                "removals": _removals(bench, place, machine),
                "unexpect": _unexpect(bench, machine.id),
                "initial_place": next(n for n, state in enumerate(machine.states) if state.id == machine.initial),
                "drive_path": drive_path,
                "drive_word": drive_word,
                "drive_box": (DRIVE_W, DRIVE_H),
            }
    return context


STATION = Station("behave", "Behave", _items, _context)
