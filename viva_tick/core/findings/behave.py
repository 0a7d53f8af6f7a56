"""What the machines and their drives give away."""

from __future__ import annotations

from collections.abc import Iterator

from ..cautions import hurts
from ..document import pointer
from ..drives import Follow, FollowVariable, PickedPlace, Steady
from ..engine import Kind
from .finding import Evidence, Finding, Patch, Severity


def rest_state(evidence: Evidence) -> Iterator[Finding]:
    """An output does not start as it should rest."""
    if not evidence.answers:
        return
    for part in evidence.bench.channels:
        first = evidence.answers.first_on.get(part.id)
        wanted = part.at_rest == "on"
        if first is None or first == wanted:
            continue
        patch: Patch = ()
        where = f"{part.at}/at_rest"
        for number, machine in enumerate(evidence.bench.firmware.machines):
            begins = machine.opening(machine.initial)
            place = next(place for place, state in enumerate(machine.states) if state.id == begins)
            drives = [part.id in state.drives for state in machine.states]
            begun = evidence.bench.drive_in(machine.states[place], part.id)
            if isinstance(begun, Follow | FollowVariable | PickedPlace):
                where = pointer("firmware", "machines", number, "states", place, "drives", part.id)
                continue  # what it follows decides: that is not for a mend to take away
            as_wanted = begun == Steady(on=wanted)
            if any(drives) and not as_wanted:
                where = pointer("firmware", "machines", number, "states", place, "drives", part.id)
                op = "replace" if drives[place] else "add"
                patch = ({"op": op, "path": where, "value": {"kind": "steady", "on": wanted}},)
        starts, rests = ("on", "off") if first else ("off", "on")
        yield Finding(
            code="behave.rest-state",
            severity=Severity.MUST if hurts(part) and first else Severity.LOOK,
            station="behave",
            part=part.id,
            title=f"{part.name} starts {starts}",
            sentence=f"After the first pass {part.name} is {starts}; at rest it should be {rests}.",
            numbers=(("first", starts), ("wanted at rest", rests)),
            pointer=where,
            patch=patch,
            mend=f"Start it {rests}" if patch else "",
            show_us=_first_pass(evidence),
        )


def _first_pass(evidence: Evidence) -> tuple[int, ...]:
    passes = evidence.run.trace.signal(Kind.PASS).times_us if evidence.run else []
    return tuple(passes[:1])


def unexpected(evidence: Evidence) -> Iterator[Finding]:
    """The run is not what its scenario expects."""
    if not evidence.answers or not evidence.scenario:
        return
    index = next((n for n, one in enumerate(evidence.bench.scenarios) if one.name == evidence.scenario.name), 0)
    for number, verdict in enumerate(evidence.answers.expected):
        if verdict.met:
            continue
        one = evidence.scenario.expects[number]
        part = next(str(getattr(one, name)) for name in ("output", "of", "machine", "variable") if hasattr(one, name))
        yield Finding(
            code="behave.unexpected",
            severity=Severity.MUST,
            station="behave",
            part=part,
            title="A check is not met",
            sentence=f"“{evidence.scenario.name}” checks {verdict.words}; it was {verdict.got}.",
            numbers=(("expected", verdict.words), ("got", verdict.got)),
            pointer=pointer("scenarios", index, "expects", number),
            show_us=verdict.wrong_us[:50],
        )
