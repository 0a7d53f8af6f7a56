"""What the machines give away before anything runs."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ..document import (
    HEARD,
    Bench,
    ContactEvent,
    EventName,
    ExpectState,
    IfContact,
    IfIn,
    IfRange,
    IfVariable,
    Machine,
    TimeoutEvent,
    Transition,
    Variable,
    VariableEvent,
    pointer,
)
from ..machines import Cause
from ..machines.analysis import (
    explored,
    hidden_by,
    left_on,
    open_ways,
    produced_events,
    rounds,
    traps,
    wanted_together,
    ways_from,
)
from ..units import ms
from .finding import Case, Finding, Patch, Severity

SAID = {
    "press": "press",
    "release": "let go of",
    "click": "click",
    "double": "click twice",
    "triple": "click three times",
    "hold": "hold",
    "repeat": "hold on to",
    "long-release": "let go of, after a hold,",
    "step": "turn",
    "back": "turn back",
    "fast": "turn fast",
    "fast-back": "turn back fast",
    "stays": "leave within the band",
    "code": "key in the code of",
    "wrong": "key in a wrong code of",
    "boot": "start the board",
    "watchdog-reset": "let the watchdog bite",
    "above": "raise",
    "below": "lower",
    "key": "key",
    "command": "command",
    "chord": "press together",
}


def event_words(bench: Bench, name: EventName) -> str:
    """An event as something to do: “press Foot pedal”."""
    kind, ident, which = name
    machines = {machine.id: machine for machine in bench.firmware.machines}
    if kind in ("entered", "left"):
        machine = machines[ident]
        return f"{machine.name} {'enters' if kind == 'entered' else 'leaves'} {machine.state(which).name}"
    if kind == "reached":
        named = {one.id: one.name for one in bench.firmware.variables}
        return f"{named.get(ident, ident)} reaches {which}"
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}
    of = names.get(which, which) if kind == "chord" else which
    return " ".join(filter(None, (SAID[kind], names.get(ident, ident), of)))


def in_words(bench: Bench, way: Transition) -> str:
    """One way as something to do: “press Foot pedal”, “wait 1.2 s”."""
    on = way.on
    if isinstance(on, HEARD):
        return event_words(bench, on.name)
    if not isinstance(on, TimeoutEvent):
        return "go on"
    if on.variable is not None:
        named = {one.id: one.name for one in bench.firmware.variables}
        return f"wait {named.get(on.variable, on.variable)} × {ms(on.unit_us)}"
    return f"wait {ms(on.after_us)}" + (f" to {ms(on.until_us)}" if on.until_us else "")


def row_words(bench: Bench, causes: Iterable[Cause]) -> str:
    """A row of causes in words."""
    said = []
    for cause in causes:
        if cause[0] == "timeout":
            machine = next(one for one in bench.firmware.machines if one.id == cause[1])
            said.append(in_words(bench, machine.transitions[int(cause[2])]))
        else:
            said.append(event_words(bench, cause))
    return ", ".join(said) or "as it begins"


def _at(number: int, *steps: str | int) -> str:
    return pointer("firmware", "machines", number, *steps)


def _without(number: int, machine: Machine, state: str) -> Patch:
    """The patch that takes a state out, with every way to it and from it."""
    gone = [n for n, way in enumerate(machine.transitions) if state in (way.source, way.target)]
    place = next(n for n, one in enumerate(machine.states) if one.id == state)
    removals = [{"op": "remove", "path": _at(number, "transitions", n)} for n in reversed(gone)]
    return (*removals, {"op": "remove", "path": _at(number, "states", place)})


def _looked_at(bench: Bench, machine: Machine, state: str) -> bool:
    """Whether another state or machine names this one, so that it cannot simply be taken out."""
    guards = [guard for one in bench.firmware.machines for way in one.transitions for guard in way.guards]
    if any(isinstance(guard, IfIn) and (guard.machine, guard.state) == (machine.id, state) for guard in guards):
        return True
    heard = {way.on.name for one in bench.firmware.machines for way in one.transitions if isinstance(way.on, HEARD)}
    expected = any(
        isinstance(one, ExpectState) and (one.machine, one.state) == (machine.id, state)
        for scenario in bench.scenarios
        for one in scenario.expects
    )
    nested = any(state in (one.inside, one.opens) for one in machine.states)
    return expected or nested or bool(heard & {("entered", machine.id, state), ("left", machine.id, state)})


def unreachable(case: Case) -> Iterator[Finding]:
    """States that no row of events leads to; or, where there are too many to look at, a note that says so."""
    bench = case.bench
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
                pointer=_at(number),
            )
            continue
        for state in lost:
            place = machine.states.index(state)
            to_it = [way for way in machine.transitions if way.target == state.id and way.source != state.id]
            why = "No way leads to it." if not to_it else "The only ways to it are never open."
            free = not _looked_at(bench, machine, state.id)
            yield Finding(
                code="behave.unreachable",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: {state.name} is never reached",
                sentence=f"{why} From {machine.state(machine.initial).name} "
                f"{len(there)} of {len(machine.states)} states can be reached.",
                numbers=(("reached", f"{len(there)} of {len(machine.states)}"),),
                pointer=_at(number, "states", place),
                patch=_without(number, machine, state.id) if free else (),
                mend=f"Take {state.name} out" if free else "",
            )


def dead_end(case: Case) -> Iterator[Finding]:
    """A state that is reached and never left, in a machine that has others; a set of states that is a trap."""
    bench = case.bench
    produced = produced_events(bench)
    for number, machine in enumerate(bench.firmware.machines):
        if len(machine.leaves) < 2:
            continue
        possible = open_ways(machine, produced)
        paths = explored(bench, [machine]).paths
        for place, state in enumerate(machine.states):
            path = paths.get((machine.id, state.id))
            if state not in machine.leaves or path is None or ways_from(machine, state, possible):
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
                pointer=_at(number, "states", place),
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
                pointer=_at(number, "states", places[0]),
                play=path,
            )


def second_way(case: Case) -> Iterator[Finding]:
    """Two ways for one event from one state: the lower one is never taken."""
    bench = case.bench
    for number, machine in enumerate(bench.firmware.machines):
        for place, way in enumerate(machine.transitions):
            first = hidden_by(machine, place)
            if first is None:
                continue
            yield Finding(
                code="behave.second-way",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: two ways for one event",
                sentence=f"In {machine.state(way.source).name}, {in_words(case.bench, way)} leads to "
                f"{machine.state(first.target).name}; the way to {machine.state(way.target).name} is never taken.",
                numbers=(("taken", machine.state(first.target).name), ("never", machine.state(way.target).name)),
                pointer=_at(number, "transitions", place),
                patch=({"op": "remove", "path": _at(number, "transitions", place)},),
                mend="Take the lower one out",
                play=explored(bench, [machine]).paths.get((machine.id, way.source)),
            )


def both_open(case: Case) -> Iterator[Finding]:
    """Two guarded ways for one event are open at once somewhere that can be reached: the upper one is taken."""
    bench = case.bench
    for number, machine in enumerate(bench.firmware.machines):
        for (ident, upper, lower), path in explored(bench, [machine]).both_open.items():
            if ident != machine.id:
                continue
            ways = machine.transitions
            to = [machine.state(ways[place].target).name for place in (upper, lower)]
            yield Finding(
                code="behave.both-open",
                severity=Severity.NOTE,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: two guarded ways are open at once",
                sentence=f"In {machine.state(ways[upper].source).name}, {in_words(bench, ways[upper])} leads to "
                f"{to[0]} and could lead to {to[1]}; the upper one counts. The shortest way there: "
                f"{row_words(bench, path)}.",
                numbers=(("taken", to[0]), ("also open", to[1])),
                pointer=_at(number, "transitions", lower, "guards"),
                play=path,
            )


def goes_round(case: Case) -> Iterator[Finding]:
    """Ways that wait for nothing lead in a circle; where a button's level leads them, it toggles on the level."""
    bench = case.bench
    for number, machine in enumerate(bench.firmware.machines):
        for row in rounds(machine):
            looked = [guard for way in row for guard in way.guards if isinstance(guard, IfContact)]
            place = machine.transitions.index(row[0])
            names = ", ".join(machine.state(way.source).name for way in row)
            if looked and len(row) == 2:
                name = bench.contact(looked[0].input).name
                kind = "press" if looked[0].pressed else "release"
                patch: Patch = tuple(
                    one
                    for way in row
                    for at in (_at(number, "transitions", machine.transitions.index(way)),)
                    for one in (
                        {"op": "replace", "path": f"{at}/on", "value": {"kind": kind, "input": looked[0].input}},
                        {"op": "replace", "path": f"{at}/guards", "value": []},
                    )
                )
                yield Finding(
                    code="behave.level-toggle",
                    severity=Severity.MUST,
                    station="behave",
                    part=machine.id,
                    title=f"{machine.name} toggles on the level, not on the edge",
                    sentence=f"While {name} is {'held' if looked[0].pressed else 'let go'}, it goes to and fro between "
                    f"{names} in every pass; where it stops is chance. Take the {kind} itself.",
                    numbers=(("turns over", "up to 8 times a pass"),),
                    pointer=_at(number, "transitions", place),
                    patch=patch,
                    mend=f"Toggle on the {kind}",
                    play=explored(bench, [machine]).paths.get((machine.id, row[0].source)),
                )
            else:
                yield Finding(
                    code="behave.loop",
                    severity=Severity.LOOK if any(way.guards for way in row) else Severity.MUST,
                    station="behave",
                    part=machine.id,
                    title=f"{machine.name} goes round by itself",
                    sentence=f"Through {names} lead ways that wait for nothing, in a circle; after eight in a row it "
                    "stops wherever it is, pass after pass.",
                    numbers=(("ways in the circle", str(len(row))),),
                    pointer=_at(number, "transitions", place),
                    play=explored(bench, [machine]).paths.get((machine.id, row[0].source)),
                )


