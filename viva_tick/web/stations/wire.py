"""Wire: parts, pins, pulls and levels."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from ...core.boards import ABILITIES, Board, Pin, boards
from ...core.cautions import CAUTIONS, HAZARD_NAMES, hazards
from ...core.document import HEARD, Answer, Bench, Channel, Claim, Part
from ...core.document.parts import Commands, Encoder, Motor, OutputBase, PanelButton, RelayBoard, Sensed, as_contacting
from ...core.electrics import draws, sums
from ...core.emit import wires
from ...core.ids import free_id
from ...core.kinds import INPUT_GROUPS, KINDS, OUTPUT_GROUPS, Kind
from ...core.pins import Room, arrival_patch, best_free
from ...core.units import amps
from ..answers import shelf
from ..drawings import figures
from .base import Station, StationRequest
from .wire_fields import COLOURS, rows, wire_end

Patch = list[dict[str, Any]]
MARKS = ("dimmable", "analogue", "interrupt", "serial-in", "serial-out", "bus-data", "bus-clock", "input-only", "lamp")


@dataclass(frozen=True)
class PinClaim:
    """A pin of the board and who claims it."""

    id: str
    can: tuple[str, ...]
    names: tuple[str, ...]
    picked: bool
    clash: bool

    @property
    def duty(self) -> str:
        """What it says where nothing claims it."""
        words = (
            ("input-only", "reads only"),
            ("reset", "reset"),
            ("boot-strapping", "start-up"),
            ("serial-in", "serial"),
            ("serial-out", "serial"),
        )
        return next((word for ability, word in words if ability in self.can), "free")

    @property
    def marks(self) -> list[str]:
        """Its abilities that have a sign, by the sign's name."""
        return [ability.split("-")[0] for ability in MARKS if ability in self.can]

    @property
    def tells(self) -> str:
        """Everything about it, in words."""
        return ", ".join(ABILITIES[ability] for ability in self.can)


def _items(bench: Bench) -> list[str]:
    return [part.id for part in bench.parts]


def _pin_claim(pin: Pin, claims: list[Claim], picked: str | None) -> PinClaim:
    here = [claim for claim in claims if claim.pin == pin.id]
    buses = {claim.bus for claim in here}
    clash = len(here) > 1 and not (len(buses) == 1 and None not in buses)
    names = tuple(dict.fromkeys(claim.name for claim in here))
    return PinClaim(pin.id, pin.can, names, any(claim.part == picked for claim in here), clash)


def _context(asked: StationRequest) -> dict[str, Any]:
    bench = asked.bench
    board = bench.the_board
    claims = list(bench.claims)
    found = next(((at, part) for at, part in bench.placed if part.id == asked.picked), None)
    context: dict[str, Any] = {
        "board": board,
        "all_boards": list(boards().values()),
        "own_boards": shelf().boards(),
        "width": "is-few" if len(board.pins) <= 14 else "is-many" if len(board.pins) > 20 else "",
        "pins": [_pin_claim(pin, claims, asked.picked) for pin in board.pins],
        "pins_of": {part.id: [claim.pin for claim in part.claims(at)] for at, part in bench.placed},
        "first_pin_path": {part.id: part.claims(at)[0].where for at, part in bench.placed},
        "tray": _tray(Room.of(bench)),
        "sums": _sums(bench),
        "set_ups": _set_ups(bench),
        "own_ua": sum(draw.own_ua for draw in draws(bench)),
        "part": found[1] if found else None,
    }
    if found:
        at, part = found
        context |= {
            "at": at,
            "kind": KINDS[str(getattr(part, "kind", ""))],
            "claims": part.claims(at),
            "figures": figures(bench, part, at),
            "rows": rows(bench, part, at),
            "wire_end": wire_end(part, at),
            "own_cautions": _own_cautions(bench, part),
            "colour_menu": _colour_menu(bench, part, at),
            "colour_now": next((wire.colour for wire in wires(bench) if wire.part == part.id and wire.signal), ""),
            "acts": _acts(bench, part, at, board),
            "rails_of": _rails_of(bench, part, at),
            "part_out": _take_out(bench, part, at),
            "used_by": _used_by(bench, part, at),
        }
    return context


