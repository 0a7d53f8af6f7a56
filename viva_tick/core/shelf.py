"""What stands on the user's shelf beside boards: things of their own that any bench can use.

A bench keeps a copy of what it uses, so none changes behind its back.
"""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError

from .contacts import capture_bursts
from .document import Bench, Capture, DocumentError, Problem, pointer
from .document.base import Doc, Id, Name
from .document.problems import from_validation
from .ids import free_id

FORMAT = 1


class KeptContact(Doc):
    """A contact that was captured: its bounces, and where they were seen."""

    kind: Literal["contact"] = "contact"
    id: Id
    name: Name
    note: Annotated[str, Field(max_length=400)] = ""
    capture: Capture

    @property
    def moves(self) -> tuple[int, int]:
        """How many presses and releases it rests on."""
        presses, releases = capture_bursts(self.capture)
        return len(presses), len(releases)


Kept = KeptContact
_KEPT: TypeAdapter[Kept] = TypeAdapter(Kept)


def shelf_text(things: list[Kept]) -> str:
    """Things of the shelf as one file."""
    rows = [one.model_dump(mode="json") for one in things]
    return json.dumps({"viva_tick_shelf": FORMAT, "things": rows}, indent=1, ensure_ascii=False) + "\n"


def kept_from_data(data: Any) -> Kept:
    """One thing from parsed JSON. Raises `DocumentError`, with where each fault is."""
    try:
        made = _KEPT.validate_json(json.dumps(data))
    except ValidationError as error:
        raise DocumentError(from_validation(data, error)) from None
    if made.capture.late is not None:
        raise DocumentError([Problem(f"/capture/edges/{made.capture.late}", "its time is before the one above it.")])
    try:
        capture_bursts(made.capture)
    except ValueError as error:
        raise DocumentError([Problem("/capture/edges", str(error))]) from None
    return made


def shelf_from_text(text: str) -> list[Kept]:
    """The things of a file. Raises `DocumentError`: nothing of a file with a fault is taken."""
    try:
        data = json.loads(text)
    except ValueError as error:
        raise DocumentError([Problem("", f"this is not JSON: {error}.")]) from None
    if not isinstance(data, dict) or data.get("viva_tick_shelf") != FORMAT or not isinstance(data.get("things"), list):
        raise DocumentError([Problem("", "this is no file of a shelf: it has no “viva_tick_shelf” and “things”.")])
    found = []
    for place, row in enumerate(data["things"]):
        try:
            found.append(kept_from_data(row))
        except DocumentError as error:
            raise DocumentError(
                [Problem(f"/things/{place}{one.pointer}", one.sentence) for one in error.problems]
            ) from None
    return found


def contact_patch(bench: Bench, kept: KeptContact, contact_id: str) -> list[dict[str, Any]]:
    """The edit by which a contact of a bench bounces as one of the shelf. Raises KeyError where there is no such."""
    line = next((one for one in bench.contacts if one.id == contact_id), None)
    if line is None:
        raise KeyError(contact_id)
    there = next((one for one in bench.captures if one.digest == kept.capture.digest), None)
    ident = there.id if there else free_id(kept.id, {one.id for one in bench.captures})
    capture = kept.capture.model_copy(update={"id": ident, "name": kept.name})
    patch = [] if there else [{"op": "add", "path": pointer("captures", "-"), "value": capture.model_dump(mode="json")}]
    return [*patch, {"op": "replace", "path": f"{line.at}/contact", "value": {"kind": "capture", "capture": ident}}]


def uses(bench: Bench, kept: KeptContact) -> list[str]:
    """The names of the contacts of a bench that bounce as one of the shelf."""
    mine = {one.id for one in bench.captures if one.digest == kept.capture.digest}
    return [one.name for one in bench.contacts if one.contact.kind == "capture" and one.contact.capture in mine]


__all__ = ["Kept", "KeptContact", "contact_patch", "kept_from_data", "shelf_from_text", "shelf_text", "uses"]
