"""Wire: parts, pins, pulls and levels."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.boards import Board, boards
from ...core.debounce import METHODS
from ...core.document import Bench, ContactEvent, InputPart, ModelledContact, OutputPart
from ...core.electrics import PinState, both_states, effective, fed_by_pin, lamp_ua, pull_range_ohm, resistor_for
from ...core.kinds import INPUT_KINDS, OUTPUT_KINDS, InputKind, OutputKind
from ...core.pins import best_free
from ...core.recipes import free_id
from ...core.units import amps, ohms, span, volts
from .base import Desk, Station


@dataclass(frozen=True)
class PinClaim:
    """A pin of the board and who claims it."""

    id: str
    can: tuple[str, ...]
    parts: tuple[str, ...]
    picked: bool

    @property
    def duty(self) -> str:
        """What it says where nothing claims it."""
        words = (("input-only", "reads only"), ("reset", "reset"), ("boot-strapping", "start-up"), ("serial", "serial"))
        return next((word for ability, word in words if ability in self.can), "free")


def _items(bench: Bench) -> list[str]:
    return [part.id for part in bench.parts]


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
        "board_volts": f"{board.logic_mv / 1000:g} V",
        "output_words": [(kind.id, kind.name.lower()) for kind in OUTPUT_KINDS.values()],
        "all_boards": list(boards().values()),
        "pin_paths": _pin_paths(bench),
        "width": "is-few" if len(board.pins) <= 14 else "is-many" if len(board.pins) > 20 else "",
        "pins": pins,
        "part": picked_part,
        "claims": claims,
        "tray": _tray(bench),
    }
    for index, source in enumerate(bench.inputs):
        if source.id == desk.picked:
            released, pressed = both_states(effective(source, board), board)
            context |= {
                "side": "inputs",
                "index": index,
                "states": [_shown("Released", released, source, board), _shown("Pressed", pressed, source, board)],
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
    pull: str
    pull_words: str


def _shown(when: str, state: PinState, part: InputPart, board: Board) -> Shown:
    wiring = effective(part, board)
    pull = pull_range_ohm(wiring, board)
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
        pull=wiring.pull,
        pull_words=span(*pull, ohms) if pull else "",
    )


def _pin_paths(bench: Bench) -> dict[str, str]:
    """Where each part's pin stands in the document."""
    paths = {part.id: f"/inputs/{index}/pin" for index, part in enumerate(bench.inputs)}
    return paths | {part.id: f"/outputs/{index}/pin" for index, part in enumerate(bench.outputs)}


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

    kind: InputKind | OutputKind
    id: str
    patch: list[dict[str, Any]]


def _arrival(kind: InputKind | OutputKind, ident: str, pin: str) -> InputPart | OutputPart:
    """A part as it arrives: with sensible wiring."""
    name = f"{kind.name} {ident.removeprefix(kind.id).strip('-')}".strip()
    if isinstance(kind, OutputKind):
        return OutputPart(id=ident, name=name, kind=kind.id, pin=pin)
    return InputPart(id=ident, name=name, kind=kind.id, pin=pin, contact=ModelledContact(switch=kind.switch))


def _tray(bench: Bench) -> list[TrayPart]:
    board = boards()[bench.board]
    pins = {part.pin for part in bench.parts}
    taken = {part.id for part in bench.parts}
    tray: list[TrayPart] = []
    kinds: list[InputKind | OutputKind] = [*INPUT_KINDS.values(), *OUTPUT_KINDS.values()]
    for kind in kinds:
        side = "inputs" if isinstance(kind, InputKind) else "outputs"
        ident = free_id(kind.id, taken)
        part = _arrival(kind, ident, board.pins[0].id)
        pin = best_free(part, board, pins)
        if pin is None:
            continue
        value = part.model_copy(update={"pin": pin}).model_dump(mode="json")
        patch: list[dict[str, Any]] = [{"op": "add", "path": f"/{side}/-", "value": value}]
        if side == "inputs":
            debounce = {"method": "rest-first", "interval_us": METHODS["rest-first"].default_us}
            patch.append({"op": "add", "path": f"/firmware/debounce/{ident}", "value": debounce})
        tray.append(TrayPart(kind, ident, patch))
    return tray


STATION = Station("wire", "Wire", _items, _context)
