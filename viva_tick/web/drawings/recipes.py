"""Recipes drawn: what each makes of a few presses, as its own run shows it. `make docs` writes them."""

from __future__ import annotations

import json
from functools import cache
from importlib import resources
from typing import Any

from ...core.document import Bench, bench_from_data
from ...core.edits import apply_patch
from ...core.engine import Kind, SkippingEngine, Trace
from ...core.first_scenario import stimuli_of
from ...core.kinds import KINDS
from ...core.pins import Room, arrival_patch
from ...core.recipes import Recipe, made_from

FILE = "recipes.json"
WIDTH, LANE = 150, 13
TIME_US = 350_000  # of every time that a recipe asks for, so that it is seen
MOST = 2  # of every number
PARTS = {
    "contact": "button",
    "output": "lamp",
    "sensor": "light-sensor",
    "dial": "encoder",
    "keys": "matrix",
    "commands": "commands",
    "line": "display",
}
NAMES = ("on", "off", "second on", "second off", "blink")
PRESSES = ((200_000, 250_000), (900_000, 250_000), (1_700_000, 900_000))  # (at, for): two short ones, a long one
APART_US = 600_000


def _bench(recipe: Recipe) -> tuple[Bench, dict[str, Any]]:
    """A bench with just what the recipe asks for, and what it is given."""
    bench = bench_from_data({"version": 4, "name": recipe.title, "board": "mid-8bit-5v"})
    given: dict[str, Any] = {}
    for ask in recipe.asks:
        if ask.kind in ("time", "number"):
            given[ask.id] = TIME_US if ask.kind == "time" else min(ask.default_us, MOST)
            continue
        if ask.of != ask.kind:
            given[ask.id] = []
            for _ in range(3):
                ident, bench = _with(bench, ask.of)
                given[ask.id].append(ident)
            continue
        given[ask.id], bench = _with(bench, ask.kind)
        if ask.kind == "line":
            given[ask.id] += ".line-1"
        if ask.kind == "commands":
            names = [{"op": "replace", "path": f"/firmware/readings/{given[ask.id]}/names", "value": list(NAMES)}]
            bench = apply_patch(bench, names)
    return bench, given


def _with(bench: Bench, kind: str) -> tuple[str, Bench]:
    """The bench with one more part, and its id."""
    arrived = arrival_patch(Room.of(bench), KINDS[PARTS[kind]])
    assert arrived is not None
    ident, patch = arrived
    return ident, apply_patch(bench, patch)


def _presses(bench: Bench) -> list[dict[str, Any]]:
    """One contact is pressed as a hand does; of several the first twice, then one after another, twice."""
    contacts = [line.id for line in bench.contacts]
    if len(contacts) == 1:
        return [{"kind": "press", "input": contacts[0], "at_us": at, "hold_us": us} for at, us in PRESSES]
    return [
        {"kind": "press", "input": one, "at_us": 200_000 + place * APART_US, "hold_us": 250_000}
        for place, one in enumerate([contacts[0], *contacts * 2])
    ]


def figure_of(recipe: Recipe) -> list[list[str]]:
    """[role, path] of each lane: contacts and levels, then outputs, from one run of what the recipe makes."""
    bench, given = _bench(recipe)
    bench = apply_patch(bench, made_from(recipe, bench, given).patch())
    stimuli = _presses(bench) if bench.contacts and not bench.sensed else stimuli_of(bench)[0]
    stimuli = stimuli or [
        {"kind": "command", "input": part.id, "at_us": 300_000 + 400_000 * number, "number": number}
        for _, part in bench.sensed
        for number in range(len(NAMES))
    ]
    end_us = max(one["at_us"] + one.get("hold_us", one.get("over_us", 0)) for one in stimuli) + 700_000
    bench = apply_patch(
        bench,
        [{"op": "add", "path": "/scenarios/-", "value": {"name": "Drawn", "length_us": end_us, "stimuli": stimuli}}],
    )
    run = SkippingEngine().run(bench, bench.scenarios[0], seed=1)
    kinds = [(Kind.CLEANED, line.id, "contact") for line in bench.contacts]
    kinds += [(Kind.MADE, part.id, "level") for _, part in bench.sensed]
    kinds += [(Kind.OUTPUT, channel.id, "output") for channel in bench.channels]
    return [[role, _path(run.trace, kind, of, place)] for place, (kind, of, role) in enumerate(kinds[:6])]


def _path(trace: Trace, kind: Kind, of: str, place: int) -> str:
    """One signal as a line in a lane; its values between the least and the most that it takes."""
    signal = trace.signal(kind, of)
    numbers = [value if isinstance(value, int | float) and value >= 0 else 0 for value in signal.values]
    if kind is Kind.MADE:
        numbers = [value if isinstance(value, int | float) else float(bool(value)) for value in signal.values]
    duty = next((one for one in trace.signals if one.kind is Kind.DUTY and one.of == of), None)
    times = list(signal.times_us)
    if duty is not None and len(duty.values) > 1:
        numbers, times = [float(value or 0) for value in duty.values], list(duty.times_us)
    low, high = min(numbers, default=0), max(numbers, default=1)
    base, top = place * LANE + LANE - 2, place * LANE + 3
    path, last = "", None
    for at_us, value in zip(times, numbers, strict=True):
        y = round(base - (base - top) * ((value - low) / (high - low) if high > low else 0), 1)
        x = round(WIDTH * at_us / trace.length_us, 1)
        if y != last:
            path += f" H{x:g} V{y:g}" if path else f"M0 {base} H{x:g} V{y:g}"
        last = y
    return f"{path or f'M0 {base}'} H{WIDTH}"


@cache
def recipe_figures() -> dict[str, list[list[str]]]:
    """By recipe, its lanes, as they were written."""
    text = resources.files(__package__).joinpath(FILE).read_text(encoding="utf-8")
    found: dict[str, list[list[str]]] = json.loads(text)
    return found
