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


class Turn(Doc):
    """An encoder turned by so many clicks, to the right or (negative) to the left, evenly over a time."""

    kind: Literal["turn"] = "turn"
    input: Ref
    at_us: Micros
    clicks: Annotated[int, Field(ge=-10_000, le=10_000)]
    over_us: Annotated[int, Field(ge=1000, le=86_400_000_000)]


class Level(Doc):
    """What an analogue part measures goes to a value, in its own unit, straight over a time."""

    kind: Literal["level"] = "level"
    input: Ref
    at_us: Micros
    value: float
    over_us: Micros = 0


class KeyPress(Doc):
    """A key of a matrix held for a while."""

    kind: Literal["key"] = "key"
    input: Ref
    at_us: Micros
    hold_us: Annotated[int, Field(ge=1000, le=86_400_000_000)]
    key: Annotated[str, Field(min_length=1, max_length=8)]


class Command(Doc):
    """A number sent, or something said, from `cm` away if that is given, that the module may know by that number."""

    kind: Literal["command"] = "command"
    input: Ref
    at_us: Micros
    cm: Annotated[int, Field(ge=0, le=100_000)] | None = None
    number: Annotated[int, Field(ge=0, le=65_535)]


class Touch(Doc):
    """A hand at the wire of a contact, for a while. Where something holds the pin nothing comes of it."""

    kind: Literal["touch"] = "touch"
    input: Ref
    at_us: Micros
    hold_us: Annotated[int, Field(ge=1000, le=86_400_000_000)]


Stimulus = Annotated[Press | SetTo | Touch | Turn | Level | KeyPress | Command, Field(discriminator="kind")]


class WhenOutput(Doc):
    """An output comes on, or goes off."""

    kind: Literal["output"] = "output"
    output: Ref
    on: bool = True


class WhenState(Doc):
    """A machine enters a state."""

    kind: Literal["state"] = "state"
    machine: Ref
    state: Ref


class WhenText(Doc):
    """A line begins to show a text, or to have it somewhere."""

    kind: Literal["text"] = "text"
    of: Ref
    text: Annotated[str, Field(min_length=1, max_length=80)]


Trigger = Annotated[WhenOutput | WhenState | WhenText, Field(discriminator="kind")]
Share = Annotated[int, Field(ge=0, le=100)]


class Answer(Doc):
    """Whenever something happens, so much later something is done: `after_us`, or at random up to `after_most_us`, in
    so many of a hundred cases, the first `times` of them (0: all). In `wrong_percent` of those `instead` is done."""

    to: Trigger
    do: Stimulus
    after_us: Micros = 300_000
    after_most_us: Micros = 0
    percent: Share = 100
    instead: Stimulus | None = None
    wrong_percent: Share = 0
    times: Annotated[int, Field(ge=0, le=10_000)] = 0


class Repeat(Doc):
    """Something is done so many times, the first at its own instant, the next `apart_us` later, or at random up to
    `apart_most_us`."""

    do: Stimulus
    times: Annotated[int, Field(ge=1, le=1_000)]
    apart_us: Annotated[int, Field(ge=1_000, le=86_400_000_000)]
    apart_most_us: Micros = 0


class Upset(Doc):
    """What becomes of the board itself: it is unplugged for a while (`off`), its supply dips so that it resets (`dip`),
    or its reset pin is pulled for a while (`pin`)."""

    kind: Literal["off", "dip", "pin"]
    at_us: Micros
    for_us: Annotated[int, Field(ge=1_000, le=86_400_000_000)] = 100_000


class ExpectOn(Doc):
    """An output is on, or off, all the time from one instant to another."""

    kind: Literal["on"] = "on"
    output: Ref
    on: bool = True
    from_us: Micros
    to_us: Micros


class ExpectCount(Doc):
    """A contact is counted pressed, or an output comes on, or an input gives an `event` (“double”, “key 5”, “command
    up”), so many times in all."""

    kind: Literal["count"] = "count"
    of: Ref
    what: Literal["press", "on", "event"]
    event: Annotated[str, Field(max_length=80)] = ""
    times: Annotated[int, Field(ge=0, le=100_000)]


class ExpectState(Doc):
    """A machine is in a state at an instant."""

    kind: Literal["state"] = "state"
    machine: Ref
    state: Ref
    at_us: Micros


class ExpectNumber(Doc):
    """A variable against a number, all the time from one instant to another (at one, where both are the same), or at
    some time between them."""

    kind: Literal["number"] = "number"
    variable: Ref
    sign: Literal["<", "<=", "=", "!=", ">=", ">"] = "="
    number: Annotated[int, Field(ge=-2_000_000_000, le=2_000_000_000)]
    from_us: Micros
    to_us: Micros
    when: Literal["always", "once"] = "always"


class ExpectText(Doc):
    """A line shows a text, or has it somewhere, at an instant; of what goes out over the serial line, the line before
    that."""

    kind: Literal["text"] = "text"
    of: Ref
    text: Annotated[str, Field(max_length=80)]
    at_us: Micros


Expect = Annotated[ExpectOn | ExpectCount | ExpectState | ExpectNumber | ExpectText, Field(discriminator="kind")]


def touches(scenario: Scenario, ident: str) -> tuple[tuple[int, int], ...]:
    """From when to when a hand is at the wire of a contact."""
    return tuple(
        (one.at_us, one.at_us + one.hold_us)
        for one in scenario.stimuli
        if isinstance(one, Touch) and one.input == ident
    )


class Scenario(Doc):
    """A named course of stimuli, and what is expected of it. `counter_start_ms` is the millisecond counter at
    power-on, so that a run can cross its wrap."""

    name: Name
    note: Note = ""
    length_us: Annotated[int, Field(ge=1000, le=7 * 86_400_000_000)]
    counter_start_ms: Annotated[int, Field(ge=0, le=0xFFFF_FFFF)] = 0
    seed: Annotated[int, Field(ge=0, le=0xFFFF_FFFF)] = 1
    stimuli: Annotated[tuple[Stimulus, ...], Field(max_length=5000)] = ()
    answers: Annotated[tuple[Answer, ...], Field(max_length=32)] = ()
    repeats: Annotated[tuple[Repeat, ...], Field(max_length=32)] = ()
    upsets: Annotated[tuple[Upset, ...], Field(max_length=100)] = ()
    expects: Annotated[tuple[Expect, ...], Field(max_length=200)] = ()