def _own_cautions(bench: Bench, part: Part) -> list[tuple[str, str]]:
    """(what it switches, caution) for what of the part can hurt, each once."""
    own = [load for one, load in hazards(bench) if (one.part if isinstance(one, Channel) else one) is part]
    return [(HAZARD_NAMES[load], CAUTIONS[load]) for load in dict.fromkeys(own)]


def _colour_menu(bench: Bench, part: Part, at: str) -> list[tuple[str, bool, Patch]]:
    """(words, whether it is so, patch): a colour of its own, by the scheme, or like an input that it belongs to."""
    paired = getattr(part, "paired_with", None)
    alone: Patch = [{"op": "replace", "path": f"{at}/paired_with", "value": None}] if paired else []
    menu: list[tuple[str, bool, Patch]] = [
        (words, part.wire_colour == colour and not (paired and not colour),
         [*alone, {"op": "replace", "path": f"{at}/wire_colour", "value": colour}])
        for colour, words in COLOURS
    ]  # fmt: skip
    if isinstance(part, OutputBase):
        own = {"op": "replace", "path": f"{at}/wire_colour", "value": ""}
        menu += [
            (f"like {one.name}", paired == one.id and not part.wire_colour,
             [own, {"op": "replace", "path": f"{at}/paired_with", "value": one.id}])
            for one in bench.inputs
        ]  # fmt: skip
    return menu


def _rails_of(bench: Bench, part: Part, at: str) -> dict[str, str]:
    """What the drawing needs to know to let the contact and its pull be dragged."""
    lines = part.contacts(at)
    if not lines or not as_contacting(part):
        return {}
    wiring = lines[0].wiring
    down = "yes" if bench.the_board.pull_down_ohm else ""
    return {"at": lines[0].at, "pull": wiring.pull, "contact": wiring.contact_to, "pulls_down": down}


def _sums(bench: Bench) -> list[dict[str, Any]]:
    """Currents against their limits, with everything on."""
    return [
        {
            "what": total.what,
            "words": "limited only by a pin" if total.bare else f"{amps(total.drawn_ua)} of {amps(total.limit_ua)}",
            "share": min(100, round(100 * total.drawn_ua / total.limit_ua)),
            "over": total.over,
        }
        for total in sums(bench)
        if draws(bench) and (total.drawn_ua or total.what == "supply")
    ]


def _names(part: Part, at: str) -> set[str]:
    own = {part.id} if isinstance(part, Sensed) else set()
    return (
        own
        | {line.id for line in part.contacts(at)}
        | {channel.id for channel in part.channels(at)}
        | {line.id for line in part.text_lines(at)}
    )


def _users(bench: Bench, names: set[str]) -> str:
    for machine in bench.firmware.machines:
        listens = any(isinstance(t.on, HEARD) and t.on.input in names for t in machine.transitions)
        looks = any(getattr(guard, "input", None) in names for t in machine.transitions for guard in t.guards)
        takes = any(getattr(action, "input", None) in names for _, action in machine.actions)
        follows = any(getattr(drive, "input", None) in names for _, _, drive in machine.drives)
        if listens or looks or takes or follows or names & bench.driven_by(machine):
            return machine.name
    return next((row.name for row in bench.firmware.rows if names & set(row.outputs)), "")


def _used_by(bench: Bench, part: Part, at: str) -> str:
    """The machine that listens to a part or drives it, by name; empty where none does."""
    return _users(bench, _names(part, at))


def _set_ups(bench: Bench) -> list[dict[str, Any]]:
    """What set-up does to the board before anything else, where the board wants it: each can be left out."""
    board, done, at = bench.the_board, bench.firmware.set_up, "/firmware/set_up"
    found = []
    if board.pull_enable:
        does, leaves = "set-up enables the pulls", "set-up leaves the pulls off"
        found.append(
            {"id": "set-up-pulls", "path": f"{at}/enables_pulls", "done": done.enables_pulls, "does": does}
            | {"leaves": leaves, "what": "The board's pulls"}
        )
    if any("starts-analogue" in pin.can for pin in board.pins):
        does, leaves = "set-up makes its pins digital", "set-up leaves its pins analogue"
        found.append(
            {"id": "set-up-digital", "path": f"{at}/makes_digital", "done": done.makes_digital, "does": does}
            | {"leaves": leaves, "what": "Pins that start analogue"}
        )
    return found


