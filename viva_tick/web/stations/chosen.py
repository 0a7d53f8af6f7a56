"""What is chosen of a machine, as a drawer that says all of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.document import Bench, ExpectState, Machine, State, TimeoutEvent
from . import machine_rows as rows
from .cells import event_words
from .wire_fields import Control

Section = tuple[str, tuple[rows.Row, ...], list[tuple[str, rows.Patch]]]  # title, its rows, what can be added


@dataclass(frozen=True)
class Chosen:
    """What the drawer under the grid is about: a transition or a state, by its place; its rows, and what can be
    added."""

    kind: str
    place: int
    title: str
    controls: tuple[Control, ...]
    parts: tuple[Section, ...]
    drives: tuple[tuple[str, tuple[Control, ...]], ...] = ()
    acts: tuple[tuple[str, rows.Patch], ...] = ()


def chosen_of(bench: Bench, machine: Machine, at: str, wanted: str | None) -> Chosen | None:
    """The transition or state that is chosen: “transition 3”, “state on”. None for what is not there."""
    kind, _, which = (wanted or "").partition(" ")
    names = rows.Names.of(bench)
    acts: list[tuple[str, rows.Patch]] = []
    if kind == "transition" and which.isdigit() and int(which) < len(machine.transitions):
        place = int(which)
        transition = machine.transitions[place]
        here = f"{at}/transitions/{place}"
        ends = [machine.state(ident).name for ident in (transition.source, transition.target)]
        title = f"{ends[0]} · {event_words(bench, machine, place)} → {ends[1]}"
        targets = tuple((state.id, state.name) for state in machine.states)
        controls = (
            rows.menu("leads to", f"{here}/target", transition.target, targets),
            *rows.event_controls(machine, place, here, names),
        )
        if isinstance(transition.on, TimeoutEvent) and transition.on.variable is None:
            until = None if transition.on.until_us else 2 * transition.on.after_us
            word = "a fixed time" if transition.on.until_us else "a time at random"
            acts.append((word, [{"op": "replace", "path": f"{here}/on/until_us", "value": until}]))
        same = {"source": transition.source, "on": transition.on.model_dump(mode="json"), "target": transition.source}
        acts.append(
            (
                "Add a transition",
                [{"op": "add", "path": f"{at}/transitions/{place + 1}", "value": same}],
            )
        )
        acts.append(("take this transition out", [{"op": "remove", "path": here}]))
        parts: tuple[Section, ...] = (
            (
                "Only if",
                tuple(rows.guard_row(one, f"{here}/guards/{n}", names) for n, one in enumerate(transition.guards)),
                rows.new_guards(f"{here}/guards", names, machine.id),
            ),
            (
                "On the transition",
                tuple(rows.action_row(one, f"{here}/actions/{n}", names) for n, one in enumerate(transition.actions)),
                rows.new_actions(f"{here}/actions", names),
            ),
        )
        return Chosen("transition", place, title, controls, parts, (), tuple(acts))
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
    """For each state that can go, the patch that takes it out with every transition to it and from it."""
    at = f"/firmware/machines/{place}"
    removals: dict[str, list[dict[str, Any]]] = {}
    for number, state in enumerate(machine.states):
        if state.id != machine.initial:
            transitions = [
                n
                for n, transition in enumerate(machine.transitions)
                if state.id in (transition.source, transition.target)
            ]
            patch = [{"op": "remove", "path": f"{at}/transitions/{n}"} for n in reversed(transitions)]
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
