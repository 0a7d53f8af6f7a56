"""Behave: what should happen when."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Any

from ...core.document import HEARD, AlwaysEvent, Bench, EventName, ExpectState, Gestures, Machine, State, TimeoutEvent
from ...core.document.parts import Analogue
from ...core.drives import Drive
from ...core.gestures import wanted_by
from ...core.ids import free_id
from ...core.machines import event_names
from ...core.recipes import ASKED_KINDS, RECIPES, Ask, Recipe
from ...core.units import ms
from ..drawings.drives import DRIVE_H, DRIVE_W, KINDS, drive_figure, drive_word
from ..drawings.map import BOX_H, BOX_W, machine_map
from . import machine_rows as rows
from .base import Desk, Station
from .wire_fields import Control


@dataclass(frozen=True)
class Line:
    """One way in a cell: its place in the list, where it leads, and what it asks for and does, in short."""

    index: int
    target: str
    asks: str
    does: str
    after: str = ""


@dataclass(frozen=True)
class Cell:
    """What an event does in a state: its ways, in order; and, where there is none, whether that was decided."""

    lines: tuple[Line, ...] = ()
    passed: bool = False


@dataclass(frozen=True)
class Column:
    """An event that the machine knows."""

    kind: str
    input: str
    title: str
    of: str = ""

    @property
    def event(self) -> dict[str, Any]:
        """As the document has it."""
        if self.kind in ("entered", "left"):
            return {"kind": self.kind, "machine": self.input, "state": self.of}
        if self.kind == "reached":
            return {"kind": self.kind, "variable": self.input, "value": int(self.of)}
        if self.kind in ("boot", "watchdog-reset", "always"):
            return {"kind": self.kind}
        event = {"kind": self.kind, "input": self.input}
        return event | {"of": self.of} if self.of else event

    @property
    def name(self) -> str:
        """As a state's `passes` has it."""
        return " ".join(filter(None, (self.kind, self.input, self.of)))

    @property
    def key(self) -> str:
        """What tells it from the others on the screen."""
        return "-".join(filter(None, (self.kind, self.input, self.of.replace(" ", "-"))))


def _items(bench: Bench) -> list[str]:
    return [machine.id for machine in bench.firmware.machines]


def _columns(bench: Bench, machine: Machine) -> list[Column]:
    names = dict.fromkeys(way.on.name for way in machine.transitions if isinstance(way.on, HEARD))
    columns = [_column(bench, name) for name in names]
    if any(isinstance(way.on, AlwaysEvent) for way in machine.transitions):
        columns.append(ALWAYS)
    return columns


WORDS = {
    "press": "pressed",
    "release": "let go",
    "step": "step",
    "back": "step back",
    "fast": "fast step",
    "fast-back": "fast step back",
    "stays": "stays between",
    "code": "right code",
    "wrong": "wrong code",
    "above": "above",
    "below": "below",
    "click": "clicked",
    "double": "clicked twice",
    "triple": "clicked three times",
    "hold": "held",
    "repeat": "still held",
    "long-release": "let go after a hold",
}


ALWAYS = Column("always", "", "at once, if")


def _names(bench: Bench) -> dict[str, str]:
    return {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}


def _column(bench: Bench, event: EventName) -> Column:
    kind, ident, of = event
    if kind in ("boot", "watchdog-reset"):
        return Column(kind, "", "board started" if kind == "boot" else "watchdog has bitten")
    if kind in ("entered", "left"):
        machine = next(one for one in bench.firmware.machines if one.id == ident)
        word = "enters" if kind == "entered" else "leaves"
        return Column(kind, ident, f"{machine.name} {word} {machine.state(of).name}", of)
    if kind == "reached":
        name = next((one.name for one in bench.firmware.variables if one.id == ident), ident)
        return Column(kind, ident, f"{name} reaches {of}", of)
    names = _names(bench)
    word = WORDS.get(kind) or of
    if _stays_put(bench, ident) and kind in ("press", "release"):
        word = "put on" if kind == "press" else "put off"
    more = f"with {names[of]}" if kind == "chord" else word
    return Column(kind, ident, f"{names[ident]} {more}", of)


def _stays_put(bench: Bench, ident: str) -> bool:
    """Whether a contact is a switch, which stays where it is put."""
    return any(line.id == ident and line.kind in ("switch", "slide-switch") for line in bench.contacts)


