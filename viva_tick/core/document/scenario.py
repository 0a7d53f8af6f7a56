"""What is done to the bench, and when."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Doc, Micros, Name, Note, Ref


class Press(Doc):
    """Pressed at `at_us`, let go `hold_us` later."""

    kind: Literal["press"] = "press"
    input: Ref
    at_us: Micros
    hold_us: Annotated[int, Field(ge=1000, le=7 * 86_400_000_000)]


class SetTo(Doc):
    """A switch put over: pressed (on) or released (off), and left there."""

    kind: Literal["set"] = "set"
    input: Ref
    at_us: Micros
    pressed: bool


Stimulus = Annotated[Press | SetTo, Field(discriminator="kind")]


class Scenario(Doc):
    """A named course of stimuli. `counter_start_ms` is the millisecond counter at power-on, so that a run can
    cross its wrap."""

    name: Name
    note: Note = ""
    length_us: Annotated[int, Field(ge=1000, le=7 * 86_400_000_000)]
    counter_start_ms: Annotated[int, Field(ge=0, le=0xFFFF_FFFF)] = 0
    seed: Annotated[int, Field(ge=0, le=0xFFFF_FFFF)] = 1
    stimuli: Annotated[tuple[Stimulus, ...], Field(max_length=5000)] = ()
