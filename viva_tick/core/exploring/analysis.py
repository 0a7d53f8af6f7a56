"""What can be said of a machine before it runs: what exploring it finds, which ways can be taken at all, where it is
caught, where it goes round by itself."""

from __future__ import annotations

import threading

from ..at_hand import AtHand
from ..document import (
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
from .explore import explore, looks_out, related

EDIT_BOUND, FLAT_BOUND = 1_500, 40_000  # standings looked at while an edit waits, one by one and as arrays
_FOUND: AtHand[tuple[str, ...], Explored] = AtHand(200)


def name_of(transition: Transition) -> EventName:
    """The event of a way as a name; a timeout's is its time."""
    on = transition.on
    if isinstance(on, HEARD):
        return on.name
    return ("timeout", on.variable or "", str(on.after_us)) if isinstance(on, TimeoutEvent) else ("always", "", "")


def hidden_by(machine: Machine, place: int) -> Transition | None:
    """The earlier way of the same state that takes the event whenever this one could; None where there is none."""
    way = machine.transitions[place]
    name = name_of(way)
    for earlier in machine.transitions[:place]:
        if earlier.source != way.source or name_of(earlier) != name:
            continue
        if isinstance(way.on, TimeoutEvent) and earlier.on != way.on:
            continue
        if not earlier.guards or earlier.guards == way.guards:
            return earlier
    return None


def open_ways(machine: Machine, produced: set[EventName]) -> list[Transition]:
    """The ways that can ever be taken: none is hidden by an earlier one, and something gives their event."""
    return [
        way
        for place, way in enumerate(machine.transitions)
        if hidden_by(machine, place) is None and (not isinstance(way.on, HEARD) or way.on.name in produced)
    ]


def ways_from(machine: Machine, state: State, ways: list[Transition]) -> list[Transition]:
    """The ways that lead away from a state: its own, and those of the state around it."""
    return [way for way in ways if way.source in (state.id, state.inside) and way.target != state.id]


class _Asked:
    """What has been asked of one very bench, and what the answers depend on."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.found: dict[tuple[tuple[str, ...], tuple[tuple[str, str], ...]], Explored] = {}
        self.produced = produced_events(bench)
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
    group = related(bench, machines)
    key = (*(asked.texts[one.id] for one in group), *asked.around, repr(pairs))
    bound = EDIT_BOUND if _looks(group) else FLAT_BOUND
    asked.found[name] = _FOUND.made(key, lambda: explore(program_of(bench), group, pairs, bound, asked.produced))
    return asked.found[name]


def wanted_together(bench: Bench, pair: tuple[str, str]) -> tuple[tuple[Cause, ...], str] | None:
    """The shortest way to both outputs being driven on, and the names of the states that do it; None where none is
    found."""
    group = [machine for machine in bench.firmware.machines if machine.driven & set(pair)]
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


def produced_events(bench: Bench) -> set[EventName]:
    """Of every event that the inputs, machines, variables and the board could give, those that they do give."""
    found: set[EventName] = set()
    parts = {part.id: part for _, part in bench.sensed}
    for kind, ident, of in program_of(bench).keys:
        part = parts.get(ident)
        reading = bench.firmware.readings.get(ident)
        if kind in RAISED or kind == "chord" or part is None:
            if kind != "watchdog-reset" or bench.firmware.watchdog.resets:
                found.add((kind, ident, of))
        elif reading is None:
            if isinstance(part, Encoder) and kind not in ("step", "back", "fast", "fast-back"):
                found.add((kind, ident, of))  # its push
        elif isinstance(part, KeyMatrix) and reading.kind == "scan":
            if (kind == "key" and of not in reading.ignored) or (kind in ("code", "wrong") and reading.code):
                found.add((kind, ident, of))
        elif reading.kind == "measure":
            if kind != "stays" or reading.stays_us:
                found.add((kind, ident, of))
        elif reading.kind != "listen" or of in reading.names:
            found.add((kind, ident, of))
    return found


def left_on(machine: Machine, output: str) -> list[str]:
    """States in which a drive leaves the output on for as long as the state stands, and nothing but an event of an
    input ends it: no time leads out."""
    timed = {way.source for way in machine.transitions if not isinstance(way.on, HEARD)}
    stay = []
    for state in machine.states:
        drive = state.drives.get(output)
        if drive is not None and drive.lasting and not {state.id, state.inside} & timed:
            stay.append(state.id)
    return stay


def rounds(machine: Machine) -> list[tuple[Transition, ...]]:
    """Ways that wait for nothing and lead back to where they began, with nothing on the way that could end it."""
    import networkx as nx  # here, for it takes long to load and few machines have such ways

    always = [way for way in machine.transitions if isinstance(way.on, AlwaysEvent)]
    if not always:
        return []
    graph = nx.MultiDiGraph()
    for number, way in enumerate(always):
        graph.add_edge(way.source, machine.opening(way.target), key=number)
    place = {state.id: number for number, state in enumerate(machine.states)}

    def from_the_first(row: list[str]) -> list[str]:
        """A circle from its first state in the list on; which it is found from is chance."""
        begin = row.index(min(row, key=place.__getitem__))
        return row[begin:] + row[:begin]

    found = []
    for row in sorted(map(from_the_first, nx.simple_cycles(graph)), key=lambda row: [place[one] for one in row]):
        edges = [graph.get_edge_data(one, other) for one, other in zip(row, [*row[1:], row[0]], strict=True)]
        ways = tuple(always[min(edge)] for edge in edges)
        states = [machine.state(way.target) for way in ways]
        changes = any(way.actions for way in ways) or any(state.entry or state.exit for state in states)
        if not changes and not _contradict(ways):
            found.append(ways)
    return found


def _contradict(ways: tuple[Transition, ...]) -> bool:
    """Whether two of the ways ask for the opposite, so that they cannot follow each other at once."""
    seen: dict[str, bool] = {}
    for way in ways:
        for guard in way.guards:
            if isinstance(guard, IfContact):
                if seen.setdefault(guard.input, guard.pressed) != guard.pressed:
                    return True
            else:
                return True  # a level, a state or a number: it may well change
    return False


def traps(machine: Machine, ways: list[Transition]) -> list[frozenset[str]]:
    """Sets of two states or more that lead to each other and to nothing else, though the machine has others beside the
    one that it begins in."""
    import networkx as nx

    graph = nx.DiGraph()
    leaves = machine.leaves
    graph.add_nodes_from(state.id for state in leaves)
    for state in leaves:
        for way in ways_from(machine, state, ways):
            graph.add_edge(state.id, machine.opening(way.target))
            if machine.insides(way.target) and machine.state(way.target).remembers:
                graph.add_edges_from((state.id, inside.id) for inside in machine.insides(way.target))
    reach = nx.descendants(graph, machine.opening(machine.initial))
    return [
        frozenset(part)
        for part in nx.strongly_connected_components(graph)
        if 1 < len(part) < len(reach)
        and part <= reach
        and all(to in part for one in part for to in graph.successors(one))
    ]
