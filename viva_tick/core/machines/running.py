"""A machine as it runs, whoever runs it: the engine, a test, the search for what can be reached."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from ..clock import MASK
from ..document import (
    Action,
    AddTo,
    CopyTo,
    Feed,
    Guard,
    IfContact,
    IfIn,
    IfLevel,
    IfRange,
    IfVariable,
    RandomFor,
    Restart,
    SendBytes,
    SetVariable,
    Signal,
    StartDrive,
    TakeLevel,
)
from ..drives import Drive
from .compiled import NONE, CompiledMachine, TransitionRow

IN_A_ROW = 8  # transitions that wait for nothing, taken one after another
SIGNS: dict[str, Callable[[int, int], bool]] = {
    "<": lambda one, other: one < other,
    "<=": lambda one, other: one <= other,
    "=": lambda one, other: one == other,
    "!=": lambda one, other: one != other,
    ">=": lambda one, other: one >= other,
    ">": lambda one, other: one > other,
}


class Host(Protocol):
    """What a machine stands in. Times are counter values in ms."""

    def pressed(self, input_id: str) -> bool:
        """Whether a contact is accepted pressed."""

    def above(self, input_id: str, of: str) -> bool:
        """Whether an analogue part is accepted above, or above one of its marks."""

    def standing(self, machine_id: str, state_id: str) -> bool:
        """Whether a machine is in a state, or in one inside it."""

    def value(self, variable_id: str) -> int:
        """What a variable holds."""

    def put(self, variable_id: str, value: int) -> None:
        """Give a variable a value, which it takes as its bounds let it."""

    def scaled(self, input_id: str, variable_id: str) -> int:
        """What an analogue part was last converted to, its scale laid over the variable's range."""

    def roll(self, least: int, most: int) -> int:
        """A number at random."""

    def feed(self) -> None:
        """Feed the watchdog."""

    def restart(self) -> None:
        """Restart the board at the end of the pass."""

    def signal(self, ident: str) -> None:
        """Signal the kernel."""

    def send(self, input_id: str, codes: tuple[int, ...]) -> None:
        """Send bytes to a module."""

    def start(self, output_id: str, drive: Drive) -> None:
        """Make an output do something."""

    def moved(self, machine: RunningMachine, left: Sequence[int], entered: Sequence[int], transition: int) -> None:
        """A machine has left states and entered others, by their places; `transition` is the place of the transition,
        −1 as it begins."""


def holds(guard: Guard, host: Host) -> bool:
    """Whether a guard lets through."""
    match guard:
        case IfContact():
            return host.pressed(guard.input) == guard.pressed
        case IfLevel():
            return host.above(guard.input, guard.of) == guard.above
        case IfIn():
            return host.standing(guard.machine, guard.state) == guard.there
        case IfVariable():
            other = guard.number if guard.other is None else host.value(guard.other)
            return SIGNS[guard.sign](host.value(guard.variable), other)
        case IfRange():
            return (guard.least <= host.value(guard.variable) <= guard.most) == guard.inside


def act(action: Action, host: Host) -> None:
    """Do one action."""
    if type(action) is StartDrive:  # nearly all of them: asked first, and by the cheapest question
        host.start(action.output, action.drive)
        return
    match action:
        case SetVariable():
            host.put(action.variable, action.number)
        case AddTo():
            host.put(action.variable, host.value(action.variable) + action.number)
        case CopyTo():
            host.put(action.variable, host.value(action.other))
        case RandomFor():
            host.put(action.variable, host.roll(action.least, action.most))
        case Feed():
            host.feed()
        case Restart():
            host.restart()
        case Signal():
            host.signal(action.of)
        case SendBytes():
            host.send(action.input, action.bytes)
        case TakeLevel():
            host.put(action.variable, host.scaled(action.input, action.variable))


