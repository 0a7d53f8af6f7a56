"""Input parts that are more than a contact: encoder, key matrix, analogue sensors, a source of commands."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field

from ..base import Doc, Name
from .base import (
    Claim,
    Contacting,
    ContactLine,
    MicroAmp,
    MilliVolt,
    ModelledContact,
    Ohm,
    Part,
    PinId,
    Pull,
    Wiring,
    contact_claim,
    line_of,
)


class Sensed(Part):
    """An input that is more than a contact; how it is read stands in the firmware's `readings`."""


class Encoder(Sensed):
    """A rotary encoder: two contacts, A and B, a quarter of a click apart, both closing to ground; with or without a
    push. `swapped`: turning right runs through the Gray code backwards. `counts_a_click` are the changes between two
    detents, `switch` how its contacts bounce, `turns_a_second` the fastest that it is turned."""

    kind: Literal["encoder"] = "encoder"
    a: PinId
    b: PinId
    pull: Pull = "internal-up"
    pull_ohm: Ohm = 10_000
    counts_a_click: Literal[1, 2, 4] = 4
    clicks_a_turn: Annotated[int, Field(ge=4, le=1000)] = 20
    swapped: bool = False
    read_by: Literal["polling", "interrupt"] = "polling"
    switch: str = "encoder-contacts"
    turns_a_second: Annotated[float, Field(gt=0, le=100)] = 2.0
    push: Contacting | None = None

    def ends(self, at: str) -> tuple[ContactLine, ContactLine]:
        """A and B, each a contact to ground."""
        wiring = Wiring(contact_to="ground", pull=self.pull, pull_ohm=self.pull_ohm)
        a, b = (
            ContactLine(
                f"{self.id}.{end}",
                f"{self.name} {end.upper()}",
                at,
                pin,
                wiring,
                "low",
                ModelledContact(switch=self.switch),
                self,
            )
            for end, pin in (("a", self.a), ("b", self.b))
        )
        return a, b

    def contacts(self, at: str) -> list[ContactLine]:
        """See `Part.contacts`."""
        return [line_of(self, self.push, f"{at}/push", "push")] if self.push else []

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        needs = ("interrupt",) if self.read_by == "interrupt" else ()
        turning = [
            Claim(self.id, f"{self.name} {end.upper()}", getattr(self, end), f"{at}/{end}", needs, self.pull)
            for end in ("a", "b")
        ]
        return turning + [contact_claim(line) for line in self.contacts(at)]


class KeyMatrix(Sensed):
    """Keys at the crossings of rows and columns. A scan drives a row low at a time and reads the columns, which are
    pulled up. `keys` names them row by row; `diodes`: each key has one."""

    kind: Literal["matrix"] = "matrix"
    rows: Annotated[tuple[PinId, ...], Field(min_length=1, max_length=8)]
    columns: Annotated[tuple[PinId, ...], Field(min_length=1, max_length=8)]
    keys: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=8)], ...], Field(max_length=64)] = ()
    diodes: bool = False
    pull: Pull = "internal-up"
    pull_ohm: Ohm = 10_000
    keys_at_once: Annotated[int, Field(ge=1, le=10)] = 1
    switch: str = "small-button"

    @property
    def names(self) -> tuple[str, ...]:
        """What each crossing is called, row by row: its own name, or its row and column."""
        if self.keys:
            return self.keys
        return tuple(f"{r + 1}-{c + 1}" for r in range(len(self.rows)) for c in range(len(self.columns)))

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        rows = [
            Claim(self.id, f"{self.name} row {n + 1}", pin, f"{at}/rows/{n}", ("output",))
            for n, pin in enumerate(self.rows)
        ]
        columns = [
            Claim(self.id, f"{self.name} column {n + 1}", pin, f"{at}/columns/{n}", (), self.pull)
            for n, pin in enumerate(self.columns)
        ]
        return rows + columns


class Analogue(Sensed):
    """A part whose voltage an analogue pin reads. `noise_mv` is the noise's peak to peak at the pin, `stands_at` the
    value at which it usually stands (None: the middle of its range)."""

    pin: PinId
    noise_mv: MilliVolt = 10
    stands_at: float | None = None

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        return [Claim(self.id, self.name, self.pin, f"{at}/pin", ("analogue",))]


class Potentiometer(Analogue):
    """A dial: a track from rail to rail and a wiper."""

    kind: Literal["potentiometer"] = "potentiometer"
    track_ohm: Ohm = 10_000
    unit: Annotated[str, Field(max_length=12)] = "%"
    least: float = 0.0
    most: float = 100.0


MOST_POINTS = 40  # of a table, between its ends


class Point(Doc):
    """A resistive sensor at one value of what it measures."""

    value: float
    ohm: Annotated[float, Field(gt=0, le=1e9)]


class ResistiveSensor(Analogue):
    """A resistor that follows what it measures, and a fixed one: a divider. Two points of its curve are known, or the
    `points` of a table between them too; from one to the next it follows its law: "beta" (temperature in °C, the beta
    equation of a thermistor), "power" (light) or "straight"."""

    fixed_ohm: Ohm = 10_000
    tolerance_percent: Annotated[float, Field(ge=0, le=50)] = 1.0
    sensor_to: Literal["supply", "ground"] = "supply"
    unit: Annotated[str, Field(max_length=12)] = ""
    low: Point
    high: Point
    points: Annotated[tuple[Point, ...], Field(max_length=MOST_POINTS)] = ()
    law: Literal["beta", "power", "straight"]


