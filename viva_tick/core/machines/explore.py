"""Every combination of states that a number of machines can be in, by the fewest events.

Every event is taken to be able to come in any state, alone; a time may pass in any state, before anything else comes; a
drive that goes on and off counts as on; chance may fall on the first eight numbers of its range. What is found is a way
through the machines, not a promise that a hand will ever take it. Machines that look at nothing but themselves are
explored as arrays (a frontier at a time); others one standing after another.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from itertools import combinations, product
from typing import Any

import numpy as np

from ..document import (
    HEARD,
    AlwaysEvent,
    Bench,
    DrawFor,
    EventName,
    IfContact,
    IfIn,
    IfLevel,
    IfRange,
    IfVariable,
    Machine,
    TimeoutEvent,
    VariableEvent,
)
from ..drives import Drive
from .compiled import NONE, CompiledMachine, Way, compile_machine
from .keys import RAISED, event_keys, heard_by
from .running import RunningMachine, holds

BOUND = 200_000  # standings; fewer where an edit waits for it
LARGEST = 4_000_000  # the largest product that is laid out as an array
DRAWS = 8
Cause = tuple[str, str, str]  # an event's name; or "timeout", the machine, the place of the way
PASS: Cause = ("pass", "", "")  # nothing but a pass: what waits to be heard is heard
Report = Callable[[int], bool]  # told how many are found; answers whether to go on


@dataclass(frozen=True)
class Explored:
    """What was found. `paths` leads, by (machine, state), to each state by the fewest causes; `together` is the
    shortest way to both outputs of a pair being on, with the states they are on in; `both_open` that to two ways of a
    machine, by their places, whose guards hold at once; `whole` is false where the bound or a stop ended it."""

    standings: int
    whole: bool
    paths: dict[tuple[str, str], tuple[Cause, ...]]
    together: dict[tuple[str, str], tuple[tuple[Cause, ...], tuple[str, ...]]] = field(default_factory=dict)
    both_open: dict[tuple[str, int, int], tuple[Cause, ...]] = field(default_factory=dict)


class Abstract:
    """Stands in for the board: no time, no pins; what is on and what the variables hold."""

    def __init__(self, bench: Bench, watch: Sequence[str]) -> None:
        self.variables = {one.id: one for one in bench.firmware.variables}
        self.around = {
            (machine.id, state.id): state.inside for machine in bench.firmware.machines for state in machine.states
        }
        self.watch = {output: place for place, output in enumerate(watch)}
        self.held = {one.id: one.begins for one in bench.firmware.variables}
        self.down: frozenset[str] = frozenset()
        self.up: frozenset[str] = frozenset()
        self.on = [False] * len(watch)
        self.effect: dict[int, bool] = {}
        self.running: dict[str, RunningMachine] = {}
        self.listeners: dict[EventName, list[set[EventName]]] = {}  # what waits for each machine that hears it
        self.entered: set[tuple[str, str]] = set()  # also what was only gone through
        self.falls = 0  # which of its first numbers chance falls on
        self.rolled = 0  # how many it could have fallen on

    def pressed(self, input_id: str) -> bool:
        """See `Host.pressed`."""
        return input_id in self.down

    def above(self, input_id: str) -> bool:
        """See `Host.above`."""
        return input_id in self.up

    def standing(self, machine_id: str, state_id: str) -> bool:
        """See `Host.standing`. A machine that is not explored is taken to be anywhere: in its first state."""
        running = self.running.get(machine_id)
        if running is None:
            return False
        now = running.machine.names[running.state]
        return state_id in (now, self.around[machine_id, now])

    def value(self, variable_id: str) -> int:
        """See `Host.value`."""
        return self.held[variable_id]

    def put(self, variable_id: str, value: int) -> None:
        """See `Host.put`."""
        value = self.variables[variable_id].held(value)
        if value != self.held[variable_id]:
            self.held[variable_id] = value
            self.say(("reached", variable_id, str(value)))

    def scaled(self, input_id: str, variable_id: str) -> int:
        """See `Host.scaled`."""
        one = self.variables[variable_id]
        return self.roll(one.least, one.most)

    def roll(self, least: int, most: int) -> int:
        """See `Host.roll`."""
        self.rolled = max(self.rolled, min(most - least + 1, DRAWS))
        return least + min(self.falls, most - least)

    def start(self, output_id: str, drive: Drive) -> None:
        """See `Host.start`."""
        if (place := self.watch.get(output_id)) is not None:
            self.on[place] = self.effect[place] = drive.ever_on

    def moved(self, machine: RunningMachine, left: Sequence[int], entered: Sequence[int], way: int) -> None:
        """See `Host.moved`."""
        names, ident = machine.machine.names, machine.machine.id
        self.entered.update((ident, names[state]) for state in entered)
        if self.listeners:
            for state in left:
                self.say(("left", ident, names[state]))
            for state in entered:
                self.say(("entered", ident, names[state]))

    def say(self, name: EventName) -> None:
        """Tell every machine that listens."""
        for waiting in self.listeners.get(name, ()):
            waiting.add(name)


def looks_out(machine: Machine) -> bool:
    """Whether what a machine does depends on anything but its own state and the event."""
    return (
        any(state.remembers for state in machine.states)
        or any(way.guards or isinstance(way.on, AlwaysEvent) for way in machine.transitions)
        or any(isinstance(way.on, HEARD) and way.on.kind in RAISED for way in machine.transitions)
        or any(isinstance(way.on, TimeoutEvent) and way.on.variable for way in machine.transitions)
    )


def looked_at(machines: Sequence[Machine]) -> set[str]:
    """The variables on which it depends where the machines go, over however many others."""
    found: set[str] = set()
    for machine in machines:
        for way in machine.transitions:
            for guard in way.guards:
                if isinstance(guard, IfVariable | IfRange):
                    found |= {guard.variable, *filter(None, [getattr(guard, "other", None)])}
            if isinstance(way.on, VariableEvent):
                found.add(way.on.variable)
    copies = [(a.variable, a.other) for machine in machines for _, a in machine.actions if a.do == "copy"]
    for _ in copies:
        found |= {other for variable, other in copies if variable in found}
    return found


def related(bench: Bench, first: Sequence[Machine]) -> list[Machine]:
    """The machines, and those whose states and variables they look at, over however many others."""
    machines = bench.firmware.machines
    writes = {m.id: {action.variable for _, action in m.actions if action.do != "drive"} for m in machines}
    looks: dict[str, set[str]] = {}
    for m in machines:
        named, values = set(), set()
        for way in m.transitions:
            for guard in way.guards:
                if isinstance(guard, IfIn):
                    named.add(guard.machine)
                elif isinstance(guard, IfVariable | IfRange):
                    values |= {guard.variable, getattr(guard, "other", None)}
            if isinstance(way.on, VariableEvent):
                values.add(way.on.variable)
            elif isinstance(way.on, HEARD) and way.on.kind in ("entered", "left"):
                named.add(way.on.input)
        values |= {action.other for _, action in m.actions if action.do == "copy"}
        looks[m.id] = (named | {other for other, written in writes.items() if written & values}) - {m.id}
    wanted, queue = {m.id for m in first}, [m.id for m in first]
    while queue:
        for other in looks[queue.pop()] - wanted:
            wanted.add(other)
            queue.append(other)
    return [m for m in machines if m.id in wanted]


def explore(
    bench: Bench,
    machines: Sequence[Machine],
    pairs: Sequence[tuple[str, str]] = (),
    bound: int = BOUND,
    events: set[EventName] | None = None,
    report: Report | None = None,
) -> Explored:
    """Explore the machines side by side. `pairs` of outputs are watched for being on together; `events`: what can come
    at all (everything that the machines listen to, if it is not given)."""
    watch = list(dict.fromkeys(output for pair in pairs for output in pair))
    keys = event_keys(bench)
    compiled = [compile_machine(machine, keys) for machine in machines]
    heard = {way.on.name for m in machines for way in m.transitions if isinstance(way.on, HEARD)}
    causes: list[Cause] = sorted(name for name in heard if name[0] not in RAISED and (events is None or name in events))
    size = 1
    for machine in machines:
        size *= len(machine.states)
    if not any(map(looks_out, machines)) and size << len(watch) <= LARGEST:
        return _Flat(bench, machines, compiled, causes, watch).explore(pairs, bound, report)
    return _Whole(bench, machines, compiled, causes, watch).explore(pairs, bound, report)


def _waits(machine: Machine, leaf: int, compiled: CompiledMachine) -> list[tuple[Cause, Any]]:
    return [(("timeout", machine.id, str(wait.way.place)), wait.way) for wait in compiled.waits[leaf]]


class _Flat:
    """Machines that look at nothing but themselves: tables, and a frontier of whole numbers."""

    def __init__(
        self,
        bench: Bench,
        machines: Sequence[Machine],
        compiled: list[CompiledMachine],
        causes: list[Cause],
        watch: list[str],
    ) -> None:
        self.machines, self.compiled, self.watch = machines, compiled, watch
        self.bench = bench
        keys = event_keys(bench)
        waits = [
            cause
            for machine, table in zip(machines, compiled, strict=True)
            for cause in dict.fromkeys(
                c for leaf in range(len(machine.states)) for c, _ in _waits(machine, leaf, table)
            )
        ]
        self.causes = [*causes, *waits]
        self.sizes = [len(machine.states) for machine in machines]
        # next[m][cause][leaf], and what that does to each watched output: −1 nothing, 0 off, 1 on.
        self.next, self.effects = [], []
        self.draws = 1
        for machine, table in zip(machines, compiled, strict=True):
            rows = np.tile(np.arange(len(machine.states)), (len(self.causes), 1))
            effects = np.full((len(watch), len(self.causes), len(machine.states)), -1, dtype=np.int8)
            for number, cause in enumerate(self.causes):
                for leaf in range(len(machine.states)):
                    if leaf in table.around:
                        continue
                    host = Abstract(bench, watch)
                    running = RunningMachine(table, host)
                    running.state = leaf
                    if cause[0] != "timeout":
                        running.fire(keys[cause], 0)
                    elif cause[1] == machine.id:
                        for mine, way in _waits(machine, leaf, table):
                            if mine == cause:
                                running.take(way, 0)
                                running.settle(0)
                    rows[number, leaf] = running.state
                    for place, on in host.effect.items():
                        effects[place, number, leaf] = on
            self.next.append(rows)
            self.effects.append(effects)

    def _first(self) -> tuple[list[int], list[bool]]:
        host = Abstract(self.bench, self.watch)
        leaves = []
        for table in self.compiled:
            running = RunningMachine(table, host)
            running.begin(0)
            leaves.append(running.state)
        return leaves, host.on

    def explore(self, pairs: Sequence[tuple[str, str]], bound: int, report: Report | None) -> Explored:
        """See `explore`."""
        radix = []
        total = 1
        for size in self.sizes:
            radix.append(total)
            total *= size
        leaves, on = self._first()
        bits = [total << place for place in range(len(self.watch))]
        start = sum(leaf * step for leaf, step in zip(leaves, radix, strict=True))
        start += sum(bit for bit, is_on in zip(bits, on, strict=True) if is_on)
        came_from = np.full(total << len(self.watch), -1, dtype=np.int64)
        came_by = np.zeros(total << len(self.watch), dtype=np.int32)
        came_from[start] = start
        frontier = np.array([start])
        found, whole = 1, True
        first: dict[tuple[str, str], int] = {}
        both: dict[tuple[str, str], int] = {}
        while frontier.size:
            self._note(frontier, radix, bits, first, pairs, both)
            if found >= bound or (report and not report(found)):
                whole = False
                break
            digits = [frontier // step % size for step, size in zip(radix, self.sizes, strict=True)]
            were = [frontier // bit % 2 for bit in bits]
            fresh = []
            for cause in range(len(self.causes)):
                codes = np.zeros_like(frontier)
                lit = list(were)
                for place, digit in enumerate(digits):
                    codes += self.next[place][cause][digit] * radix[place]
                    for output in range(len(bits)):
                        effect = self.effects[place][output][cause][digit]
                        lit[output] = np.where(effect >= 0, effect, lit[output])
                for bit, is_on in zip(bits, lit, strict=True):
                    codes += bit * is_on.astype(np.int64)
                new = came_from[codes] < 0
                if new.any():
                    codes, origin = codes[new], frontier[new]
                    codes, where = np.unique(codes, return_index=True)
                    came_from[codes] = origin[where]
                    came_by[codes] = cause
                    fresh.append(codes)
                    found += codes.size
            frontier = np.concatenate(fresh) if fresh else np.array([], dtype=np.int64)

        def path(code: int) -> tuple[Cause, ...]:
            row = []
            while came_from[code] != code:
                row.append(self.causes[came_by[code]])
                code = int(came_from[code])
            return tuple(reversed(row))

        paths = {key: path(code) for key, code in first.items()}
        together = {
            pair: (
                path(code),
                tuple(
                    machine.states[code // step % size].id
                    for machine, step, size in zip(self.machines, radix, self.sizes, strict=True)
                ),
            )
            for pair, code in both.items()
        }
        return Explored(found, whole, paths, together)

    def _note(
        self,
        frontier: Any,
        radix: list[int],
        bits: list[int],
        first: dict[tuple[str, str], int],
        pairs: Sequence[tuple[str, str]],
        both: dict[tuple[str, str], int],
    ) -> None:
        """Remember what is stood in for the first time."""
        for machine, step, size in zip(self.machines, radix, self.sizes, strict=True):
            digits, where = np.unique(frontier // step % size, return_index=True)
            for digit, index in zip(digits.tolist(), where.tolist(), strict=True):
                state = machine.states[digit]
                for name in (state.id, state.inside):
                    if name is not None:
                        first.setdefault((machine.id, name), int(frontier[index]))
        for pair in pairs:
            if pair not in both:
                one, other = (bits[self.watch.index(output)] for output in pair)
                lit = np.flatnonzero((frontier // one % 2) & (frontier // other % 2))
                if lit.size:
                    both[pair] = int(frontier[lit[0]])


Standing = tuple[Any, ...]


def _some(names: set[str]) -> list[frozenset[str]]:
    """None of them, each alone, and, where they are few, every number of them together."""
    ordered = sorted(names)
    most = len(ordered) if len(ordered) <= 4 else 1
    return [frozenset(some) for count in range(most + 1) for some in combinations(ordered, count)]


class _Whole:
    """Machines that look at each other, at variables and at contacts: one standing after another."""

    def __init__(
        self,
        bench: Bench,
        machines: Sequence[Machine],
        compiled: list[CompiledMachine],
        causes: list[Cause],
        watch: list[str],
    ) -> None:
        self.machines, self.watch, self.causes = machines, watch, list(causes)
        self.keys = event_keys(bench)
        self.host = Abstract(bench, watch)
        self.running = [RunningMachine(table, self.host) for table in compiled]
        self.host.running = {machine.id: one for machine, one in zip(machines, self.running, strict=True)}
        heard = heard_by(bench)
        self.heard = [[(name, self.keys[name]) for name in heard[machine.id]] for machine in machines]
        self.waiting: list[set[EventName]] = [set() for _ in machines]  # what each has to hear, as in the engine
        for waits, names in zip(self.waiting, self.heard, strict=True):
            for heard_name, _ in names:
                self.host.listeners.setdefault(heard_name, []).append(waits)
        guards = [guard for machine in machines for way in machine.transitions for guard in way.guards]
        self.contacts = {guard.input for guard in guards if isinstance(guard, IfContact)}
        self.levels = {guard.input for guard in guards if isinstance(guard, IfLevel)}
        for name in sorted(self.contacts):
            self.causes += [("press", name, ""), ("release", name, "")]
        for name in sorted(self.levels):
            self.causes += [("above", name, ""), ("below", name, "")]
        self.causes = list(dict.fromkeys(self.causes))
        self.variables = sorted(looked_at(machines))  # one that nothing looks at need not be told apart
        self.nothing = tuple(frozenset[EventName]() for _ in machines)
        self.settles = any(any(table.always) for table in compiled)
        self.open_pairs: set[tuple[str, int, int]] = set()
        self.resets = bench.firmware.watchdog.mode == "reset"
        self.chance = any(
            isinstance(action, DrawFor) or action.do == "take" for m in machines for _, action in m.actions
        )

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
                if ways := one.machine.on[one.state].get(key):  # type: ignore[arg-type]
                    if len(ways) > 1:
                        self._compare(one, ways)
                    one.fire(key, 0)  # type: ignore[arg-type]
            return
        for one, heard, waiting in zip(self.running, self.heard, self.waiting, strict=True):
            if one.machine.always[one.state]:
                one.settle(0)
            if key is not None:
                self._compare(one, one.machine.on[one.state].get(key, ()))
                one.fire(key, 0)
            if waiting:
                for name, number in heard:
                    if name in waiting:
                        waiting.discard(name)
                        one.fire(number, 0)

    def _compare(self, one: RunningMachine, ways: Sequence[Way]) -> None:
        """Note two ways for one event that are both open, both with guards: an unguarded one is meant for the rest."""
        held = [way for way in ways if way.guards and all(holds(guard, self.host) for guard in way.guards)]
        if len(held) > 1:
            self.open_pairs.add((one.machine.id, held[0].place, held[1].place))

    def _step(self, cause: Cause) -> bool:
        """One cause in the standing that is loaded: whether it can come there."""
        kind, of, which = cause
        host = self.host
        if of in self.contacts and kind in ("press", "release"):
            if (of in host.down) == (kind == "press"):
                return False
            host.down = host.down | {of} if kind == "press" else host.down - {of}
        if of in self.levels and kind in ("above", "below"):
            if (of in host.up) == (kind == "above"):
                return False
            host.up = host.up | {of} if kind == "above" else host.up - {of}
        if kind == "timeout":
            one = self.host.running[of]
            for wait in one.machine.waits[one.state]:
                if wait.way.place == int(which):
                    if one.open_way((wait.way,)) is None:
                        return False
                    one.take(wait.way, 0)
                    one.settle(0)
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
            for one, waiting in zip(self.running, self.waiting, strict=True):
                waiting.clear()
                one.begin(0)
            entered |= host.entered
            begun.append(self._save())
            falls += 1
        origin: dict[Standing, tuple[Standing, Cause] | None] = {}
        # The first pass may find a button held, a level above; and it may be the one after the watchdog bit.
        firsts: list[list[EventName]] = [[("boot", "", "")]]
        if self.resets:
            firsts.append([("boot", "", ""), ("watchdog-reset", "", "")])
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
                for cause, _ in _waits(machine, state, one.machine)
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
            for name in (state.id, state.inside):
                if name is not None:
                    first.setdefault((machine.id, name), standing)
        on = standing[4]
        for pair in pairs:
            if pair not in both and all(on[self.watch.index(output)] for output in pair):
                both[pair] = standing


__all__ = ["BOUND", "NONE", "Cause", "Explored", "explore", "related"]
