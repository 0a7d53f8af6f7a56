"""How many passes from now are certain to change nothing, and jumping over them."""

from __future__ import annotations

from ..clock import MASK, US_PER_MS
from .guarding import NEVER
from .sensed import SensedSlot
from .slots import InputSlot, OutputSlot
from .trace import Tape
from .waiting import WaitingBoard


class IdlingBoard(WaitingBoard):
    """`idle_us` is how long a pass takes that has nothing to do, `beat_us` from one such pass to the next.
    `never_idle`: no pass can be jumped over. `lively`: a machine looks at what another changes."""

    order: list[InputSlot | SensedSlot]
    outputs: list[OutputSlot]
    passes: Tape
    idle_us: int
    beat_us: int
    pass_us: int
    never_idle: bool
    disturbed: bool
    lively: bool
    delays: bool

    def undisturbed_until(self, start_us: int, end_us: int) -> int:
        """Until when neither the kernel, nor a fault, nor a watchdog that no idle pass feeds comes between."""
        if self.processor is not None:  # as long as nobody takes the processor, and from beat to beat
            if self.processor.off_beat(start_us):
                return start_us
            end_us = min(end_us, self.taken_us - self.beat_us)
        if self.fault_us > start_us:
            end_us = min(end_us, self.fault_us)
        elif self.fault is not None and self.fault.kind == "starve":
            return start_us
        if not self.fed:  # nothing feeds it in an idle pass
            end_us = min(end_us, self.bites_us - self.beat_us + 1)
        return end_us

    def idle_passes(self, start_us: int, end_us: int) -> int:
        """How many passes from the one that begins at `start_us`, none beginning at or after `end_us`, are certain
        to change nothing; 0 where that cannot be told."""
        period_us = self.beat_us
        if self.never_idle or (self.by_tick and (start_us - self.counter_zero_us) % US_PER_MS):
            return 0
        horizon_us = self.undisturbed_until(start_us, end_us) if self.disturbed else end_us
        if horizon_us <= start_us:
            return 0
        offset_us = self.pass_us
        marks: list[tuple[int, int]] = []
        for slot in self.order:
            if type(slot) is not InputSlot:
                quiet_us = slot.quiet_before(offset_us)
                if quiet_us < horizon_us:  # compared by hand: this runs between any two passes
                    if quiet_us <= start_us:
                        return 0
                    horizon_us = quiet_us
                offset_us += slot.idle_us
                if due := slot.due():
                    marks.append(due)
                continue
            offset_us += self.read_us
            if (
                slot.reading < 0
                or slot.reading != slot.level
                or slot.let_go
                or slot.owed
                or (slot.looks and slot.reading == slot.active)
            ):
                return 0
            # The first sample at or after the change is the first that can see it.
            if slot.next_us - offset_us < horizon_us:
                horizon_us = slot.next_us - offset_us
                if horizon_us <= start_us:
                    return 0
            if due := slot.stepper.due():
                marks.append(due)
            if slot.gestures is not None and (due := slot.gestures.due()):
                marks.append(due)
        if self.stirred and self.lively:
            return 0
        now_ms = self.counter(start_us)
        for mslot in self.machines:
            if mslot.waiting:
                return 0
            running = mslot.running
            if running.machine.waits[running.state]:
                for since_ms, wait_ms, way in running.waiting():
                    if self.delays and not way.guards:
                        return 0  # this pass stands its time out
                    # One whose time has come may wait for its guards, which nothing changes in an idle pass.
                    come = way.guards and (now_ms - since_ms) & MASK >= wait_ms
                    if not come or running.open_way((way,)):
                        marks.append((since_ms, wait_ms))
        for task in self.tasks:
            if task.left_us or task.letters:
                return 0
            marks.append(task.mark(now_ms))
        if self.awake_ms:  # the pass in which a pin changes says since when nothing has
            marks.append((self.woke_ms, self.awake_ms))
            horizon_us = min(horizon_us, self.next_move_us - self.idle_us)
            if horizon_us <= start_us:
                return 0
        if self.keeps_late:
            if any(keep.when == "feed" for keep in self.keeps_late):
                return 0
            marks += self.save_dues()
        for output in self.outputs:
            if output.pending is not None:
                return 0
            if output.guarded:
                marks += output.dues()
            elif not output.course.still and (due := output.course.due()):
                marks.append(due)
        if marks and self.frozen is None:
            left_ms = min([wait_ms - ((now_ms - since_ms) & MASK) for since_ms, wait_ms in marks])
            ticks = (start_us - self.counter_zero_us) // US_PER_MS + max(left_ms, 0)
            horizon_us = min(horizon_us, self.counter_zero_us + ticks * US_PER_MS)
        return max(0, -((start_us - horizon_us) // period_us))

    def skip(self, start_us: int, count: int) -> int:
        """Take `count` idle passes as run; answers when the next one begins."""
        self.passes.add_passes(start_us, self.beat_us, count)
        next_us = start_us + count * self.beat_us
        if self.fed:
            self.bites_us = next_us + self.timeout_us if self.guarded else NEVER
            self.marked = self.mode == "reset"
        return next_us
