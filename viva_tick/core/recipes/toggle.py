"""Toggle: each press turns the output over."""

from __future__ import annotations

from ..document import Channel, ContactEvent, ContactLine, Machine
from .base import Recipe, on_and_off


def _make(machine_id: str, source: ContactLine, driven: Channel) -> Machine:
    press = ContactEvent(kind="press", input=source.id)
    return on_and_off(machine_id, "toggles", driven, press, press)


RECIPE = Recipe("toggle", "Toggle on press", "Each press turns it over: on, off, on.", _make)