def _offered(bench: Bench, machine: Machine, known: set[EventName]) -> list[tuple[str, list[Column]]]:
    """Events that the machine could listen for, by what gives them; of a chord and its mirror, one."""
    names = _names(bench) | {one.id: one.name for one in bench.firmware.machines}
    order = [line.id for line in bench.contacts]
    groups: dict[str, list[Column]] = {}
    for event in event_names(bench):
        mirrored = event[0] == "chord" and order.index(event[1]) > order.index(event[2])
        own = event[0] in ("entered", "left") and event[1] == machine.id
        if event not in known and not mirrored and not own and event[0] != "reached":
            groups.setdefault(names.get(event[1], "The board"), []).append(_column(bench, event))
    for one in bench.firmware.variables:
        if ("reached", one.id, str(one.most)) not in known:
            groups.setdefault("Numbers", []).append(_column(bench, ("reached", one.id, str(one.most))))
    if len(machine.leaves) > 1 and (bench.contacts or bench.firmware.variables) and ("always", "", "") not in known:
        groups["By itself"] = [ALWAYS]
    return list(groups.items())


def _new_way(bench: Bench, machine: Machine, column: Column) -> dict[str, Any]:
    """The way that a new column begins with: from the first state to itself; one that waits for nothing leads on, with
    a guard to change."""
    value: dict[str, Any] = {"source": machine.initial, "on": column.event, "target": machine.initial}
    if column.kind == "always":
        value["source"] = machine.opening(machine.initial)
        value["target"] = next(state.id for state in machine.leaves if state.id != value["source"])
        guard = (
            {"kind": "contact", "input": bench.contacts[0].id}
            if bench.contacts
            else {"kind": "compare", "variable": bench.firmware.variables[0].id, "sign": ">=", "number": 1}
        )
        value["guards"] = [guard]
    return value


def _gestures(bench: Bench, machine: Machine) -> list[dict[str, Any]]:
    """For each contact whose gestures the machine hears: the times that tell them apart, and what that costs."""
    rows = []
    heard = {way.on.input for way in machine.transitions if isinstance(way.on, HEARD)}
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


def _line(bench: Bench, machine: Machine, index: int) -> Line:
    way = machine.transitions[index]
    on = way.on
    asks = f"{len(way.guards)} if" if way.guards else ""
    does = f"{len(way.actions)} do" if way.actions else ""
    after = ""
    if isinstance(on, TimeoutEvent):
        names = {one.id: one.name for one in bench.firmware.variables}
        after = f"{names.get(on.variable, '')} × {ms(on.unit_us)}" if on.variable else ms(on.after_us)
        after += f" to {ms(on.until_us)}" if on.until_us else ""
    return Line(index, way.target, asks, does, after)


def _cells(bench: Bench, machine: Machine, columns: list[Column]) -> dict[str, list[Cell]]:
    found: dict[tuple[str, str], list[Line]] = {}
    for index, way in enumerate(machine.transitions):
        if not isinstance(way.on, TimeoutEvent):
            name = way.on.name if isinstance(way.on, HEARD) else ("always", "", "")
            found.setdefault((way.source, " ".join(filter(None, name))), []).append(_line(bench, machine, index))
    return {
        state.id: [
            Cell(tuple(found.get((state.id, column.name), ())), column.name in state.passes) for column in columns
        ]
        for state in machine.states
    }


def _timeouts(bench: Bench, machine: Machine) -> dict[str, Cell]:
    found: dict[str, list[Line]] = {state.id: [] for state in machine.states}
    for index, way in enumerate(machine.transitions):
        if isinstance(way.on, TimeoutEvent):
            found[way.source].append(_line(bench, machine, index))
    return {ident: Cell(tuple(lines)) for ident, lines in found.items()}


def _drive_options(bench: Bench, drive: Drive | None) -> list[tuple[str, str, dict[str, Any]]]:
    """(word, what it is called, its value) of every drive that an output can be given; times are kept where they
    mean the same."""
    options = [(word, words, dict(value)) for word, words, value in KINDS]
    if drive is not None and drive.kind == "pulse":
        for _, _, value in options:
            if value["kind"] == "pulse":
                value["length_us"] = drive.length_us
    followed = [(line.id, line.name) for line in bench.contacts]
    followed += [(part.id, part.name) for _, part in bench.sensed if isinstance(part, Analogue)]
    options += [(f"follow {ident}", f"follow {name}", {"kind": "follow", "input": ident}) for ident, name in followed]
    options += [
        (f"follow-variable {one.id}", f"as {one.name}", {"kind": "follow-variable", "variable": one.id})
        for one in bench.firmware.variables
    ]
    return options


