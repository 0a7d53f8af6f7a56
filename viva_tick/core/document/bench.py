"""The bench document, version 3."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Literal, cast

from pydantic import Field, StringConstraints

from ..boards import Board, Costs, boards
from ..drives import Drive
from .base import Doc, Name, Note, Ref
from .firmware import Debounce, Firmware, TapTiming
from .guarding import Cell, Power
from .machines import Machine, State
from .panel import Panel
from .parts import (
    Capture,
    Channel,
    Claim,
    Commands,
    ContactLine,
    Encoder,
    InputPart,
    OutputPart,
    Part,
    RgbLamp,
    Sensed,
    SerialText,
    Servo,
    TextLine,
)
from .parts.base import WireColour
from .scenario import Press, Scenario

NOT_CLEANED = Debounce(method="none", interval_us=0)


@dataclass(frozen=True)
class Group:
    """Outputs that a machine drives as one thing: a "row" of the user's, or the three of an "rgb" lamp. `at` is its
    JSON Pointer."""

    id: str
    name: str
    members: tuple[str, ...]
    kind: str
    at: str


Driving = tuple[tuple[str | int, ...], str, Drive]  # steps of its JSON Pointer in the machine, output, drive


class WireColours(Doc):
    """The user's own scheme: a colour for each rail, and those that signal wires take in turn."""

    supply: WireColour = "red"
    ground: WireColour = "black"
    signals: Annotated[tuple[WireColour, ...], Field(min_length=1, max_length=11)] = (
        "yellow",
        "green",
        "blue",
        "white",
        "orange",
        "violet",
    )


Place = Annotated[str, StringConstraints(min_length=1, max_length=240)]


class Built(Doc):
    """How far the real bench has come: wires that are laid, by their ends, and what a meter showed, by what was
    measured (Ω, V or mA)."""

    wired: Annotated[dict[Place, bool], Field(max_length=400)] = Field(default_factory=dict)
    measured: Annotated[dict[Place, float], Field(max_length=400)] = Field(default_factory=dict)


class Style(Doc):
    """How the program is written, in matters that people argue about."""

    indent: Literal["spaces", "tabs"] = "spaces"
    constants: Literal["const", "define"] = "const"
    helpers: Literal["methods", "functions"] = "methods"


