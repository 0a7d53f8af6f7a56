"""At the end of a pass: debounce methods that hold it, and its delay."""

from __future__ import annotations

from ..blocking import Blocking
from ..clock import Pass
from ..slots import InputSlot
from .base import StageRunner


class WaitStage(StageRunner):
    """A contact that did something stands its interval out, or all the time until it is released."""

    def __init__(self, this: Pass, blocking: Blocking, read_us: int, length_us: int) -> None:
        self.this, self.blocking = this, blocking
        self.read_us, self.length_us = read_us, length_us

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        for slot in self.this.waits:
            if slot.looks:
                clock_us = self._until_let_go(slot, clock_us)
            else:
                clock_us = self.blocking.hold(clock_us, slot.wait_us, f"debounce {slot.cleaned.of}")
        return clock_us

    def _until_let_go(self, slot: InputSlot, clock_us: int) -> int:
        """Stand still until the contact is let go and the interval after it; the release is an event of the pass that
        follows."""
        hold, length_us = self.blocking.hold, self.length_us
        what = f"debounce {slot.cleaned.of}"
        poll_us = max(self.read_us, 1)
        pressed = True
        while pressed:
            while pressed and clock_us < length_us:
                # It reads over and over; only the first reading after a change can differ.
                ahead_us = min(slot.next_us, length_us) - clock_us
                clock_us = hold(clock_us, max(-(-ahead_us // poll_us), 1) * poll_us, what)
                slot.catch_up(clock_us)
                pressed = slot.level == slot.active
            if not slot.both_edges:
                break
            clock_us = hold(clock_us, slot.wait_us, what) + self.read_us
            slot.catch_up(clock_us)
            pressed = slot.level == slot.active and clock_us < length_us
        if slot.level != slot.reading:
            slot.reading = slot.level
            slot.readings.add(clock_us, slot.level)
        slot.stepper.accepted = False
        slot.let_go, slot.press_pending = not slot.acts_late, slot.acts_late
        return clock_us


class TailStage(StageRunner):
    """The delay at the end of the loop."""

    def __init__(self, blocking: Blocking, tail_us: int) -> None:
        self.blocking, self.tail_us = blocking, tail_us

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        clock_us += self.tail_us
        if self.blocking.watchdog.feeds_in_waits:
            self.blocking.watchdog.feed(clock_us)
        return clock_us
