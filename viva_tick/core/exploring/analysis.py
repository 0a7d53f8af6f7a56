"""What can be said of a machine before it runs: what exploring it finds, which transitions can be taken at all, where
it is caught, where it goes round by itself."""

from __future__ import annotations

import threading
from collections.abc import Iterator, Set

from ..at_hand import AtHand
from ..document import (
    CAUSE_EVENTS,
    HEARD,
    AlwaysEvent,
    Bench,
    EventName,
    IfContact,
    Machine,
    State,
    TimeoutEvent,
    Transition,
)
from ..document.parts import Encoder, KeyMatrix
from ..machines import RAISED
from ..program import program_of
from .abstract import Cause, Explored
from .explore import explore, looks_at, looks_out, related
from .joint import possible_causes

EDIT_BOUND, FLAT_BOUND = 1_500, 40_000  # standings looked at while an edit waits, one by one and as arrays
_FOUND: AtHand[tuple[str, ...], Explored] = AtHand(200)


def name_of(transition: Transition) -> EventName:
    """The event of a transition as a name; a timeout's is its time."""
    on = transition.on
    if isinstance(on, HEARD):
        return on.name
    return ("timeout", on.variable or "", str(on.after_us)) if isinstance(on, TimeoutEvent) else ("always", "", "")


def hidden_by(machine: Machine, place: int) -> Transition | None:
    """The earlier way of the same state that takes the event whenever this one could; None where there is none."""
    transition = machine.transitions[place]
    name = name_of(transition)
    for earlier in machine.transitions[:place]:
        if earlier.source != transition.source or name_of(earlier) != name:
            continue
        if isinstance(transition.on, TimeoutEvent) and earlier.on != transition.on:
            continue
        if not earlier.guards or earlier.guards == transition.guards:
            return earlier
    return None


def open_transitions(machine: Machine, produced: Set[EventName]) -> list[Transition]:
    """The transitions that can ever be taken: none is hidden by an earlier one, and something gives their event."""
    return [
        transition
        for place, transition in enumerate(machine.transitions)
        if hidden_by(machine, place) is None
        and (not isinstance(transition.on, HEARD) or transition.on.name in produced)
    ]


def transitions_from(machine: Machine, state: State, transitions: list[Transition]) -> list[Transition]:
    """The transitions that lead away from a state: its own, and those of the state around it."""
    return [
        transition
        for transition in transitions
        if transition.source in (state.id, state.parent) and transition.target != state.id
    ]


class _Asked:
    """What has been asked of one very bench, and what the answers depend on."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.found: dict[tuple[tuple[str, ...], tuple[tuple[str, str], ...]], Explored] = {}
        self.produced = frozenset(_produced(bench))
        self.looks = looks_at(bench)
        self.texts = {one.id: one.model_dump_json() for one in bench.firmware.machines}
        self.around = (repr(sorted(self.produced)), *(one.model_dump_json() for one in bench.firmware.variables))


class _Last(threading.local):
    """Each thread's own: two benches may be asked about at once."""

    asked: _Asked | None = None


_LAST = _Last()


def _asked(bench: Bench) -> _Asked:
    last = _LAST.asked
    if last is None or last.bench is not bench:
        last = _LAST.asked = _Asked(bench)
    return last


def explored(bench: Bench, machines: list[Machine], pairs: tuple[tuple[str, str], ...] = ()) -> Explored:
    """The machines, with those it looks at, explored as far as an edit can wait for. What was found is kept for as long
    as nothing that it depends on changes; the rules ask many times of one bench."""
    asked = _asked(bench)
    name = (tuple(one.id for one in machines), pairs)
    if name in asked.found:
        return asked.found[name]
    group = related(bench, machines, asked.looks)
    key = (*(asked.texts[one.id] for one in group), *asked.around, repr(pairs))
    bound = EDIT_BOUND if _looks(group) else FLAT_BOUND
    asked.found[name] = _FOUND.made(key, lambda: explore(program_of(bench), group, pairs, bound, asked.produced))
    return asked.found[name]


def wanted_together(bench: Bench, pair: tuple[str, str]) -> tuple[tuple[Cause, ...], str] | None:
    """The shortest way to both outputs being driven on, and the names of the states that do it; None where none is
    found."""
    group = [machine for machine in bench.firmware.machines if bench.driven_by(machine) & set(pair)]
    if not group:
        return None
    found = explored(bench, group, (pair,)).together.get(pair)
    if found is None:
        return None
    path, states = found
    mine = {machine.id for machine in group}
    named = zip(related(bench, group), states, strict=True)
    return path, " with ".join(machine.state(state).name for machine, state in named if machine.id in mine)


def _looks(machines: list[Machine]) -> bool:
    return any(map(looks_out, machines))


def produced_events(bench: Bench) -> frozenset[EventName]:
    """Of every event that the inputs, machines, variables and the board could give, those that they do give."""
    return _asked(bench).produced


