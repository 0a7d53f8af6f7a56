"""Behave: what should happen when."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass
from typing import Any

from ...core.document import HEARD, Bench, Channel, Gestures, Group, Machine, TextLine
from ...core.document.parts import Servo
from ...core.gestures import wanted_by
from ...core.ids import free_id
from ...core.recipes import ASKED_KINDS, RECIPES, Ask, Recipe
from ..drawings.drives import DRIVE_H, DRIVE_W, drive_figure, drive_word
from ..drawings.map import BOX_H, BOX_W, machine_map
from ..drawings.recipes import LANE, WIDTH, recipe_figures
from ..patches import put
from .base import Station, StationRequest
from .brief import Brief
from .cells import cells_of, event_words
from .chosen import Opening
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


def _outputs_rows(bench: Bench, machine: Machine) -> list[dict[str, Any]]:
    """For each output that the machine drives: its longest time on, and the outputs it is interlocked with."""
    names = {channel.id: channel.name for channel in bench.channels}
    found = []
    driven = bench.driven_by(machine)
    for ident in (channel.id for channel in bench.channels if channel.id in driven):
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


def _map_words(bench: Bench, machine: Machine, index: int) -> str:
    """What stands at a transition on the map."""
    transition = machine.transitions[index]
    asks = " · if" if transition.guards and transition.on.kind != "always" else ""
    return f"{event_words(bench, machine, index)}{asks}{' · do' if transition.actions else ''}"


def _new_state(machine: Machine) -> dict[str, Any]:
    ident = free_id("state", {state.id for state in machine.states})
    return {"id": ident, "name": ident.replace("-", " ").capitalize(), "drives": {}}


@dataclass(frozen=True)
class Offered:
    """A recipe as it is offered: with its drawing; `why_not` says what the bench lacks for it."""

    recipe: Recipe
    lanes: list[list[str]]
    why_not: str = ""


LACKS = {
    "line": "display",
    "contact": "button",
    "sensor": "sensor",
    "dial": "dial",
    "keys": "keys",
    "commands": "commands",
}


def _why_not(would_do: dict[str, list[tuple[str, str]]], recipe: Recipe) -> str:
    """What the bench lacks for a recipe: “another button”, “a dial”."""
    wanted: Counter[str] = Counter()
    for ask in recipe.asks:
        if not ask.optional and ask.of in would_do:
            wanted[ask.of] += ask.least if ask.of != ask.kind else 1
    missing = []
    for kind, number in wanted.items():
        if len(would_do[kind]) < number:
            word = LACKS.get(kind, kind)
            article = "" if word.endswith("s") else "an " if word[0] in "aeiou" else "a "
            missing.append(f"another {word}" if would_do[kind] else f"{article}{word}")
    return " and ".join(missing)


def _would_do(bench: Bench) -> dict[str, list[tuple[str, str]]]:
    """By kind of ask, the ids and names of what would do."""
    return {
        "contact": [(line.id, line.name) for line in bench.contacts],
        "output": [(channel.id, channel.name) for channel in bench.channels],
        "line": [(line.id, line.name) for line in bench.text_lines],
        **{
            word: [(part.id, part.name) for _, part in bench.sensed if isinstance(part, kind)]
            for word, kind in ASKED_KINDS.items()
        },
    }


def _recipes(bench: Bench) -> list[tuple[str, list[Offered]]]:
    """The recipes that the bench can do, by what they are about."""
    would_do = _would_do(bench)
    groups: dict[str, list[Offered]] = {}
    for recipe in RECIPES.values():
        offered = Offered(recipe, recipe_figures().get(recipe.id, []), _why_not(would_do, recipe))
        groups.setdefault(recipe.group, []).append(offered)
    return list(groups.items())


def _asked(bench: Bench) -> list[tuple[Ask, list[tuple[str, str]], str]]:
    """Everything that any recipe asks for: the ask, what would do, and the recipes that want it, by id."""
    would_do = _would_do(bench)
    rows: dict[tuple[str, str, int], tuple[Ask, list[str]]] = {}
    for recipe in RECIPES.values():
        for ask in recipe.asks:
            rows.setdefault((ask.id, ask.label, ask.default_us), (ask, []))[1].append(recipe.id)
    return [(ask, would_do.get(ask.of, []), " ".join(ids)) for ask, ids in rows.values()]


def _listed(bench: Bench, machine: Machine) -> list[Group | Channel | TextLine | Servo]:
    """What the grid can have columns for; a lamp of three as one, unless a colour of it is driven by itself."""
    inside = {one for group in bench.groups.values() if group.kind == "rgb" for one in group.members}
    return [one for one in bench.drivable if one.id not in inside or one.id in machine.driven]


def _new_row(bench: Bench) -> dict[str, Any]:
    """A row of the outputs that are in none."""
    taken = {output for row in bench.firmware.rows for output in row.outputs}
    free = [channel.id for channel in bench.channels if channel.id not in taken][:16]
    ident = free_id("row", {part.id for part in bench.parts} | set(bench.groups))
    return {"id": ident, "name": ident.replace("-", " ").capitalize(), "outputs": free} if len(free) > 1 else {}


def _rows(bench: Bench) -> list[dict[str, Any]]:
    """Rows of outputs: what is in each, in order, and what could be; `used`: a machine drives it as one."""
    names = {channel.id: channel.name for channel in bench.channels}
    driven = {output for machine in bench.firmware.machines for output in machine.driven}
    found = []
    for place, row in enumerate(bench.firmware.rows):
        at, ins = f"/firmware/rows/{place}", []
        for n, one in enumerate(row.outputs):
            without = [other for other in row.outputs if other != one]
            out = put(f"{at}/outputs", without) if len(without) > 1 else None
            sooner = put(f"{at}/outputs", _swapped(row.outputs, n)) if n else None
            ins.append({"name": names[one], "out": out, "sooner": sooner})
        others = [ident for ident in names if ident not in row.outputs] if len(row.outputs) < 16 else []
        more = [(names[ident], put(f"{at}/outputs", [*row.outputs, ident])) for ident in others]
        found.append({"row": row, "at": at, "ins": ins, "more": more, "used": row.id in driven})
    return found


def _swapped(outputs: tuple[str, ...], place: int) -> list[str]:
    """The same with one before the other."""
    found = list(outputs)
    found[place - 1], found[place] = found[place], found[place - 1]
    return found


def _new_variable(bench: Bench) -> dict[str, Any]:
    ident = free_id("variable", {one.id for one in bench.firmware.variables})
    return {"id": ident, "name": ident.replace("-", " ").capitalize(), "least": 0, "most": 10, "begins": 0}


def _used_variables(bench: Bench) -> set[str]:
    looked = [*bench.firmware.machines, *bench.firmware.readings.values(), *bench.scenarios]
    text = "".join(one.model_dump_json() for one in looked)
    return {one.id for one in bench.firmware.variables if re.search(rf'["{{]{one.id}["}}:]', text)}


def _context(asked: StationRequest) -> dict[str, Any]:
    bench = asked.bench
    context: dict[str, Any] = {
        "recipes": _recipes(bench),
        "asked": _asked(bench),
        "recipe_box": (WIDTH, LANE),
        "new_variable": _new_variable(bench),
        "output_groups": _rows(bench),
        "new_row": _new_row(bench),
        "used_variables": _used_variables(bench),
    }
    for place, machine in enumerate(bench.firmware.machines):
        if machine.id == asked.picked:
            columns = columns_of(bench, machine)
            known = {(column.kind, column.input, column.of) for column in columns}
            at = f"/firmware/machines/{place}"
            listed = _listed(bench, machine)
            shown = machine.driven | {one.partition(" ")[2] for one in machine.columns if one.startswith("output ")}
            context |= {
                "machine": machine,
                "place": place,
                "columns": columns,
                "cells": cells_of(bench, machine, columns),
                "outputs": [one for one in listed if one.id in shown],
                "others": [one for one in listed if one.id not in shown],
                "new_events": offered(bench, machine, known),
                "gestures": _gestures(bench, machine),
                "new_state": _new_state(machine),
                "grid": GridPatches(bench, machine, at),
                "drive_figure": drive_figure,
                "drive_word": drive_word,
                "brief": Brief(bench),
                "tints": {state.id: number % 6 for number, state in enumerate(machine.states)},
                "state_names": {state.id: state.name for state in machine.states},
                "drive_box": (DRIVE_W, DRIVE_H),
                "around": {state.parent for state in machine.states},
                "chosen": Opening(bench, machine, at, columns).of(asked.chosen),
                "chosen_word": asked.chosen,
                "output_rows": _outputs_rows(bench, machine),
            }
            if asked.look != "grid":
                words = [_map_words(bench, machine, index) for index in range(len(machine.transitions))]
                context |= {
                    "map": machine_map(machine, words),
                    "map_words": words,
                    "node_box": (BOX_W, BOX_H),
                    "map_events": [column.event for column in columns if column.kind not in ("always", "timeout")],
                    "map_used": {
                        state.id: [
                            column.event
                            for column, cell in zip(columns, context["cells"][state.id], strict=True)
                            if cell.lines and column.kind != "timeout"
                        ]
                        for state in machine.states
                    },
                }
    return context


STATION = Station("behave", "Behave", _items, _context)
