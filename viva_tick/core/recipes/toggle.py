"""Toggle: each press turns the output over."""

from __future__ import annotations

from ..document import ContactEvent, InputPart, Machine, OutputPart
from .base import Recipe, on_and_off


def _make(machine_id: str, source: InputPart, driven: OutputPart) -> Machine:
    press = ContactEvent(kind="press", input=source.id)
    return on_and_off(machine_id, "toggles", driven, press, press)


RECIPE = Recipe("toggle", "Toggle on press", "Each press turns it over: on, off, on.", _make)
