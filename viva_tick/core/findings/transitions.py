"""What the machines' transitions give away: hidden, in circles, out of range, too soon."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import (
    Bench,
    ContactEvent,
    IfContact,
    IfRange,
    IfVariable,
    Machine,
    TimeoutEvent,
    Variable,
    VariableEvent,
)
from ..exploring import Cause
from ..exploring.analysis import (
    explored,
    hidden_by,
    rounds,
)
from ..units import ms
from .finding import Evidence, Finding, Patch, Severity
from .machine_words import in_words, machine_at, row_words


def second_transition(evidence: Evidence) -> Iterator[Finding]:
    """Two transitions for one event from one state: the lower one is never taken."""
    bench = evidence.bench
    for number, machine in enumerate(bench.firmware.machines):
        for place, transition in enumerate(machine.transitions):
            first = hidden_by(machine, place)
            if first is None:
                continue
            yield Finding(
                code="behave.second-transition",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: two transitions for one event",
                sentence=f"In {machine.state(transition.source).name}, {in_words(evidence.bench, transition)} leads to "
                f"{machine.state(first.target).name}; the transition to {machine.state(transition.target).name} "
                "is never taken.",
                numbers=(("taken", machine.state(first.target).name), ("never", machine.state(transition.target).name)),
                pointer=machine_at(number, "transitions", place),
                patch=({"op": "remove", "path": machine_at(number, "transitions", place)},),
                mend="Remove the lower one",
                play=explored(bench, [machine]).paths.get((machine.id, transition.source)),
            )


def both_open(evidence: Evidence) -> Iterator[Finding]:
    """Two guarded transitions for one event are open at once somewhere that can be reached: the upper one is taken."""
    bench = evidence.bench
    for number, machine in enumerate(bench.firmware.machines):
        for (ident, upper, lower), path in explored(bench, [machine]).both_open.items():
            if ident != machine.id:
                continue
            transitions = machine.transitions
            to = [machine.state(transitions[place].target).name for place in (upper, lower)]
            yield Finding(
                code="behave.both-open",
                severity=Severity.NOTE,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: two guarded transitions are open at once",
                sentence=f"In {machine.state(transitions[upper].source).name}, {in_words(bench, transitions[upper])} "
                f"leads to {to[0]} and could lead to {to[1]}; the upper one counts. The shortest way there: "
                f"{row_words(bench, path)}.",
                numbers=(("taken", to[0]), ("also open", to[1])),
                pointer=machine_at(number, "transitions", lower, "guards"),
                play=path,
            )


def goes_round(evidence: Evidence) -> Iterator[Finding]:
    """Transitions without an event lead in a circle; where a button's level leads them, it toggles on the level."""
    bench = evidence.bench
    for number, machine in enumerate(bench.firmware.machines):
        for row in rounds(machine):
            looked = [guard for transition in row for guard in transition.guards if isinstance(guard, IfContact)]
            place = machine.transitions.index(row[0])
            names = ", ".join(machine.state(transition.source).name for transition in row)
            if looked and len(row) == 2:
                name = bench.contact(looked[0].input).name
                kind = "press" if looked[0].pressed else "release"
                patch: Patch = tuple(
                    one
                    for transition in row
                    for at in (machine_at(number, "transitions", machine.transitions.index(transition)),)
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
                    sentence=f"While {name} is {'held' if looked[0].pressed else 'released'}, it changes to and fro "
                    f"between {names} in every pass; where it stops is chance. Use the {kind} itself.",
                    numbers=(("turns over", "up to 8 times a pass"),),
                    pointer=machine_at(number, "transitions", place),
                    patch=patch,
                    mend=f"Toggle on the {kind}",
                    play=explored(bench, [machine]).paths.get((machine.id, row[0].source)),
                )
            else:
                yield Finding(
                    code="behave.loop",
                    severity=Severity.LOOK if any(transition.guards for transition in row) else Severity.MUST,
                    station="behave",
                    part=machine.id,
                    title=f"{machine.name} goes round by itself",
                    sentence=f"Transitions without an event lead in a circle through {names}; after eight in a row it "
                    "stops wherever it is, pass after pass.",
                    numbers=(("transitions in the circle", str(len(row))),),
                    pointer=machine_at(number, "transitions", place),
                    play=explored(bench, [machine]).paths.get((machine.id, row[0].source)),
                )