class RunningMachine:
    """The leaf it stands in, since when, and what it remembers."""

    __slots__ = ("_timeouts", "around_ms", "as_timed", "drawn_ms", "entered_ms", "host", "kept", "machine", "state")

    def __init__(self, machine: CompiledMachine, host: Host) -> None:
        self.machine = machine
        self.host = host
        self.state = machine.initial.target
        self.entered_ms = self.around_ms = 0
        self.kept: dict[int, int] = {}  # by a state around others, the leaf it was left in
        self.drawn_ms: dict[int, int] = {}
        self._timeouts: list[tuple[int, int, TransitionRow]] | None = None  # of the state, where they stay as they are
        self.as_timed: Callable[[int, int], int] | None = None  # how (since, wait) comes out, where not as it should

    def begin(self, now_ms: int, leaf: int | None = None) -> None:
        """Set-up is done: enter the first state, remembering nothing; or the `leaf` that outlived a reset."""
        self.kept.clear()
        first = self.machine.initial
        if leaf is not None:
            first = TransitionRow(NONE, (), (), NONE, self.machine.around[leaf], leaf, False)
        self._enter(first, (), now_ms)
        self.settle(now_ms)

    def _enter(self, transition: TransitionRow, left: Sequence[int], now_ms: int) -> None:
        machine, host = self.machine, self.host
        leaf = transition.target
        if transition.remembers:
            leaf = self.kept.get(machine.around[leaf], leaf)
        entered = (leaf,) if transition.enters == NONE else (transition.enters, leaf)
        if transition.enters != NONE:
            self.around_ms = now_ms
        self.state = leaf
        self.entered_ms = now_ms
        self._timeouts = None
        for state in entered:
            for wait in machine.drawn[state]:
                self.drawn_ms[wait.draw] = host.roll(wait.wait_ms, wait.until_ms)
            for action in machine.entry[state]:
                act(action, host)
        host.moved(self, left, entered, transition.place)

    def take(self, transition: TransitionRow, now_ms: int) -> None:
        """Go a transition: leave, act, enter."""
        machine, host = self.machine, self.host
        leaf = self.state
        left: tuple[int, ...] = (leaf,)
        for action in machine.exit[leaf]:
            act(action, host)
        if transition.leaves != NONE:
            left = (leaf, transition.leaves)
            self.kept[transition.leaves] = leaf
            for action in machine.exit[transition.leaves]:
                act(action, host)
        for action in transition.actions:
            act(action, host)
        self._enter(transition, left, now_ms)

    def open_transition(self, transitions: Sequence[TransitionRow]) -> TransitionRow | None:
        """The first whose guards hold."""
        for transition in transitions:
            for guard in transition.guards:
                if not holds(guard, self.host):
                    break
            else:
                return transition
        return None

    def fire(self, key: int, now_ms: int) -> bool:
        """One event, by its number: whether it led anywhere."""
        transitions = self.machine.on[self.state].get(key)
        if transitions is None:
            return False
        transition = transitions[0] if not transitions[0].guards else self.open_transition(transitions)
        if transition is None:
            return False
        self.take(transition, now_ms)
        if self.machine.always[self.state]:
            self.settle(now_ms)
        return True

    def hear(self, events: Sequence[int], heard: Sequence[int], waiting: set[int], now_ms: int) -> None:
        """What a pass brings, in the one order there is: transitions that wait for nothing; the pass's `events`; of
        what it hears of others, in the order of `heard`, what is `waiting`, which it takes away. What time brings comes
        after."""
        if self.machine.always[self.state]:
            self.settle(now_ms)
        for event in events:
            if event in self.machine.on[self.state]:
                self.fire(event, now_ms)
        if waiting:
            for event in heard:
                if event in waiting:
                    waiting.discard(event)
                    self.fire(event, now_ms)

    def settle(self, now_ms: int) -> None:
        """Go every transition that waits for nothing."""
        for _ in range(IN_A_ROW):
            transition = self.open_transition(self.machine.always[self.state])
            if transition is None:
                return
            self.take(transition, now_ms)

    def clock(self, now_ms: int) -> None:
        """Go the first transition whose time has come, if its guards hold."""
        for since_ms, wait_ms, transition in self._timeouts or self.waiting():
            if (now_ms - since_ms) & MASK >= wait_ms and self.open_transition((transition,)):
                self.take(transition, now_ms)
                self.settle(now_ms)
                return

    def waiting(self) -> list[tuple[int, int, TransitionRow]]:
        """(since, wait in ms, transition) of each timeout that runs."""
        if self._timeouts is not None:  # asked in every pass
            return self._timeouts
        found = []
        fixed = True
        for wait in self.machine.waits[self.state]:
            wait_ms = wait.wait_ms
            if wait.draw != NONE:
                wait_ms = self.drawn_ms[wait.draw]
            elif wait.variable is not None:
                wait_ms = max(self.host.value(wait.variable), 0) * wait.unit_ms
                fixed = False
            since_ms = self.around_ms if wait.around else self.entered_ms
            if self.as_timed is not None:
                wait_ms = self.as_timed(since_ms, wait_ms)
            found.append((since_ms, wait_ms, wait.transition))
        if fixed:
            self._timeouts = found
        return found
