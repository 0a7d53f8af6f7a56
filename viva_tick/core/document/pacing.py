"""What gives everything its turn: the loop and its costs, tasks, the kernel, the serial line, how time is kept."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Doc, Id, Micros, MillisUs, Name, Note
from .events import AtLeastMs
from .kernel import Between

School = Literal["counter", "delays", "kernel"]


class Task(Doc):
    """Periodic work that takes `run_us` of the processor at most.

    The first job comes `offset_us` after set-up, or one period after it where none is given. `keeps` "last": the next
    is due at last + period, so the beat holds; "now": at now + period, so every delay stays. Of jobs missed by a whole
    period or more, `late` "catch-up" runs each of them, one after another, "run-late" one, "skip" none. A job that is
    not `blocking` is cut into slices of `slice_us`, one a pass; what it prints goes out as the transmit buffer has
    room. `characters` are what a job that prints or sends puts on the serial line.

    Under the kernel the highest `priority` runs; after its work a task `waits` for its next time, `spins` (and never
    gives the processor away) or `returns` (and is gone). It holds the resource it `shares`, by name, for `holds_us`
    from the beginning of its job. `stack_bytes` is what was measured; none: guessed.
    """

    id: Id
    name: Name
    period_us: AtLeastMs
    run_us: Micros
    offset_us: MillisUs | None = None
    priority: Annotated[int, Field(ge=1, le=9)] = 2
    does: Literal["compute", "sample", "print", "send", "refresh"] = "compute"
    characters: Annotated[int, Field(ge=0, le=1000)] = 0
    keeps: Literal["last", "now"] = "last"
    late: Literal["catch-up", "run-late", "skip"] = "catch-up"
    blocking: bool = True
    slice_us: Annotated[int, Field(ge=100, le=1_000_000)] = 1000
    ends: Literal["waits", "spins", "returns"] = "waits"
    shares: Note = ""
    holds_us: Micros = 0
    stack_bytes: Annotated[int, Field(ge=16, le=1_000_000)] | None = None

    @property
    def talks(self) -> bool:
        """Whether a job puts characters on the serial line."""
        return self.does in ("print", "send") and self.characters > 0


class Loop(Doc):
    """`tail_delay_us` is a delay at the end of every pass."""

    tail_delay_us: MillisUs = 0


class Measured(Doc):
    """What blocks of a pass were measured to take, in µs; none: as is usual for the board's class."""

    base: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    read: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    step: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    task: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    drive: Annotated[int, Field(ge=0, le=1_000_000)] | None = None


class Serial(Doc):
    """The serial line, 8 bits, no parity, one stop bit. `theirs` is the baud at the other end, none: the same. The
    other end ends what it sends with `ending`; the firmware `reads` one character, or a whole line. It `traces`: each
    pass says what has changed in it, a line a change."""

    baud: Annotated[int, Field(ge=50, le=5_000_000)] = 9600
    theirs: Annotated[int, Field(ge=50, le=5_000_000)] | None = None
    buffer_bytes: Annotated[int, Field(ge=1, le=65_536)] = 64
    ending: Literal["none", "lf", "cr", "crlf"] = "none"
    reads: Literal["one", "line"] = "one"
    traces: bool = False

    @property
    def ending_codes(self) -> tuple[int, ...]:
        """The characters of a line's end."""
        return {"none": (), "lf": (10,), "cr": (13,), "crlf": (13, 10)}[self.ending]

    @property
    def character_us(self) -> float:
        """How long ten bits take."""
        return 10_000_000 / self.baud


class Kernel(Doc):
    """A small preemptive kernel: fixed priorities, a tick, a time-slice of so many ticks among equals. The loop is a
    task of it: at `loop_priority`, a pass every `loop_us`, or pass after pass without a wait where that is 0.
    `inherits`: who holds a resource runs at the priority of the highest that waits for it."""

    tick_us: Annotated[int, Field(ge=100, le=100_000)] = 1000
    slice_ticks: Annotated[int, Field(ge=1, le=1000)] = 1
    switch_us: Annotated[int, Field(ge=0, le=10_000)] = 10
    loop_priority: Annotated[int, Field(ge=1, le=9)] = 1
    loop_us: Annotated[int, Field(ge=0, le=1_000_000, multiple_of=1000)] = 1000
    inherits: bool = True
    stack_bytes: Annotated[int, Field(ge=16, le=1_000_000)] | None = None
    between: Between = Between()


class Timekeeping(Doc):
    """How the firmware compares times: by the time `since` (now − last ≥ wait, right across the wrap), or with the
    instant `until` which (now ≥ last + wait). `product`: a wait of seconds × 1000 is worked out in a `long`, or in an
    `int` of the board's width."""

    compares: Literal["since", "until"] = "since"
    product: Literal["long", "int"] = "long"
