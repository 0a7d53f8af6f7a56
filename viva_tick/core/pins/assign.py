"""Pins for every part at once, without a conflict: a matching of parts to pins, by weight.

Every part that is well where it is stays, if that leaves all the others a pin.
"""

from __future__ import annotations

from typing import Any

from ..boards import Board, boards
from ..document import Bench, Part
from .fit import dislike, unfit

STAY = 40  # more than any dislike, so that nothing moves without need
FULL = 100


class NoFit(Exception):
    """The board has not a pin for every part; `names` are those left without."""

    def __init__(self, names: list[str]) -> None:
        self.names = names
        super().__init__(f"The board has no suitable pin left for {', '.join(names)}.")


def worth(part: Part, board: Board) -> dict[str, int]:
    """By pin, how good it is for the part; pins that do not suit it are not there."""
    return {
        pin.id: FULL - dislike(pin) + (STAY if pin.id == part.pin else 0)
        for pin in board.pins
        if unfit(part, pin) is None
    }


def assign(bench: Bench, board: Board) -> dict[str, str]:
    """A pin for each part, by part id. Raises `NoFit`."""
    import networkx  # a tenth of a second to load, and seldom needed

    graph = networkx.Graph()
    parts = {part.id: part for part in bench.parts}
    for part in bench.parts:
        for pin, weight in worth(part, board).items():
            graph.add_edge(("part", part.id), ("pin", pin), weight=weight)
    found: dict[str, str] = {}
    for edge in networkx.max_weight_matching(graph, maxcardinality=True):
        ends = dict(edge)
        found[ends["part"]] = ends["pin"]
    if missing := [parts[ident].name for ident in parts if ident not in found]:
        raise NoFit(missing)
    return found


def move_patch(bench: Bench, board_id: str) -> list[dict[str, Any]]:
    """The patch that finds pins for every part on that board, changing the board if it is another. A pull that the
    new board does not have becomes a resistor. Raises `NoFit`, KeyError for an unknown board."""
    board = boards()[board_id]
    patch: list[dict[str, Any]] = []
    inputs = list(bench.inputs)
    if board_id != bench.board:
        patch.append({"op": "replace", "path": "/board", "value": board_id})
    for index, part in enumerate(inputs):
        if part.wiring.pull == "internal-down" and board.pull_down_ohm is None:
            wiring = part.wiring.model_copy(update={"pull": "down"})
            inputs[index] = part.model_copy(update={"wiring": wiring})
            patch.append({"op": "replace", "path": f"/inputs/{index}/wiring/pull", "value": "down"})
    found = assign(bench.model_copy(update={"inputs": tuple(inputs)}), board)
    for side, parts in (("inputs", bench.inputs), ("outputs", bench.outputs)):
        for index, placed in enumerate(parts):
            if found[placed.id] != placed.pin:
                patch.append({"op": "replace", "path": f"/{side}/{index}/pin", "value": found[placed.id]})
    return patch