def _produced(bench: Bench) -> Iterator[EventName]:
    parts = {part.id: part for _, part in bench.sensed}
    never = set(CAUSE_EVENTS.values()) - possible_causes(bench)
    if not bench.firmware.watchdog.mode.startswith("interrupt"):
        never.add("watchdog-bark")
    for kind, ident, of in program_of(bench).keys:
        part = parts.get(ident)
        reading = bench.firmware.readings.get(ident)
        if kind in RAISED or kind == "chord" or part is None:
            given = kind not in never
        elif reading is None:
            # Of an encoder that is not read, its push.
            given = isinstance(part, Encoder) and kind not in ("step", "back", "fast", "fast-back")
        elif isinstance(part, KeyMatrix) and reading.kind == "scan":
            given = (kind == "key" and of not in reading.ignored) or (kind in ("code", "wrong") and bool(reading.code))
        elif reading.kind == "measure":
            given = kind != "stays" or bool(reading.stays_us)
        elif reading.kind == "listen" and kind == "outside":
            given = reading.outside == "told"
        else:
            given = reading.kind != "listen" or kind == "number" or of in reading.names
        if given:
            yield kind, ident, of


def left_on(bench: Bench, machine: Machine, output: str) -> list[str]:
    """States in which a drive leaves the output on for as long as the state stands, and nothing but an event of an
    input ends it: no time leads out."""
    timed = {transition.source for transition in machine.transitions if not isinstance(transition.on, HEARD)}
    stay = []
    for state in machine.states:
        drive = bench.drive_in(state, output)
        if drive is not None and drive.lasting and not {state.id, state.parent} & timed:
            stay.append(state.id)
    return stay


def rounds(machine: Machine) -> list[tuple[Transition, ...]]:
    """Transitions without an event that lead back to where they began, with nothing on the way that could end it."""
    always = [transition for transition in machine.transitions if isinstance(transition.on, AlwaysEvent)]
    after: dict[str, set[str]] = {}
    for transition in always:
        after.setdefault(transition.source, set()).add(machine.opening(transition.target))
    if not any(ident in _reached_from(ident, after) for ident in after):
        return []
    import networkx as nx  # here, for it takes long to load and few machines go round so

    graph = nx.MultiDiGraph()
    for number, transition in enumerate(always):
        graph.add_edge(transition.source, machine.opening(transition.target), key=number)
    place = {state.id: number for number, state in enumerate(machine.states)}

    def from_the_first(row: list[str]) -> list[str]:
        """A circle from its first state in the list on; which it is found from is chance."""
        begin = row.index(min(row, key=place.__getitem__))
        return row[begin:] + row[:begin]

    found = []
    for row in sorted(map(from_the_first, nx.simple_cycles(graph)), key=lambda row: [place[one] for one in row]):
        edges = [graph.get_edge_data(one, other) for one, other in zip(row, [*row[1:], row[0]], strict=True)]
        transitions = tuple(always[min(edge)] for edge in edges)
        states = [machine.state(transition.target) for transition in transitions]
        changes = any(transition.actions for transition in transitions) or any(
            state.entry or state.exit for state in states
        )
        if not changes and not _contradict(transitions):
            found.append(transitions)
    return found


def _contradict(transitions: tuple[Transition, ...]) -> bool:
    """Whether two of the transitions ask for the opposite, so that they cannot follow each other at once."""
    seen: dict[str, bool] = {}
    for transition in transitions:
        for guard in transition.guards:
            if isinstance(guard, IfContact):
                if seen.setdefault(guard.input, guard.pressed) != guard.pressed:
                    return True
            else:
                return True  # a level, a state or a number: it may well change
    return False


def traps(machine: Machine, transitions: list[Transition]) -> list[frozenset[str]]:
    """Sets of two states or more that lead to each other and to nothing else, though the machine has others beside the
    one that it begins in."""
    leaves = machine.leaves
    after: dict[str, set[str]] = {state.id: set() for state in leaves}
    for state in leaves:
        for transition in transitions_from(machine, state, transitions):
            after[state.id].add(machine.opening(transition.target))
            if machine.insides(transition.target) and machine.state(transition.target).remembers:
                after[state.id] |= {inside.id for inside in machine.insides(transition.target)}
    reached = {ident: _reached_from(ident, after) for ident in after}
    begin = machine.opening(machine.initial)
    known = reached[begin] - {begin}
    # What a state leads to is a trap if each of that leads back to all of it.
    ends = (frozenset(there) for ident, there in reached.items() if ident in known and ident in there)
    return [
        end
        for end in dict.fromkeys(ends)
        if 1 < len(end) < len(known) and end <= known and all(reached[one] == end for one in end)
    ]


def _reached_from(ident: str, after: dict[str, set[str]]) -> set[str]:
    """The states that one leads to, in one step or more."""
    found: set[str] = set()
    left = list(after.get(ident, ()))
    while left:
        one = left.pop()
        if one not in found:
            found.add(one)
            left += after.get(one, ())
    return found
