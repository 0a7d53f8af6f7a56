"""What runs on the board: how each input is read and cleaned, and all that is said elsewhere put together."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field

from .base import Doc, Id, MillisUs, Name, Ref
from .events import AtLeastMs
from .guarding import Keep, Sleep, Watchdog
from .machines import Interlock, Limit, Machine, OutputRow, Restart, Variable
from .pacing import Kernel, Loop, Measured, School, Serial, Task, Timekeeping
from .parts.base import Level


class Debounce(Doc):
    """How one contact is cleaned. `interval_us` is kept, unused, by methods that have none; `sample_us` is how far
    apart the samples of a method that counts them are."""

    method: str = "rest-first"
    interval_us: MillisUs = 20_000
    sample_us: Annotated[int, Field(ge=1000, le=1_000_000, multiple_of=1000)] = 1000


class TapTiming(Doc):
    """What a contact is asked to follow: taps held as short as `hold_us`, let go for as little as `rest_us` between,
    how many presses in a thousand may be counted twice or missed, and how soon an output follows at the latest, where
    that was promised."""

    hold_us: Annotated[int, Field(ge=1000, le=60_000_000)] = 80_000
    rest_us: Annotated[int, Field(ge=1000, le=60_000_000)] = 120_000
    per_thousand: Annotated[int, Field(ge=0, le=500)] = 0
    respond_us: Annotated[int, Field(ge=1000, le=60_000_000, multiple_of=1000)] | None = None


class Turns(Doc):
    """How an encoder is read: by the table of its Gray code, one step for so many counts; a step that follows the one
    before, the same way, within `fast_us` is a fast one too, and counts as `fast_steps` (acceleration). A change of the
    contacts that comes sooner than `least_us` after the one before is not looked at."""

    kind: Literal["turns"] = "turns"
    counts_a_step: Literal[1, 2, 4] = 1
    reversed: bool = False
    fast_us: Annotated[int, Field(ge=1000, le=2_000_000, multiple_of=1000)] = 60_000
    fast_steps: Annotated[int, Field(ge=1, le=50)] = 1
    least_us: Annotated[int, Field(ge=0, le=1_000_000, multiple_of=1000)] = 0


class Mark(Doc):
    """One more pair of thresholds of an analogue part, in the unit of the first."""

    id: Id
    name: Name
    above: float
    below: float


class Measure(Doc):
    """How an analogue part is read: a sample every `sample_us`, smoothed over `over` samples (a low-pass takes
    the nearest power of two), accepted to be above from `above` on and below again under `below`, each only after it
    has stayed there for `dwell_us`. Both are in `unit`: the part's own, counts, volts, or percent of the scale. Where
    `stays_us` is given, between the two for so long is an event too. `marks` are more such pairs, each with its own
    events."""

    kind: Literal["measure"] = "measure"
    sample_us: Annotated[int, Field(ge=1000, le=3_600_000_000, multiple_of=1000)] = 100_000
    smooth: Literal["none", "average", "median", "slow"] = "none"
    over: Annotated[int, Field(ge=1, le=64)] = 8
    unit: Literal["own", "counts", "volts", "percent"] = "own"
    above: float
    below: float
    dwell_us: Annotated[int, Field(ge=0, le=3_600_000_000, multiple_of=1000)] = 0
    stays_us: AtLeastMs | None = None
    marks: Annotated[tuple[Mark, ...], Field(max_length=7)] = ()

    @property
    def pairs(self) -> dict[str, Measure]:
        """By the mark's id, "" the first: the same with that mark's thresholds for its own."""
        return {"": self} | {one.id: self.at(one.id) for one in self.marks}

    def at(self, of: str) -> Measure:
        """See `pairs`. KeyError for a mark that is not there."""
        if not of:
            return self
        mark = next((one for one in self.marks if one.id == of), None)
        if mark is None:
            raise KeyError(of)
        return self.model_copy(update={"above": mark.above, "below": mark.below})


class Scan(Doc):
    """How keys are read: all of them every `scan_us`; each is accepted when it has rested for `interval_us`. Keys
    named in `ignored` are let pass. With a `code`, as many keys as it has are held against it: all of it, or wrong; a
    rest longer than `forget_us` begins anew."""

    kind: Literal["scan"] = "scan"
    scan_us: Annotated[int, Field(ge=1000, le=1_000_000, multiple_of=1000)] = 5_000
    interval_us: Annotated[int, Field(ge=0, le=200_000, multiple_of=1000)] = 20_000
    ignored: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=8)], ...], Field(max_length=64)] = ()
    code: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=8)], ...], Field(max_length=16)] = ()
    forget_us: AtLeastMs = 5_000_000


Number16 = Annotated[int, Field(ge=0, le=65_535)]


class Listen(Doc):
    """What the numbers of a source of commands mean: `names[n]` is number `numbers_from` + n, or `numbers[n]` where
    those are given, "" one that means nothing. The same number again within `repeat_us` is let pass. Every number from
    `least` to `most` goes `into` a variable, where one is named; outside of that it is `ignored`, the `nearest` is
    taken, or it is `told` as an event. A number that is typed ends with its line, or (0: only so) when nothing has come
    for `ends_us`."""

    kind: Literal["listen"] = "listen"
    numbers_from: Literal[0, 1] = 1
    names: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=80)] = ()
    numbers: Annotated[tuple[Number16, ...], Field(max_length=80)] = ()
    repeat_us: Annotated[int, Field(ge=0, le=60_000_000, multiple_of=1000)] = 0
    into: Ref | None = None
    least: Number16 = 0
    most: Number16 = 65_535
    outside: Literal["ignored", "nearest", "told"] = "ignored"
    ends_us: Annotated[int, Field(ge=0, le=60_000_000, multiple_of=1000)] = 0

    def number(self, place: int) -> int:
        """The number of the name at a place, from 0."""
        return self.numbers[place] if place < len(self.numbers) else self.numbers_from + place

    @property
    def by_number(self) -> dict[int, str]:
        """What each number means."""
        return {self.number(place): name for place, name in enumerate(self.names) if name}


Reading = Annotated[Turns | Measure | Scan | Listen, Field(discriminator="kind")]


class Gestures(Doc):
    """The times that tell a contact's gestures apart: a click that follows within `window_us` belongs to the one
    before, `hold_us` makes a hold, which repeats every `repeat_us`, sooner each time with `quicken`; a chord's two
    presses are no further apart than `together_us`. Only what a machine listens for is told apart."""

    window_us: Annotated[int, Field(ge=50_000, le=2_000_000, multiple_of=1000)] = 300_000
    hold_us: Annotated[int, Field(ge=100_000, le=60_000_000, multiple_of=1000)] = 600_000
    repeat_us: Annotated[int, Field(ge=20_000, le=10_000_000, multiple_of=1000)] = 200_000
    quicken: bool = False
    together_us: Annotated[int, Field(ge=10_000, le=1_000_000, multiple_of=1000)] = 80_000


class SetUp(Doc):
    """What set-up does to the board before anything else, where the board wants it: it enables the internal pulls, and
    makes pins digital that start analogue."""

    enables_pulls: bool = True
    makes_digital: bool = True


class Firmware(Doc):
    """Everything the sketch does. A contact that `debounce` does not name is not cleaned; an encoder, an analogue part,
    a key matrix or a source of commands that `readings` does not name is not read. `on_levels` are, by output, the
    level that the firmware takes for on; an output that is not named is switched as it is wired."""

    debounce: dict[Ref, Debounce] = Field(default_factory=dict)
    readings: dict[Ref, Reading] = Field(default_factory=dict)
    gestures: dict[Ref, Gestures] = Field(default_factory=dict)
    variables: Annotated[tuple[Variable, ...], Field(max_length=64)] = ()
    machines: Annotated[tuple[Machine, ...], Field(max_length=32)] = ()
    rows: Annotated[tuple[OutputRow, ...], Field(max_length=16)] = ()
    interlocks: Annotated[tuple[Interlock, ...], Field(max_length=16)] = ()
    limits: dict[Ref, Limit] = Field(default_factory=dict)
    tasks: Annotated[tuple[Task, ...], Field(max_length=32)] = ()
    school: School = "counter"
    set_up: SetUp = SetUp()
    on_levels: dict[Ref, Level] = Field(default_factory=dict)
    loop: Loop = Loop()
    kernel: Kernel = Kernel()
    measured: Measured = Measured()
    serial: Serial = Serial()
    timekeeping: Timekeeping = Timekeeping()
    watchdog: Watchdog = Watchdog()
    keeps: Annotated[tuple[Keep, ...], Field(max_length=32)] = ()
    sleep: Sleep | None = None

    @property
    def wakes_by_watchdog(self) -> bool:
        """Whether the watchdog's interrupt is what ends its sleep."""
        return self.sleep is not None and self.sleep.wakes == "watchdog"

    @property
    def feeders(self) -> dict[str, tuple[str, int]]:
        """The tasks that could feed the watchdog, those of a kernel among them: name and period by id."""
        bodies = self.kernel.between.bodies if self.school == "kernel" else ()
        found = {task.id: (task.name, task.period_us) for task in self.tasks}
        return found | {body.id: (body.name, body.period_us) for body in bodies}

    @cached_property
    def restarts(self) -> bool:
        """Whether an action restarts the board."""
        return any(isinstance(action, Restart) for machine in self.machines for _, action in machine.actions)

    @property
    def guards(self) -> bool:
        """Whether the watchdog guards: it is on, and not just the alarm clock of sleep."""
        return self.watchdog.on and not (self.watchdog.mode == "interrupt" and self.wakes_by_watchdog)
