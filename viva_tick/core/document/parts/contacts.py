"""Parts with a contact: buttons, switches, what a thing moves, and a logic signal from another board."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..base import Doc
from .base import (
    Channel,
    Claim,
    Contacting,
    ContactLine,
    Hold,
    Level,
    MilliVolt,
    Ohm,
    OhmOrNone,
    Part,
    PinId,
    Wiring,
    contact_claim,
    line_of,
)

Legs = Literal["1-2", "1-3", "2-3"]
Wired = Literal[
    "pin-supply-ground",
    "pin-ground-supply",
    "supply-pin-ground",
    "supply-ground-pin",
    "ground-pin-supply",
    "ground-supply-pin",
]


class ContactPart(Part, Contacting):
    """A part that is one contact on one pin."""

    def contacts(self, at: str) -> list[ContactLine]:
        """See `Part.contacts`."""
        return [line_of(self, self, at)]

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        return [contact_claim(line) for line in self.contacts(at)]


class Button(ContactPart):
    """A push button with two legs."""

    kind: Literal["button"] = "button"


class FourLegged(ContactPart):
    """A push button with four legs in two pairs, each pair one piece of metal. `legs`: which two are wired."""

    kind: Literal["four-legged"] = "four-legged"
    legs: Literal["across", "joined"] = "across"


class ButtonModule(ContactPart):
    """A button on a little board with three pins and a resistor. The contact joins two of its pins, the resistor two;
    `wired` says where its pins 1, 2 and 3 go. Its resistor is part of the module: `wiring.pull` counts besides."""

    kind: Literal["module"] = "module"
    contact_pins: Legs = "1-3"
    resistor_pins: Legs = "1-2"
    resistor_ohm: Ohm = 10_000
    wired: Wired = "pin-supply-ground"

    def ends(self, pins: Legs) -> tuple[str, str]:
        """What two of its pins are joined to: two of "pin", "supply", "ground"."""
        names = self.wired.split("-")
        first, second = pins.split("-")
        return names[int(first) - 1], names[int(second) - 1]


class TwoWay(ContactPart):
    """A switch that stays where it is put, with a common pin. `other_throw`: whether its other side is wired, to the
    other rail, so that the pin is held in both positions."""

    other_throw: Literal["open", "wired"] = "open"


class Switch(TwoWay):
    """A toggle switch."""

    kind: Literal["switch"] = "switch"


class SlideSwitch(TwoWay):
    """A slide switch."""

    kind: Literal["slide-switch"] = "slide-switch"


class LimitSwitch(ContactPart):
    """A switch that something runs against."""

    kind: Literal["limit-switch"] = "limit-switch"


class OpenWire(ContactPart):
    """A pin that is read with nothing on it but a wire: whatever its wiring says of a contact, there is none."""

    kind: Literal["open-wire"] = "open-wire"
    wiring: Wiring = Wiring(pull="none")


class Float(ContactPart):
    """A float or tilt contact."""

    kind: Literal["float"] = "float"


class MagnetContact(ContactPart):
    """A contact that a passing magnet closes: how long the magnet is and how fast it passes."""

    kind: Literal["magnet"] = "magnet"
    magnet_mm: Annotated[int, Field(ge=1, le=1000)] = 20
    speed_mm_s: Annotated[int, Field(ge=1, le=100_000)] = 200


class ButtonLamp(Doc):
    """The lamp inside a panel button, on a pin of its own."""

    pin: PinId
    active_level: Level = "high"
    hold: Hold = "none"
    resistor_ohm: OhmOrNone = 330
    drop_mv: Annotated[int, Field(ge=500, le=5_000)] = 2_000


class PanelButton(ContactPart):
    """A panel button with a common, a contact that closes and one that opens (`wiring.normally` says which is used),
    and a lamp of its own, if that is wired. Its lamp has the button's wire colour."""

    kind: Literal["panel-button"] = "panel-button"
    lamp: ButtonLamp | None = None

    def channels(self, at: str) -> list[Channel]:
        """See `Part.channels`."""
        lamp = self.lamp
        if lamp is None:
            return []
        name = f"{self.name} lamp"
        return [Channel(f"{self.id}.lamp", name, f"{at}/lamp", lamp.pin, lamp.active_level, "off", (), lamp.hold, self)]

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        lamps = [Claim(self.id, c.name, c.pin, f"{c.at}/pin", ("output",)) for c in self.channels(at)]
        return super().claims(at) + lamps


class SignalIn(ContactPart):
    """A logic signal from another board: it drives both levels, its high at `high_mv`, or only pulls low."""

    kind: Literal["signal"] = "signal"
    drives: Literal["both", "low-only"] = "low-only"
    high_mv: MilliVolt = 5_000
    grounds_joined: bool = True
