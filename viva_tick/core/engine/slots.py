"""The moving parts of a running firmware: one slot for each input, machine, task and output."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import final

from ..clock import MASK, NEVER
from ..debounce import METHODS, PRESS, Stepper
from ..document import Channel, ContactLine, Debounce
from ..drives import FULL, OFF, Course
from ..drives.steady import SteadyCourse
from ..gestures import Recogniser
from ..machines import RunningMachine
from .trace import Kind, Recording


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
        "down",
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
        "one_handler",
        "press_pending",
        "reading",
        "readings",
        "rests",
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
        self.one_handler = method.one_handler
        self.both_edges = method.edges == "both"
        self.acts_late = method.acts_on == "release"
        self.gestures: Recogniser | None = None  # none where nothing listens for any
        self.gesture_keys: dict[str, int] = {}
        self.press_pending = False  # a press that is an event only now that it was let go
        self.interrupts = method.by == "interrupt"
        self.counter: Callable[[int], int] | None = None  # the board's, for a handler; none while it is not set up
        self._changes = changes
        self.levels = Recording(Kind.LEVEL, part.id)
        self.readings = Recording(Kind.READING, part.id)
        self.cleaned = Recording(Kind.CLEANED, part.id)
        self.events = Recording(Kind.EVENT, part.id)
        self.level = 0
        self.next_us, self.next_level = next(changes, (NEVER, 0))
        self.reading = -1
        self.rests = False  # whether reading it again changes nothing, as long as its level stays
        self.stepper: Stepper
        self.reset()

    def reset(self) -> None:
        """Forget what the firmware accepted."""
        self.reading = -1
        self.rests = False
        self.stepper = METHODS[self.debounce.method].make(self.debounce.interval_us, self.debounce.sample_us)
        self.counter = None
        self.let_go = False
        self.press_pending = False
        self.down = False  # what the machines take it for
        if self.gestures is not None:
            self.gestures = Recogniser(self.gestures.wanted)

    @property
    def alone(self) -> bool:
        """Whether it is cleaned by what a pass reads of it, and by nothing else."""
        return not (self.interrupts or self.looks) and type(self.stepper).join is Stepper.join

    def follow(self, changes: Iterator[tuple[int, int]], since_us: int) -> None:
        """The contact gets another course, which differs from the one before after `since_us` only."""
        next_us = self.next_us  # all before it has been taken
        self._changes = changes
        self.next_us, self.next_level = next(changes, (NEVER, 0))
        self._pass_by(next_us, since_us)

    def _pass_by(self, next_us: int, since_us: int) -> None:
        """What has been taken already of a course that is the same up to `since_us`."""
        while self.next_us < next_us and self.next_us <= since_us:
            self.next_us, self.next_level = next(self._changes, (NEVER, 0))

    def follow_slot(self, fresh: InputSlot, since_us: int) -> None:
        """`follow`, with the course of a slot that has not begun."""
        next_us = self.next_us
        self._changes, self.next_us, self.next_level = fresh._changes, fresh.next_us, fresh.next_level
        self._pass_by(next_us, since_us)

    def catch_up(self, clock_us: int) -> None:
        """Take every change of the level up to and at `clock_us`."""
        while self.next_us <= clock_us:
            self.take_one()

    def take_one(self) -> None:
        """Take the next change of the level."""
        self.level = self.next_level
        self.rests = False
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
    """A machine that runs, what it has to hear of others, and what it leaves behind."""

    __slots__ = ("heard", "id", "running", "states", "transitions", "waiting")

    def __init__(self, running: RunningMachine, heard: tuple[int, ...]) -> None:
        self.id = running.machine.id
        self.running = running
        self.heard = heard
        self.waiting: set[int] = set()  # of those, what has been raised and not been taken yet
        self.states = Recording(Kind.STATE, self.id)
        self.transitions = Recording(Kind.TRANSITION, self.id)

    def step(self, events: list[int], now_ms: int) -> None:
        """The pass's events and what was raised, then the time."""
        running = self.running
        running.hear(events, self.heard, self.waiting, now_ms)
        if running.machine.waits[running.state]:
            running.clock(now_ms)


