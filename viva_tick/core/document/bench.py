"""The bench document, version 1."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Doc, Name, Note
from .firmware import Debounce, Firmware
from .parts import Capture, InputPart, OutputPart, Part
from .scenario import Scenario

NOT_CLEANED = Debounce(method="none", interval_us=0)


class Bench(Doc):
    """One design: a board, its parts, its firmware, its scenarios."""

    version: Literal[1] = 1
    name: Name
    note: Note = ""
    board: str = "mid-8bit-5v"
    inputs: Annotated[tuple[InputPart, ...], Field(max_length=32)] = ()
    outputs: Annotated[tuple[OutputPart, ...], Field(max_length=32)] = ()
    firmware: Firmware = Firmware()
    scenarios: Annotated[tuple[Scenario, ...], Field(max_length=64)] = ()
    captures: Annotated[tuple[Capture, ...], Field(max_length=32)] = ()

    @property
    def parts(self) -> tuple[Part, ...]:
        """Every part, inputs first."""
        return (*self.inputs, *self.outputs)

    def input(self, input_id: str) -> InputPart:
        """The input part of that id; KeyError if there is none."""
        for part in self.inputs:
            if part.id == input_id:
                return part
        raise KeyError(input_id)

    def output(self, output_id: str) -> OutputPart:
        """The output part of that id; KeyError if there is none."""
        for part in self.outputs:
            if part.id == output_id:
                return part
        raise KeyError(output_id)

    def scenario(self, name: str) -> Scenario:
        """The scenario of that name; KeyError if there is none."""
        for scenario in self.scenarios:
            if scenario.name == name:
                return scenario
        raise KeyError(name)

    def debounce(self, input_id: str) -> Debounce:
        """How that input is cleaned; an input not named in the firmware is not cleaned."""
        return self.firmware.debounce.get(input_id, NOT_CLEANED)

    def capture(self, capture_id: str) -> Capture:
        """The capture of that id; KeyError if there is none."""
        for capture in self.captures:
            if capture.id == capture_id:
                return capture
        raise KeyError(capture_id)
