"""What is chosen of a machine, as a drawer that says all of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.document import Bench, ExpectState, Machine, State, TimeoutEvent
from . import machine_rows as rows
from .cells import way_words
from .wire_fields import Control

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


def chosen_of(bench: Bench, machine: Machine, at: str, wanted: str | None) -> Chosen | None:
    """The way or state that is chosen: “way 3”, “state on”. None for what is not there."""
    kind, _, which = (wanted or "").partition(" ")
    names = rows.Names.of(bench)
    acts: list[tuple[str, rows.Patch]] = []
    if kind == "way" and which.isdigit() and int(which) < len(machine.transitions):
        place = int(which)
        way = machine.transitions[place]
        here = f"{at}/transitions/{place}"
        title = (
            f"{machine.state(way.source).name} · {way_words(bench, machine, place)} → {machine.state(way.target).name}"
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
    removal = removals_of(bench, int(at.rpartition("/")[2]), machine).get(state.id)
    if removal and not machine.insides(state.id):
        acts.append(("take the state out", removal))
    return Chosen("state", place, state.name, rows.state_controls(machine, place, here), parts, drives, tuple(acts))


def removals_of(bench: Bench, place: int, machine: Machine) -> dict[str, list[dict[str, Any]]]:
    """For each state that can go, the patch that takes it out with every way to it and from it."""
    at = f"/firmware/machines/{place}"
    removals: dict[str, list[dict[str, Any]]] = {}
    for number, state in enumerate(machine.states):
        if state.id != machine.initial:
            ways = [n for n, way in enumerate(machine.transitions) if state.id in (way.source, way.target)]
            patch = [{"op": "remove", "path": f"{at}/transitions/{n}"} for n in reversed(ways)]
            forget = unexpect(bench, machine.id, state.id)
            removals[state.id] = [*patch, *forget, {"op": "remove", "path": f"{at}/states/{number}"}]
    return removals


def unexpect(bench: Bench, machine: str, state: str | None = None) -> list[dict[str, Any]]:
    """The patch that takes out what the scenarios expect of a machine, or of one of its states."""
    return [
        {"op": "remove", "path": f"/scenarios/{index}/expects/{number}"}
        for index, scenario in enumerate(bench.scenarios)
        for number, one in reversed(list(enumerate(scenario.expects)))
        if isinstance(one, ExpectState) and one.machine == machine and state in (None, one.state)
    ]
