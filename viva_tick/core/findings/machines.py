"""What the machines give away before anything runs."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import Bench, ContactEvent, Machine, TimeoutEvent, Transition, pointer
from ..machines import event_names
from ..machines.analysis import left_on, name_of, produced_events, reached, ways
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
    "above": "raise",
    "below": "lower",
    "key": "key",
    "command": "command",
    "chord": "press together",
}


def in_words(bench: Bench, way: Transition) -> str:
    """One way as something to do: “press Foot pedal”, “wait 1.2 s”."""
    on = way.on
    if isinstance(on, TimeoutEvent):
        return f"wait {ms(on.after_us)}"
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}
    of = names.get(on.of, on.of)
    return f"{SAID[on.kind]} {names.get(on.input, on.input)} {of}".rstrip()


def _at(number: int, *steps: str | int) -> str:
    return pointer("firmware", "machines", number, *steps)


def _without(number: int, machine: Machine, state: str) -> Patch:
    """The patch that takes a state out, with every way to it and from it."""
    gone = [n for n, way in enumerate(machine.transitions) if state in (way.source, way.target)]
    place = next(n for n, one in enumerate(machine.states) if one.id == state)
    removals = [{"op": "remove", "path": _at(number, "transitions", n)} for n in reversed(gone)]
    return (*removals, {"op": "remove", "path": _at(number, "states", place)})


def unreachable(case: Case) -> Iterator[Finding]:
    """States that no row of events leads to."""
    bench = case.bench
    produced = produced_events(bench, event_names(bench))
    for number, machine in enumerate(bench.firmware.machines):
        there = reached(machine, produced)
        for place, state in enumerate(machine.states):
            if state.id in there:
                continue
            to_it = [way for way in ways(machine) if way.target == state.id and way.source != state.id]
            why = "No way leads to it." if not to_it else "The only ways to it begin where nothing ever comes."
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
                patch=_without(number, machine, state.id),
                mend=f"Take {state.name} out",
            )


def dead_end(case: Case) -> Iterator[Finding]:
    """A state that is reached and never left, in a machine that has others."""
    bench = case.bench
    produced = produced_events(bench, event_names(bench))
    for number, machine in enumerate(bench.firmware.machines):
        if len(machine.states) < 2:
            continue
        possible = ways(machine, produced)
        for state_id, path in reached(machine, produced).items():
            if any(way.source == state_id and way.target != state_id for way in possible):
                continue
            place = next(n for n, one in enumerate(machine.states) if one.id == state_id)
            name = machine.state(state_id).name
            row = ", ".join(in_words(bench, way) for way in path) or "as it begins"
            yield Finding(
                code="behave.dead-end",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: {name} is never left",
                sentence=f"Once there it stays there until the power goes. The shortest way in: {row}.",
                numbers=(("events to get there", str(len(path))),),
                pointer=_at(number, "states", place),
            )


def second_way(case: Case) -> Iterator[Finding]:
    """Two ways for one event from one state: the lower one is never taken."""
    for number, machine in enumerate(case.bench.firmware.machines):
        possible = ways(machine)
        for place, way in enumerate(machine.transitions):
            if any(way is one for one in possible):
                continue
            first = next(
                one for one in machine.transitions if one.source == way.source and name_of(one) == name_of(way)
            )
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
            )


def nobody(case: Case) -> Iterator[Finding]:
    """A machine waits for an event that nothing gives: an input that is not read, a key that is let pass, a command
    without a number."""
    bench = case.bench
    produced = produced_events(bench, event_names(bench))
    for number, machine in enumerate(bench.firmware.machines):
        for place, way in enumerate(machine.transitions):
            if isinstance(way.on, TimeoutEvent) or name_of(way) in produced:
                continue
            name = bench.part(way.on.input).name
            read = way.on.input in bench.firmware.readings
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
            )


def short_time(case: Case) -> Iterator[Finding]:
    """A time that is shorter than the longest pass of the run."""
    longest_us = case.answers.longest_pass_us if case.answers else case.idle_pass_us
    for number, machine in enumerate(case.bench.firmware.machines):
        for place, way in enumerate(machine.transitions):
            if isinstance(way.on, TimeoutEvent) and way.on.after_us < longest_us:
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
                )


def undriven(case: Case) -> Iterator[Finding]:
    """An output that no machine drives, where there are machines; one that several drive."""
    bench = case.bench
    drivers: dict[str, list[Machine]] = {}
    for machine in bench.firmware.machines:
        for output in {output for state in machine.states for output in state.drives}:
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
    """What can hurt is on in a state that no time ends."""
    bench = case.bench
    for number, machine in enumerate(bench.firmware.machines):
        for channel in bench.channels:
            if channel.load not in ("mains", "heat", "motion", "light"):
                continue
            stay = left_on(machine, channel.id)
            there = reached(machine)
            for state_id in [state for state in stay if state in there]:
                place = next(n for n, one in enumerate(machine.states) if one.id == state_id)
                name = machine.state(state_id).name
                yield Finding(
                    code="behave.for-ever",
                    severity=Severity.LOOK,
                    station="behave",
                    part=machine.id,
                    title=f"{channel.name} can stay on for ever",
                    sentence=f"In {name} it is on, and only an input ends that: a wire that comes off leaves it on. "
                    "Give the state a longest time.",
                    numbers=(("load", channel.load), ("longest on", "no limit")),
                    pointer=_at(number, "states", place),
                    patch=(
                        {
                            "op": "add",
                            "path": _at(number, "transitions", "-"),
                            "value": {
                                "source": state_id,
                                "on": {"kind": "timeout", "after_us": 600_000_000},
                                "target": machine.initial,
                            },
                        },
                    )
                    if state_id != machine.initial
                    else (),
                    mend="Ten minutes at most" if state_id != machine.initial else "",
                )