def out_of_range(case: Case) -> Iterator[Finding]:
    """A number that a variable can never have: set, drawn, waited for, or asked about."""
    bench = case.bench
    variables = {one.id: one for one in bench.firmware.variables}

    def said(number: int, machine: Machine, steps: tuple[str | int, ...], ident: str, what: str) -> Finding:
        one = variables[ident]
        return Finding(
            code="behave.out-of-range",
            severity=Severity.LOOK,
            station="behave",
            part=machine.id,
            title=f"{machine.name}: {what} is outside {one.name}",
            sentence=f"{one.name} goes from {one.least} to {one.most} and {'wraps' if one.ends == 'wrap' else 'stops'} "
            f"there; {what} is never its value.",
            numbers=(("range", f"{one.least} to {one.most}"),),
            pointer=_at(number, *steps),
        )

    for number, machine in enumerate(bench.firmware.machines):
        for steps, action in machine.actions:
            values = {"set": ["number"], "draw": ["least", "most"]}.get(action.do, [])
            for field in values:
                value = getattr(action, field)
                ident = getattr(action, "variable", "")
                if not variables[ident].least <= value <= variables[ident].most:
                    yield said(number, machine, (*steps, field), ident, str(value))
        for place, way in enumerate(machine.transitions):
            if isinstance(way.on, VariableEvent):
                one = variables[way.on.variable]
                if not one.least <= way.on.value <= one.most:
                    yield said(number, machine, ("transitions", place, "on", "value"), one.id, str(way.on.value))
            for index, guard in enumerate(way.guards):
                steps = ("transitions", place, "guards", index)
                if isinstance(guard, IfVariable) and guard.other is None:
                    one = variables[guard.variable]
                    if never(one, guard):
                        yield said(number, machine, steps, one.id, f"{guard.sign} {guard.number}")
                elif isinstance(guard, IfRange) and guard.inside:
                    one = variables[guard.variable]
                    if guard.most < one.least or guard.least > one.most:
                        yield said(number, machine, steps, one.id, f"{guard.least} to {guard.most}")


