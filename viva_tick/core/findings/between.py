"""What stands between a kernel's tasks: what is full, waits for ever, is held crosswise, is guarded by nobody."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..document import HEARD, Bench, IfRange, IfVariable, Machine, Signal, pointer
from ..document.kernel import Between, Body, Give, Own, Put, Receive, Steps, Take, Work, may_wait
from ..engine import Kind
from ..units import at_s, ms
from .finding import Evidence, Finding, Patch, Severity
from .mends import replaced

AT = ("firmware", "kernel", "between")
LONG_US = 500_000  # ready for so long without a turn: it starves
MOST_LENGTH = 64  # more room than that mends no queue


def _between(bench: Bench) -> Between | None:
    """What there is, where a kernel runs it."""
    between = bench.firmware.kernel.between
    return between if bench.firmware.school == "kernel" and between.used else None


def _finding(code: str, severity: Severity, part: str, title: str, sentence: str, where: str, **more: Any) -> Finding:
    return Finding(
        code=f"pace.{code}", severity=severity, station="pace", part=part, title=title, sentence=sentence,
        pointer=where, **more,
    )  # fmt: skip


def asleep(evidence: Evidence) -> Iterator[Finding]:
    """They run under a kernel only."""
    bench = evidence.bench
    between = bench.firmware.kernel.between
    if bench.firmware.school != "kernel" and between.used:
        names = ", ".join(one.name for one in (*between.bodies, *between.timers)) or "its hooks"
        yield _finding(
            "no-kernel", Severity.LOOK, "kernel", "There is no kernel to run them",
            f"{names}: they run under a kernel, and this bench has one loop.", "/firmware/school",
            numbers=(("tasks", str(len(between.bodies))),), patch=replaced("/firmware/school", "kernel"),
            mend="Use the kernel",
        )  # fmt: skip


def full(evidence: Evidence) -> Iterator[Finding]:
    """A queue has lost something in this run."""
    between = _between(evidence.bench)
    if between is None or evidence.run is None:
        return
    for number, queue in enumerate(between.queues):
        signal = next((s for s in evidence.run.trace.signals if (s.kind, s.of) == (Kind.LOST, queue.id)), None)
        if signal is None or not signal.values:
            continue
        lost, where = int(signal.values[-1]), pointer(*AT, "queues", number, "length")
        room = queue.length + lost
        patch: Patch = replaced(where, room) if room <= MOST_LENGTH else ()
        what = "the oldest went" if queue.full == "overwrite" else "what came was dropped"
        yield _finding(
            "queue-full", Severity.LOOK, "kernel", f"{queue.name} is full",
            f"{lost} times in this run it had no room, first at {at_s(signal.times_us[0])}: {what}. Take it out "
            "sooner, put in less, or make it longer.", where,
            numbers=(("length", str(queue.length)), ("lost", str(lost))),
            patch=patch, mend=f"Room for {room}" if patch else "", show_us=tuple(signal.times_us[:50]),
        )  # fmt: skip


def _wants(body: Body) -> list[tuple[str, str, int]]:
    """(held, wanted, the wanting step) of every mutex that it waits for while it holds another; its own again, too."""
    held: list[str] = []
    found = []
    for place, step in enumerate(body.steps):
        if isinstance(step, Take) and step.within_us is None:
            found += [(one, step.of, place) for one in held]
        if isinstance(step, Take):
            held.append(step.of)
        elif isinstance(step, Give) and step.of in held:
            held.remove(step.of)
    return found


def deadlock(evidence: Evidence) -> Iterator[Finding]:
    """Each holds what the other waits for."""
    between = _between(evidence.bench)
    if between is None:
        return
    mutexes = {one.id: one.name for one in between.mutexes}
    wants = [
        (number, held, wanted, place)
        for number, body in enumerate(between.bodies)
        for held, wanted, place in _wants(body)
        if held in mutexes and wanted in mutexes
    ]
    seen = set()
    for number, held, wanted, place in wants:
        body = between.bodies[number]
        if held == wanted:
            yield _finding(
                "deadlock", Severity.MUST, body.id, f"{body.name} waits for itself",
                f"It takes {mutexes[held]} and waits for it again before it has given it back: for ever.",
                pointer(*AT, "bodies", number, "steps", place), numbers=(("mutex", mutexes[held]),),
                patch=_without(number, place), mend="Take it once",
            )  # fmt: skip
            continue
        for other, its, wish, at in wants:
            if other <= number or (its, wish) != (wanted, held) or (number, other) in seen:
                continue
            seen.add((number, other))
            second = between.bodies[other]
            yield _finding(
                "deadlock", Severity.MUST, second.id, f"{body.name} and {second.name} can wait for each other for ever",
                f"One holds {mutexes[held]} and waits for {mutexes[wanted]}, the other the other way round. Take them "
                "in one order everywhere.", pointer(*AT, "bodies", other, "steps", at),
                numbers=(("mutexes", f"{mutexes[held]}, {mutexes[wanted]}"),), patch=_swapped(second, other, its, wish),
                mend=f"{second.name} takes them in the same order",
            )  # fmt: skip


def _without(number: int, place: int) -> Patch:
    return ({"op": "remove", "path": pointer(*AT, "bodies", number, "steps", place)},)


def _swapped(body: Body, number: int, one: str, other: str) -> Patch:
    """The body with both mutexes exchanged wherever it takes one, in the order of the other body."""
    places = [place for place, step in enumerate(body.steps) if isinstance(step, Take) and step.of in (one, other)]
    return tuple(
        {
            "op": "replace",
            "path": pointer(*AT, "bodies", number, "steps", place, "of"),
            "value": other if body.steps[place].of == one else one,  # type: ignore[union-attr]
        }
        for place in places
    )


def starves(evidence: Evidence) -> Iterator[Finding]:
    """A task that could run has not had a turn for long, and has none to the end."""
    between = _between(evidence.bench)
    if between is None or evidence.run is None:
        return
    trace = evidence.run.trace
    for number, body in enumerate(between.bodies):
        stands = trace.signal(Kind.STANDS, body.id)
        if not stands.values or stands.values[-1] != "ready" or trace.length_us - stands.times_us[-1] < LONG_US:
            continue
        above = [one.name for one in between.bodies if one is not body and one.priority >= body.priority]
        kernel = evidence.bench.firmware.kernel
        above += ["the loop"] if kernel.loop_priority >= body.priority else []
        yield _finding(
            "starves", Severity.MUST, body.id, f"{body.name} never has a turn",
            f"From {at_s(stands.times_us[-1])} on it could run and does not: {', '.join(above) or 'an interrupt'} "
            "comes before it and never waits long enough.", pointer(*AT, "bodies", number, "priority"),
            numbers=(("priority", str(body.priority)), ("ready for", ms(trace.length_us - stands.times_us[-1]))),
            show_us=(stands.times_us[-1],),
        )  # fmt: skip


def hook_waits(evidence: Evidence) -> Iterator[Finding]:
    """What must not wait does: a hook, or what a software timer does."""
    between = _between(evidence.bench)
    if between is None:
        return
    for name, place, steps in between.lists():
        if place[0] == "bodies":
            continue
        for number, step in enumerate(steps):
            if not may_wait(step, between.full) and not isinstance(step, Own):
                continue
            why = {
                "tick_hook": "It is called in the tick's interrupt, where nothing can wait",
                "idle_hook": "It is what runs when nobody else can: if it waits, nobody is left",
            }.get(str(place[0]), "All software timers share one task: while one waits, none goes off")
            yield _finding(
                "hook-waits", Severity.MUST, "kernel", f"{name} must not wait",
                f"{why}. The run passes over that step; a real board stops there.", pointer(*AT, *place, number),
                numbers=(("step", step.do),), patch=({"op": "remove", "path": pointer(*AT, *place, number)},),
                mend="Take the step out",
            )  # fmt: skip
            break


def never_given(evidence: Evidence) -> Iterator[Finding]:
    """A task waits without an end for what nobody gives."""
    between = _between(evidence.bench)
    if between is None:
        return
    given: set[str] = set()
    for _, _, steps in between.lists():
        given |= {step.of for step in steps if isinstance(step, Give | Put)}
    for machine in evidence.bench.firmware.machines:
        given |= {action.of for _, action in machine.actions if isinstance(action, Signal)}
    names = {**between.names}
    free = {one.id for one in between.mutexes}  # the first who takes one has it
    for number, body in enumerate(between.bodies):
        for place, step in enumerate(body.steps):
            if not isinstance(step, Take | Receive) or step.within_us is not None or step.of in given | free:
                continue
            where = pointer(*AT, "bodies", number, "steps", place)
            yield _finding(
                "never-given", Severity.MUST, body.id, f"{body.name} waits for ever",
                f"Nobody ever gives {names[step.of]}: no task, no timer, no machine. It stands there without an end.",
                where, numbers=(("waits for", names[step.of]),), patch=replaced(f"{where}/within_us", 1_000_000),
                mend="Wait 1 s at most",
            )  # fmt: skip
            break


def _guarded(steps: Steps) -> Iterator[tuple[int, str, frozenset[str]]]:
    """(step, data, mutexes held) of every work on data that others use."""
    held: list[str] = []
    for place, step in enumerate(steps):
        if isinstance(step, Take):
            held.append(step.of)
        elif isinstance(step, Give) and step.of in held:
            held.remove(step.of)
        elif isinstance(step, Work) and step.uses:
            yield place, step.uses, frozenset(held)


def unguarded(evidence: Evidence) -> Iterator[Finding]:
    """Two tasks work on the same data, and no mutex keeps them apart."""
    between = _between(evidence.bench)
    if between is None:
        return
    mutexes = {one.id for one in between.mutexes}
    uses: dict[str, list[tuple[int, int, frozenset[str]]]] = {}
    for number, body in enumerate(between.bodies):
        for place, data, held in _guarded(body.steps):
            uses.setdefault(data, []).append((number, place, held & mutexes))
    for data, rows in uses.items():
        if len({number for number, _, _ in rows}) < 2 or frozenset.intersection(*(held for _, _, held in rows)):
            continue
        names = list(dict.fromkeys(between.bodies[number].name for number, _, _ in rows))
        yield _finding(
            "unguarded", Severity.MUST, between.bodies[rows[0][0]].id, f"Nobody guards {data}",
            f"{' and '.join(names[:2])} both work on it, and one can interrupt the other in the middle. Let both take "
            "one mutex for it.", pointer(*AT, "bodies", rows[0][0], "steps", rows[0][1], "uses"),
            numbers=(("tasks", str(len(names))), ("mutex", "none")), patch=_with_mutex(between, data, rows),
            mend="Let both take a mutex for it",
        )  # fmt: skip
    yield from _variables(evidence.bench, between)


def _with_mutex(between: Between, data: str, rows: list[tuple[int, int, frozenset[str]]]) -> Patch:
    """A mutex for it, taken before each work on it and given back after; from the end, so that places stay right."""
    slug = "".join(sign if sign.isalnum() and sign.isascii() else "-" for sign in data.lower()).strip("-") or "data"
    ident = next(
        one for n in range(1, 99) if (one := f"guard-{slug}"[:36] + (f"-{n}" if n > 1 else "")) not in between.names
    )
    patch: list[dict[str, Any]] = [
        {"op": "add", "path": pointer(*AT, "mutexes", "-"), "value": {"id": ident, "name": f"Guard of {data}"[:60]}}
    ]
    for number, place, _ in sorted(rows, reverse=True):
        at = pointer(*AT, "bodies", number, "steps")
        patch.append({"op": "add", "path": f"{at}/{place + 1}", "value": {"do": "give", "of": ident}})
        patch.append({"op": "add", "path": f"{at}/{place}", "value": {"do": "take", "of": ident}})
    return tuple(patch)


def _owner(between: Between, machine: Machine) -> str:
    return between.owners.get(machine.id, "")


def _variables(bench: Bench, between: Between) -> Iterator[Finding]:
    """A variable that machines of different tasks use."""
    if not between.owners:
        return
    named = {body.id: body.name for body in between.bodies} | {"": "the loop"}
    for number, variable in enumerate(bench.firmware.variables):
        users = {_owner(between, one) for one in bench.firmware.machines if variable.id in _numbers(one)}
        if len(users) < 2:
            continue
        names = [named[one] for one in sorted(users)]
        yield _finding(
            "shared-number", Severity.LOOK, "kernel", f"{variable.name} is used by two tasks",
            f"Machines of {' and of '.join(names[:2])} use it. In the run a step is never interrupted; on a board a "
            "number of more than one byte can be, half-way. Keep it with one task, or guard it.",
            pointer("firmware", "variables", number), numbers=(("tasks", str(len(users))),),
        )  # fmt: skip


def _numbers(machine: Machine) -> set[str]:
    """The variables that a machine looks at or changes."""
    found = {str(getattr(action, field, "")) for _, action in machine.actions for field in ("variable", "other")}
    for transition in machine.transitions:
        guards = [guard for guard in transition.guards if isinstance(guard, IfVariable | IfRange)]
        found |= {guard.variable for guard in guards} | {str(getattr(guard, "other", "")) for guard in guards}
    return found


def owners(evidence: Evidence) -> Iterator[Finding]:
    """A machine that belongs to one task listens for an input that another reads; a task owns what it never steps."""
    bench = evidence.bench
    between = _between(bench)
    if between is None:
        return
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}
    named = {body.id: body.name for body in between.bodies} | {"": "the loop"}
    for number, body in enumerate(between.bodies):
        if body.owns and not any(isinstance(step, Own) for step in body.steps):
            yield _finding(
                "never-steps", Severity.MUST, body.id, f"{body.name} never steps what it owns",
                "Inputs and machines belong to it, and none of its steps reads and steps them.",
                pointer(*AT, "bodies", number, "steps"),
                numbers=(("owns", str(len(body.owns))),),
                patch=({"op": "add", "path": pointer(*AT, "bodies", number, "steps", "-"), "value": {"do": "own"}},),
                mend="Add that step",
            )  # fmt: skip
    reads = {line.id for line in bench.contacts} | {part.id for _, part in bench.sensed}
    for place, machine in enumerate(bench.firmware.machines):
        mine = _owner(between, machine)
        heard = dict.fromkeys(
            t.on.input for t in machine.transitions if isinstance(t.on, HEARD) and t.on.input in reads
        )
        for ident in heard:
            theirs = between.owners.get(ident, "")
            if theirs == mine:
                continue
            name, reader = names.get(ident, ident), f"{named[theirs][0].upper()}{named[theirs][1:]}"
            yield _finding(
                "owned-apart", Severity.MUST, machine.id, f"{machine.name} never hears {name}",
                f"{reader} reads {name}, and {named[mine]} steps {machine.name}: what a task reads only its own "
                "machines hear. Give both to one task, or send a signal.", pointer("firmware", "machines", place),
                numbers=(("read by", named[theirs]), ("stepped by", named[mine])),
                patch=_together(between, ident, theirs, mine), mend=f"{name} to {named[mine]}",
            )  # fmt: skip


def _together(between: Between, ident: str, theirs: str, mine: str) -> Patch:
    """The input goes over to the task that steps the machine."""
    patch: list[dict[str, Any]] = []
    for number, body in enumerate(between.bodies):
        at = pointer(*AT, "bodies", number, "owns")
        if body.id == theirs:
            patch.append({"op": "remove", "path": f"{at}/{body.owns.index(ident)}"})
        if body.id == mine:
            patch.append({"op": "add", "path": f"{at}/-", "value": ident})
    return tuple(patch)
