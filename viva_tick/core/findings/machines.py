"""What exploring the machines gives away before anything runs."""

from __future__ import annotations

from collections.abc import Iterator

from ..cautions import hurts, is_hard, load_words
from ..document import (
    HEARD,
    Bench,
    ExpectState,
    IfIn,
    Machine,
    pointer,
)
from ..exploring.analysis import (
    explored,
    left_on,
    open_transitions,
    produced_events,
    transitions_from,
    traps,
    wanted_together,
)
from ..units import ms
from .finding import Evidence, Finding, Patch, Severity
from .machine_words import machine_at, row_words
from .mends import longest_on


def _without(number: int, machine: Machine, state: str) -> Patch:
    """The patch that takes a state out, with every transition to it and from it."""
    gone = [n for n, transition in enumerate(machine.transitions) if state in (transition.source, transition.target)]
    place = next(n for n, one in enumerate(machine.states) if one.id == state)
    removals = [{"op": "remove", "path": machine_at(number, "transitions", n)} for n in reversed(gone)]
    return (*removals, {"op": "remove", "path": machine_at(number, "states", place)})


def _looked_at(bench: Bench) -> set[tuple[str, str]]:
    """(machine, state) of those that another state or machine names, so that they cannot simply be taken out."""
    machines = bench.firmware.machines
    transitions = [transition for one in machines for transition in one.transitions]
    found = {
        (guard.machine, guard.state)
        for transition in transitions
        for guard in transition.guards
        if isinstance(guard, IfIn)
    }
    heard = {transition.on.name for transition in transitions if isinstance(transition.on, HEARD)}
    found |= {(of, which) for kind, of, which in heard if kind in ("entered", "left")}
    expected = [one for scenario in bench.scenarios for one in scenario.expects]
    found |= {(one.machine, one.state) for one in expected if isinstance(one, ExpectState)}
    nested = [(one.id, name) for one in machines for state in one.states for name in (state.parent, state.starts_in)]
    return found | {(ident, name) for ident, name in nested if name}


def unreachable(evidence: Evidence) -> Iterator[Finding]:
    """States that no row of events leads to; or, where there are too many to look at, a note that says so."""
    bench = evidence.bench
    looked_at = _looked_at(bench)
    for number, machine in enumerate(bench.firmware.machines):
        found = explored(bench, [machine])
        there = [state for state in machine.states if (machine.id, state.id) in found.paths]
        lost = [state for state in machine.states if state not in there]
        if lost and not found.whole:
            yield Finding(
                code="behave.bound",
                severity=Severity.NOTE,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: not looked at to the end",
                sentence=f"After {found.standings:,} combinations of states and values "
                f"{', '.join(state.name for state in lost[:3])} had not been reached. `viva-tick reach` looks further.",
                numbers=(("combinations", f"{found.standings:,}"),),
                pointer=machine_at(number),
            )
            continue
        for state in lost:
            place = machine.states.index(state)
            to_it = [
                transition
                for transition in machine.transitions
                if transition.target == state.id and transition.source != state.id
            ]
            why = "No transition leads to it." if not to_it else "The only transitions to it are never open."
            free = (machine.id, state.id) not in looked_at
            yield Finding(
                code="behave.unreachable",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: {state.name} is never reached",
                sentence=f"{why} From {machine.state(machine.initial).name} "
                f"{len(there)} of {len(machine.states)} states can be reached.",
                numbers=(("reached", f"{len(there)} of {len(machine.states)}"),),
                pointer=machine_at(number, "states", place),
                patch=_without(number, machine, state.id) if free else (),
                mend=f"Remove {state.name}" if free else "",
            )


