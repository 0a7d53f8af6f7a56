"""Pins for every part at once, without a conflict: a matching of claims to pins, by weight.

Every part that is well where it is stays, if that leaves all the others a pin. Everything on the bus shares its two
pins, so each line of it is one claim.
"""

from __future__ import annotations

from typing import Any

from ..boards import Board
from ..document import Bench, Claim
from .fit import dislike, unfit

STAY = 60  # more than any dislike, so that nothing moves without need
FULL = 150


class NoFit(Exception):
    """The board has not a pin for every part; `names` are those left without."""

    def __init__(self, names: list[str]) -> None:
        self.names = names
        super().__init__(f"The board has no suitable pin left for {', '.join(names)}.")


def worth(claim: Claim, board: Board) -> dict[str, int]:
    """By pin, how good it is for the claim; pins that do not suit it are not there."""
    return {
        pin.id: FULL - dislike(claim, pin) + (STAY if pin.id == claim.pin else 0)
        for pin in board.pins
        if unfit(claim, pin) is None
    }


def assign(claims: tuple[Claim, ...], board: Board) -> dict[str, str]:
    """A pin for each claim, by where it stands in the document. Raises `NoFit`."""
    import networkx  # a tenth of a second to load, and seldom needed

    graph = networkx.Graph()
    nodes = {claim.where: claim.bus or claim.where for claim in claims}
    for claim in claims:
        for pin, weight in worth(claim, board).items():
            graph.add_edge(("claim", nodes[claim.where]), ("pin", pin), weight=weight)
    found: dict[str, str] = {}
    for edge in networkx.max_weight_matching(graph, maxcardinality=True):
        ends = dict(edge)
        found[ends["claim"]] = ends["pin"]
    if missing := [claim.name for claim in claims if nodes[claim.where] not in found]:
        raise NoFit(missing)
    return {where: found[node] for where, node in nodes.items()}


def move_patch(bench: Bench, board: Board, own: bool = False) -> list[dict[str, Any]]:
    """The patch that finds pins for every part on that board, changing the board if it is another; `own`: it is the
    user's own and goes into the bench. A pull that the new board does not have becomes a resistor. Raises `NoFit`."""
    patch: list[dict[str, Any]] = []
    kept = board if own else None
    if board.id != bench.board:
        patch.append({"op": "replace", "path": "/board", "value": board.id})
    if kept != bench.own_board:
        value = kept.model_dump(mode="json") if kept else None
        patch.append({"op": "replace", "path": "/own_board", "value": value})
    claims = list(bench.claims)
    for index, claim in enumerate(claims):
        if claim.pull == "internal-down" and board.pull_down_ohm is None:
            claims[index] = Claim(claim.part, claim.name, claim.pin, claim.where, claim.needs, "down")
            patch.append({"op": "replace", "path": pull_path(bench, claim), "value": "down"})
    found = assign(tuple(claims), board)
    patch += [
        {"op": "replace", "path": claim.where, "value": found[claim.where]}
        for claim in claims
        if found[claim.where] != claim.pin
    ]
    return list({operation["path"]: operation for operation in patch}.values())


def pull_path(bench: Bench, claim: Claim) -> str:
    """Where the pull of a claimed pin stands in the document."""
    line = next((line for line in bench.contacts if f"{line.at}/pin" == claim.where), None)
    if line is not None:
        return f"{line.at}/wiring/pull"
    at = next(at for at, part in bench.placed if part.id == claim.part)
    return f"{at}/pull"
