"""The loop: what holds it, what comes too late, what drifts, what is finer than a pass."""

from __future__ import annotations

from collections.abc import Iterator

from ..clock import as_kept
from ..debounce import METHODS
from ..document import Press, pointer
from ..kernel import LOOP, kernel_tasks
from ..pace import anatomy, counted, holds, reach, spread, utilisation, waits
from ..program import asleep_us, idle_pass_us
from ..sweep import shortest_tap_us
from ..units import at_s, ms
from .finding import Evidence, Finding, Patch, Severity
from .mends import advised_debounce, replaced

TAP_US = 50_000  # a tap is 50 to 120 ms long (common practice)
LONG_US = 100_000  # up to 0.1 s is felt as instant: Miller 1968; Card, Robertson & Mackinlay 1991
GAIN_US = 1_000  # offsets that gain less are not worth a word


def _waits(evidence: Evidence) -> Iterator[tuple[int, str, str, str, str, Patch, str]]:
    """(µs, blocked by, station, part, pointer, patch, mend) of everything in the firmware that holds the pass."""
    bench = evidence.bench
    for one in holds(bench):
        yield one.us, one.what, "pace", one.name, one.pointer, one.patch, one.mend
    for part in bench.contacts:
        debounce = bench.debounce(part.id)
        method = METHODS[debounce.method]
        if method.blocks and debounce.interval_us:
            patch, words = advised_debounce(evidence, part.id, "rest-first")
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


def _others_tap(evidence: Evidence, own: str) -> tuple[int, str, str] | None:
    """(µs, input, where) of the shortest tap of any input but one: in a scenario, or a quick hand's where none is
    tapped."""
    bench = evidence.bench
    taps = [tap for line in bench.contacts if line.id != own and (tap := shortest_tap_us(bench, line.id))]
    if taps:
        return min(taps)
    heard = [line.id for line in bench.contacts if line.id != own and line.id in evidence.edge_inputs]
    return (TAP_US, heard[0], "") if heard else None


def _lost(evidence: Evidence, what: str) -> tuple[int, str, str] | None:
    """The shortest tap that a wait can swallow. One that looks again at its own button loses none of that one's."""
    kind, _, of = what.partition(" ")
    looks = kind == "debounce" and METHODS[evidence.bench.debounce(of).method].by == "looking"
    return _others_tap(evidence, of if looks else "")


def blocking(evidence: Evidence) -> Iterator[Finding]:
    """A blocking wait is longer than the shortest tap of what it can swallow."""
    stretches = evidence.answers.blocked if evidence.answers else ()
    waits = list(_waits(evidence))
    stands = [one.name for one in counted(evidence.bench) if one.what != "is accepted"] if waits else []
    for wait_us, what, station, name, where, patch, words in waits:
        lost = _lost(evidence, what)
        if lost is None and (not stands or wait_us < LONG_US):
            continue
        if lost is not None and wait_us < lost[0]:
            continue
        if lost is None:
            said = (
                f"{', '.join(dict.fromkeys(stands))} {'stands' if len(set(stands)) == 1 else 'stand'} still meanwhile."
            )
            against: tuple[tuple[str, str], ...] = (("no other input", "none is missed"),)
        else:
            tap_us, tapped, scenario = lost
            tap = f"The {ms(tap_us)} tap of {evidence.bench.contact(tapped).name}"
            said = f"{tap} in “{scenario}” can fall into it and be missed."
            said = (
                said
                if scenario
                else f"A quick tap of {evidence.bench.contact(tapped).name} can fall into it and be missed."
            )
            against = (("shortest tap", ms(tap_us)),)
        yield Finding(
            code="pace.blocking",
            severity=Severity.MUST if lost else Severity.LOOK,
            station=station,
            part=what.split()[-1],
            title=f"{name} holds the loop",
            sentence=f"{ms(wait_us)} with no input read. {said}",
            numbers=(("wait", ms(wait_us)), *against),
            pointer=where,
            patch=patch,
            mend=words,
            show_us=tuple(stretch.at_us for stretch in stretches if stretch.what == what)[:50],
        )


