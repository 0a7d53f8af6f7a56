"""A bench's tasks as the kernel knows them, the loop among them."""

from __future__ import annotations

from ..document import Bench, TapTiming, Task
from .simulate import KernelTask

LOOP = "loop"


def run_us(bench: Bench, task: Task) -> int:
    """With what its characters take, where they are more than the transmit buffer holds: it waits for room."""
    serial = bench.firmware.serial
    over = max(task.characters - serial.buffer_bytes, 0) if task.talks and task.blocking else 0
    return task.run_us + round(over * serial.character_us)


def kernel_tasks(bench: Bench, loop_us: int) -> tuple[KernelTask, ...]:
    """Every task, and the loop, which takes `loop_us` of processor a pass. A loop that never waits spins. A pass may be
    late, if only every tap that must be followed is read: the shortest one is its deadline."""
    kernel = bench.firmware.kernel
    found = [
        KernelTask(
            task.id,
            task.period_us,
            max(run_us(bench, task), 1),
            task.priority,
            task.period_us if task.offset_us is None else task.offset_us,
            task.ends,
            task.shares,
            task.holds_us,
        )
        for task in bench.firmware.tasks
    ]
    period_us = kernel.loop_us or max(loop_us, 1000)
    ends = "waits" if kernel.loop_us else "spins"
    tap_us = min((bench.taps.get(line.id, TapTiming()).hold_us for line in bench.contacts), default=TapTiming().hold_us)
    by_us = max(tap_us, period_us)
    return (*found, KernelTask(LOOP, period_us, max(loop_us, 1), kernel.loop_priority, 0, ends, deadline_us=by_us))
