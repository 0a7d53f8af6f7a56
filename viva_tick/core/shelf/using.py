"""Things of a bench onto the shelf, and things of the shelf onto a bench, as edits."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..document import Bench, DocumentError, Problem, pointer
from ..document.parts import CapturedContact
from ..ids import free_id
from ..kinds import INPUT_KINDS
from ..pins import best_free
from .kept import Asked, Kept, KeptContact, KeptMachine, KeptPanel, KeptPart

Patch = list[dict[str, Any]]
Given = dict[str, str]


@dataclass(frozen=True)
class Taken:
    """How a thing comes to a bench: the edit, and what it is called there."""

    patch: Patch
    local: str


def _refused(pointer_: str, sentence: str) -> DocumentError:
    return DocumentError([Problem(pointer_, sentence)])


def renamed(value: Any, names: dict[str, str]) -> Any:
    """Data with ids for other ids: whole strings and keys, and the first part of those with a point or a blank."""
    if isinstance(value, str):
        if value in names:
            return names[value]
        head, point, tail = value.partition(".")
        return f"{names[head]}{point}{tail}" if point and head in names else value
    if isinstance(value, list):
        return [renamed(one, names) for one in value]
    if isinstance(value, dict):
        # A state's own names stay as they are.
        return {
            renamed(key, names): one if key in ("id", "name", "source", "target", "parent") else renamed(one, names)
            for key, one in value.items()
        }
    return value


# Onto the shelf.


def keep_part(bench: Bench, part_id: str, ident: str, name: str) -> KeptPart:
    """A part of a bench. Raises `DocumentError` where there is no such."""
    place = next((one for one in bench.placed if one[1].id == part_id), None)
    if place is None:
        raise _refused("/inputs", "there is no such part on this bench.")
    at, part = place
    lines = part.contacts(at)
    debounce = {
        line.id.removeprefix(part_id): bench.firmware.debounce[line.id]
        for line in lines
        if line.id in bench.firmware.debounce
    }
    used = {line.contact.capture for line in lines if isinstance(line.contact, CapturedContact)}
    reading = bench.firmware.readings.get(part_id)
    return KeptPart(
        id=ident, name=name, note=f"From {bench.name}.", part=part, debounce=debounce,  # type: ignore[arg-type]
        reading=reading.model_dump(mode="json") if reading else None,
        captures=tuple(one for one in bench.captures if one.id in used),
    )  # fmt: skip


def keep_machine(bench: Bench, machine_id: str, ident: str, name: str) -> KeptMachine:
    """A machine of a bench, with what it asks for. Raises `DocumentError` where there is no such."""
    machine = next((one for one in bench.firmware.machines if one.id == machine_id), None)
    if machine is None:
        raise _refused("/firmware/machines", "there is no such machine on this bench.")
    text = machine.model_dump_json()
    kinds: dict[str, tuple[str, Any]] = {line.id: (line.name, "contact") for line in bench.contacts}
    kinds |= {part.id: (part.name, "sensor") for _, part in bench.sensed}
    kinds |= {one.id: (one.name, "output") for one in bench.drivable}
    kinds |= {one.id: (one.name, "text") for one in bench.text_lines}
    kinds |= {row.id: (row.name, "output") for row in bench.firmware.rows}
    asks = tuple(Asked(ref=ref, label=label, what=what) for ref, (label, what) in kinds.items() if f'"{ref}"' in text)
    variables = tuple(one for one in bench.firmware.variables if f'"{one.id}"' in text)
    return KeptMachine(id=ident, name=name, note=f"From {bench.name}.", machine=machine, asks=asks, variables=variables)


def keep_panel(bench: Bench, ident: str, name: str) -> KeptPanel:
    """A bench's panel."""
    return KeptPanel(id=ident, name=name, note=f"From {bench.name}.", panel=bench.panel)


# Onto a bench.


def choices(bench: Bench, what: str) -> list[tuple[str, str]]:
    """(id, name) of everything on a bench that an ask can be answered with."""
    if what == "contact":
        return [(line.id, line.name) for line in bench.contacts]
    if what == "sensor":
        return [(part.id, part.name) for _, part in bench.sensed]
    if what == "text":
        return [(one.id, one.name) for one in bench.text_lines]
    rows = [(row.id, row.name) for row in bench.firmware.rows]
    return [(one.id, one.name) for one in bench.drivable] + rows


def take(bench: Bench, kept: Kept, given: Given) -> Taken:
    """A thing of the shelf for a bench; `given` answers what it asks: by the refs of a machine's asks; for a contact
    and a part's update, “of” is what it is of. Raises `DocumentError` where it does not fit."""
    if isinstance(kept, KeptContact):
        return Taken(contact_patch(bench, kept, given.get("of", "")), given.get("of", ""))
    if isinstance(kept, KeptPart):
        return _take_part(bench, kept, given.get("of", ""))
    if isinstance(kept, KeptMachine):
        return _take_machine(bench, kept, given)
    return _take_panel(bench, kept)


def contact_patch(bench: Bench, kept: KeptContact, contact_id: str) -> Patch:
    """The edit by which a contact of a bench bounces as one of the shelf. Raises `DocumentError` where there is no
    such contact."""
    line = next((one for one in bench.contacts if one.id == contact_id), None)
    if line is None:
        raise _refused("/inputs", "choose the contact that bounces so.")
    ident, patch = _captured(bench, kept.capture.model_copy(update={"id": kept.id, "name": kept.name}))
    return [*patch, {"op": "replace", "path": f"{line.at}/contact", "value": {"kind": "capture", "capture": ident}}]


