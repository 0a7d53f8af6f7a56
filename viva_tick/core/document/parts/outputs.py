"""Output parts: what lights, sounds, switches, moves, heats, shows and tells."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import Field

from ..base import Doc, Id, Name, Ref
from .base import Burden, Channel, Claim, Hold, Level, Loads, MicroAmp, MilliVolt, OhmOrNone, Part, PinId, TextLine

Rest = Literal["off", "on"]
Drop = Annotated[int, Field(ge=500, le=5_000)]
Feeder = Literal["pin", "transistor", "module"]
SERIAL_COLUMNS = 80  # a line of text over the serial line is no longer


class OutputBase(Part):
    """`paired_with`: the input whose wire colour it takes, as a lamp does from its button."""

    paired_with: Ref | None = None


class Driven(OutputBase):
    """A part on one pin. `active_level` turns it on; `at_rest` is how it should start; `hold` is a resistor that
    holds the pin until set-up makes it an output: "up" to supply, "down" to ground. `loads` are what it switches that
    can hurt; `burden` the same in figures; `hard_stop`: a hard-wired stop cuts its supply."""

    pin: PinId
    active_level: Level = "high"
    at_rest: Rest = "off"
    loads: Loads = ()
    hold: Hold = "none"
    burden: Burden | None = None
    hard_stop: bool = False

    def channels(self, at: str) -> list[Channel]:
        """See `Part.channels`."""
        level, rest = self.active_level, self.at_rest
        return [Channel(self.id, self.name, at, self.pin, level, rest, self.loads, self.hold, self, self.burden)]

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        return [Claim(self.id, self.name, self.pin, f"{at}/pin", self.needs)]

    @property
    def needs(self) -> tuple[str, ...]:
        """What its pin must be able to do."""
        return ("output", "dimmable") if getattr(self, "dimmed", False) else ("output",)


class Fed(Doc):
    """Where its current comes from: a supply of its own, whose ground is joined to the board's, or the board's."""

    own_supply: bool = False
    grounds_joined: bool = True


def as_fed(part: object) -> Fed | None:
    """The part, if it can have a supply of its own."""
    return part if isinstance(part, Fed) else None


class Switched(Driven, Fed):
    """A part that the pin feeds, or a transistor, or a module of its own. `load_ua` is what it takes while it is on,
    `peak_ua` as it starts (0: not said). A bipolar transistor has a resistor `base_ohm` before its base; a
    field-effect one is fully on from `gate_mv` at its gate, which `gate_ohm` pulls to ground (0: nothing does)."""

    fed: Feeder = "module"
    load_ua: MicroAmp = 20_000
    peak_ua: MicroAmp = 0
    transistor: Literal["bipolar", "field-effect"] = "bipolar"
    base_ohm: OhmOrNone = 1_000
    gate_mv: MilliVolt = 4_500
    gate_ohm: OhmOrNone = 10_000

    @property
    def by_field(self) -> bool:
        """Whether a field-effect transistor switches it."""
        return self.fed == "transistor" and self.transistor == "field-effect"

    def channels(self, at: str) -> list[Channel]:
        """See `Part.channels`. The resistor at a gate holds the pin, too."""
        found = super().channels(at)
        held = self.by_field and self.gate_ohm and self.hold == "none"
        return [replace(channel, hold="down") for channel in found] if held else found


class Lamp(Switched):
    """A lamp (LED). Fed by the pin it has a resistor (0: none), a forward drop and a current that is wanted."""

    kind: Literal["lamp"] = "lamp"
    fed: Feeder = "pin"
    colour: Literal["red", "yellow", "green", "blue", "white", "infra-red"] = "red"
    resistor_ohm: OhmOrNone = 330
    drop_mv: Drop = 2_000
    wanted_ua: Annotated[int, Field(ge=100, le=1_000_000)] = 5_000
    dimmed: bool = False


class RgbLeg(Doc):
    """One colour of an RGB lamp."""

    pin: PinId
    hold: Hold = "none"
    resistor_ohm: OhmOrNone = 330
    drop_mv: Drop = 3_100


class RgbLamp(OutputBase):
    """Three lamps with one leg in common: to ground, or to supply."""

    kind: Literal["rgb"] = "rgb"
    common: Literal["ground", "supply"] = "ground"
    red: RgbLeg
    green: RgbLeg
    blue: RgbLeg
    wanted_ua: Annotated[int, Field(ge=100, le=100_000)] = 5_000
    dimmed: bool = True

    def channels(self, at: str) -> list[Channel]:
        """See `Part.channels`."""
        level: Level = "high" if self.common == "ground" else "low"
        legs = [(colour, getattr(self, colour)) for colour in ("red", "green", "blue")]
        return [
            Channel(f"{self.id}.{c}", f"{self.name} {c}", f"{at}/{c}", leg.pin, level, "off", (), leg.hold, self)
            for c, leg in legs
        ]

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        needs = ("output", "dimmable") if self.dimmed else ("output",)
        return [Claim(self.id, c.name, c.pin, f"{c.at}/pin", needs) for c in self.channels(at)]


class Beeper(Switched):
    """A buzzer with an oscillator of its own: it sounds while it is on."""

    kind: Literal["beeper"] = "beeper"
    fed: Feeder = "pin"
    load_ua: MicroAmp = 15_000


class Sounder(Switched):
    """A sounder without an oscillator: it needs a tone."""

    kind: Literal["sounder"] = "sounder"
    fed: Feeder = "pin"
    load_ua: MicroAmp = 5_000
    tone_hz: Annotated[int, Field(ge=31, le=20_000)] = 2_000


class Relay(Driven, Fed):
    """A relay on its little board: `trigger_mv` is the least that its input takes for high, or, where it is on while
    its input is low, what it needs to be off. An opto-isolated input takes `input_ua` from the pin. Its contact
    carries `contact_ua`, on direct current up to 30 V."""

    kind: Literal["relay"] = "relay"
    coil_ua: MicroAmp = 75_000
    input_ua: MicroAmp = 2_000
    opto: bool = False
    trigger_mv: MilliVolt = 2_500
    contact_used: Literal["no", "nc"] = "no"
    contact_ua: MicroAmp = 10_000_000

    @property
    def isolated(self) -> bool:
        """Whether light alone carries the signal over: the coils' supply has no ground in common with the board."""
        return self.opto and self.own_supply


