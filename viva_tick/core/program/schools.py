"""A bench as each school writes it: kept with delays, with the counter, or as tasks under a small kernel."""

from __future__ import annotations

from typing import Any

from ..document import Bench, Machine, School, StartDrive
from ..drives import Blockable, Drive

SCHOOLS: dict[School, tuple[str, str]] = {
    "delays": ("With delays", "Every time is a delay: nothing else happens meanwhile."),
    "counter": (
        "With the millisecond counter",
        "Times are looked up on the counter: the loop goes round.",
    ),
    "kernel": (
        "Tasks under a kernel",
        "The highest priority that is ready runs and interrupts the rest.",
    ),
}


def _held(drive: Drive) -> Drive:
    """A drive that holds the pass until its end; one without an end, for a round of it in each pass."""
    if not isinstance(drive, Blockable) or drive.blocking:
        return drive
    held = drive.model_copy(update={"blocking": True})
    return drive if held.fault and not drive.endless else held  # one that is too long stays as it is


def _with_delays(machine: Machine) -> Machine:
    def actions(row: tuple[Any, ...]) -> tuple[Any, ...]:
        return tuple(
            one.model_copy(update={"drive": _held(one.drive)}) if isinstance(one, StartDrive) else one for one in row
        )

    states = tuple(
        state.model_copy(
            update={
                "drives": {output: _held(drive) for output, drive in state.drives.items()},
                "entry": actions(state.entry),
                "exit": actions(state.exit),
            }
        )
        for state in machine.states
    )
    transitions = tuple(
        transition.model_copy(update={"actions": actions(transition.actions)}) for transition in machine.transitions
    )
    return machine.model_copy(update={"states": states, "transitions": transitions})


def in_its_school(bench: Bench) -> Bench:
    """What the engine runs. With delays: drives hold the pass, the loop ends with a delay of the shortest task's
    period, and tasks are counted from now on. The other two are what the bench says."""
    firmware = bench.firmware
    if firmware.school != "delays":
        return bench
    tasks = tuple(task.model_copy(update={"keeps": "now", "blocking": True}) for task in firmware.tasks)
    beat_us = min((task.period_us for task in tasks), default=0)
    loop = firmware.loop.model_copy(update={"tail_delay_us": max(firmware.loop.tail_delay_us, beat_us)})
    machines = tuple(map(_with_delays, firmware.machines))
    changed = firmware.model_copy(update={"tasks": tasks, "loop": loop, "machines": machines})
    return bench.model_copy(update={"firmware": changed})


def under(bench: Bench, school: School) -> Bench:
    """The same bench in another school."""
    return bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"school": school})})
