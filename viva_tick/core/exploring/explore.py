"""Every combination of states that a number of machines can be in, by the fewest events.

Every event is taken to be able to come in any state, alone; a time may pass in any state, before anything else comes; a
drive that goes on and off counts as on; chance may fall on the first eight numbers of its range. What is found is a way
through the machines, not a promise that a hand will ever take it. Machines that look at nothing but themselves are
explored as arrays (a frontier at a time); others one standing after another.
"""

from __future__ import annotations

import re
from collections.abc import Sequence, Set

from ..document import (
    HEARD,
    AlwaysEvent,
    Bench,
    EventName,
    IfIn,
    IfRange,
    IfVariable,
    Listen,
    Machine,
    TimeoutEvent,
    VariableEvent,
)
from ..machines import RAISED
from ..program import Program
from .abstract import Cause, Explored, Report, Wish
from .flat import Flat
from .joint import JointExploration, looked_at

BOUND = 200_000  # standings; fewer where an edit waits for it


LARGEST = 4_000_000  # the largest product that is laid out as an array


def looks_out(machine: Machine) -> bool:
    """Whether what a machine does depends on anything but its own state and the event."""
    return (
        any(state.remembers for state in machine.states)
        or any(transition.guards or isinstance(transition.on, AlwaysEvent) for transition in machine.transitions)
        or any(isinstance(transition.on, HEARD) and transition.on.kind in RAISED for transition in machine.transitions)
        or any(isinstance(transition.on, TimeoutEvent) and transition.on.variable for transition in machine.transitions)
    )


def looks_at(bench: Bench) -> dict[str, set[str]]:
    """By machine, the others whose states and variables it looks at."""
    machines = bench.firmware.machines
    writes = {m.id: {getattr(action, "variable", "") for _, action in m.actions} for m in machines}
    looks: dict[str, set[str]] = {}
    for m in machines:
        named, values = set(), set()
        for transition in m.transitions:
            for guard in transition.guards:
                if isinstance(guard, IfIn):
                    named.add(guard.machine)
                elif isinstance(guard, IfVariable | IfRange):
                    values |= {guard.variable, getattr(guard, "other", None)}
            if isinstance(transition.on, VariableEvent):
                values.add(transition.on.variable)
            elif isinstance(transition.on, HEARD) and transition.on.kind in ("entered", "left"):
                named.add(transition.on.input)
        values |= {action.other for _, action in m.actions if action.do == "copy"}
        looks[m.id] = (named | {other for other, written in writes.items() if written & values}) - {m.id}
    return looks


def related(bench: Bench, first: Sequence[Machine], looks: dict[str, set[str]] | None = None) -> list[Machine]:
    """The machines, and those whose states and variables they look at, over however many others; `looks`: who looks at
    whom, where that is known."""
    looks = looks_at(bench) if looks is None else looks
    wanted, queue = {m.id for m in first}, [m.id for m in first]
    while queue:
        for other in looks[queue.pop()] - wanted:
            wanted.add(other)
            queue.append(other)
    return [m for m in bench.firmware.machines if m.id in wanted]


def explore(
    program: Program,
    machines: Sequence[Machine],
    pairs: Sequence[tuple[str, str]] = (),
    bound: int = BOUND,
    events: Set[EventName] | None = None,
    report: Report | None = None,
) -> Explored:
    """Explore machines of a program side by side. `pairs` of outputs are watched for being on together; `events`: what
    can come at all (everything that the machines listen to, if it is not given)."""
    watch = list(dict.fromkeys(output for pair in pairs for output in pair))
    heard = {transition.on.name for m in machines for transition in m.transitions if isinstance(transition.on, HEARD)}
    # An end of a drive comes with time, as a timeout does: it is taken to come whenever it is listened for.
    outside = [name for name in heard if name[0] not in RAISED or name[0] in ("ended", "watchdog-bark", "taken")]
    causes: list[Cause] = sorted(name for name in outside if events is None or name in events)
    causes = _numbered(program, machines, causes)
    wish = Wish(program, machines, causes, watch)
    size = 1
    for machine in machines:
        size *= len(machine.states)
    if not any(map(looks_out, machines)) and size << len(watch) <= LARGEST:
        return Flat(wish).explore(pairs, bound, report)
    return JointExploration(wish).explore(pairs, bound, report)


def _numbered(program: Program, machines: Sequence[Machine], causes: list[Cause]) -> list[Cause]:
    """Numbers that arrive for a variable that is looked at: one cause for each that can make a difference."""
    looked = looked_at(machines)
    for ident, reading in program.bench.firmware.readings.items():
        if isinstance(reading, Listen) and reading.into in looked:
            text = "".join(machine.model_dump_json() for machine in machines)
            named = {int(number) for number in re.findall(r'"(?:number|value|least|most)":(-?\d+)', text)}
            near = {number + more for number in named for more in (-1, 0, 1)} | {reading.least, reading.most}
            values = sorted(number for number in near if reading.least <= number <= reading.most)
            causes = [one for one in causes if one != ("number", ident, "")]
            causes += [("number", ident, str(value)) for value in values]
    return causes


__all__ = ["BOUND", "Cause", "Explored", "explore", "looks_out", "related"]
