"""Follow: the output is on while the input is pressed."""

from __future__ import annotations

from ..document import Channel, ContactEvent, ContactLine, Machine
from .base import Recipe, on_and_off


def _make(machine_id: str, source: ContactLine, driven: Channel) -> Machine:
    press = ContactEvent(kind="press", input=source.id)
    release = ContactEvent(kind="release", input=source.id)
    return on_and_off(machine_id, "follows", driven, press, release)


RECIPE = Recipe("follow", "Follow", "On while it is pressed, off when it is let go.", _make)