def _forget(bench: Bench, names: set[str]) -> Patch:
    """The patch that takes out the debounce of contacts and what the scenarios do to them."""
    patch: Patch = [
        {"op": "remove", "path": f"{where}/{name}"}
        for where, known in (
            ("/firmware/debounce", bench.firmware.debounce),
            ("/firmware/readings", bench.firmware.readings),
            ("/firmware/limits", bench.firmware.limits),
            ("/firmware/on_levels", bench.firmware.on_levels),
            ("/taps", bench.taps),
            ("/panel/spots", bench.panel.spots),
        )
        for name in sorted(names & set(known))
    ]
    for number, scenario in enumerate(bench.scenarios):
        for place, stimulus in reversed(list(enumerate(scenario.stimuli))):
            if stimulus.input in names:
                patch.append({"op": "remove", "path": f"/scenarios/{number}/stimuli/{place}"})
        for place, again in reversed(list(enumerate(scenario.repeats))):
            if again.do.input in names:
                patch.append({"op": "remove", "path": f"/scenarios/{number}/repeats/{place}"})
        for place, answer in reversed(list(enumerate(scenario.answers))):
            about = {answer.do.input, answer.instead.input if answer.instead else "", *_waits_for(answer)}
            if about & names:
                patch.append({"op": "remove", "path": f"/scenarios/{number}/answers/{place}"})
        for place, one in reversed(list(enumerate(scenario.expects))):
            if getattr(one, "output", None) in names or getattr(one, "of", None) in names:
                patch.append({"op": "remove", "path": f"/scenarios/{number}/expects/{place}"})
    return patch


def _waits_for(answer: Answer) -> set[str]:
    """The output, or the line of text, that an answer waits for."""
    return {getattr(answer.to, "output", ""), getattr(answer.to, "of", "")}


def _take_out(bench: Bench, part: Part, at: str) -> Patch:
    """The patch that takes a part off the bench, with its debounce and what the scenarios do to it."""
    unpaired: Patch = [
        {"op": "replace", "path": f"/outputs/{index}/paired_with", "value": None}
        for index, output in enumerate(bench.outputs)
        if output.paired_with == part.id
    ]
    return [*unpaired, {"op": "remove", "path": at}, *_forget(bench, {part.id, *_names(part, at)})]