def out_of_range(evidence: Evidence) -> Iterator[Finding]:
    """A number that a variable can never have: set, drawn, waited for, or asked about."""
    bench = evidence.bench
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
            pointer=machine_at(number, *steps),
        )

    for number, machine in enumerate(bench.firmware.machines):
        for steps, action in machine.actions:
            values = {"set": ["number"], "random": ["least", "most"]}.get(action.do, [])
            for field in values:
                value = getattr(action, field)
                ident = getattr(action, "variable", "")
                if not variables[ident].least <= value <= variables[ident].most:
                    yield said(number, machine, (*steps, field), ident, str(value))
        for place, transition in enumerate(machine.transitions):
            if isinstance(transition.on, VariableEvent):
                one = variables[transition.on.variable]
                if not one.least <= transition.on.value <= one.most:
                    yield said(number, machine, ("transitions", place, "on", "value"), one.id, str(transition.on.value))
            for index, guard in enumerate(transition.guards):
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


def conflict(evidence: Evidence) -> Iterator[Finding]:
    """In one state a press leads somewhere, and so does a click or a hold of the same contact: the press is first."""
    bench = evidence.bench
    for number, machine in enumerate(bench.firmware.machines):
        for place, transition in enumerate(machine.transitions):
            on = transition.on
            if not isinstance(on, ContactEvent) or on.kind in ("press", "release"):
                continue
            sooner = [
                one
                for one in machine.transitions
                if isinstance(one.on, ContactEvent)
                and (one.source, one.on.input, one.on.kind) == (transition.source, on.input, "press")
            ]
            if not sooner:
                continue
            name = bench.contact(on.input).name
            rows = [n for n, one in enumerate(machine.transitions) if one in sooner]
            clicks: Patch = tuple(
                {"op": "replace", "path": machine_at(number, "transitions", n, "on", "kind"), "value": "click"}
                for n in rows
            )
            many = "the press" if len(rows) == 1 else f"the {len(rows)} presses"
            yield Finding(
                code="behave.press-first",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: the press comes before the {on.kind}",
                sentence=f"In {machine.state(transition.source).name} a press of {name} leads away at once, so its "
                f"{on.kind} is never waited for there. Use the click instead of {many}.",
                numbers=(("press leads to", machine.state(sooner[0].target).name),),
                pointer=machine_at(number, "transitions", place, "on"),
                patch=clicks
                if on.kind != "click"
                else ({"op": "remove", "path": machine_at(number, "transitions", place)},),
                mend="Click instead of press" if on.kind != "click" else "Remove the click",
                play=_seen_from(bench, machine, transition.source, ("press", on.input, "")),
            )


def _seen_from(bench: Bench, machine: Machine, state: str, cause: Cause) -> tuple[Cause, ...] | None:
    """The shortest row of events to a state, and one more; None where it is not reached."""
    path = explored(bench, [machine]).paths.get((machine.id, state))
    return None if path is None else (*path, cause)


def short_time(evidence: Evidence) -> Iterator[Finding]:
    """A time that is shorter than the longest pass of the run."""
    longest_us = evidence.answers.longest_pass_us if evidence.answers else evidence.idle_pass_us
    for number, machine in enumerate(evidence.bench.firmware.machines):
        for place, transition in enumerate(machine.transitions):
            if (
                isinstance(transition.on, TimeoutEvent)
                and transition.on.variable is None
                and transition.on.after_us < longest_us
            ):
                yield Finding(
                    code="behave.short-time",
                    severity=Severity.LOOK,
                    station="behave",
                    part=machine.id,
                    title=f"{machine.name}: a time shorter than a pass",
                    sentence=f"{ms(transition.on.after_us)} in {machine.state(transition.source).name} cannot be kept "
                    f"while a pass takes up to {ms(longest_us)}.",
                    numbers=(("time", ms(transition.on.after_us)), ("longest pass", ms(longest_us))),
                    pointer=machine_at(number, "transitions", place, "on", "after_us"),
                    play=_seen_from(evidence.bench, machine, transition.source, ("timeout", machine.id, str(place))),
                )


def undriven(evidence: Evidence) -> Iterator[Finding]:
    """An output that no machine drives, where there are machines; one that several drive."""
    bench = evidence.bench
    drivers: dict[str, list[Machine]] = {}
    for machine in bench.firmware.machines:
        for output in bench.driven_by(machine):
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