class OutputSlot:
    """An output, the drive that runs on it, and the one that waits to begin.

    `longest_ms` (0: none) is how long it may be on; `rivals` are the outputs it is interlocked with, each with its dead
    time in ms.
    """

    __slots__ = (
        "changed_ms",
        "course",
        "cut",
        "cuts",
        "duty",
        "ends",
        "ever",
        "guarded",
        "hz",
        "id",
        "inverted",
        "level",
        "longest_ms",
        "pending",
        "pitch",
        "rest",
        "rivals",
        "spent",
        "told",
        "unset",
        "values",
    )

    def __init__(self, part: Channel, longest_ms: int, inverted: bool = False) -> None:
        self.id = part.id
        self.inverted = inverted  # it is off when the firmware switches it on
        # What it does until set-up makes the pin an output: floats, unless a resistor holds it.
        held = {"up": "high", "down": "low"}.get(part.hold)
        self.unset = -1 if held is None else int(held == part.active_level)
        self.rest = FULL if part.at_rest == "on" else OFF
        self.longest_ms = longest_ms
        self.rivals: list[tuple[OutputSlot, int]] = []
        self.level: int = OFF
        self.guarded = longest_ms > 0  # whether anything can hold it off
        self.values = Recording(Kind.OUTPUT, part.id)
        self.duty = Recording(Kind.DUTY, part.id)
        self.pitch = Recording(Kind.PITCH, part.id)
        self.cuts = Recording(Kind.CUT, part.id)
        self.ends: Callable[[], None] | None = None  # told where a machine listens for the end of what it does
        self.begin(0)

    def begin(self, now_ms: int) -> None:
        """Set-up is done: as it rests, nothing asked for."""
        self.course: Course = SteadyCourse(self.rest)
        self.pending: Course | None = None
        self.level = OFF if any(rival.level for rival, _ in self.rivals) else self.rest
        self.hz = 0
        self.changed_ms = now_ms  # since when it is on, or off
        self.ever = self.level > OFF  # whether it was ever on
        self.spent = False  # whether its longest time is used up
        self.cut = ""
        self.told = True

    def lock_with(self, rival: OutputSlot, dead_ms: int) -> None:
        """Interlocked with another output, with a dead time."""
        self.rivals.append((rival, dead_ms))
        self.guarded = True

    def play(self, hz: int, clock_us: int) -> None:
        """The note that its drive plays."""
        if hz != self.hz:
            self.hz = hz
            self.pitch.add(clock_us, hz)

    def rival_holds(self, now_ms: int) -> bool:
        """Whether another output keeps this one, which is off, from coming on."""
        return any(
            rival.level or (rival.ever and (now_ms - rival.changed_ms) & MASK < dead_ms)
            for rival, dead_ms in self.rivals
        )

    def allowed(self, wanted: int, now_ms: int) -> tuple[int, str]:
        """The level that it gets of the one its drive wants, and what holds it off."""
        if not wanted:
            self.spent = False
            return wanted, ""
        if self.longest_ms and self.level and (now_ms - self.changed_ms) & MASK >= self.longest_ms:
            self.spent = True
        if self.spent:
            return OFF, "limit"
        if self.rivals and not self.level and self.rival_holds(now_ms):
            return OFF, "interlock"
        return wanted, ""

    def put(self, level: int, clock_us: int, now_ms: int) -> None:
        """The level is on the pin."""
        if (level > 0) != (self.level > 0):
            self.changed_ms = now_ms
            self.ever = self.ever or level > 0
            if not self.inverted:
                self.values.add(clock_us, 1 if level else 0)
        self.level = level
        if self.inverted:
            level = FULL - level
            if self.values.values[-1] != int(level > 0):
                self.values.add(clock_us, int(level > 0))
        self.duty.add(clock_us, level)

    def dues(self) -> list[tuple[int, int]]:
        """When the drive changes, or what holds it off lets go."""
        found = [due] if (due := self.course.due()) else []
        if self.longest_ms and self.level:
            found.append((self.changed_ms, self.longest_ms))
        if self.cut == "interlock":
            found += [(rival.changed_ms, dead_ms) for rival, dead_ms in self.rivals if rival.ever and not rival.level]
        return found
