"""What can go wrong while the board runs, for hang tests: one fault, from one instant on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

FaultKind = Literal["stuck", "bus", "starve", "storm", "counter", "dip", "closed", "off", "welded"]
HELD_BY = {
    "stuck": "a block that never returns",
    "storm": "an interrupt storm",
    "bus": "the sensor's bus",
    "starve": "a task that takes too long",
}


@dataclass(frozen=True)
class Fault:
    """`kind` from `at_us` on, for `for_us` where it passes by itself.

    stuck: the pass never ends. bus: whoever samples the sensor or runs the task `of` waits until it is over. starve:
    every pass stands still for `by_us` more. storm: handlers, called by `of`, take all the time. counter: the
    millisecond counter stands still. dip: the supply falls away for a moment. closed: the contact `of` touches and
    stays so. off: a wire of the contact or sensor `of` has come off. welded: the output `of` stays on once it is. A
    reset ends those that are in the firmware; the bus, wires, the contact and the relay are not. The counter, once it
    has stopped, stands still until a reset, whatever `for_us` says.
    """

    kind: FaultKind
    at_us: int
    of: str = ""
    for_us: int = 1 << 61
    by_us: int = 0

    @property
    def over_us(self) -> int:
        """When it has passed."""
        return self.at_us + self.for_us


Faults = Fault | Sequence[Fault] | None


def several(faults: Faults) -> tuple[Fault, ...]:
    """One, some or none, in order of time."""
    if faults is None:
        return ()
    return (faults,) if isinstance(faults, Fault) else tuple(sorted(faults, key=lambda one: one.at_us))
