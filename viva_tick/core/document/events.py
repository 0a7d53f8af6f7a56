"""What machines hear: from inputs, from each other, from variables, outputs, the board and the kernel; and times."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field

from .base import Doc, Id, Ref

AtLeastMs = Annotated[int, Field(ge=1000, le=7 * 86_400_000_000, multiple_of=1000)]
Whole = Annotated[int, Field(ge=-2_000_000_000, le=2_000_000_000)]
EventName = tuple[str, str, str]  # kind, what gives it, which of several


class _Heard(Doc):
    @property
    def name(self) -> EventName:
        """What tells it from every other event."""
        return (self.kind, self.input, self.of)  # type: ignore[attr-defined]


class ContactEvent(_Heard):
    """The cleaned contact was pressed or released, or what a hand did with it: a click, two, three; held, still held,
    let go after that."""

    kind: Literal["press", "release", "click", "double", "triple", "hold", "repeat", "long-release"]
    input: Ref

    @property
    def of(self) -> str:
        """Which of several: a contact has but one."""
        return ""


class InputEvent(_Heard):
    """What another input gave: a step or a step back, the same when they follow fast, above or below, staying within
    a band, a key, a whole code or a wrong one, a command, a number within
    its range or outside it; `of` is the name of the key or of the command, or the mark that it is above or below. Of a
    chord, two contacts pressed together, it is the other contact."""

    kind: Literal[
        "step",
        "back",
        "fast",
        "fast-back",
        "above",
        "below",
        "stays",
        "key",
        "code",
        "wrong",
        "command",
        "number",
        "outside",
        "chord",
    ]
    input: Ref
    of: Annotated[str, Field(max_length=80)] = ""


class MachineEvent(_Heard):
    """A machine has entered a state, or left it."""

    kind: Literal["entered", "left"]
    machine: Id
    state: Id

    @property
    def input(self) -> str:
        """What gives it."""
        return self.machine

    @property
    def of(self) -> str:
        """Which of its states."""
        return self.state


class VariableEvent(_Heard):
    """A variable has come to a value: a counter is full, a count-down is over."""

    kind: Literal["reached"] = "reached"
    variable: Id
    value: Whole

    @property
    def input(self) -> str:
        """What gives it."""
        return self.variable

    @property
    def of(self) -> str:
        """Which of its values."""
        return str(self.value)


class DriveEvent(_Heard):
    """What an output was made to do has come to an end of its own: a pulse, a ramp, flashes that were counted."""

    kind: Literal["ended"] = "ended"
    output: Ref

    @property
    def input(self) -> str:
        """What gives it."""
        return self.output

    @property
    def of(self) -> str:
        """Which of several: an output has one drive at a time."""
        return ""


class BoardEvent(_Heard):
    """The board has started, whatever for; or why it has: power came, its reset pin was pulled, its supply had dipped,
    the watchdog bit, the program restarted it; or the watchdog has called its interrupt."""

    kind: Literal["boot", "power-on", "pin-reset", "dip-reset", "watchdog-reset", "software-reset", "watchdog-bark"]

    @property
    def input(self) -> str:
        """What gives it: the board, which has no name."""
        return ""

    @property
    def of(self) -> str:
        """Which of several: there is one."""
        return ""


class SignalEvent(_Heard):
    """Under a kernel: the loop has taken a flag, or one out of a queue."""

    kind: Literal["taken"] = "taken"
    signal: Id

    @property
    def input(self) -> str:
        """What gives it."""
        return self.signal

    @property
    def of(self) -> str:
        """Which of several: there is one."""
        return ""


BOARD_EVENTS: tuple[str, ...] = get_args(BoardEvent.model_fields["kind"].annotation)
# By the cause of a start, the event that says so.
CAUSE_EVENTS = {
    "power": "power-on",
    "pin": "pin-reset",
    "dip": "dip-reset",
    "watchdog": "watchdog-reset",
    "software": "software-reset",
}


class TimeoutEvent(Doc):
    """The state has stood for `after_us`, by the millisecond counter; for a time drawn anew at each entry from there
    to `until_us`, if that is given; or for `unit_us` times the value of a variable, looked at in each pass."""

    kind: Literal["timeout"] = "timeout"
    after_us: AtLeastMs
    until_us: AtLeastMs | None = None
    variable: Id | None = None
    unit_us: AtLeastMs = 1_000_000


class AlwaysEvent(Doc):
    """Nothing has to happen: the transition is taken as soon as its guards hold."""

    kind: Literal["always"] = "always"


Heard = ContactEvent | InputEvent | MachineEvent | VariableEvent | DriveEvent | BoardEvent | SignalEvent
Event = Annotated[Heard | TimeoutEvent | AlwaysEvent, Field(discriminator="kind")]
HEARD = (ContactEvent, InputEvent, MachineEvent, VariableEvent, DriveEvent, BoardEvent, SignalEvent)