def _captured(bench: Bench, capture: Any) -> tuple[str, Patch]:
    """(the id of a capture on a bench, the edit that brings it there)."""
    there = next((one for one in bench.captures if one.digest == capture.digest), None)
    if there:
        return there.id, []
    ident = free_id(capture.id, {one.id for one in bench.captures})
    value = capture.model_copy(update={"id": ident}).model_dump(mode="json")
    return ident, [{"op": "add", "path": pointer("captures", "-"), "value": value}]


def _put(data: Any, path: str, value: Any) -> None:
    *steps, last = path.strip("/").split("/")
    for step in steps:
        data = data[int(step)] if isinstance(data, list) else data[step]
    data[int(last) if isinstance(data, list) else last] = value


def _take_part(bench: Bench, kept: KeptPart, of: str) -> Taken:
    """A part on pins of its own; or, with `of`, in place of the one that it was put in as, on that one's pins."""
    place = next(((at, part) for at, part in bench.placed if part.id == of), None)
    taken_ids = {part.id for part in bench.parts}
    ident = of if place else free_id(kept.part.id, taken_ids)
    value = kept.part.model_dump(mode="json") | {"id": ident}
    board = bench.the_board
    if place:
        if type(place[1]) is not type(kept.part):
            raise _refused("/inputs", "what stands there is a part of another kind.")
        for claim, now in zip(kept.part.claims(""), place[1].claims(""), strict=True):
            _put(value, claim.where, now.pin)
        value["name"] = place[1].name
    else:
        free = {claim.pin for claim in bench.claims}
        for claim in kept.part.claims(""):
            same = claim.pin in {pin.id for pin in board.pins} and claim.pin not in free
            pin = claim.pin if same else best_free(claim, board, free)
            if pin is None:
                raise _refused("/board", "the board has no pin left that suits it.")
            free.add(pin)
            _put(value, claim.where, pin)
    patch: Patch = []
    names = {}
    for capture in kept.captures:
        names[capture.id], more = _captured(bench, capture)
        patch += more
    value = _bounces(value, names)
    if value.get("paired_with") not in {None, *(part.id for part in bench.inputs)}:
        value["paired_with"] = None  # its button stayed where it was
    side = "inputs" if kept.part.kind in INPUT_KINDS else "outputs"
    whole = {"op": "add", "path": pointer(side, "-"), "value": value}
    patch.append({"op": "replace", "path": place[0], "value": value} if place else whole)
    for tail, how in kept.debounce.items():
        path = pointer("firmware", "debounce", f"{ident}{tail}")
        patch.append({"op": "add", "path": path, "value": how.model_dump(mode="json")})
    if kept.reading:
        patch.append({"op": "add", "path": pointer("firmware", "readings", ident), "value": kept.reading})
    return Taken(patch, ident)


def _bounces(value: Any, names: dict[str, str]) -> Any:
    """A part's data with its captures called as the bench calls them."""
    if isinstance(value, dict):
        if value.get("kind") == "capture" and value.get("capture") in names:
            return {**value, "capture": names[value["capture"]]}
        return {key: _bounces(one, names) for key, one in value.items()}
    return [_bounces(one, names) for one in value] if isinstance(value, list) else value


def _take_machine(bench: Bench, kept: KeptMachine, given: Given) -> Taken:
    """A machine for what was given; with “of”, in place of the one that it was put in as."""
    names: dict[str, str] = {}
    for ask in kept.asks:
        known = dict(choices(bench, ask.what))
        chosen = given.get(ask.ref, "")
        if chosen not in known:
            raise _refused("/firmware/machines", f"{kept.name} asks for {ask.label}: choose what that is here.")
        names[ask.ref] = chosen
    of = given.get("of", "")
    place = next((n for n, one in enumerate(bench.firmware.machines) if one.id == of), None)
    patch: Patch = []
    ids = {one.id for one in bench.firmware.variables}
    for variable in kept.variables:
        there = next((one for one in bench.firmware.variables if one == variable), None)
        if there is None:
            names[variable.id] = free_id(variable.id, ids)
            ids.add(names[variable.id])
            value = variable.model_dump(mode="json") | {"id": names[variable.id]}
            patch.append({"op": "add", "path": pointer("firmware", "variables", "-"), "value": value})
    ident = of if place is not None else free_id(kept.machine.id, {one.id for one in bench.firmware.machines})
    data = renamed(kept.machine.model_dump(mode="json"), names) | {"id": ident}
    if place is not None:
        data["name"] = bench.firmware.machines[place].name
        patch.append({"op": "replace", "path": pointer("firmware", "machines", place), "value": data})
    else:
        data["name"] = kept.name
        patch.append({"op": "add", "path": pointer("firmware", "machines", "-"), "value": data})
    return Taken(patch, ident)


def _take_panel(bench: Bench, kept: KeptPanel) -> Taken:
    """A panel: places of things that this bench does not have are left out."""
    there = {part.id for part in bench.parts} | {line.id for line in bench.lines} | {one.id for one in bench.text_lines}
    data = kept.panel.model_dump(mode="json")
    data["spots"] = {ident: spot for ident, spot in data["spots"].items() if ident in there}
    return Taken([{"op": "add", "path": "/panel", "value": data}], "panel")


def uses(bench: Bench, kept: KeptContact) -> list[str]:
    """The names of the contacts of a bench that bounce as one of the shelf."""
    mine = {one.id for one in bench.captures if one.digest == kept.capture.digest}
    return [one.name for one in bench.contacts if one.contact.kind == "capture" and one.contact.capture in mine]