class RelayChannel(Doc):
    """One relay of a relay board, and what it switches."""

    id: Id
    name: Name
    pin: PinId
    at_rest: Rest = "off"
    loads: Loads = ()
    hold: Hold = "none"
    contact_used: Literal["no", "nc"] = "no"
    burden: Burden | None = None
    hard_stop: bool = False


class RelayBoard(OutputBase, Fed):
    """Up to sixteen relays on a board: all on while their inputs are `active_level`. The jumper is what `own_supply`
    says: taken off, the coils have a supply of their own."""

    kind: Literal["relay-board"] = "relay-board"
    active_level: Level = "low"
    opto: bool = True
    coil_ua: MicroAmp = 75_000
    input_ua: MicroAmp = 2_000
    trigger_mv: MilliVolt = 2_500
    contact_ua: MicroAmp = 10_000_000
    relays: Annotated[tuple[RelayChannel, ...], Field(min_length=1, max_length=16)]

    @property
    def isolated(self) -> bool:
        """See `Relay.isolated`: its jumper is off, and its inputs have the board's own supply."""
        return self.opto and self.own_supply

    def channels(self, at: str) -> list[Channel]:
        """See `Part.channels`."""
        return [
            Channel(
                f"{self.id}.{r.id}",
                r.name,
                f"{at}/relays/{n}",
                r.pin,
                self.active_level,
                r.at_rest,
                r.loads,
                r.hold,
                self,
                r.burden,
            )
            for n, r in enumerate(self.relays)
        ]

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        return [Claim(self.id, c.name, c.pin, f"{c.at}/pin", ("output",)) for c in self.channels(at)]


class SolidStateRelay(Driven):
    """A solid-state relay: no bounce, little wear, a leak while it is off. Where it turns on `at` a zero crossing it
    waits for the next half wave."""

    kind: Literal["solid-state"] = "solid-state"
    turns_on: Literal["zero-crossing", "at-once"] = "zero-crossing"
    input_ua: MicroAmp = 10_000
    trigger_mv: MilliVolt = 3_000
    leak_ua: MicroAmp = 2_000


class Motor(OutputBase, Fed):
    """A motor through a driver with an input for each direction, and one for speed if that is wired.
    `both_on`: what the driver does with both inputs on; `hard_stop`: a hard-wired stop cuts its supply."""

    kind: Literal["motor"] = "motor"
    forward: PinId
    backward: PinId
    speed: PinId | None = None
    hold: Hold = "none"
    loads: Loads = ("motion",)
    both_on: Literal["forbidden", "brakes"] = "forbidden"
    diodes: bool = True
    load_ua: MicroAmp = 400_000
    peak_ua: MicroAmp = 0
    hard_stop: bool = False
    trigger_mv: MilliVolt = 2_300
    own_supply: bool = True

    def channels(self, at: str) -> list[Channel]:
        """See `Part.channels`. Both directions are held by the same kind of resistor."""
        ways = [way for way in ("forward", "backward", "speed") if getattr(self, way)]
        return [
            Channel(
                f"{self.id}.{way}",
                f"{self.name} {way}",
                at,
                getattr(self, way),
                "high",
                "off",
                self.loads,
                self.hold,
                self,
            )
            for way in ways
        ]

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        return [
            Claim(
                self.id,
                c.name,
                c.pin,
                f"{at}/{c.id.rpartition('.')[2]}",
                ("output", "dimmable") if c.id.endswith(".speed") else ("output",),
            )
            for c in self.channels(at)
        ]


