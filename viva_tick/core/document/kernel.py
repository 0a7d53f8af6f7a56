"""Tasks under a kernel as people write them: bodies of steps, and what stands between them: flags, queues, mutexes,
software timers, hooks."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from .base import Doc, Id, Name, Ref
from .events import AtLeastMs

Within = AtLeastMs | None


class Work(Doc):
    """So much of the processor, perhaps on data that others `use`, too, by the name that it is given."""

    do: Literal["work"] = "work"
    us: Annotated[int, Field(ge=1, le=60_000_000)]
    uses: Annotated[str, Field(max_length=40)] = ""


class Rest(Doc):
    """Waits for a time, counted in ticks from now."""

    do: Literal["rest"] = "rest"
    us: AtLeastMs


class Next(Doc):
    """Waits for the body's next period."""

    do: Literal["next"] = "next"


class Take(Doc):
    """Waits for a flag or a mutex; after `within_us` no longer, and the body begins anew."""

    do: Literal["take"] = "take"
    of: Id
    within_us: Within = None


class Give(Doc):
    """A flag is given, a mutex given back."""

    do: Literal["give"] = "give"
    of: Id


class Put(Doc):
    """One more into a queue. Where a full one is waited for: after `within_us` no longer, and the body begins anew."""

    do: Literal["put"] = "put"
    of: Id
    within_us: Within = None


class Receive(Doc):
    """Waits for one out of a queue; after `within_us` no longer, and the body begins anew."""

    do: Literal["receive"] = "receive"
    of: Id
    within_us: Within = None


class StartTimer(Doc):
    """A software timer starts, anew if it runs."""

    do: Literal["start"] = "start"
    of: Id


class Own(Doc):
    """Reads the inputs that belong to it, steps its machines, and drives what they drive."""

    do: Literal["own"] = "own"


Step = Annotated[Own | Work | Rest | Next | Take | Give | Put | Receive | StartTimer, Field(discriminator="do")]
Steps = Annotated[tuple[Step, ...], Field(max_length=24)]
WAITS = (Rest, Next, Take, Receive)


def may_wait(step: Any, full: dict[str, str]) -> bool:
    """Whether a step can keep its body waiting; `full` is what is done where a queue is."""
    return isinstance(step, WAITS) or (isinstance(step, Put) and full.get(step.of) == "wait")


class Named(Doc):
    """What has a name of its own."""

    id: Id
    name: Name


class Body(Named):
    """A task of the kernel: its steps over and over, at a priority, on a stack. `owns` are the inputs and machines that
    belong to it; the rest is the loop's."""

    priority: Annotated[int, Field(ge=1, le=9)] = 2
    period_us: AtLeastMs = 10_000
    owns: Annotated[tuple[Ref, ...], Field(max_length=32)] = ()
    stack_bytes: Annotated[int, Field(ge=16, le=1_000_000)] | None = None
    steps: Steps = ()


class Flag(Named):
    """Given by one, taken by one; given twice before it is taken, it is given once."""


class Mutex(Named):
    """Held by one at a time, who gives it back."""


class Queue(Named):
    """First in, first out. What is put into a `full` one is dropped, waited with, or takes the place of the oldest."""

    length: Annotated[int, Field(ge=1, le=1_000)] = 4
    full: Literal["drop", "wait", "overwrite"] = "drop"


class Timer(Named):
    """Steps that the kernel's own timer task does every period, or once after it was started; none may wait."""

    period_us: AtLeastMs = 500_000
    once: bool = False
    runs: bool = True
    steps: Steps = ()


class Between(Doc):
    """What a kernel has besides: bodies, and what stands between them. `timer_priority` is that of the timer task.
    `tick_hook` is done in each tick's interrupt, `idle_hook` whenever nobody else can run; neither may wait."""

    bodies: Annotated[tuple[Body, ...], Field(max_length=16)] = ()
    flags: Annotated[tuple[Flag, ...], Field(max_length=16)] = ()
    mutexes: Annotated[tuple[Mutex, ...], Field(max_length=16)] = ()
    queues: Annotated[tuple[Queue, ...], Field(max_length=16)] = ()
    timers: Annotated[tuple[Timer, ...], Field(max_length=16)] = ()
    timer_priority: Annotated[int, Field(ge=1, le=9)] = 9
    tick_hook: Steps = ()
    idle_hook: Steps = ()

    @property
    def used(self) -> bool:
        """Whether there is any of it that runs."""
        return bool(self.bodies or self.timers or self.tick_hook or self.idle_hook)

    @property
    def owners(self) -> dict[str, str]:
        """By what is owned, the body that it belongs to."""
        return {owned: body.id for body in self.bodies for owned in body.owns}

    @property
    def names(self) -> dict[str, str]:
        """Of everything that has one, by id."""
        found: tuple[Named, ...] = (*self.bodies, *self.flags, *self.mutexes, *self.queues, *self.timers)
        return {one.id: one.name for one in found}

    @property
    def signals(self) -> dict[str, str]:
        """What a machine can signal, by id and name: flags, queues, timers."""
        found: tuple[Named, ...] = (*self.flags, *self.queues, *self.timers)
        return {one.id: one.name for one in found}

    @property
    def taken(self) -> dict[str, str]:
        """What the loop can take, by id and name: flags, what is in queues."""
        found: tuple[Named, ...] = (*self.flags, *self.queues)
        return {one.id: one.name for one in found}

    @property
    def full(self) -> dict[str, str]:
        """By queue, what is done where it is full."""
        return {queue.id: queue.full for queue in self.queues}

    def lists(self) -> list[tuple[str, tuple[str | int, ...], Steps]]:
        """(whose, where in this, steps) of every list of steps."""
        found: list[tuple[str, tuple[str | int, ...], Steps]] = []
        for field in ("bodies", "timers"):
            found += [(one.name, (field, n, "steps"), one.steps) for n, one in enumerate(getattr(self, field))]
        found += [("The tick hook", ("tick_hook",), self.tick_hook), ("The idle hook", ("idle_hook",), self.idle_hook)]
        return [row for row in found if row[2]]
