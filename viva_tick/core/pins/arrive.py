"""A part as it arrives on the bench: with sensible wiring, a name and pins of its own."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Any

from pydantic import TypeAdapter

from ..boards import Board
from ..debounce import METHODS
from ..document import Bench, InputPart, OutputPart
from ..document.parts import Analogue, Commands, Encoder, KeyMatrix, Sensed
from ..electrics import legs_of, pin_mv, range_of, value_at
from ..ids import free_id
from ..kinds import Kind
from ..switches import SWITCH_CLASSES
from .fit import best_free, unfit

ANY = "?"


SLOW_US = 50_000
NEAR_MV = 20  # no two thresholds begin closer than this


@cache
def _adapter() -> TypeAdapter[Any]:
    """Made when the first part arrives, not when the program starts."""
    return TypeAdapter(InputPart | OutputPart)


def _put(data: Any, path: str, value: Any) -> None:
    *steps, last = path.split("/")
    for step in steps:
        data = data[int(step)] if isinstance(data, list) else data[step]
    if isinstance(data, list):
        data[int(last)] = value
    else:
        data[last] = value


def _blank(kind: Kind, ident: str) -> dict[str, Any]:
    number = ident.removeprefix(kind.id).strip("-")
    data: dict[str, Any] = {"id": ident, "name": f"{kind.name.partition(' (')[0]} {number}".strip(), "kind": kind.id}
    for name, value in kind.arrives.items():
        data[name] = (
            [dict(one) if isinstance(one, dict) else one for one in value]
            if isinstance(value, list)
            else (dict(value) if isinstance(value, dict) else value)
        )
    for path, many in kind.pins:
        _put(data, path, [ANY] * many if many else ANY)
    return data


def _at_home(kind_id: str, board: Board) -> dict[str, Any]:
    """Voltages that suit the board, where the kind's own would be another board's."""
    logic = board.logic_mv
    if kind_id in ("signal", "display"):
        return {"high_mv": logic}
    if kind_id == "voltage-sensor":
        return {"most_mv": logic, "most": logic / 1000}
    if kind_id == "level-sensor" and logic < 4_500:
        return {"upper_ohm": 6_800, "lower_ohm": 10_000}
    return {}


@dataclass(frozen=True)
class Room:
    """What matters of a bench to a part that comes: the board, the pins that are taken, the ids that are."""

    board: Board
    pins: frozenset[str]
    ids: frozenset[str]

    @staticmethod
    def of(bench: Bench) -> Room:
        """The room that a bench has."""
        ids = {part.id for part in bench.parts} | {line.id.replace(".", "-") for line in bench.lines}
        return Room(bench.the_board, frozenset(claim.pin for claim in bench.claims), frozenset(ids))


def arrival(room: Room, kind: Kind) -> Any | None:
    """The part, on the best free pins; None where the board has not enough. The choosiest claim chooses first."""
    board = room.board
    taken = set(room.pins)
    data = _blank(kind, free_id(kind.id, set(room.ids)))
    data |= _at_home(kind.id, board)
    part = _adapter().validate_python(_lists_to_tuples(data))
    claims = sorted(part.claims(""), key=lambda claim: sum(unfit(claim, pin) is None for pin in board.pins))
    for claim in claims:
        pin = best_free(claim, board, taken)
        if pin is None:
            return None
        taken.add(pin)
        _put(data, claim.where.strip("/"), pin)
    for leg in legs_of(part, ""):
        _put(data, f"{leg.at}/resistor_ohm".strip("/"), leg.better_ohm(board) or leg.resistor_ohm)
    return _adapter().validate_python(_lists_to_tuples(data))


def _lists_to_tuples(value: Any) -> Any:
    if isinstance(value, list):
        return tuple(_lists_to_tuples(one) for one in value)
    return {key: _lists_to_tuples(one) for key, one in value.items()} if isinstance(value, dict) else value


def arrival_patch(room: Room, kind: Kind) -> tuple[str, list[dict[str, Any]]] | None:
    """(id, patch) that puts a part of that kind on the bench, its contacts cleaned; None where no pins are left."""
    part = arrival(room, kind)
    if part is None:
        return None
    side = "inputs" if kind.is_input else "outputs"
    patch: list[dict[str, Any]] = [{"op": "add", "path": f"/{side}/-", "value": part.model_dump(mode="json")}]
    for line in part.contacts(""):
        bounces = SWITCH_CLASSES[line.contact.switch]
        settles_us = max(bounces.press.settle_us[1], bounces.release.settle_us[1])
        interval_us = max(METHODS["rest-first"].default_us, -(-settles_us // 10_000) * 10_000)
        cleaned = {"method": "rest-first", "interval_us": interval_us}
        patch.append({"op": "add", "path": f"/firmware/debounce/{line.id}", "value": cleaned})
        if settles_us > SLOW_US:  # what sloshes is not tapped
            slow = {"hold_us": 5 * settles_us, "rest_us": 5 * settles_us}
            patch.append({"op": "add", "path": f"/taps/{line.id}", "value": slow})
    if isinstance(part, Commands) and part.source == "typed":  # what is typed needs an end
        patch.append({"op": "replace", "path": "/firmware/serial/ending", "value": "lf"})
    if isinstance(part, Sensed):
        patch.append({"op": "add", "path": f"/firmware/readings/{part.id}", "value": first_reading(part, room.board)})
    return part.id, patch


def first_reading(part: Sensed, board: Board) -> dict[str, Any]:
    """How an input that is more than a contact is read to begin with, as plain data: one click one step; a threshold in
    the middle of the range, with more hysteresis than noise; the numbers as they come."""
    if isinstance(part, Encoder):
        return {"kind": "turns", "counts_a_step": part.counts_a_click, "reversed": part.swapped}
    if isinstance(part, KeyMatrix):
        return {"kind": "scan"}
    if isinstance(part, Commands):
        named = {"kind": "listen", "numbers_from": part.first_number, "names": list(part.names)}
        return named | {"numbers": list(part.numbers)}
    assert isinstance(part, Analogue)
    low, high = sorted(range_of(part))
    middle_mv = pin_mv(part, board, (low + high) / 2)
    gap_mv = max(2 * part.noise_mv, NEAR_MV) / 2
    above, below = (value_at(part, board, middle_mv + side * gap_mv) for side in (1, -1))
    upper, lower = max(above, below), min(above, below)
    return {"kind": "measure", "above": float(f"{upper:.4g}"), "below": float(f"{lower:.4g}")}
