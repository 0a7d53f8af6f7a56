"""What holds the loop and has a form that runs beside it: a drive, a print or a task, a delay."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..document import Bench, TimeoutEvent, pointer
from ..program import in_its_school
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
    """Everything in the firmware that holds the pass, but for debounce (which has a choice of its own). With delays
    everything that takes time does, whatever is said of it: only another loop style cures that."""
    firmware = bench.firmware
    held = in_its_school(bench).firmware
    delays = firmware.school == "delays"
    leave = ({"op": "replace", "path": "/firmware/school", "value": "counter"},) if delays else ()
    mend = "Keep time with the counter" if delays else "Let it run beside"
    found = []
    for number, machine in enumerate(held.machines):
        own = {steps: drive for steps, _, drive in firmware.machines[number].drives}
        for steps, output, drive in bench.drives_of(machine):
            if drive.blocks_us:
                where = pointer("firmware", "machines", number, *steps, "blocking")
                free = ({"op": "replace", "path": where, "value": False},) if own[steps].blocks_us else ()
                name = bench.channel(output).name
                where = where if free else pointer("firmware", "machines", number, *steps)
                found.append(Hold(drive.blocks_us, f"drive {output}", name, where, (*free, *leave), mend))
        for place, transition in enumerate(machine.transitions):
            if (
                delays
                and isinstance(transition.on, TimeoutEvent)
                and not transition.guards
                and transition.on.variable is None
            ):
                where = pointer("firmware", "machines", number, "transitions", place, "on", "after_us")
                name = f"{machine.name}, {machine.state(transition.source).name},"
                found.append(Hold(transition.on.after_us, f"machine {machine.id}", name, where, leave, mend))
    for number, task in enumerate(held.tasks):
        where = pointer("firmware", "tasks", number, "run_us")
        free = ({"op": "replace", "path": pointer("firmware", "tasks", number, "blocking"), "value": False},)
        waits_us = serial_wait_us(bench, task.characters) if task.talks else 0
        if task.blocking and firmware.school != "kernel":
            found.append(Hold(task.run_us + waits_us, f"task {task.id}", task.name, where, (*free, *leave), mend))
    if tail_us := held.loop.tail_delay_us:
        where = pointer("firmware", "loop", "tail_delay_us")
        own_us = firmware.loop.tail_delay_us
        free = ({"op": "replace", "path": where, "value": 0},) if own_us else ()
        words = "Remove the delay" if own_us == tail_us and not delays else mend
        found.append(Hold(tail_us, "tail", "The delay at the end of the loop", where, (*free, *leave), words))
    return found