def never(one: Variable, guard: IfVariable) -> bool:
    """Whether a variable can never be as a guard asks."""
    least, most, number = one.least, one.most, guard.number
    return {
        "<": least >= number,
        "<=": least > number,
        "=": not least <= number <= most,
        "!=": least == most == number,
        ">=": most < number,
        ">": most <= number,
    }[guard.sign]


def interlocks(case: Case) -> Iterator[Finding]:
    """Machines ask for both sides of an interlock; it holds one of them off."""
    bench = case.bench
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


def nobody(case: Case) -> Iterator[Finding]:
    """A machine waits for an event that nothing gives: an input that is not read, a key that is let pass, a command
    without a number."""
    bench = case.bench
    produced = produced_events(bench)
    for number, machine in enumerate(bench.firmware.machines):
        for place, way in enumerate(machine.transitions):
            if not isinstance(way.on, HEARD) or way.on.name in produced:
                continue
            name = next((part.name for part in bench.parts if part.id == way.on.input), "the board")
            read = way.on.input in bench.firmware.readings or not way.on.input
            yield Finding(
                code="behave.nobody",
                severity=Severity.MUST,
                station="behave",
                part=machine.id,
                title=f"{machine.name} waits for what never comes",
                sentence=f"In {machine.state(way.source).name} it waits for {way.on.kind} {way.on.of}".rstrip()
                + (f" of {name}, which gives no such thing." if read else f" of {name}, which is not read."),
                numbers=((name, "read" if read else "not read"),),
                pointer=_at(number, "transitions", place, "on"),
            )


def _seen_from(bench: Bench, machine: Machine, state: str, cause: Cause) -> tuple[Cause, ...] | None:
    """The shortest row of events to a state, and one more; None where it is not reached."""
    path = explored(bench, [machine]).paths.get((machine.id, state))
    return None if path is None else (*path, cause)


