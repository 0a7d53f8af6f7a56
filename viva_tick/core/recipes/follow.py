"""Follow: the output is on while the input is pressed."""

from __future__ import annotations

from ..document import ContactEvent, InputPart, Machine, OutputPart, State, Transition
from ..drives import Steady
from .base import Recipe


def _make(machine_id: str, source: InputPart, driven: OutputPart) -> Machine:
    return Machine(
        id=machine_id,
        name=f"{driven.name} follows"[:60],
        initial="off",
        states=(
            State(id="off", name="Off", drives={driven.id: Steady(on=False)}),
            State(id="on", name="On", drives={driven.id: Steady(on=True)}),
        ),
        transitions=(
            Transition(source="off", on=ContactEvent(kind="press", input=source.id), target="on"),
            Transition(source="on", on=ContactEvent(kind="release", input=source.id), target="off"),
        ),
    )


RECIPE = Recipe("follow", "Follow", "On while it is pressed, off when it is let go.", _make)
