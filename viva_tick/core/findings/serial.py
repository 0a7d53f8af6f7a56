"""The serial line: what is printed faster than it goes out, bauds that do not meet, what a line's end leaves behind."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import Listen, pointer
from ..document.parts import Commands
from ..pace import anatomy, line_study
from ..units import ms
from .finding import Evidence, Finding, Patch, Severity
from .mends import replaced

BAUDS = (9600, 19200, 38400, 57600, 115200, 250000, 500000, 1000000)


def printing(evidence: Evidence) -> Iterator[Finding]:
    """Lines that take longer than until the next."""
    bench = evidence.bench
    talking = [(n, task) for n, task in enumerate(bench.firmware.tasks) if task.talks]
    if not talking:
        return
    study = line_study(bench)
    share = sum(study.line_us(task.characters) / task.period_us for _, task in talking)
    if share <= 1:
        return
    number, task = max(talking, key=lambda one: one[1].characters / one[1].period_us)
    faster = next((baud for baud in BAUDS if baud > study.made_baud and share * study.made_baud / baud <= 0.8), None)
    patch: Patch = ()
    if faster:
        patch = replaced("/firmware/serial/baud", faster)
    yield Finding(
        code="pace.prints-too-much",
        severity=Severity.MUST,
        station="pace",
        part=task.id,
        title=f"{task.name} prints more than goes out",
        sentence=f"{task.characters} characters take {ms(study.line_us(task.characters))} at "
        f"{bench.firmware.serial.baud} "
        f"baud and come every {ms(task.period_us)}. The buffer of {bench.firmware.serial.buffer_bytes} fills up, "
        f"and then "
        "every line waits for room.",
        numbers=(
            ("a line", ms(study.line_us(task.characters))),
            ("period", ms(task.period_us)),
            ("line in use", f"{share * 100:.0f} %"),
        ),
        pointer=pointer("firmware", "tasks", number, "characters"),
        patch=patch,
        mend=f"{faster} baud" if faster else "",
    )


def bauds(evidence: Evidence) -> Iterator[Finding]:
    """The two ends are too far from each other."""
    bench = evidence.bench
    used = any(task.talks for task in bench.firmware.tasks) or any(
        isinstance(part, Commands) and part.id in bench.firmware.readings for _, part in bench.sensed
    )
    study = line_study(bench)
    if not used or study.good:
        return
    serial, said = study.serial, bench.line_baud
    theirs = study.theirs
    differ = theirs != said
    if differ:
        title, why = "Two bauds on one line", f"The board is set to {said} baud, the other end to {theirs}"
        sentence = f"{why}: not one character is understood. Both ends of a line have one baud."
    else:
        title = "The two ends barely meet" if study.understood else "The two ends do not understand each other"
        sentence = (
            f"Asked for {said} baud, the board makes {study.made_baud:,.0f}: the clock does not divide to it. "
            f"{study.apart_percent:+.1f} % apart: up to {study.good_percent} % is well, beyond {study.most_percent} % "
            "the last bits of a character are read wrong."
        )
    apart = (("the board", f"{said}"), ("the other end", f"{theirs}"))
    made = (("asked", f"{said}"), ("made", f"{study.made_baud:,.0f}"), ("apart", f"{study.apart_percent:+.1f} %"))
    patch: Patch = replaced("/firmware/serial/baud", theirs) if differ and said == serial.baud else ()
    yield Finding(
        code="pace.two-bauds" if differ else "pace.baud",
        severity=Severity.LOOK if study.understood else Severity.MUST,
        station="pace",
        part="serial",
        title=title,
        sentence=sentence,
        numbers=apart if differ else made,
        pointer="/firmware/serial/baud",
        patch=patch,
        mend=f"{theirs} baud at both ends" if patch else "",
    )


def unended(evidence: Evidence) -> Iterator[Finding]:
    """A typed number that nothing ends is never whole."""
    bench = evidence.bench
    if bench.firmware.serial.ending != "none":
        return
    for _, part in bench.sensed:
        if isinstance(part, Commands) and part.source == "typed" and part.id in bench.firmware.readings:
            yield Finding(
                code="pace.no-line-end",
                severity=Severity.MUST,
                station="pace",
                part=part.id,
                title=f"{part.name}: a typed number never ends",
                sentence="The program takes digits until something comes that is none. The other end sends no line "
                "ending, so that 1 and then 2 become 12, and neither is ever heard. Let the terminal send a new line.",
                numbers=(("line ending", "none"),),
                pointer="/firmware/serial/ending",
                patch=replaced("/firmware/serial/ending", "lf"),
                mend="End lines with a new line",
            )


def overrun(evidence: Evidence) -> Iterator[Finding]:
    """While the loop is held more arrives than the receive buffer takes."""
    bench = evidence.bench
    heard = [part for part in bench.inputs if isinstance(part, Commands) and part.id in bench.firmware.readings]
    if not heard:
        return
    held_us = anatomy(bench).longest_us
    room = bench.firmware.serial.buffer_bytes
    full_us = room * 10_000_000 // bench.line_baud
    if held_us <= full_us:
        return
    yield Finding(
        code="pace.overrun",
        severity=Severity.LOOK,
        station="pace",
        part=heard[0].id,
        title=f"{heard[0].name}: what arrives can be lost",
        sentence=f"The receive buffer takes {room} characters, which is {ms(full_us)} at {bench.line_baud} baud; the "
        f"loop can be held for {ms(held_us)}. What comes after that is thrown away. Hold the loop for less, or let the "
        "other end wait for an answer.",
        numbers=(("buffer", f"{room} characters"), ("full after", ms(full_us)), ("loop held for", ms(held_us))),
        pointer="/firmware/serial/buffer_bytes",
    )


def line_ends(evidence: Evidence) -> Iterator[Finding]:
    """A line's end stays in the receive buffer and is taken for the next command."""
    bench = evidence.bench
    serial = bench.firmware.serial
    if serial.ending == "none" or serial.reads == "line":
        return
    for _, part in bench.sensed:
        reading = bench.firmware.readings.get(part.id)
        if not isinstance(part, Commands) or not isinstance(reading, Listen) or part.source == "typed":
            continue
        codes = serial.ending_codes
        names = [reading.by_number[code] for code in codes if code in reading.by_number]
        heard = f" Here that is “{names[0]}”." if names else ""
        yield Finding(
            code="pace.line-end",
            severity=Severity.MUST if names else Severity.LOOK,
            station="pace",
            part=part.id,
            title=f"{part.name}: a line's end is left over",
            sentence=f"The other end ends a line with {' and '.join(map(str, codes))}; one character is read, and "
            f"the rest is the next command.{heard} Read the whole line.",
            numbers=(("left over", ", ".join(map(str, codes))),),
            pointer="/firmware/serial/reads",
            patch=replaced("/firmware/serial/reads", "line"),
            mend="Read the whole line",
        )