class Bench(Doc):
    """One design: a board, its parts, its firmware, its scenarios.

    `own_board` is a board of the user's own, kept whole in the bench so that the file needs nothing else; `board` is
    its id then. `wire_cm` of a contact and all other figures are the parts' own.
    """

    version: Literal[4] = 4
    name: Name
    note: Note = ""
    board: str = "mid-8bit-5v"
    own_board: Board | None = None
    inputs: Annotated[tuple[InputPart, ...], Field(max_length=32)] = ()
    outputs: Annotated[tuple[OutputPart, ...], Field(max_length=32)] = ()
    firmware: Firmware = Firmware()
    scenarios: Annotated[tuple[Scenario, ...], Field(max_length=64)] = ()
    captures: Annotated[tuple[Capture, ...], Field(max_length=32)] = ()
    wire_colours: WireColours = WireColours()
    taps: dict[Ref, TapTiming] = Field(default_factory=dict)
    cell: Cell | None = None
    power: Power = Power()
    built: Built = Built()
    style: Style = Style()
    panel: Panel = Panel()

    @cached_property
    def bare_text(self) -> str:
        """The document as JSON without blanks, every field written, and without its captures, which are large."""
        return self.model_dump_json(exclude={"captures"})

    @property
    def size(self) -> int:
        """How long all of it is so."""
        return len(self.bare_text) + len('"captures":[],') + sum(len(one.text) + 1 for one in self.captures)

    @cached_property
    def run_text(self) -> str:
        """What runs depend on, as text: all but its scenarios and its note."""
        captures = json.dumps([one.bare for one in self.captures])
        return self.model_dump_json(exclude={"scenarios", "note", "captures", "built", "style", "panel"}) + captures

    @property
    def parts(self) -> tuple[Part, ...]:
        """Every part, inputs first."""
        return (*self.inputs, *self.outputs)

    @cached_property
    def placed(self) -> tuple[tuple[str, Part], ...]:
        """(JSON Pointer, part) of every part, inputs first."""
        sides: tuple[tuple[str, tuple[Part, ...]], ...] = (("inputs", self.inputs), ("outputs", self.outputs))
        return tuple((f"/{side}/{index}", part) for side, parts in sides for index, part in enumerate(parts))

    @cached_property
    def contacts(self) -> tuple[ContactLine, ...]:
        """Every contact that the firmware can listen to, in the order in which it reads them."""
        return tuple(line for at, part in self.placed for line in part.contacts(at))

    @cached_property
    def heard_names(self) -> dict[str, str]:
        """By id, what every part and every contact is called."""
        return {part.id: part.name for part in self.parts} | {line.id: line.name for line in self.contacts}

    @cached_property
    def shortest_taps(self) -> dict[str, tuple[int, str, str]]:
        """(µs, input, scenario) of the shortest press in the scenarios, by input."""
        found: dict[str, tuple[int, str, str]] = {}
        for scenario in self.scenarios:
            for one in scenario.stimuli:
                if isinstance(one, Press):
                    tap = (one.hold_us, one.input, scenario.name)
                    found[one.input] = min(found.get(one.input, tap), tap)
        return found

    @cached_property
    def channels(self) -> tuple[Channel, ...]:
        """Every output that the firmware can switch, in the order in which it drives them."""
        return tuple(channel for at, part in self.placed for channel in part.channels(at))

    @cached_property
    def text_lines(self) -> tuple[TextLine, ...]:
        """Every line that shows or sends text."""
        return tuple(line for at, part in self.placed for line in part.text_lines(at))

    @cached_property
    def servos(self) -> tuple[Servo, ...]:
        """Every servo."""
        return tuple(part for part in self.outputs if isinstance(part, Servo))

    @cached_property
    def groups(self) -> dict[str, Group]:
        """By id, the outputs that can be driven as one thing."""
        found = [
            Group(part.id, part.name, tuple(one.id for one in part.channels(at)), "rgb", at)
            for at, part in self.placed
            if isinstance(part, RgbLamp)
        ]
        for n, row in enumerate(self.firmware.rows):
            found.append(Group(row.id, row.name, row.outputs, "row", f"/firmware/rows/{n}"))
        return {one.id: one for one in found}

    @cached_property
    def drivable(self) -> tuple[Group | Channel | TextLine | Servo, ...]:
        """Everything that a machine can be told to drive: groups first, then outputs, servos, lines of text."""
        return (*self.groups.values(), *self.channels, *self.servos, *self.text_lines)

    @cached_property
    def driven_names(self) -> dict[str, str]:
        """By id, what everything is called that a machine can be told to drive."""
        return {one.id: one.name for one in self.drivable}

    def reached_by(self, output: str, drive: Drive) -> tuple[tuple[str, Drive], ...]:
        """(output, drive) of every single output that a drive is asked of: those of a group, each in its place."""
        group = self.groups.get(output)
        if group is None:
            return ((output, drive),)
        return tuple((member, cast(Drive, drive.at_place(n))) for n, member in enumerate(group.members))

    def drives_of(self, machine: Machine) -> tuple[Driving, ...]:
        """Every drive that a machine starts on a single output, lines of text left out."""
        return tuple(
            (steps, member, one)
            for steps, output, drive in machine.drives
            if not drive.writes and not drive.turns
            for member, one in self.reached_by(output, drive)
        )

    def driven_by(self, machine: Machine) -> frozenset[str]:
        """The single outputs, servos and lines of text that a machine drives."""
        texts = (output for _, output, drive in machine.drives if drive.writes or drive.turns)
        return frozenset([*texts, *(output for _, output, _ in self.drives_of(machine))])

    def drive_in(self, state: State, output: str) -> Drive | None:
        """What entering a state makes a single output do, by itself or as one of a group; none: as before."""
        found = None
        for name, drive in state.drives.items():
            for member, one in self.reached_by(name, drive):
                if member == output:
                    found = one
        return found

    @cached_property
    def lines(self) -> tuple[ContactLine | Channel, ...]:
        """Every contact and every output."""
        return (*self.contacts, *self.channels)

    @property
    def encoders(self) -> tuple[tuple[str, Encoder], ...]:
        """(JSON Pointer, part) of every encoder."""
        return tuple((at, part) for at, part in self.placed if isinstance(part, Encoder))

    @cached_property
    def sensed(self) -> tuple[tuple[str, Sensed], ...]:
        """(JSON Pointer, part) of every input that is more than a contact: what `firmware.readings` is about."""
        return tuple((at, part) for at, part in self.placed if isinstance(part, Sensed))

    @property
    def mark_names(self) -> dict[tuple[str, str], str]:
        """The names of the marks of analogue parts, by the part's id and the mark's."""
        readings = self.firmware.readings.items()
        return {(i, one.id): one.name for i, reading in readings if reading.kind == "measure" for one in reading.marks}

    @cached_property
    def readers(self) -> tuple[ContactLine | Sensed, ...]:
        """Everything that a pass reads, in order: of each part its contacts, then what else of it is read."""
        found: list[ContactLine | Sensed] = []
        for at, part in self.placed:
            found += part.contacts(at)
            if isinstance(part, Sensed) and part.id in self.firmware.readings:
                found.append(part)
        return tuple(found)

    @cached_property
    def claims(self) -> tuple[Claim, ...]:
        """Every pin that is claimed, by whom and for what."""
        return tuple(claim for at, part in self.placed for claim in part.claims(at))

    @property
    def the_board(self) -> Board:
        """The board: the user's own, or one that ships. KeyError for one that is not known."""
        board = self.own_board or boards()[self.board]
        done = self.firmware.set_up
        if done.enables_pulls and done.makes_digital:
            return board
        return board.as_set_up(done.enables_pulls, done.makes_digital)

    @property
    def line_baud(self) -> int:
        """What the program sets the serial line to: the bench's own where it prints, else what it listens to."""
        heard = [part.baud for part in self.inputs if isinstance(part, Commands) and part.id in self.firmware.readings]
        return self.firmware.serial.baud if self.prints or not heard else heard[0]

    @cached_property
    def prints(self) -> bool:
        """Whether the program writes text over the serial line."""
        lines = {line.id for line in self.text_lines if isinstance(line.part, SerialText)}
        shown = {output for machine in self.firmware.machines for _, output, drive in machine.drives if drive.writes}
        return any(task.talks for task in self.firmware.tasks) or bool(lines & shown)

    @cached_property
    def costs(self) -> Costs:
        """What each block of a pass takes: as measured, otherwise as usual for the board's class."""
        measured = self.firmware.measured.model_dump(exclude_none=True)
        return self.the_board.cost_us.model_copy(update=measured) if measured else self.the_board.cost_us

    def part(self, part_id: str) -> Part:
        """The part of that id; KeyError if there is none."""
        for part in self.parts:
            if part.id == part_id:
                return part
        raise KeyError(part_id)

    def contact(self, line_id: str) -> ContactLine:
        """The contact of that id; KeyError if there is none."""
        for line in self.contacts:
            if line.id == line_id:
                return line
        raise KeyError(line_id)

    def channel(self, channel_id: str) -> Channel:
        """The output of that id; KeyError if there is none."""
        for channel in self.channels:
            if channel.id == channel_id:
                return channel
        raise KeyError(channel_id)

    def scenario(self, name: str) -> Scenario:
        """The scenario of that name; KeyError if there is none."""
        for scenario in self.scenarios:
            if scenario.name == name:
                return scenario
        raise KeyError(name)

    def on_level(self, channel: Channel) -> str:
        """The level that the firmware takes for on."""
        return self.firmware.on_levels.get(channel.id, channel.active_level)

    def inverted(self, channel: Channel) -> bool:
        """Whether the output is off when the firmware switches it on."""
        return self.on_level(channel) != channel.active_level

    def debounce(self, line_id: str) -> Debounce:
        """How that contact is cleaned; one not named in the firmware is not cleaned."""
        return self.firmware.debounce.get(line_id, NOT_CLEANED)

    def kept_bytes(self, of: str) -> int:
        """How many bytes a variable's number takes where it is kept, or a machine's state."""
        for one in self.firmware.variables:
            if one.id == of:
                if one.least >= 0 and one.most < 1 << 8:
                    return 1
                return 2 if one.least >= -(1 << 15) and one.most < 1 << 15 else 4
        return 1

    def capture(self, capture_id: str) -> Capture:
        """The capture of that id; KeyError if there is none."""
        for capture in self.captures:
            if capture.id == capture_id:
                return capture
        raise KeyError(capture_id)
