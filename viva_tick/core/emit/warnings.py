"""What stands at the head of everything that leaves the bench: cautions, what must be fixed, chosen mistakes."""

from __future__ import annotations

from collections.abc import Iterable

from ..cautions import cautions
from ..document import Bench
from ..document.parts import Commands
from ..pace import waits

Warnings = Iterable[tuple[str, str]]  # (title, sentence) of the findings that must be fixed


def warning_lines(bench: Bench, said: Warnings) -> list[str]:
    """Cautions of what can hurt, then what must be fixed, in sentences; nothing where there is nothing."""
    lines = [f"CAUTION. {part}: {caution}" for part, caution in cautions(bench)]
    lines += [f"MUST FIX. {title}. {sentence}" for title, sentence in said]
    return ["", *lines] if lines else []


def chosen_mistakes(bench: Bench) -> list[str]:
    """What the bench does wrong on purpose, and why it fails."""
    keeping = bench.firmware.timekeeping
    if not waits(bench):
        return []
    lines = []
    if keeping.compares == "until":
        lines.append(
            "The bench compares with the end time (now >= last + wait) on purpose: this goes wrong where the "
            "millisecond counter wraps, after 49 days 17 hours."
        )
    if keeping.product == "int" and bench.the_board.int_bits == 16:
        lines.append(
            "The bench works waits out in an int on purpose: on this board it has 16 bits, and waits over 32.767 s "
            "come out wrong."
        )
    return lines


def talks(bench: Bench) -> bool:
    """Whether anything is printed, or heard, on the serial line."""
    said = bench.firmware.serial.traces or any(task.talks for task in bench.firmware.tasks)
    return said or any(isinstance(part, Commands) for part in bench.inputs)


def without_serial(bench: Bench) -> Bench:
    """The bench as a board runs it that has no serial line: tasks print nothing, commands are not read."""
    if bench.the_board.uart is not None or not talks(bench):
        return bench
    firmware = bench.firmware
    tasks = tuple(
        task.model_copy(update={"does": "compute", "characters": 0}) if task.talks else task for task in firmware.tasks
    )
    spoken = {part.id for part in bench.inputs if isinstance(part, Commands)}
    readings = {ident: reading for ident, reading in firmware.readings.items() if ident not in spoken}
    serial = firmware.serial.model_copy(update={"traces": False})
    changed = firmware.model_copy(update={"tasks": tasks, "readings": readings, "serial": serial})
    return bench.model_copy(update={"firmware": changed})