class Solenoid(Switched):
    """A solenoid or valve: a coil that gives a spike when it is switched off, which a diode across it takes."""

    kind: Literal["solenoid"] = "solenoid"
    loads: Loads = ("motion",)
    fed: Feeder = "transistor"
    load_ua: MicroAmp = 300_000
    base_ohm: OhmOrNone = 220
    diode: bool = True
    own_supply: bool = True


class Servo(OutputBase, Fed):
    """A servo: a pulse 50 times a second tells it where to go, in degrees; at `rest_degrees` until it is told. The
    board's own servo calls make the pulses, by a timer, and take nothing of a pass."""

    kind: Literal["servo"] = "servo"
    pin: PinId
    loads: Loads = ("motion",)
    load_ua: MicroAmp = 500_000
    peak_ua: MicroAmp = 0
    hard_stop: bool = False
    trigger_mv: MilliVolt = 2_500
    own_supply: bool = True
    rest_degrees: Annotated[int, Field(ge=0, le=180)] = 90

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        return [Claim(self.id, self.name, self.pin, f"{at}/pin", ("output",))]


class Heater(Switched):
    """A heater behind a module or a transistor. `cut_out`: it has a thermal cut-out of its own."""

    kind: Literal["heater"] = "heater"
    loads: Loads = ("heat",)
    load_ua: MicroAmp = 1_000_000
    cut_out: bool = False
    own_supply: bool = True


class Spinning(Switched):
    """A motor that turns one way, through one transistor or a relay: its coil gives a spike when it is switched off,
    which a diode across it takes; as it starts it takes several times its current."""

    loads: Loads = ("motion",)
    fed: Feeder = "transistor"
    base_ohm: OhmOrNone = 220
    diode: bool = True
    own_supply: bool = True


class Fan(Spinning):
    """A fan."""

    kind: Literal["fan"] = "fan"
    load_ua: MicroAmp = 150_000


class Pump(Spinning):
    """A pump."""

    kind: Literal["pump"] = "pump"
    load_ua: MicroAmp = 300_000


class SmallMotor(Spinning):
    """A motor that turns one way, and can be dimmed: as fast as its level says."""

    kind: Literal["one-way-motor"] = "one-way-motor"
    load_ua: MicroAmp = 250_000
    dimmed: bool = True


class Load(Switched):
    """Something on direct current that one transistor switches: a strip of lamps, a horn, a coil of any sort."""

    kind: Literal["load"] = "load"
    fed: Feeder = "transistor"
    transistor: Literal["bipolar", "field-effect"] = "field-effect"
    load_ua: MicroAmp = 500_000
    diode: bool = True
    dimmed: bool = False
    own_supply: bool = True


class Display(OutputBase):
    """A character display on the board's bus: it claims the two bus pins, which other things on the bus share.
    `bus_pull`: what pulls the bus up: resistors to the board's logic voltage, to 5 V, or none."""

    kind: Literal["display"] = "display"
    data: PinId
    clock: PinId
    address: Annotated[int, Field(ge=1, le=127)] = 0x27
    load_ua: MicroAmp = 25_000
    high_mv: MilliVolt = 5_000
    bus_pull: Literal["logic", "5v", "none"] = "logic"
    bus_hz: Annotated[int, Field(ge=10_000, le=1_000_000)] = 100_000
    lines: Annotated[int, Field(ge=1, le=4)] = 2
    columns: Annotated[int, Field(ge=8, le=20)] = 16

    def text_lines(self, at: str) -> list[TextLine]:
        """See `Part.text_lines`."""
        if self.lines == 1:
            return [TextLine(self.id, self.name, at, self.columns, self)]
        return [
            TextLine(f"{self.id}.line-{n}", f"{self.name} line {n}", at, self.columns, self, n - 1)
            for n in range(1, self.lines + 1)
        ]

    @property
    def character_us(self) -> int:
        """How long the bus takes for one character, or for going to a place: the address and six bytes (two halves,
        each with the enable line down, up and down again), nine bits each, a start and a stop."""
        return -(-(7 * 9 + 2) * 1_000_000 // self.bus_hz)

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        ends = (("data", "bus-data"), ("clock", "bus-clock"))
        return [Claim(self.id, f"{self.name} {e}", getattr(self, e), f"{at}/{e}", ("output", need)) for e, need in ends]


class SerialText(OutputBase):
    """What the firmware writes over the serial line, for a computer or another board that reads it: a line of text."""

    kind: Literal["serial-text"] = "serial-text"
    pin: PinId

    def text_lines(self, at: str) -> list[TextLine]:
        """See `Part.text_lines`."""
        return [TextLine(self.id, self.name, at, SERIAL_COLUMNS, self)]

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        return [Claim(self.id, self.name, self.pin, f"{at}/pin", ("serial-out",))]


class SignalOut(Driven):
    """A logic signal to another board, which takes `trigger_mv` and more for high and stands `stands_mv`."""

    kind: Literal["signal-out"] = "signal-out"
    trigger_mv: MilliVolt = 3_000
    stands_mv: MilliVolt = 5_500
    grounds_joined: bool = True