def promised(evidence: Evidence) -> Iterator[Finding]:
    """What was promised for an input, against the longest pass and what follows it."""
    if not any(one.respond_us for one in evidence.bench.taps.values()):
        return
    for one in reach(evidence.bench, evidence.run, evidence.answers):
        if one.keeps_promise or one.wanted_us is None:
            continue
        parts = anatomy(evidence.bench)
        worst = "never" if one.output_us is None else ms(one.output_us)
        seen = (("in this run", ms(one.seen.most)),) if one.seen else ()
        broken = bool(one.seen and one.seen.most > one.wanted_us)
        yield Finding(
            code="pace.promised",
            severity=Severity.MUST if broken or one.output_us is None else Severity.LOOK,
            station="pace",
            part=one.id,
            title=f"{one.name} can be answered too late",
            sentence=f"{ms(one.wanted_us)} were promised from contact to output; at the worst it is {worst}. "
            f"{parts.longest.name} makes the longest pass, {ms(parts.longest_us)}.",
            numbers=(("promised", ms(one.wanted_us)), ("worst", worst), *seen),
            pointer=pointer("taps", one.id, "respond_us"),
        )


def overload(evidence: Evidence) -> Iterator[Finding]:
    """More work than there is time."""
    bench = evidence.bench
    if bench.firmware.school == "kernel" or not bench.firmware.tasks:
        return
    load = float(utilisation([one for one in kernel_tasks(bench, 1) if one.id != LOOP]))
    if load < 1:
        return
    most = max(
        range(len(bench.firmware.tasks)),
        key=lambda n: bench.firmware.tasks[n].run_us / bench.firmware.tasks[n].period_us,
    )
    task = bench.firmware.tasks[most]
    yield Finding(
        code="pace.overload",
        severity=Severity.MUST,
        station="pace",
        part=task.id,
        title="More work than time",
        sentence=f"The tasks want {load:.0%} of the processor. {task.name} alone wants {ms(task.run_us)} every "
        f"{ms(task.period_us)}: run it more seldom, or make it shorter.",
        numbers=(("wanted", f"{load * 100:.0f} %"),),
        pointer=pointer("firmware", "tasks", most, "period_us"),
    )


def missed_jobs(evidence: Evidence) -> Iterator[Finding]:
    """Periods that went by without their job; late ones that are all caught up at once."""
    if not evidence.answers or evidence.bench.firmware.school == "kernel":
        return
    longest_us = anatomy(evidence.bench).longest_us
    for number, task in enumerate(evidence.bench.firmware.tasks):
        tally = evidence.answers.jobs.get(task.id)
        if tally is None:
            continue
        if task.keeps == "last" and task.late == "catch-up" and longest_us - task.run_us >= 2 * task.period_us:
            yield Finding(
                code="pace.catch-up",
                severity=Severity.LOOK,
                station="pace",
                part=task.id,
                title=f"{task.name} catches up in a storm",
                sentence=f"The loop can be held for {ms(longest_us)}; then {longest_us // task.period_us} jobs "
                f"that "
                "are due run one after another, pass by pass. Run one, and let the others go.",
                numbers=(
                    ("period", ms(task.period_us)),
                    ("longest pass", ms(longest_us)),
                    ("missed here", str(tally.missed)),
                ),
                pointer=pointer("firmware", "tasks", number, "late"),
                patch=replaced(pointer("firmware", "tasks", number, "late"), "run-late"),
                mend="Run one of them",
            )
        elif tally.missed:
            yield Finding(
                code="pace.missed-jobs",
                severity=Severity.LOOK,
                station="pace",
                part=task.id,
                title=f"{task.name} misses its turn",
                sentence=f"{tally.missed} of its periods went by in this run without a job of their own; the latest "
                f"began {ms(tally.late_us)} after it was due.",
                numbers=(("missed", str(tally.missed)), ("jobs", str(tally.jobs)), ("latest", ms(tally.late_us))),
                pointer=pointer("firmware", "tasks", number, "period_us"),
            )