class LightSensor(ResistiveSensor):
    """A resistor that falls with light."""

    kind: Literal["light-sensor"] = "light-sensor"
    unit: Annotated[str, Field(max_length=12)] = "lx"
    low: Point = Point(value=10.0, ohm=20_000.0)
    high: Point = Point(value=1_000.0, ohm=1_500.0)
    law: Literal["beta", "power", "straight"] = "power"


class TemperatureSensor(ResistiveSensor):
    """A resistor that falls with temperature."""

    kind: Literal["temperature-sensor"] = "temperature-sensor"
    sensor_to: Literal["supply", "ground"] = "ground"
    unit: Annotated[str, Field(max_length=12)] = "°C"
    low: Point = Point(value=0.0, ohm=32_650.0)
    high: Point = Point(value=50.0, ohm=3_603.0)
    law: Literal["beta", "power", "straight"] = "beta"


class VoltPoint(Doc):
    """The voltage that something gives at one value of what it measures."""

    value: float
    mv: MilliVolt


class VoltageSource(Analogue):
    """Something that gives a voltage along a scale, straight, or from one of the `points` of a table to the next,
    through a divider if `upper_ohm` is not 0.
    `ratiometric`: its voltage follows the supply, as the converter's own reference does."""

    least_mv: MilliVolt = 0
    most_mv: MilliVolt = 5_000
    least: float = 0.0
    most: float = 5.0
    points: Annotated[tuple[VoltPoint, ...], Field(max_length=MOST_POINTS)] = ()
    unit: Annotated[str, Field(max_length=12)] = "V"
    upper_ohm: Annotated[int, Field(ge=0, le=100_000_000)] = 0
    lower_ohm: Ohm = 10_000
    tolerance_percent: Annotated[float, Field(ge=0, le=50)] = 1.0
    ratiometric: bool = False


class VoltageSensor(VoltageSource):
    """A voltage that is measured, with its noise."""

    kind: Literal["voltage-sensor"] = "voltage-sensor"


class LevelSensor(VoltageSource):
    """A level or pressure sensor with a scale in the user's own unit."""

    kind: Literal["level-sensor"] = "level-sensor"
    least_mv: MilliVolt = 500
    most_mv: MilliVolt = 4_500
    most: float = 100.0
    unit: Annotated[str, Field(max_length=12)] = "cm"
    ratiometric: bool = True


Byte = Annotated[int, Field(ge=0, le=255)]


class WordSet(Doc):
    """Bytes that make a module listen for other words, and which."""

    bytes: Annotated[tuple[Byte, ...], Field(min_length=1, max_length=16)]
    words: Annotated[tuple[Name, ...], Field(max_length=80)] = ()


class HitsAt(Doc):
    """How many of a hundred a module recognises from so far away."""

    cm: Annotated[int, Field(ge=0, le=100_000)]
    percent: Annotated[int, Field(ge=0, le=100)]


class Commands(Sensed):
    """Numbers that arrive over the serial line: typed by a person, or from a module that recognises speech, a radio
    or an infra-red hand-set. `first_number` is the number of the first name, unless the module has `numbers` of its own
    for them; at most `active_most` of them can be active at once (0: all). `sets` are what makes it listen for others.
    Recognised are `hit_percent` of a hundred, or as many as it does at the distance, straight between those of `hits`.
    """

    kind: Literal["commands"] = "commands"
    pin: PinId
    source: Literal["typed", "speech", "radio", "infra-red"] = "typed"
    baud: Annotated[int, Field(ge=110, le=2_000_000)] = 9_600
    first_number: Literal[0, 1] = 1
    names: Annotated[tuple[Name, ...], Field(max_length=80)] = ()
    numbers: Annotated[tuple[Annotated[int, Field(ge=0, le=65_535)], ...], Field(max_length=80)] = ()
    active_most: Annotated[int, Field(ge=0, le=80)] = 0
    sets: Annotated[tuple[WordSet, ...], Field(max_length=16)] = ()
    hits: Annotated[tuple[HitsAt, ...], Field(max_length=12)] = ()
    hit_percent: Annotated[int, Field(ge=1, le=100)] = 100
    high_mv: MilliVolt = 3_300
    load_ua: MicroAmp = 0

    def claims(self, at: str) -> list[Claim]:
        """See `Part.claims`."""
        return [Claim(self.id, self.name, self.pin, f"{at}/pin", ("serial-in",))]

    def number(self, place: int) -> int:
        """The number that it sends for the name at a place, from 0."""
        return self.numbers[place] if place < len(self.numbers) else self.first_number + place

    def hits_at(self, cm: int | None) -> float:
        """How many of a hundred it recognises from there; beyond the ends of what is known, as many as at the end."""
        if cm is None or not self.hits:
            return self.hit_percent
        known = sorted((one.cm, one.percent) for one in self.hits)
        for (near, more), (far, fewer) in pairwise(known):
            if near <= cm <= far and far > near:
                return more + (fewer - more) * (cm - near) / (far - near)
        return known[0][1] if cm <= known[0][0] else known[-1][1]