Section = tuple[str, tuple[rows.Row, ...], list[tuple[str, rows.Patch]]]  # title, its rows, what can be added


@dataclass(frozen=True)
class Chosen:
    """What the drawer under the grid is about: a way or a state, by its place; its rows, and what can be added."""

    kind: str
    place: int
    title: str
    controls: tuple[Control, ...]
    parts: tuple[Section, ...]
    drives: tuple[tuple[str, tuple[Control, ...]], ...] = ()
    acts: tuple[tuple[str, rows.Patch], ...] = ()


def _way_words(bench: Bench, machine: Machine, index: int) -> str:
    on = machine.transitions[index].on
    if isinstance(on, HEARD):
        return _column(bench, on.name).title
    return ALWAYS.title if isinstance(on, AlwaysEvent) else f"after {_line(bench, machine, index).after}"


def _chosen(bench: Bench, machine: Machine, at: str, wanted: str | None) -> Chosen | None:
    """The way or state that is chosen: “way 3”, “state on”. None for what is not there."""
    kind, _, which = (wanted or "").partition(" ")
    names = rows.Names.of(bench)
    acts: list[tuple[str, rows.Patch]] = []
    if kind == "way" and which.isdigit() and int(which) < len(machine.transitions):
        place = int(which)
        way = machine.transitions[place]
        here = f"{at}/transitions/{place}"
        title = (
            f"{machine.state(way.source).name} · {_way_words(bench, machine, place)} → {machine.state(way.target).name}"
        )
        targets = tuple((state.id, state.name) for state in machine.states)
        controls = (
            rows.menu("leads to", f"{here}/target", way.target, targets),
            *rows.event_controls(machine, place, here, names),
        )
        if isinstance(way.on, TimeoutEvent) and way.on.variable is None:
            until = None if way.on.until_us else 2 * way.on.after_us
            word = "a fixed time" if way.on.until_us else "a time at random"
            acts.append((word, [{"op": "replace", "path": f"{here}/on/until_us", "value": until}]))
        same = {"source": way.source, "on": way.on.model_dump(mode="json"), "target": way.source}
        acts.append(
            ("another way for this event", [{"op": "add", "path": f"{at}/transitions/{place + 1}", "value": same}])
        )
        acts.append(("take this way out", [{"op": "remove", "path": here}]))
        parts: tuple[Section, ...] = (
            (
                "Only if",
                tuple(rows.guard_row(one, f"{here}/guards/{n}", names) for n, one in enumerate(way.guards)),
                rows.new_guards(f"{here}/guards", names, machine.id),
            ),
            (
                "On the way",
                tuple(rows.action_row(one, f"{here}/actions/{n}", names) for n, one in enumerate(way.actions)),
                rows.new_actions(f"{here}/actions", names),
            ),
        )
        return Chosen("way", place, title, controls, parts, (), tuple(acts))
    places = [n for n, state in enumerate(machine.states) if state.id == which]
    if kind != "state" or not places:
        return None
    place = places[0]
    state: State = machine.states[place]
    here = f"{at}/states/{place}"
    parts = tuple(
        (
            title,
            tuple(rows.action_row(one, f"{here}/{side}/{n}", names) for n, one in enumerate(getattr(state, side))),
            rows.new_actions(f"{here}/{side}", names),
        )
        for title, side in (("As it is entered", "entry"), ("As it is left", "exit"))
    )
    by_id = {channel.id: channel.name for channel in bench.channels}
    drives = tuple(
        (f"{by_id[output]}: {drive.kind.replace('-', ' ')}", found)
        for output, drive in state.drives.items()
        if (found := rows.drive_controls(drive, f"{here}/drives/{output}", names))
    )
    if machine.opening(machine.initial) != state.id and not machine.insides(state.id):
        acts.append(("begin here", [{"op": "replace", "path": f"{at}/initial", "value": state.id}]))
    removal = _removals(bench, int(at.rpartition("/")[2]), machine).get(state.id)
    if removal and not machine.insides(state.id):
        acts.append(("take the state out", removal))
    return Chosen("state", place, state.name, rows.state_controls(machine, place, here), parts, drives, tuple(acts))


