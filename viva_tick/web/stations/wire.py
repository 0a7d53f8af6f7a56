"""Wire: parts, pins, pulls and levels."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.boards import boards
from ...core.debounce import METHODS
from ...core.document import Bench, ContactEvent, InputPart
from ...core.electrics import PinState, both_states, fed_by_pin, lamp_ua, resistor_for
from ...core.recipes import free_id
from ...core.units import amps, span, volts
from .base import Desk, Station


@dataclass(frozen=True)
class PinClaim:
    """A pin of the board and who claims it."""

    id: str
    can: tuple[str, ...]
    parts: tuple[str, ...]
    picked: bool


def _items(bench: Bench) -> list[str]:
    return [part.id for part in bench.parts]


def free_pins(bench: Bench) -> list[str]:
    """Pins that nothing claims, the serial ones last."""
    taken = {part.pin for part in bench.parts}
    free = [pin for pin in boards()[bench.board].pins if pin.id not in taken]
    return [pin.id for pin in sorted(free, key=lambda pin: "serial" in pin.can)]


def _context(desk: Desk) -> dict[str, Any]:
    bench = desk.bench
    board = boards()[bench.board]
    claims: dict[str, list[str]] = {}
    for part in bench.parts:
        claims.setdefault(part.pin, []).append(part.name)
    picked_part = next((part for part in bench.parts if part.id == desk.picked), None)
    pins = [
        PinClaim(pin.id, pin.can, tuple(claims.get(pin.id, ())), bool(picked_part and picked_part.pin == pin.id))
        for pin in board.pins
    ]
    context: dict[str, Any] = {
        "board": board,
        "pins": pins,
        "free": free_pins(bench),
        "part": picked_part,
        "claims": claims,
        "tray": _tray(bench),
    }
    for index, source in enumerate(bench.inputs):
        if source.id == desk.picked:
            released, pressed = both_states(source.wiring, board)
            context |= {
                "side": "inputs",
                "index": index,
                "states": [_shown("Released", released, source), _shown("Pressed", pressed, source)],
            }
    for index, driven in enumerate(bench.outputs):
        if driven.id == desk.picked:
            current = lamp_ua(driven, board)
            context |= {
                "side": "outputs",
                "index": index,
                "fed": fed_by_pin(driven),
                "lamp_current": amps(current) if current is not None else "unbounded",
                "better_ohm": resistor_for(driven, board),
            }
    if picked_part:
        context["take_out"] = _take_out(bench, picked_part.id, context["side"], context["index"])
        context["used_by"] = _used_by(bench, picked_part.id)
    return context


@dataclass(frozen=True)
class Shown:
    """One state of a contact, for the drawing: values in words, and what the firmware takes it for."""

    when: str
    touching: bool
    verdict: str
    reads: str
    taken: str
    volts: str
    current: str


def _shown(when: str, state: PinState, part: InputPart) -> Shown:
    sure = state.verdict in ("low", "high")
    taken = ("pressed" if state.verdict == part.active_level else "released") if sure else "anything"
    return Shown(
        when=when,
        touching=state.touching,
        verdict=state.verdict,
        reads={"low": "0", "high": "1"}.get(state.verdict, "0 or 1"),
        taken=taken,
        volts=span(*state.pin_mv, volts),
        current=span(*state.contact_ua, amps) if state.touching else "",
    )


def _used_by(bench: Bench, part_id: str) -> str:
    """The machine that listens to a part or drives it, by name; empty where none does."""
    for machine in bench.firmware.machines:
        listens = any(isinstance(t.on, ContactEvent) and t.on.input == part_id for t in machine.transitions)
        if listens or any(part_id in state.drives for state in machine.states):
            return machine.name
    return ""


def _take_out(bench: Bench, part_id: str, side: str, index: int) -> list[dict[str, Any]]:
    """The patch that takes a part off the bench, with its debounce and what the scenarios do to it."""
    patch: list[dict[str, Any]] = [{"op": "remove", "path": f"/{side}/{index}"}]
    if part_id in bench.firmware.debounce:
        patch.append({"op": "remove", "path": f"/firmware/debounce/{part_id}"})
    for number, scenario in enumerate(bench.scenarios):
        for place, stimulus in reversed(list(enumerate(scenario.stimuli))):
            if stimulus.input == part_id:
                patch.append({"op": "remove", "path": f"/scenarios/{number}/stimuli/{place}"})
    return patch


@dataclass(frozen=True)
class TrayPart:
    """Something that can be put down: what it is called, and the patch that puts it on the first free pin."""

    kind: str
    words: str
    id: str
    patch: list[dict[str, Any]]


KINDS = (
    ("button", "Button", "inputs"),
    ("switch", "Switch", "inputs"),
    ("lamp", "Lamp", "outputs"),
    ("relay", "Relay", "outputs"),
    ("beeper", "Beeper", "outputs"),
)


def _tray(bench: Bench) -> list[TrayPart]:
    free = free_pins(bench)
    if not free:
        return []
    taken = {part.id for part in bench.parts}
    tray: list[TrayPart] = []
    for kind, words, side in KINDS:
        ident = free_id(kind, taken)
        number = ident.removeprefix(kind).strip("-")
        value: dict[str, Any] = {"id": ident, "name": f"{words} {number}".strip(), "kind": kind, "pin": free[0]}
        patch: list[dict[str, Any]] = []
        if side == "inputs":
            value["contact"] = {"kind": "model", "switch": "small-button" if kind == "button" else "toggle-switch"}
            debounce = {"method": "rest-first", "interval_us": METHODS["rest-first"].default_us}
            patch.append({"op": "add", "path": f"/firmware/debounce/{ident}", "value": debounce})
        patch.insert(0, {"op": "add", "path": f"/{side}/-", "value": value})
        tray.append(TrayPart(kind, words, ident, patch))
    return tray


STATION = Station("wire", "Wire", _items, _context)