def drift(evidence: Evidence) -> Iterator[Finding]:
    """A beat counted from now on, which loses every delay."""
    for number, task in enumerate(evidence.bench.firmware.tasks):
        if task.keeps != "now" or evidence.bench.firmware.school == "kernel":
            continue
        tally = evidence.answers.jobs.get(task.id) if evidence.answers else None
        lost = tally.drift_us if tally else None
        hour = f" Here it loses {ms(lost)} an hour, {ms(lost * 24)} a day." if lost else ""
        clock_us = evidence.bench.the_board.clock_ppm * 3_600  # what the board's own clock may be off in an hour
        small = bool(lost) and (lost or 0) <= clock_us
        if small:
            hour += f" That is less than the board's own clock may be off, {ms(clock_us)} an hour."
        where = pointer("firmware", "tasks", number, "keeps")
        yield Finding(
            code="pace.drift",
            severity=Severity.LOOK if lost and not small else Severity.NOTE,
            station="pace",
            part=task.id,
            title=f"{task.name} drifts",
            sentence=f"Its next job is due at now + period, so that every delay stays.{hour} Last + period keeps "
            f"the beat.",
            numbers=(("an hour", ms(lost)), ("a day", ms(lost * 24))) if lost else (("period", ms(task.period_us)),),
            pointer=where,
            patch=replaced(where, "last"),
            mend="Keep the beat",
        )


def wrap(evidence: Evidence) -> Iterator[Finding]:
    """Instants compared instead of times."""
    keeping = evidence.bench.firmware.timekeeping
    if keeping.compares != "until" or not waits(evidence.bench):
        return
    where = "/firmware/timekeeping/compares"
    yield Finding(
        code="pace.wrap",
        severity=Severity.MUST,
        station="pace",
        part="timekeeping",
        title="Wrong after seven weeks",
        sentence="“now ≥ last + wait” goes wrong where the millisecond counter wraps, after 49 days 17 hours: a "
        "wait that ends beyond it is over at once, and one that is still open then lasts seven weeks more. “now − "
        "last ≥ wait” is right across it.",
        numbers=(("wraps at", "4,294,967,296 ms"), ("waits", str(len(waits(evidence.bench))))),
        pointer=where,
        patch=replaced(where, "since"),
        mend="Compare the time since",
    )


def overflow(evidence: Evidence) -> Iterator[Finding]:
    """Seconds times 1000 in 16 bits."""
    bench = evidence.bench
    if bench.firmware.timekeeping.product != "int":
        return
    for wait in waits(bench):
        if wait.kept_ms == wait.asked_ms:
            continue
        comes = ms(wait.kept_ms * 1000) if wait.kept_ms < 1 << 31 else "49 days"
        yield Finding(
            code="pace.overflow",
            severity=Severity.MUST,
            station="pace",
            part=wait.what,
            title=f"{wait.what}: {at_s(wait.asked_ms * 1000)} do not fit",
            sentence=f"An int of this board has 16 bits and ends at 32.767 s: {wait.asked_ms:,} comes out as "
            f"{as_kept(wait.asked_ms, True, 16):,} ms, that is {comes}. Work it out in a long.",
            numbers=(("asked", f"{wait.asked_ms:,} ms"), ("comes out", comes)),
            pointer=wait.pointer,
            patch=replaced("/firmware/timekeeping/product", "long"),
            mend="Work it out in a long",
        )


def too_fine(evidence: Evidence) -> Iterator[Finding]:
    """A drive that is finer than a pass can be (times of machines: `behave.short-time`)."""
    bench = evidence.bench
    pass_us = idle_pass_us(bench)
    if bench.firmware.school == "kernel":
        pass_us = max(pass_us, bench.firmware.kernel.loop_us)
    for number, machine in enumerate(bench.firmware.machines):
        found: list[tuple[int, str, str]] = []
        for steps, output, drive in bench.drives_of(machine):
            finest_us = min((us for name in ("on_us", "off_us") if (us := getattr(drive, name, 0))), default=0)
            if 0 < finest_us < pass_us and not drive.blocks_us:
                where = pointer("firmware", "machines", number, *steps)
                found.append((finest_us, f"{bench.channel(output).name} {drive.kind}s", where))
        for finest_us, what, where in found:
            yield Finding(
                code="pace.too-fine",
                severity=Severity.LOOK,
                station="pace",
                part=machine.id,
                title=f"{machine.name}: finer than a pass",
                sentence=f"{what} after {ms(finest_us)}, and a pass with nothing to do takes {ms(pass_us)}: it "
                "comes with the next pass.",
                numbers=(("time", ms(finest_us)), ("pass", ms(pass_us))),
                pointer=where,
            )


