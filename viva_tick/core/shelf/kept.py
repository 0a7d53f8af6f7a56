"""What stands on the user's shelf beside boards: things of their own that any bench can use, and the file they go in.

A bench keeps a copy of what it uses, so none changes behind its back.
"""

from __future__ import annotations

import hashlib
import json
from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, TypeAdapter, ValidationError

from ..contacts import capture_bursts
from ..document import Capture, Debounce, DocumentError, InputPart, Machine, OutputPart, Problem, Variable
from ..document.base import Doc, Id, Name
from ..document.panel import Panel
from ..document.problems import from_validation

FORMAT = 1
Text = Annotated[str, Field(max_length=400)]
AskKind = Literal["contact", "sensor", "output", "text"]


class _Thing(Doc):
    """What each has: an id on the shelf, a name, where it comes from."""

    id: Id
    name: Name
    note: Text = ""

    @property
    def digest(self) -> str:
        """A hash of what a bench would take over."""
        text = self.model_dump_json(exclude={"id", "name", "note"})
        return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


class KeptContact(_Thing):
    """A contact that was captured: its bounces, and where they were seen."""

    kind: Literal["contact"] = "contact"
    capture: Capture

    @property
    def moves(self) -> tuple[int, int]:
        """How many presses and releases it rests on."""
        presses, releases = capture_bursts(self.capture)
        return len(presses), len(releases)


class KeptPart(_Thing):
    """A part with its wiring, how its contacts are cleaned (by what stands behind its id), how it is read, and the
    captures that its contacts bounce as."""

    kind: Literal["part"] = "part"
    part: InputPart | OutputPart
    debounce: dict[str, Debounce] = Field(default_factory=dict)
    reading: dict[str, Any] | None = None
    captures: tuple[Capture, ...] = ()


class Asked(Doc):
    """Something that a machine needs of a bench: what it is called in the machine, how it is asked for."""

    ref: str
    label: Name
    what: AskKind


class KeptMachine(_Thing):
    """A machine as a recipe of the user's own: what it asks for, and the numbers that it counts with."""

    kind: Literal["machine"] = "machine"
    machine: Machine
    asks: tuple[Asked, ...] = ()
    variables: tuple[Variable, ...] = ()


class KeptPanel(_Thing):
    """A front: its size, and where things sit on it, by their ids."""

    kind: Literal["panel"] = "panel"
    panel: Panel


Kept = KeptContact | KeptPart | KeptMachine | KeptPanel
KINDS = {"part": "Parts, wired", "machine": "Machines", "contact": "Contacts you captured", "panel": "Panels"}
_KEPT: TypeAdapter[Kept] = TypeAdapter(
    Annotated[Kept, Field(discriminator="kind")], config=ConfigDict(defer_build=True)
)


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
    captures = (made.capture,) if isinstance(made, KeptContact) else made.captures if isinstance(made, KeptPart) else ()
    for capture in captures:
        if capture.late is not None:
            raise DocumentError([Problem(f"/capture/edges/{capture.late}", "its time is before the one above it.")])
        try:
            capture_bursts(capture)
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
            rows = [Problem(f"/things/{place}{one.pointer}", one.sentence) for one in error.problems]
            raise DocumentError(rows) from None
    return found
