"""The panel of Try, as the page draws it and as it is printed to drill by."""

from __future__ import annotations

from typing import Any

from ..core.document import Bench, Machine, pointer
from ..core.document.panel import KEYS, Spot
from ..core.findings.machine_words import in_words
from ..core.guard import FAULTS, faults_of
from ..core.hand import PEOPLE
from ..core.panel import PRESSED, Placed, cautions, laid_out
from ..core.program import program_of
from .patches import Patch, add, put

# What can be done to a thing, or to the board, from the panel's back; those of `PASSING` pass by themselves.
BACK = {
    "off": "wire off", "closed": "stuck", "welded": "weld it", "bus": "never answers", "storm": "storm of interrupts",
    "stuck": "hang the loop", "starve": "slow passes", "counter": "stop the counter", "dip": "dip the supply",
}  # fmt: skip
MOST_WAITS = 3
READY_US = 20_000  # after set-up: who acts first finds a board that listens
PASSING = ("storm", "dip", "counter")


def _spot(bench: Bench, ident: str, **change: Any) -> Patch:
    """The edit that makes something of a thing on the panel another."""
    spot = bench.panel.spots.get(ident, Spot()).model_copy(update=change)
    return add(pointer("panel", "spots", ident), spot.model_dump(mode="json", exclude_defaults=True))


def _keys(bench: Bench, one: Placed, things: list[Placed]) -> list[tuple[str, Patch]]:
    """(letter, edit) of each letter that can play it; who has it already gets this one's."""
    found = []
    for key in KEYS:
        patch = _spot(bench, one.thing.id, key=key)
        for other in things:
            if other.thing.key == key and other is not one:
                patch += _spot(bench, other.thing.id, key=one.thing.key)
        found.append((key, patch))
    return found


def _waits(bench: Bench, machine: Machine) -> dict[str, str]:
    """By state what a machine waits for in it: “press Foot pedal, or wait 1.2 s”."""
    found = {}
    for state in machine.states:
        around: list[str] = []
        at: str | None = state.id
        while at:
            around.append(at)
            at = machine.state(at).parent
        words = dict.fromkeys(in_words(bench, one) for one in machine.transitions if one.source in around)
        said = list(words)
        shown = ", or ".join(said[:MOST_WAITS])
        found[state.id] = f"{shown}, or {len(said) - MOST_WAITS} more" if len(said) > MOST_WAITS else shown
    return found


def panel_of(bench: Bench) -> dict[str, Any]:
    """What the template draws, and what the page must know to play it."""
    laid = laid_out(bench)
    ids = {one.thing.id for one in laid.things}
    faults: dict[str, list[tuple[str, str, bool, str]]] = {}
    for fault, of, name in faults_of(bench):
        at, words = (of, BACK[fault.id]) if of in ids else ("", f"{name}: {BACK[fault.id]}" if name else BACK[fault.id])
        faults.setdefault(at, []).append((f"{fault.id}:{of}", words, fault.id in PASSING, FAULTS[fault.id].sentence))
    board = bench.the_board
    own = (bench.panel.wide_mm, bench.panel.high_mm)
    states = {one.id: {state.id: state.name for state in one.states} for one in bench.firmware.machines}
    keyed = [one for one in laid.things if one.thing.shape in PRESSED]
    return {
        "panel": laid,
        "panel_outputs": [one for one in laid.things if not one.is_input],
        "panel_inputs": [one for one in laid.things if one.is_input],
        "panel_machines": [(one.id, one.name) for one in bench.firmware.machines],
        "panel_variables": [(one.id, one.name) for one in bench.firmware.variables],
        "panel_data": {
            "states": states,
            "tints": {one.id: {s.id: n % 6 for n, s in enumerate(one.states)} for one in bench.firmware.machines},
            "waits": {one.id: _waits(bench, one) for one in bench.firmware.machines},
            "ready_us": board.start_up_us + board.set_up_us + program_of(bench).displays_us + READY_US,
        },
        "panel_faults": faults,
        "panel_keys": {one.thing.id: _keys(bench, one, keyed) for one in keyed},
        "panel_spots": {
            ident: spot.model_dump(mode="json", exclude_defaults=True) for ident, spot in bench.panel.spots.items()
        },
        "panel_people": list(PEOPLE.values()),
        "panel_cautions": cautions(laid),
        "panel_resized": any(own),
        "as_it_needs": put("/panel/wide_mm", None) + put("/panel/high_mm", None),
        "unplaced": lambda ident: _spot(bench, ident, x_mm=None, y_mm=None),
        "usual_hole": lambda ident: _spot(bench, ident, hole_mm=None),
    }