def _acts(bench: Bench, part: Part, at: str, board: Board) -> list[tuple[str, str, Patch]]:
    """(id, words, patch) of what can be put on the part or taken off it."""
    taken = {claim.pin for claim in bench.claims}

    def free(*needs: str) -> str | None:
        return best_free(Claim(part.id, part.name, "", "", needs), board, taken)

    found: list[tuple[str, str, Patch]] = []
    if isinstance(part, RelayBoard):
        pin = free("output")
        if pin and len(part.relays) < 16:
            number = free_id("relay", {relay.id for relay in part.relays} | {"relay"})
            hold = part.relays[-1].hold
            value = {"id": number, "name": number.replace("-", " ").capitalize(), "pin": pin, "hold": hold}
            found.append(("add-relay", "one more relay", [{"op": "add", "path": f"{at}/relays/-", "value": value}]))
        last = f"{part.id}.{part.relays[-1].id}"
        if len(part.relays) > 1 and not _users(bench, {last}):
            path = f"{at}/relays/{len(part.relays) - 1}"
            found.append(("drop-relay", f"Remove {part.relays[-1].name}", [{"op": "remove", "path": path}]))
    elif isinstance(part, Encoder):
        name = f"{part.id}.push"
        pin = free()
        if part.push is None and pin:
            push = {"pin": pin, "contact": {"kind": "model", "switch": "small-button"}}
            found.append(("add-push", "it can be pushed", [{"op": "replace", "path": f"{at}/push", "value": push}]))
        elif part.push and not _users(bench, {name}):
            gone: Patch = [{"op": "replace", "path": f"{at}/push", "value": None}, *_forget(bench, {name})]
            found.append(("drop-push", "it has no push", gone))
    elif isinstance(part, PanelButton):
        pin = free("output")
        if part.lamp is None and pin:
            path = f"{at}/lamp"
            found.append(("add-lamp", "wire its lamp", [{"op": "replace", "path": path, "value": {"pin": pin}}]))
        elif part.lamp and not _users(bench, {f"{part.id}.lamp"}):
            found.append(("drop-lamp", "leave its lamp", [{"op": "replace", "path": f"{at}/lamp", "value": None}]))
    elif isinstance(part, Commands) and part.source != "typed":
        known = [one.cm for one in part.hits]
        fewer = max(part.hits[-1].percent - 20, 0) if known else 90
        farther = {"cm": max(known, default=0) + 50, "percent": fewer}
        if len(known) < 12:
            found.append(("add-hits", "Add a distance", [{"op": "add", "path": f"{at}/hits/-", "value": farther}]))
        if known:
            out: Patch = [{"op": "remove", "path": f"{at}/hits/{len(known) - 1}"}]
            found.append(("drop-hits", "Remove the last distance", out))
        if part.names and len(part.sets) < 16:
            byte = {"bytes": [len(part.sets)], "words": [part.names[0]]}
            found.append(("add-set", "Add a set of words", [{"op": "add", "path": f"{at}/sets/-", "value": byte}]))
        if part.sets:
            out = [{"op": "remove", "path": f"{at}/sets/{len(part.sets) - 1}"}]
            found.append(("drop-set", "Remove the last set", out))
    elif isinstance(part, Motor):
        pin = free("output", "dimmable")
        if part.speed is None and pin:
            found.append(("add-speed", "wire its speed", [{"op": "replace", "path": f"{at}/speed", "value": pin}]))
        elif part.speed and not _users(bench, {f"{part.id}.speed"}):
            found.append(("drop-speed", "leave its speed", [{"op": "replace", "path": f"{at}/speed", "value": None}]))
    return found


@dataclass(frozen=True)
class TrayPart:
    """Something that can be put down: the patch that puts it on the first free pins, as JSON, or why it cannot be."""

    kind: Kind
    id: str = ""
    patch: str = ""
    why_not: str = ""


NEEDS = {
    "rgb": "dimmable",
    "motor": "dimmable",
    "display": "bus-data",
    "commands": "serial-in",
    "serial-text": "serial-out",
}
NEED_WORDS = {
    "analogue": "analogue in",
    "dimmable": "PWM (dimming)",
    "bus-data": "is on a bus",
    "serial-in": "hears serial",
    "serial-out": "sends serial",
}


def _why_not(board: Board, kind: Kind) -> str:
    measures = kind.group == "Turned and measured" and kind.id != "encoder"
    need = NEEDS.get(kind.id, "analogue" if measures else "")
    if need and not any(need in pin.can for pin in board.pins):
        return f"No pin of this board {NEED_WORDS[need]}."
    return "Too few free pins are left for it."


@lru_cache(maxsize=64)
def _tray(room: Room) -> tuple[tuple[str, tuple[TrayPart, ...]], ...]:
    """The kinds of part on their shelves; the same until a pin or a name is taken."""

    def shown(kind: Kind) -> TrayPart:
        arrived = arrival_patch(room, kind)
        if arrived is None:
            return TrayPart(kind, why_not=_why_not(room.board, kind))
        return TrayPart(kind, arrived[0], json.dumps(arrived[1]))

    groups = (*INPUT_GROUPS, *OUTPUT_GROUPS)
    return tuple((group, tuple(shown(kind) for kind in KINDS.values() if kind.group == group)) for group in groups)


def addable(bench: Bench) -> list[tuple[Kind, Patch, str]]:
    """(kind, the patch that adds one, its id) of every kind of part that the bench has room for."""
    found = (one for _, kinds in _tray(Room.of(bench)) for one in kinds if one.patch)
    return [(one.kind, json.loads(one.patch), one.id) for one in found]


STATION = Station("wire", "Wire", _items, _context)