def conflict(case: Case) -> Iterator[Finding]:
    """In one state a press leads somewhere, and so does a click or a hold of the same contact: the press is first."""
    bench = case.bench
    for number, machine in enumerate(bench.firmware.machines):
        for place, way in enumerate(machine.transitions):
            on = way.on
            if not isinstance(on, ContactEvent) or on.kind in ("press", "release"):
                continue
            sooner = [
                one
                for one in machine.transitions
                if isinstance(one.on, ContactEvent)
                and (one.source, one.on.input, one.on.kind) == (way.source, on.input, "press")
            ]
            if not sooner:
                continue
            name = bench.contact(on.input).name
            index = next(n for n, one in enumerate(machine.transitions) if one is sooner[0])
            yield Finding(
                code="behave.press-first",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: the press comes before the {on.kind}",
                sentence=f"In {machine.state(way.source).name} a press of {name} leads away at once, so its {on.kind} "
                "is never waited for there. Take the click instead of the press.",
                numbers=(("press leads to", machine.state(sooner[0].target).name),),
                pointer=_at(number, "transitions", place, "on"),
                patch=({"op": "replace", "path": _at(number, "transitions", index, "on", "kind"), "value": "click"},)
                if on.kind != "click"
                else ({"op": "remove", "path": _at(number, "transitions", place)},),
                mend="Click instead of press" if on.kind != "click" else "Take the click out",
                play=_seen_from(bench, machine, way.source, ("press", on.input, "")),
            )


def short_time(case: Case) -> Iterator[Finding]:
    """A time that is shorter than the longest pass of the run."""
    longest_us = case.answers.longest_pass_us if case.answers else case.idle_pass_us
    for number, machine in enumerate(case.bench.firmware.machines):
        for place, way in enumerate(machine.transitions):
            if isinstance(way.on, TimeoutEvent) and way.on.variable is None and way.on.after_us < longest_us:
                yield Finding(
                    code="behave.short-time",
                    severity=Severity.LOOK,
                    station="behave",
                    part=machine.id,
                    title=f"{machine.name}: a time shorter than a pass",
                    sentence=f"{ms(way.on.after_us)} in {machine.state(way.source).name} cannot be kept while a pass "
                    f"takes up to {ms(longest_us)}.",
                    numbers=(("time", ms(way.on.after_us)), ("longest pass", ms(longest_us))),
                    pointer=_at(number, "transitions", place, "on", "after_us"),
                    play=_seen_from(case.bench, machine, way.source, ("timeout", machine.id, str(place))),
                )


def undriven(case: Case) -> Iterator[Finding]:
    """An output that no machine drives, where there are machines; one that several drive."""
    bench = case.bench
    drivers: dict[str, list[Machine]] = {}
    for machine in bench.firmware.machines:
        for output in machine.driven:
            drivers.setdefault(output, []).append(machine)
    for channel in bench.channels:
        mine = drivers.get(channel.id, [])
        if not mine and bench.firmware.machines:
            yield Finding(
                code="behave.undriven",
                severity=Severity.NOTE,
                station="behave",
                part=channel.id,
                title=f"{channel.name} is never driven",
                sentence="No machine says what it should do; it stays off.",
                numbers=(("machines", "none"),),
                pointer=channel.at,
            )
        elif len(mine) > 1:
            yield Finding(
                code="behave.two-drivers",
                severity=Severity.LOOK,
                station="behave",
                part=channel.id,
                title=f"{channel.name} is driven by {len(mine)} machines",
                sentence=f"{' and '.join(machine.name for machine in mine[:2])} both say what it does; the one that "
                "changed its state last is heard.",
                numbers=(("machines", str(len(mine))),),
                pointer=channel.at,
            )


def for_ever(case: Case) -> Iterator[Finding]:
    """What can hurt is on in a state that no time ends, and has no longest time of its own."""
    bench = case.bench
    for number, machine in enumerate(bench.firmware.machines):
        for channel in bench.channels:
            if channel.load not in ("mains", "heat", "motion", "light") or channel.id in bench.firmware.limits:
                continue
            paths = explored(bench, [machine]).paths
            for state_id in left_on(machine, channel.id):
                path = paths.get((machine.id, state_id))
                if path is None:
                    continue
                place = next(n for n, one in enumerate(machine.states) if one.id == state_id)
                yield Finding(
                    code="behave.for-ever",
                    severity=Severity.LOOK,
                    station="behave",
                    part=machine.id,
                    title=f"{channel.name} can stay on for ever",
                    sentence=f"In {machine.states[place].name} it is on, and only an input ends that: a wire "
                    "that comes off leaves it on. Give it a longest time.",
                    numbers=(("load", channel.load), ("longest on", "no limit")),
                    pointer=_at(number, "states", place),
                    patch=(
                        {
                            "op": "add",
                            "path": pointer("firmware", "limits", channel.id),
                            "value": {"longest_us": 600_000_000},
                        },
                    ),
                    mend="Ten minutes at most",
                    play=path,
                )