def spread_out(evidence: Evidence) -> Iterator[Finding]:
    """Tasks that fall into one pass could be spread."""
    if not evidence.mends or evidence.bench.firmware.school == "kernel":
        return
    found = spread(evidence.bench)
    if found is None or found.gained_us < GAIN_US:
        return
    tasks = evidence.bench.firmware.tasks
    patch = tuple(
        {"op": "add", "path": pointer("firmware", "tasks", n, "offset_us"), "value": found.offsets_ms[task.id] * 1000}
        for n, task in enumerate(tasks)
    )
    yield Finding(
        code="pace.pile-up",
        severity=Severity.LOOK,
        station="pace",
        part="tasks",
        title="Tasks fall into one pass",
        sentence=f"Together they take {ms(found.before_us)} of it. Begun at other times, the most that falls into "
        f"one pass is {ms(found.after_us)}.",
        numbers=(("now", ms(found.before_us)), ("spread", ms(found.after_us)), ("gained", ms(found.gained_us))),
        pointer="/firmware/tasks",
        patch=patch,
        mend="Spread the tasks",
    )


def asleep(evidence: Evidence) -> Iterator[Finding]:
    """The counter stands still while the board is asleep, and with it all that is counted."""
    bench = evidence.bench
    sleep = bench.firmware.sleep
    if sleep is None or not sleep.stands:
        return
    stops = counted(bench)
    awake_ms = sleep.awake_us // 1000
    if sleep.wakes == "pin":
        stops = [one for one in stops if one.ms >= awake_ms or not one.ends]
    if not stops:
        return
    worst = max(stops, key=lambda one: (one.what == "is accepted", one.ms))
    if sleep.wakes == "pin":
        sentence = (
            f"It falls asleep {ms(sleep.awake_us)} after the last move, and its millisecond counter with it: "
            f"{worst.name}, {ms(worst.ms * 1000)}, is not over before that. Let it stay awake longer, or let a timer "
            "wake it."
        )
        longest_us = max(one.ms for one in stops) * 1500
        finite = all(one.ends for one in stops)
        patch = (
            replaced("/firmware/sleep/awake_us", longest_us) if finite else replaced("/firmware/sleep/wakes", "timer")
        )
        mend = f"Stay awake for {ms(longest_us)}" if finite else "Let a timer wake it"
        numbers: tuple[tuple[str, str], ...] = (("awake for", ms(sleep.awake_us)), ("longest", ms(worst.ms * 1000)))
    else:
        awake_us = max(idle_pass_us(bench) - asleep_us(bench), 1)
        real_us = worst.ms * 1000 * (awake_us + asleep_us(bench)) // awake_us
        sentence = (
            f"While the watchdog is what wakes the board its millisecond counter does not count: {worst.name} "
            f"{worst.what} after {at_s(real_us)} instead of {ms(worst.ms * 1000)}. A timer that runs on in light sleep "
            "keeps time, and draws more."
        )
        patch, mend = replaced("/firmware/sleep/wakes", "timer"), "Let a timer wake it"
        numbers = (("asleep", ms(asleep_us(bench))), ("asked", ms(worst.ms * 1000)), ("comes after", at_s(real_us)))
    yield Finding(
        code="pace.asleep",
        severity=Severity.MUST,
        station="pace",
        part="sleep",
        title=f"Asleep, no time passes: {len(stops)} {'time comes' if len(stops) == 1 else 'times come'} late or never",
        sentence=sentence,
        numbers=numbers,
        pointer="/firmware/sleep/wakes",
        patch=patch,
        mend=mend,
    )
