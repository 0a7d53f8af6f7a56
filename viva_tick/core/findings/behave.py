"""What the machines and their drives give away."""

from __future__ import annotations

from collections.abc import Iterator

from ..debounce import METHODS
from ..document import Press, pointer
from ..drives import Steady
from ..engine import Kind
from ..sweep import shortest_tap_us
from ..units import ms
from .finding import Case, Finding, Patch, Severity
from .mends import advised_debounce


def _waits(case: Case) -> Iterator[tuple[int, str, str, str, str, Patch, str]]:
    """(µs, blocked by, station, part, pointer, patch, mend) of everything in the firmware that holds the pass."""
    bench = case.bench
    for number, machine in enumerate(bench.firmware.machines):
        for steps, output, drive in machine.drives:
            if drive.blocks_us:
                where = pointer("firmware", "machines", number, *steps, "blocking")
                free = ({"op": "replace", "path": where, "value": False},)
                name = bench.channel(output).name
                yield drive.blocks_us, f"drive {output}", "behave", name, where, free, "Let it run beside"
    for part in bench.contacts:
        debounce = bench.debounce(part.id)
        method = METHODS[debounce.method]
        if method.blocks and debounce.interval_us:
            patch, words = advised_debounce(case, part.id, "rest-first")
            where = pointer("firmware", "debounce", part.id, "method")
            held = [
                stimulus.hold_us
                for scenario in bench.scenarios
                for stimulus in scenario.stimuli
                if isinstance(stimulus, Press) and stimulus.input == part.id
            ]
            # One that looks again stands still for as long as the button is held, too.
            wait_us = debounce.interval_us + (max(held, default=0) if method.by == "looking" else 0)
            yield wait_us, f"debounce {part.id}", "clean", part.name, where, patch, words
    for number, task in enumerate(bench.firmware.tasks):
        where = pointer("firmware", "tasks", number, "run_us")
        yield task.run_us, f"task {task.id}", "behave", task.name, where, (), ""
    if tail_us := bench.firmware.loop.tail_delay_us:
        where = pointer("firmware", "loop", "tail_delay_us")
        free = ({"op": "replace", "path": where, "value": 0},)
        yield tail_us, "tail", "behave", "The delay at the end of the loop", where, free, "Take the delay out"


def blocking(case: Case) -> Iterator[Finding]:
    """A blocking wait is longer than the shortest tap."""
    shortest = shortest_tap_us(case.bench)
    if not shortest:
        return
    tap_us, tapped, scenario = shortest
    for wait_us, what, station, name, where, patch, words in _waits(case):
        if wait_us < tap_us:
            continue
        stretches = case.answers.blocked if case.answers else ()
        show = tuple(stretch.at_us for stretch in stretches if stretch.what == what)
        yield Finding(
            code="pace.blocking",
            severity=Severity.MUST,
            station=station,
            part=what.split()[-1],
            title=f"{name} stops the loop",
            sentence=f"{ms(wait_us)} with no input read. The {ms(tap_us)} tap of {case.bench.contact(tapped).name} in "
            f"“{scenario}” can fall into it and be lost.",
            numbers=(("wait", ms(wait_us)), ("shortest tap", ms(tap_us))),
            pointer=where,
            patch=patch,
            mend=words,
            show_us=show[:50],
        )


def rest_state(case: Case) -> Iterator[Finding]:
    """An output does not start as it should rest."""
    if not case.answers:
        return
    for part in case.bench.channels:
        first = case.answers.first_on.get(part.id)
        wanted = part.at_rest == "on"
        if first is None or first == wanted:
            continue
        patch: Patch = ()
        where = f"{part.at}/at_rest"
        for number, machine in enumerate(case.bench.firmware.machines):
            begins = machine.opening(machine.initial)
            place = next(place for place, state in enumerate(machine.states) if state.id == begins)
            drives = [part.id in state.drives for state in machine.states]
            as_wanted = machine.states[place].drives.get(part.id) == Steady(on=wanted)
            if any(drives) and not as_wanted:
                where = pointer("firmware", "machines", number, "states", place, "drives", part.id)
                op = "replace" if drives[place] else "add"
                patch = ({"op": op, "path": where, "value": {"kind": "steady", "on": wanted}},)
        starts, rests = ("on", "off") if first else ("off", "on")
        hurts = part.load in ("mains", "heat", "motion", "light")
        yield Finding(
            code="behave.rest-state",
            severity=Severity.MUST if hurts and first else Severity.LOOK,
            station="behave",
            part=part.id,
            title=f"{part.name} starts {starts}",
            sentence=f"After the first pass {part.name} is {starts}; at rest it should be {rests}.",
            numbers=(("first", starts), ("wanted at rest", rests)),
            pointer=where,
            patch=patch,
            mend=f"Start it {rests}" if patch else "",
            show_us=_first_pass(case),
        )


def _first_pass(case: Case) -> tuple[int, ...]:
    passes = case.run.trace.signal(Kind.PASS).times_us if case.run else []
    return tuple(passes[:1])


def unexpected(case: Case) -> Iterator[Finding]:
    """The run is not what its scenario expects."""
    if not case.answers or not case.scenario:
        return
    index = next((n for n, one in enumerate(case.bench.scenarios) if one.name == case.scenario.name), 0)
    for number, verdict in enumerate(case.answers.expected):
        if verdict.met:
            continue
        one = case.scenario.expects[number]
        part = next(str(getattr(one, name)) for name in ("output", "of", "machine") if hasattr(one, name))
        yield Finding(
            code="behave.unexpected",
            severity=Severity.MUST,
            station="behave",
            part=part,
            title="Not as expected",
            sentence=f"“{case.scenario.name}” expects {verdict.words}; it was {verdict.got}.",
            numbers=(("expected", verdict.words), ("got", verdict.got)),
            pointer=pointer("scenarios", index, "expects", number),
            show_us=verdict.wrong_us[:50],
        )
