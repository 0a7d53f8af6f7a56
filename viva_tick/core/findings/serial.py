"""The serial line: what is printed faster than it goes out, bauds that do not meet, what a line's end leaves behind."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import Listen, pointer
from ..document.parts import Commands
from ..pace import line_study
from ..units import ms
from .finding import Case, Finding, Patch, Severity
from .mends import replaced

BAUDS = (9600, 19200, 38400, 57600, 115200, 250000, 500000, 1000000)


def printing(case: Case) -> Iterator[Finding]:
    """Lines that take longer than until the next."""
    bench = case.bench
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


def bauds(case: Case) -> Iterator[Finding]:
    """The two ends are too far from each other."""
    bench = case.bench
    used = any(task.talks for task in bench.firmware.tasks) or any(
        isinstance(part, Commands) and part.id in bench.firmware.readings for _, part in bench.sensed
    )
    study = line_study(bench)
    if not used or study.good:
        return
    serial = study.serial
    differ = serial.theirs is not None and serial.theirs != serial.baud
    why = f"The other end has {serial.theirs} baud." if differ else "The clock does not divide to it."
    patch: Patch = replaced("/firmware/serial/baud", serial.theirs) if differ else ()
    yield Finding(
        code="pace.baud",
        severity=Severity.LOOK if study.understood else Severity.MUST,
        station="pace",
        part="serial",
        title="The two ends barely meet" if study.understood else "The two ends do not understand each other",
        sentence=f"Asked for {serial.baud} baud, the board makes {study.made_baud:,.0f}. {why} "
        f"{study.apart_percent:+.1f} % apart: up to {study.good_percent} % is well, beyond {study.most_percent} % "
        f"the last "
        "bits of a character are read wrong.",
        numbers=(
            ("asked", f"{serial.baud}"),
            ("made", f"{study.made_baud:,.0f}"),
            ("apart", f"{study.apart_percent:+.1f} %"),
        ),
        pointer="/firmware/serial/baud",
        patch=patch,
        mend=f"{serial.theirs} baud" if patch else "",
    )


def line_ends(case: Case) -> Iterator[Finding]:
    """A line's end stays in the receive buffer and is taken for the next command."""
    bench = case.bench
    serial = bench.firmware.serial
    if serial.ending == "none" or serial.reads == "line":
        return
    for _, part in bench.sensed:
        reading = bench.firmware.readings.get(part.id)
        if not isinstance(part, Commands) or not isinstance(reading, Listen) or part.source == "typed":
            continue
        codes = serial.ending_codes
        names = [
            reading.names[code - reading.numbers_from]
            for code in codes
            if 0 <= code - reading.numbers_from < len(reading.names)
        ]
        heard = f" Here that is “{names[0]}”." if names and names[0] else ""
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
