"""What every part is made of, and what the rest of the program sees of it.

A part stands in the document. Seen from the firmware it is a number of contacts (`ContactLine`) and of outputs that
can be switched (`Channel`); seen from the board it claims pins (`Claim`). Most parts are one of these; a panel button
with a lamp is one contact and one channel, a relay board up to sixteen channels, an encoder two claims and a contact.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from pydantic import AfterValidator, Field, StringConstraints

from ..base import Doc, Id, Name

Rail = Literal["ground", "supply"]
Level = Literal["low", "high"]
Pull = Literal["none", "internal-up", "internal-down", "up", "down"]
PinId = Annotated[str, StringConstraints(min_length=1, max_length=12)]
Ohm = Annotated[int, Field(ge=1, le=100_000_000)]
OhmOrNone = Annotated[int, Field(ge=0, le=100_000_000)]
MicroAmp = Annotated[int, Field(ge=0, le=50_000_000)]
MilliVolt = Annotated[int, Field(ge=0, le=60_000)]
Load = Literal["nothing", "mains", "heat", "motion", "light", "energy", "battery", "current", "wet"]


def _as_a_set(loads: tuple[Load, ...]) -> tuple[Load, ...]:
    """Each once, in their own order; what is dangerous is not nothing."""
    found = tuple(load for load in get_args(Load) if load in loads)
    return tuple(load for load in found if load != "nothing") or found


Loads = Annotated[tuple[Load, ...], Field(max_length=18), AfterValidator(_as_a_set)]
Hold = Literal["none", "up", "down"]
WireColour = Literal[
    "", "black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white", "pink"
]


class Burden(Doc):
    """What an output switches, in figures: its voltage and current, what sort of load it is, a snubber across it, the
    fuse before it (0: none) and the wire to it, in mm² (0: not said)."""

    supply: Literal["ac", "dc"] = "ac"
    mv: Annotated[int, Field(ge=100, le=1_000_000)] = 230_000
    ua: Annotated[int, Field(ge=100, le=100_000_000)] = 1_000_000
    sort: Literal["resistive", "inductive", "lamp", "motor"] = "resistive"
    snubber: bool = False
    fuse_ua: Annotated[int, Field(ge=0, le=100_000_000)] = 0
    wire_mm2: Annotated[float, Field(ge=0, le=50)] = 0.0


class Wiring(Doc):
    """How a contact reaches its pin: the rail it closes to, and what holds the pin while it is open.

    `pull_ohm` counts for an external pull only; an internal one has the board's range. `wire_cm` is how far the
    contact is from the board; `guard` is what stands between a long cable and the pin. With `filter` "rc" a resistor
    `series_ohm` lies before the pin and a capacitor of
    `filter_nf` from the pin to ground; `schmitt`: a Schmitt input follows, the board's own or a gate.
    """

    contact_to: Rail = "ground"
    normally: Literal["open", "closed"] = "open"
    pull: Pull = "internal-up"
    pull_ohm: Ohm = 10_000
    wire_cm: Annotated[int, Field(ge=1, le=20_000)] = 30
    guard: Literal["none", "resistor", "clamp", "opto"] = "none"
    filter: Literal["none", "rc"] = "none"
    series_ohm: Ohm = 10_000
    filter_nf: Annotated[int, Field(ge=1, le=1_000_000)] = 470
    schmitt: bool = False


class ModelledContact(Doc):
    """Bounces by the seeded model of a named class of switch."""

    kind: Literal["model"] = "model"
    switch: str = "small-button"


class CapturedContact(Doc):
    """Bounces as a captured press did."""

    kind: Literal["capture"] = "capture"
    capture: Id


Contact = Annotated[ModelledContact | CapturedContact, Field(discriminator="kind")]


class Contacting(Doc):
    """A contact on a pin. `active_level` is what the firmware takes for "pressed"; `metal` what the contact is plated
    with: silver wants more current to stay clean."""

    pin: PinId
    wiring: Wiring = Wiring()
    active_level: Level = "low"
    metal: Literal["gold", "silver"] = "gold"
    contact: Contact = ModelledContact()


def as_contacting(part: object) -> Contacting | None:
    """The part, if it is a contact on a pin."""
    return part if isinstance(part, Contacting) else None


class Part(Doc):
    """A physical thing on the bench. `wire_colour` is the user's own for its signal wires; empty: by the scheme."""

    id: Id
    name: Name
    wire_colour: WireColour = ""

    def claims(self, at: str) -> list[Claim]:
        """The pins that it claims; `at` is the part's JSON Pointer."""
        raise NotImplementedError

    def contacts(self, at: str) -> list[ContactLine]:
        """The contacts that the firmware can listen to."""
        return []

    def channels(self, at: str) -> list[Channel]:
        """The outputs that the firmware can switch."""
        return []

    def text_lines(self, at: str) -> list[TextLine]:
        """The lines that show or send text."""
        return []


@dataclass(frozen=True)
class Claim:
    """One pin of one part. `needs` are abilities the pin must have, "output" among them for one that is driven;
    `pull` is the pull that the part asks of it; `where` points to the pin in the document."""

    part: str
    name: str
    pin: str
    where: str
    needs: tuple[str, ...] = ()
    pull: Pull = "none"

    @property
    def bus(self) -> str | None:
        """The bus line that it is on, which it may share; None for a pin of its own."""
        return next((need for need in self.needs if need.startswith("bus")), None)


@dataclass(frozen=True)
class ContactLine:
    """A contact as the firmware and the electrics see it. `id` is the part's, or the part's and a dot and its place
    in it; `at` points to the object that holds `pin`, `wiring`, `active_level` and `contact`."""

    id: str
    name: str
    at: str
    pin: str
    wiring: Wiring
    active_level: Level
    contact: ModelledContact | CapturedContact
    part: Part
    metal: str = "gold"

    @property
    def kind(self) -> str:
        """The kind of its part."""
        return str(getattr(self.part, "kind", ""))


@dataclass(frozen=True)
class Channel:
    """An output as the firmware and the electrics see it. `at` points to the object that holds `pin` and `hold`;
    `loads` are what it switches that can hurt, "nothing" where it was said that nothing does, empty where nobody said;
    `burden` what it switches in figures, where they are known."""

    id: str
    name: str
    at: str
    pin: str
    active_level: Level
    at_rest: str
    loads: tuple[str, ...]
    hold: str
    part: Part
    burden: Burden | None = None

    @property
    def kind(self) -> str:
        """The kind of its part."""
        return str(getattr(self.part, "kind", ""))


@dataclass(frozen=True)
class TextLine:
    """A line that shows or sends text, as the firmware sees it: `columns` characters at most, the `row` of a display's
    lines, from 0."""

    id: str
    name: str
    at: str
    columns: int
    part: Part
    row: int = 0

    @property
    def kind(self) -> str:
        """The kind of its part."""
        return str(getattr(self.part, "kind", ""))


def line_of(part: Part, held: Contacting, at: str, place: str = "") -> ContactLine:
    """The line of a contact of a part; `place` is its name in the part where it is not all of it."""
    ident = f"{part.id}.{place}" if place else part.id
    name = f"{part.name} {place}" if place else part.name
    return ContactLine(ident, name, at, held.pin, held.wiring, held.active_level, held.contact, part, held.metal)


def contact_claim(line: ContactLine) -> Claim:
    """The pin of a contact."""
    return Claim(line.part.id, line.name, line.pin, f"{line.at}/pin", (), line.wiring.pull)
