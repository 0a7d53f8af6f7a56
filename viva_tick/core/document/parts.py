"""Physical things on the bench: input parts, output parts, how they are wired, captured contacts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Doc, Id, Micros, Name

Rail = Literal["ground", "supply"]
Level = Literal["low", "high"]


class Wiring(Doc):
    """How a contact reaches its pin: the rail it closes to, and what holds the pin while it is open.

    `pull_ohm` counts for an external pull only; an internal one has the board's range.
    """

    contact_to: Rail = "ground"
    normally: Literal["open", "closed"] = "open"
    pull: Literal["none", "internal-up", "internal-down", "up", "down"] = "internal-up"
    pull_ohm: Annotated[int, Field(ge=1, le=100_000_000)] = 10_000


class ModelledContact(Doc):
    """Bounces by the seeded model of a named class of switch."""

    kind: Literal["model"] = "model"
    switch: str = "small-button"


class CapturedContact(Doc):
    """Bounces as a captured press did."""

    kind: Literal["capture"] = "capture"
    capture: Id


Contact = Annotated[ModelledContact | CapturedContact, Field(discriminator="kind")]


class Part(Doc):
    """A physical thing on a pin."""

    id: Id
    name: Name
    pin: str


class InputPart(Part):
    """A contact that a person or a thing moves. `active_level` is what the firmware takes for "pressed".

    `legs` counts for a four-legged button: wired across the contact, or to two legs that are always joined.
    `magnet_mm` and `speed_mm_s` count for a magnet contact: how long the magnet is and how fast it passes.
    """

    kind: str = "button"
    wiring: Wiring = Wiring()
    active_level: Level = "low"
    contact: Contact = ModelledContact()
    legs: Literal["across", "joined"] = "across"
    magnet_mm: Annotated[int, Field(ge=1, le=1000)] = 20
    speed_mm_s: Annotated[int, Field(ge=1, le=100_000)] = 200


class OutputPart(Part):
    """Something the firmware switches. `active_level` turns it on; `at_rest` is how it should start.

    `hold` is a resistor that holds the pin until set-up makes it an output: "up" to supply, "down" to ground. A relay
    draws `coil_ua` while it is on, from a supply of its own or from the board's. `resistor_ohm` (0: none) and `drop_mv`
    (its forward drop) count for a lamp that the pin itself feeds: one whose load is "none".
    """

    kind: str = "lamp"
    active_level: Level = "high"
    at_rest: Literal["off", "on"] = "off"
    load: Literal["none", "low-voltage", "mains", "heat", "motion", "light"] = "none"
    hold: Literal["none", "up", "down"] = "none"
    own_supply: bool = False
    coil_ua: Annotated[int, Field(ge=0, le=2_000_000)] = 75_000
    resistor_ohm: Annotated[int, Field(ge=0, le=10_000_000)] = 330
    drop_mv: Annotated[int, Field(ge=500, le=5_000)] = 2_000


class Edge(Doc):
    """The level from an instant on, in a capture's own time."""

    at_us: Micros
    level: Annotated[int, Field(ge=0, le=1)]


class Capture(Doc):
    """Edges recorded from a real contact: the level before the first press is the one at rest."""

    id: Id
    name: Name
    edges: Annotated[tuple[Edge, ...], Field(min_length=2, max_length=20_000)]