def _outputs_rows(bench: Bench, machine: Machine) -> list[dict[str, Any]]:
    """For each output that the machine drives: its longest time on, and the outputs it is interlocked with."""
    names = {channel.id: channel.name for channel in bench.channels}
    found = []
    for ident in (channel.id for channel in bench.channels if channel.id in machine.driven):
        limit = bench.firmware.limits.get(ident)
        locks = [
            (n, lock, names[lock.other if lock.one == ident else lock.one])
            for n, lock in enumerate(bench.firmware.interlocks)
            if ident in (lock.one, lock.other)
        ]
        bound = {lock.other if lock.one == ident else lock.one for _, lock, _ in locks}
        others = [(other, name) for other, name in names.items() if other != ident and other not in bound]
        found.append({"id": ident, "name": names[ident], "limit": limit, "locks": locks, "others": others})
    return found


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
        **{
            word: [(part.id, part.name) for _, part in bench.sensed if isinstance(part, kind)]
            for word, kind in ASKED_KINDS.items()
        },
    }
    rows: dict[tuple[str, str, int], tuple[Ask, list[str]]] = {}
    for recipe in RECIPES.values():
        for ask in recipe.asks:
            rows.setdefault((ask.id, ask.label, ask.default_us), (ask, []))[1].append(recipe.id)
    return [(ask, would_do.get(ask.kind, []), " ".join(ids)) for ask, ids in rows.values()]


def _new_variable(bench: Bench) -> dict[str, Any]:
    ident = free_id("number", {one.id for one in bench.firmware.variables})
    return {"id": ident, "name": ident.replace("-", " ").capitalize(), "least": 0, "most": 10, "begins": 0}


def _used_variables(bench: Bench) -> set[str]:
    text = "".join(machine.model_dump_json() for machine in bench.firmware.machines)
    return {one.id for one in bench.firmware.variables if f'"{one.id}"' in text}


def _context(desk: Desk) -> dict[str, Any]:
    bench = desk.bench
    context: dict[str, Any] = {
        "recipes": _recipes(),
        "asked": _asked(bench),
        "new_variable": _new_variable(bench),
        "used_variables": _used_variables(bench),
    }
    for place, machine in enumerate(bench.firmware.machines):
        if machine.id == desk.picked:
            columns = _columns(bench, machine)
            known = {(column.kind, column.input, column.of) for column in columns}
            at = f"/firmware/machines/{place}"
            context |= {
                "machine": machine,
                "place": place,
                "columns": columns,
                "cells": _cells(bench, machine, columns),
                "timeouts": _timeouts(bench, machine),
                "outputs": [part for part in bench.channels if part.id in machine.driven],
                "others": [part for part in bench.channels if part.id not in machine.driven],
                "new_events": _offered(bench, machine, known),
                "gestures": _gestures(bench, machine),
                "new_state": _new_state(machine),
                "new_way": partial(_new_way, bench, machine),
                "unexpect": _unexpect(bench, machine.id),
                "initial_place": next(n for n, state in enumerate(machine.states) if state.id == machine.initial),
                "drive_figure": drive_figure,
                "drive_word": drive_word,
                "drive_options": partial(_drive_options, bench),
                "drive_box": (DRIVE_W, DRIVE_H),
                "around": {state.inside for state in machine.states},
                "chosen": _chosen(bench, machine, at, desk.chosen),
                "chosen_word": desk.chosen,
                "way_words": [_way_words(bench, machine, index) for index in range(len(machine.transitions))],
                "output_rows": _outputs_rows(bench, machine),
            }
            if desk.look == "map":
                context |= {
                    "map": machine_map(machine),
                    "node_box": (BOX_W, BOX_H),
                    "map_events": [column.event for column in columns if column.kind != "always"],
                    "map_used": {
                        state.id: [
                            column.event
                            for column, cell in zip(columns, context["cells"][state.id], strict=True)
                            if cell.lines
                        ]
                        for state in machine.states
                    },
                }
    return context


STATION = Station("behave", "Behave", _items, _context)
