"""What a pass costs that has nothing to do."""

from __future__ import annotations

from ..document import Bench
from .sensed import idle_reading_us


def asleep_us(bench: Bench) -> int:
    """How long it sleeps after each pass: a step of its watchdog, where that wakes it; 0 where a pin does."""
    sleep = bench.firmware.sleep
    if sleep is None:
        return 0
    return bench.the_board.watchdog_step_us(sleep.each_us) if sleep.wakes == "watchdog" else sleep.each_us


def idle_pass_us(bench: Bench) -> int:
    """How long a pass takes that has nothing to do."""
    cost = bench.costs
    firmware = bench.firmware
    return (
        cost.base
        + cost.read * len(bench.contacts)
        + idle_reading_us(bench)
        + cost.step * len(firmware.machines)
        + (cost.task * len(firmware.tasks) if firmware.school != "kernel" else 0)
        + cost.drive * len(bench.channels)
        + firmware.loop.tail_delay_us
        + asleep_us(bench)
    )


def working_pass_us(bench: Bench) -> int:
    """What such a pass takes of the processor: neither its delay nor its sleep."""
    return idle_pass_us(bench) - bench.firmware.loop.tail_delay_us - asleep_us(bench)