def dead_end(evidence: Evidence) -> Iterator[Finding]:
    """A state that is reached and never left, in a machine that has others; a set of states that is a trap."""
    bench = evidence.bench
    produced = produced_events(bench)
    for number, machine in enumerate(bench.firmware.machines):
        if len(machine.leaves) < 2:
            continue
        possible = open_transitions(machine, produced)
        paths = explored(bench, [machine]).paths
        for place, state in enumerate(machine.states):
            path = paths.get((machine.id, state.id))
            if state not in machine.leaves or path is None or transitions_from(machine, state, possible):
                continue
            yield Finding(
                code="behave.dead-end",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: {state.name} is never left",
                sentence="Once there it stays there until the power goes. The shortest way in: "
                f"{row_words(bench, path)}.",
                numbers=(("events to get there", str(len(path))),),
                pointer=machine_at(number, "states", place),
                play=path,
            )
        for caught in traps(machine, possible):
            places = [place for place, state in enumerate(machine.states) if state.id in caught]
            path = min((paths[machine.id, one] for one in caught if (machine.id, one) in paths), key=len, default=None)
            if path is None:
                continue
            names = ", ".join(machine.states[place].name for place in places)
            yield Finding(
                code="behave.trap",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: no way back from {machine.states[places[0]].name}",
                sentence=f"{names} lead to each other and to nothing else. The shortest way in: "
                f"{row_words(bench, path)}.",
                numbers=(("states that hold it", str(len(caught))), ("of", str(len(machine.leaves)))),
                pointer=machine_at(number, "states", places[0]),
                play=path,
            )


def interlocks(evidence: Evidence) -> Iterator[Finding]:
    """Machines ask for both sides of an interlock; it holds one of them off."""
    bench = evidence.bench
    for number, lock in enumerate(bench.firmware.interlocks):
        found = wanted_together(bench, (lock.one, lock.other))
        if found is None:
            continue
        path, states = found
        one, other = bench.channel(lock.one).name, bench.channel(lock.other).name
        yield Finding(
            code="behave.interlock",
            severity=Severity.LOOK,
            station="behave",
            part=lock.one,
            title=f"{one} and {other} are both asked for",
            sentence=f"{states} wants both on; the interlock holds the second one off until the first is done. "
            f"The shortest way there: {row_words(bench, path)}.",
            numbers=(("both asked for in", states), ("dead time", ms(lock.dead_us))),
            pointer=pointer("firmware", "interlocks", number),
            play=path,
        )


def nobody(evidence: Evidence) -> Iterator[Finding]:
    """A machine waits for an event that nothing gives: an input that is not read, a key that is let pass, a command
    without a number."""
    bench = evidence.bench
    produced = produced_events(bench)
    for number, machine in enumerate(bench.firmware.machines):
        for place, transition in enumerate(machine.transitions):
            if not isinstance(transition.on, HEARD) or transition.on.name in produced:
                continue
            name = next((part.name for part in bench.parts if part.id == transition.on.input), "the board")
            read = transition.on.input in bench.firmware.readings or not transition.on.input
            yield Finding(
                code="behave.nobody",
                severity=Severity.MUST,
                station="behave",
                part=machine.id,
                title=f"{machine.name} waits for what never comes",
                sentence=f"In {machine.state(transition.source).name} it waits for "
                + f"{transition.on.kind} {transition.on.of}".rstrip()
                + (f" of {name}, which gives no such thing." if read else f" of {name}, which is not read."),
                numbers=((name, "read" if read else "not read"),),
                pointer=machine_at(number, "transitions", place, "on"),
            )


def for_ever(evidence: Evidence) -> Iterator[Finding]:
    """Hazardous outputs is on in a state that no time ends, and has no longest time of its own."""
    bench = evidence.bench
    for number, machine in enumerate(bench.firmware.machines):
        for channel in bench.channels:
            if not hurts(channel) or channel.id in bench.firmware.limits:
                continue
            paths = explored(bench, [machine]).paths
            for state_id in left_on(bench, machine, channel.id):
                path = paths.get((machine.id, state_id))
                if path is None:
                    continue
                place = next(n for n, one in enumerate(machine.states) if one.id == state_id)
                yield Finding(
                    code="behave.for-ever",
                    severity=Severity.MUST if is_hard(channel) else Severity.LOOK,
                    station="behave",
                    part=machine.id,
                    title=f"{channel.name} can stay on for ever",
                    sentence=f"In {machine.states[place].name} it is on, and only an input ends that: a wire "
                    "that comes off leaves it on. Give it a longest time.",
                    numbers=(("load", load_words(channel.loads)), ("longest on", "no limit")),
                    pointer=machine_at(number, "states", place),
                    asks=longest_on(channel),
                    play=path,
                )
