"""The moving parts of a running firmware: one slot for each input, machine, task and output."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import final

from ..debounce import METHODS, PRESS, Stepper
from ..document import Channel, ContactLine, Debounce, Task
from ..drives import Course
from ..drives.steady import SteadyCourse
from ..gestures import Recogniser
from ..machines import CompiledMachine
from .trace import Kind, Tape

NEVER = 1 << 62


@final
class InputSlot:
    """Follows the level at its pin as time passes, samples it, cleans it."""

    __slots__ = (
        "_changes",
        "active",
        "acts_late",
        "both_edges",
        "cleaned",
        "counter",
        "debounce",
        "events",
        "gesture_keys",
        "gestures",
        "interrupts",
        "key",
        "latency_us",
        "let_go",
        "level",
        "levels",
        "looks",
        "next_level",
        "next_us",
        "owed",
        "reading",
        "readings",
        "stepper",
        "wait_us",
    )

    def __init__(self, number: int, part: ContactLine, debounce: Debounce, changes: Iterator[tuple[int, int]]) -> None:
        self.key = 2 * number
        self.active = 1 if part.active_level == "high" else 0
        self.latency_us = 0
        self.let_go = False
        self.debounce = debounce
        method = METHODS[debounce.method]
        self.wait_us = debounce.interval_us if method.blocks else 0
        self.looks = method.by == "looking"
        self.both_edges = method.edges == "both"
        self.acts_late = method.acts_on == "release"
        self.gestures: Recogniser | None = None  # none where nothing listens for any
        self.gesture_keys: dict[str, int] = {}
        self.owed = False  # a press that is an event only now that it was let go
        self.interrupts = method.by == "interrupt"
        self.counter: Callable[[int], int] | None = None  # the board's, for a handler; none while it is not set up
        self._changes = changes
        self.levels = Tape(Kind.LEVEL, part.id)
        self.readings = Tape(Kind.READING, part.id)
        self.cleaned = Tape(Kind.CLEANED, part.id)
        self.events = Tape(Kind.EVENT, part.id)
        self.level = 0
        self.next_us, self.next_level = next(changes, (NEVER, 0))
        self.reading = -1
        self.stepper: Stepper
        self.reset()

    def reset(self) -> None:
        """Forget what the firmware believed."""
        self.reading = -1
        self.stepper = METHODS[self.debounce.method].make(self.debounce.interval_us, self.debounce.sample_us)
        self.counter = None
        self.let_go = False
        self.owed = False
        if self.gestures is not None:
            self.gestures = Recogniser(self.gestures.wanted)

    def catch_up(self, clock_us: int) -> None:
        """Take every change of the level up to and at `clock_us`."""
        while self.next_us <= clock_us:
            self.level = self.next_level
            self.levels.add(self.next_us, self.level)
            if self.interrupts and self.counter and self.level == self.active:
                self.stepper.handle(self.counter(self.next_us + self.latency_us))  # type: ignore[attr-defined]
            self.next_us, self.next_level = next(self._changes, (NEVER, 0))


class ChordSlot:
    """Two contacts that may be pressed together; what either did last is remembered."""

    __slots__ = ("down", "key", "of", "pressed_ms", "slots", "together_ms")

    def __init__(self, key: int, slots: tuple[InputSlot, InputSlot], together_ms: int) -> None:
        self.key = key
        self.slots = slots
        self.of = (slots[0].cleaned.of, slots[1].cleaned.of)
        self.together_ms = together_ms
        self.reset()

    def reset(self) -> None:
        """Forget what was pressed."""
        self.down = [False, False]
        self.pressed_ms = [0, 0]

    def step(self, now_ms: int, edges: tuple[int, int]) -> bool:
        """Take the pass's edges of both (PRESS, RELEASE or 0): whether the second of them has just joined the first. A
        chord is no click of either."""
        for place in (0, 1):
            if edges[place]:
                self.down[place] = edges[place] == PRESS
                self.pressed_ms[place] = now_ms
        joined = (
            PRESS in edges
            and all(self.down)
            and max((now_ms - at) & 0xFFFF_FFFF for at in self.pressed_ms) <= self.together_ms
        )
        if joined:
            for slot in self.slots:
                if slot.gestures is not None:
                    slot.gestures.spend()
        return joined


class MachineSlot:
    """A machine and the state it is in."""

    __slots__ = ("entered_ms", "machine", "state", "states")

    def __init__(self, machine: CompiledMachine) -> None:
        self.machine = machine
        self.state = machine.initial
        self.entered_ms = 0
        self.states = Tape(Kind.STATE, machine.id)


class TaskSlot:
    """A task and when it was last due."""

    __slots__ = ("id", "last_ms", "period_ms", "run_us")

    def __init__(self, task: Task) -> None:
        self.id = task.id
        self.period_ms = task.period_us // 1000
        self.run_us = task.run_us
        self.last_ms = 0


class OutputSlot:
    """An output, the drive that runs on it, and the one that waits to begin."""

    __slots__ = ("course", "id", "on", "pending", "unset", "values")

    def __init__(self, part: Channel) -> None:
        self.id = part.id
        # What it does until set-up makes the pin an output: floats, unless a resistor holds it.
        held = {"up": "high", "down": "low"}.get(part.hold)
        self.unset = -1 if held is None else int(held == part.active_level)
        self.course: Course = SteadyCourse(False)
        self.pending: Course | None = None
        self.on = False
        self.values = Tape(Kind.OUTPUT, part.id)
