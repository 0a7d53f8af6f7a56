"""Toggle: each press turns the output over."""

from __future__ import annotations

from ..document import ContactEvent, InputPart, Machine, OutputPart, State, Transition
from ..drives import Steady
from .base import Recipe


def _make(machine_id: str, source: InputPart, driven: OutputPart) -> Machine:
    press = ContactEvent(kind="press", input=source.id)
    return Machine(
        id=machine_id,
        name=f"{driven.name} toggles"[:60],
        initial="off",
        states=(
            State(id="off", name="Off", drives={driven.id: Steady(on=False)}),
            State(id="on", name="On", drives={driven.id: Steady(on=True)}),
        ),
        transitions=(
            Transition(source="off", on=press, target="on"),
            Transition(source="on", on=press, target="off"),
        ),
    )


RECIPE = Recipe("toggle", "Toggle on press", "Each press turns it over: on, off, on.", _make)
