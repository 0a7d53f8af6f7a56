"""What holds the loop and has a form that runs beside it: a drive, a print or a task, a delay."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..document import Bench, pointer
from .anatomy import serial_wait_us


@dataclass(frozen=True)
class Hold:
    """Something that holds the pass for `us`; `what` is what a run calls it, `patch` (RFC 6902) lets it run beside and
    `mend` is what the button that does so says."""

    us: int
    what: str
    name: str
    pointer: str
    patch: tuple[dict[str, Any], ...]
    mend: str


def holds(bench: Bench) -> list[Hold]:
    """Everything in the firmware that holds the pass, but for debounce (which has a choice of its own)."""
    firmware = bench.firmware
    found = []
    for number, machine in enumerate(firmware.machines):
        for steps, output, drive in machine.drives:
            if drive.blocks_us:
                where = pointer("firmware", "machines", number, *steps, "blocking")
                free = ({"op": "replace", "path": where, "value": False},)
                name = bench.channel(output).name
                found.append(Hold(drive.blocks_us, f"drive {output}", name, where, free, "Let it run beside"))
    for number, task in enumerate(firmware.tasks):
        where = pointer("firmware", "tasks", number, "run_us")
        free = ({"op": "replace", "path": pointer("firmware", "tasks", number, "blocking"), "value": False},)
        waits_us = serial_wait_us(bench, task.characters) if task.talks else 0
        if task.blocking and firmware.school != "kernel":
            found.append(Hold(task.run_us + waits_us, f"task {task.id}", task.name, where, free, "Let it run beside"))
    if tail_us := firmware.loop.tail_delay_us:
        where = pointer("firmware", "loop", "tail_delay_us")
        free = ({"op": "replace", "path": where, "value": 0},)
        found.append(Hold(tail_us, "tail", "The delay at the end of the loop", where, free, "Take the delay out"))
    return found
