"""Machines that look at each other, at numbers and at contacts, explored one standing after another."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from itertools import combinations, product
from typing import Any

from ..document import (
    CAUSE_EVENTS,
    Bench,
    EventName,
    IfContact,
    IfLevel,
    IfRange,
    IfVariable,
    Listen,
    Machine,
    VariableEvent,
)
from ..machines import CompiledMachine, RunningMachine, holds
from .abstract import PASS, Abstract, Cause, Explored, Report, Wish
from .flat import waits_of

Standing = tuple[Any, ...]


def _some(names: set[str]) -> list[frozenset[str]]:
    """None of them, each alone, and, where they are few, every number of them together."""
    ordered = sorted(names)
    most = len(ordered) if len(ordered) <= 4 else 1
    return [frozenset(some) for count in range(most + 1) for some in combinations(ordered, count)]


def possible_causes(bench: Bench) -> set[str]:
    """The events of those causes for which the board can start at all."""
    never = {"watchdog": not bench.firmware.watchdog.resets, "software": not bench.firmware.restarts}
    return {event for cause, event in CAUSE_EVENTS.items() if not never.get(cause)}


def looked_at(machines: Sequence[Machine]) -> set[str]:
    """The variables on which it depends where the machines go, over however many others."""
    found: set[str] = set()
    for machine in machines:
        for transition in machine.transitions:
            for guard in transition.guards:
                if isinstance(guard, IfVariable | IfRange):
                    found |= {guard.variable, *filter(None, [getattr(guard, "other", None)])}
            if isinstance(transition.on, VariableEvent):
                found.add(transition.on.variable)
    copies = [(a.variable, a.other) for machine in machines for _, a in machine.actions if a.do == "copy"]
    for _ in copies:
        found |= {other for variable, other in copies if variable in found}
    return found


class Compared(RunningMachine):
    """A machine that notes two transitions for one event that are both open, both with guards: an unguarded one is
    meant for the rest."""

    __slots__ = ("open_pairs",)

    def __init__(self, machine: CompiledMachine, host: Abstract, open_pairs: set[tuple[str, int, int]]) -> None:
        super().__init__(machine, host)
        self.open_pairs = open_pairs

    def fire(self, key: int, now_ms: int) -> bool:
        """See `RunningMachine.fire`."""
        transitions = self.machine.on[self.state].get(key, ())
        if len(transitions) > 1:
            held = [
                transition
                for transition in transitions
                if transition.guards and all(holds(guard, self.host) for guard in transition.guards)
            ]
            if len(held) > 1:
                self.open_pairs.add((self.machine.id, held[0].place, held[1].place))
        return super().fire(key, now_ms)


class JointExploration:
    """Machines that look at each other, at variables and at contacts: one standing after another."""

    def __init__(self, wish: Wish) -> None:
        self.readings = wish.program.bench.firmware.readings
        program, machines, compiled, watch = wish.program, wish.machines, wish.tables, wish.watch
        self.machines, self.watch, self.causes = machines, watch, list(wish.causes)
        self.keys = program.keys
        self.host = Abstract(program.bench, watch)
        self.open_pairs: set[tuple[str, int, int]] = set()
        self.running = [Compared(table, self.host, self.open_pairs) for table in compiled]
        self.host.running = {machine.id: one for machine, one in zip(machines, self.running, strict=True)}
        self.heard = [[self.keys[name] for name in program.heard[machine.id]] for machine in machines]
        self.waiting: list[set[int]] = [set() for _ in machines]  # what each has to hear, as in the engine
        for waits, machine in zip(self.waiting, machines, strict=True):
            for raised in program.heard[machine.id]:
                self.host.listeners.setdefault(raised, []).append((waits, self.keys[raised]))
        guards = [guard for machine in machines for transition in machine.transitions for guard in transition.guards]
        self.contacts = {guard.input for guard in guards if isinstance(guard, IfContact)}
        self.levels = {f"{guard.input} {guard.of}" for guard in guards if isinstance(guard, IfLevel)}
        for name in sorted(self.contacts):
            self.causes += [("press", name, ""), ("release", name, "")]
        for name in sorted(self.levels):  # a part, and one of its marks or none
            ident, _, of = name.partition(" ")
            self.causes += [("above", ident, of), ("below", ident, of)]
        self.causes = list(dict.fromkeys(self.causes))
        self.variables = sorted(looked_at(machines))  # one that nothing looks at need not be told apart
        self.nothing = tuple(frozenset[int]() for _ in machines)
        self.settles = any(any(table.always) for table in compiled)
        # Why the board may have started, as far as anybody listens.
        self.resets = sorted(kind for kind, *_ in self.host.listeners if kind in possible_causes(program.bench))

    def _save(self) -> Standing:
        host = self.host
        return (
            tuple([(one.state, *sorted(one.kept.items())) if one.kept else (one.state,) for one in self.running]),
            tuple([host.held[name] for name in self.variables]),
            host.down,
            host.up,
            tuple(host.on),
            tuple(map(frozenset, self.waiting)) if host.listeners else self.nothing,
        )

    def _load(self, standing: Standing) -> None:
        host = self.host
        locals_, values, host.down, host.up, on, waiting = standing
        host.on = list(on)
        if values:
            host.held.update(zip(self.variables, values, strict=True))
        host.entered.clear()
        if host.listeners:
            for mine, kept_waiting in zip(self.waiting, waiting, strict=True):
                mine.clear()
                mine.update(kept_waiting)
        for one, (state, *kept) in zip(self.running, locals_, strict=True):
            one.state = state
            one.kept = dict(kept) if kept else {}

    def _pass(self, key: int | None) -> None:
        """One pass, as the engine steps the machines: an event if there is one, then what waits to be heard."""
        if not (self.settles or self.host.listeners):  # most machines: nothing but the event
            for one in self.running:
                one.fire(key, 0)  # type: ignore[arg-type]
            return
        events = () if key is None else (key,)
        for one, heard, waiting in zip(self.running, self.heard, self.waiting, strict=True):
            one.hear(events, heard, waiting, 0)

    def _step(self, cause: Cause) -> bool:
        """One cause in the standing that is loaded: whether it can come there."""
        kind, of, which = cause
        host = self.host
        if of in self.contacts and kind in ("press", "release"):
            if (of in host.down) == (kind == "press"):
                return False
            host.down = host.down | {of} if kind == "press" else host.down - {of}
        if kind in ("above", "below") and (level := f"{of} {which}") in self.levels:
            if (level in host.up) == (kind == "above"):
                return False
            host.up = host.up | {level} if kind == "above" else host.up - {level}
        if kind == "timeout":
            one = self.host.running[of]
            for wait in one.machine.waits[one.state]:
                if wait.transition.place == int(which):
                    if one.open_transition((wait.transition,)) is None:
                        return False
                    one.take(wait.transition, 0)
                    one.settle(0)
        elif kind == "number" and which:
            reading = self.readings[of]
            if isinstance(reading, Listen) and reading.into is not None:
                host.put(reading.into, int(which))
            self._pass(self.keys.get((kind, of, "")))
        else:
            self._pass(self.keys[cause] if cause != PASS else None)
        return True

    def explore(self, pairs: Sequence[tuple[str, str]], bound: int, report: Report | None) -> Explored:
        """See `explore`."""
        host = self.host
        entered: set[tuple[str, str]] = set()
        begun: list[Standing] = []
        values, falls = dict(host.held), 0
        while falls == 0 or falls < host.rolled:
            host.falls, host.held, host.on = falls, dict(values), [False] * len(self.watch)
            for waiting in self.waiting:
                waiting.clear()
            for one in self.running:  # what one raises as it begins, another hears
                one.begin(0)
            entered |= host.entered
            begun.append(self._save())
            falls += 1
        origin: dict[Standing, tuple[Standing, Cause] | None] = {}
        # The first pass may find a button held, a level above; and the board may have started for any reason.
        firsts: list[list[EventName]] = [[("boot", "", "")]]
        firsts += [[("boot", "", ""), (cause, "", "")] for cause in self.resets]
        for first_held, down, up, names in product(begun, _some(self.contacts), _some(self.levels), firsts):
            self._load(first_held)
            host.down, host.up = down, up
            for name in names:
                host.say(name)
            origin.setdefault(self._save(), None)
        queue = deque(origin)
        first: dict[tuple[str, str], Standing] = {}
        through: dict[tuple[str, str], tuple[Standing, Cause]] = {}
        open_at: dict[tuple[str, int, int], tuple[Standing, Cause]] = {}
        both: dict[tuple[str, str], Standing] = {}
        whole = True
        looked = 0
        while queue:
            standing = queue.popleft()
            self._note(standing, first, pairs, both)
            looked += 1
            if len(origin) >= bound or (report and looked % 256 == 1 and not report(len(origin))):
                whole = False
                for rest in queue:
                    self._note(rest, first, pairs, both)
                break
            waits = [
                cause
                for machine, one, (state, *_) in zip(self.machines, self.running, standing[0], strict=True)
                for cause, _ in waits_of(machine, state, one.machine)
            ]
            # Where something looks at levels or waits to be heard, a pass without an event may move it on.
            passes = [PASS] if self.settles or any(standing[5]) else []
            for cause in (*passes, *self.causes, *waits):
                falls = outcomes = 0
                while falls <= outcomes:
                    self._load(standing)
                    host.falls, host.rolled = falls, 0
                    self.open_pairs.clear()
                    if not self._step(cause):
                        break
                    for pair in self.open_pairs:
                        open_at.setdefault(pair, (standing, cause))
                    outcomes = host.rolled - 1
                    falls += 1
                    after = self._save()
                    if after not in origin:
                        origin[after] = (standing, cause)
                        queue.append(after)
                    for gone_through in host.entered:
                        if gone_through not in first:
                            through.setdefault(gone_through, (standing, cause))

        def path(standing: Standing) -> tuple[Cause, ...]:
            row = []
            while (came := origin[standing]) is not None:
                row.append(came[1])
                standing = came[0]
            return tuple(cause for cause in reversed(row) if cause != PASS)

        def to(one: Standing, cause: Cause) -> tuple[Cause, ...]:
            return path(one) if cause == PASS else (*path(one), cause)

        paths = {key: path(standing) for key, standing in first.items()}
        paths |= dict.fromkeys(entered - paths.keys(), ())
        paths |= {key: to(one, cause) for key, (one, cause) in through.items() if key not in paths}
        together = {pair: (path(one), self._names(one)) for pair, one in both.items()}
        both_open = {pair: to(one, cause) for pair, (one, cause) in open_at.items()}
        return Explored(len(origin), whole, paths, together, both_open)

    def _names(self, standing: Standing) -> tuple[str, ...]:
        return tuple(machine.states[state].id for machine, (state, *_) in zip(self.machines, standing[0], strict=True))

    def _note(
        self,
        standing: Standing,
        first: dict[tuple[str, str], Standing],
        pairs: Sequence[tuple[str, str]],
        both: dict[tuple[str, str], Standing],
    ) -> None:
        for machine, (place, *_) in zip(self.machines, standing[0], strict=True):
            state = machine.states[place]
            for name in (state.id, state.parent):
                if name is not None:
                    first.setdefault((machine.id, name), standing)
        on = standing[4]
        for pair in pairs:
            if pair not in both and all(on[self.watch.index(output)] for output in pair):
                both[pair] = standing
