"""Behave: what should happen when."""

from __future__ import annotations

from functools import partial
from typing import Any

from ...core.document import HEARD, Bench, Gestures, Machine
from ...core.document.parts import Analogue
from ...core.drives import OFFERED, Drive
from ...core.gestures import wanted_by
from ...core.ids import free_id
from ...core.recipes import ASKED_KINDS, RECIPES, Ask, Recipe
from ..drawings.drives import DRIVE_H, DRIVE_W, drive_figure, drive_word
from ..drawings.map import BOX_H, BOX_W, machine_map
from .base import Station, StationRequest
from .cells import cells_of, event_words, timeouts_of
from .chosen import chosen_of
from .columns import columns_of, offered
from .grid_patches import GridPatches


def _items(bench: Bench) -> list[str]:
    return [machine.id for machine in bench.firmware.machines]


def _gestures(bench: Bench, machine: Machine) -> list[dict[str, Any]]:
    """For each contact whose gestures the machine hears: the times that tell them apart, and what that costs."""
    rows = []
    heard = {transition.on.input for transition in machine.transitions if isinstance(transition.on, HEARD)}
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


def _drive_options(bench: Bench, drive: Drive | None) -> list[tuple[str, str, dict[str, Any]]]:
    """(word, what it is called, its value) of every drive that an output can be given; times are kept where they
    mean the same."""
    options = [(offer.word, offer.words, dict(offer.value)) for offer in OFFERED]
    if drive is not None:
        for _, _, value in options:
            if value["kind"] == drive.kind:
                value |= {name: getattr(drive, name) for name in value if name.endswith("_us")}
    followed = [(line.id, line.name) for line in bench.contacts]
    followed += [(part.id, part.name) for _, part in bench.sensed if isinstance(part, Analogue)]
    options += [(f"follow {ident}", f"follow {name}", {"kind": "follow", "input": ident}) for ident, name in followed]
    options += [
        (f"follow-variable {one.id}", f"as {one.name}", {"kind": "follow-variable", "variable": one.id})
        for one in bench.firmware.variables
    ]
    return options


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


def _context(asked: StationRequest) -> dict[str, Any]:
    bench = asked.bench
    context: dict[str, Any] = {
        "recipes": _recipes(),
        "asked": _asked(bench),
        "new_variable": _new_variable(bench),
        "used_variables": _used_variables(bench),
    }
    for place, machine in enumerate(bench.firmware.machines):
        if machine.id == asked.picked:
            columns = columns_of(bench, machine)
            known = {(column.kind, column.input, column.of) for column in columns}
            at = f"/firmware/machines/{place}"
            context |= {
                "machine": machine,
                "place": place,
                "columns": columns,
                "cells": cells_of(bench, machine, columns),
                "timeouts": timeouts_of(bench, machine),
                "outputs": [part for part in bench.channels if part.id in machine.driven],
                "others": [part for part in bench.channels if part.id not in machine.driven],
                "new_events": offered(bench, machine, known),
                "gestures": _gestures(bench, machine),
                "new_state": _new_state(machine),
                "grid": GridPatches(bench, machine, at),
                "drive_figure": drive_figure,
                "drive_word": drive_word,
                "drive_options": partial(_drive_options, bench),
                "drive_box": (DRIVE_W, DRIVE_H),
                "around": {state.parent for state in machine.states},
                "chosen": chosen_of(bench, machine, at, asked.chosen),
                "chosen_word": asked.chosen,
                "way_words": [event_words(bench, machine, index) for index in range(len(machine.transitions))],
                "output_rows": _outputs_rows(bench, machine),
            }
            if asked.look == "map":
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
