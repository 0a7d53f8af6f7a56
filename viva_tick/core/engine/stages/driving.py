"""The outputs do what they were last asked to."""

from __future__ import annotations

from ...clock import US_PER_MS
from ...drives import FULL, OFF
from ...drives.steady import SteadyCourse
from ...program import Program, Stage
from ..blocking import Blocking
from ..clock import Counter, Pass
from ..slots import OutputSlot
from ..trace import Recording
from .base import Due, StageRunner


class DriveStage(StageRunner):
    """`outputs` by id, in list order."""

    def __init__(self, program: Program, this: Pass, counter: Counter, blocking: Blocking) -> None:
        self.this, self.counter, self.blocking = this, counter, blocking
        longest = program.longest_ms
        self.outputs = {
            block.of: OutputSlot(block.subject, longest.get(block.of, 0), program.bench.inverted(block.subject))
            for block in program.of(Stage.DRIVE)
        }
        for lock in program.bench.firmware.interlocks:
            one, other = self.outputs[lock.one], self.outputs[lock.other]
            one.lock_with(other, lock.dead_us // US_PER_MS)
            other.lock_with(one, lock.dead_us // US_PER_MS)
        self.order = list(self.outputs.values())
        self.drive_us = program.bench.costs.drive

    def reset(self, at_us: int) -> None:
        """Power is switched on, or the board resets: every pin floats, or is held by its resistor."""
        for output in self.order:
            if not output.values.values or output.values.values[-1] != output.unset:
                output.values.add(at_us, output.unset)

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        for output in self.order:
            output.level = OFF
        for output in self.order:
            output.begin(now_ms)
            lit = int((output.level > OFF) != output.inverted)
            if output.inverted:
                output.duty.add(ready_us, FULL - output.level)
            if output.unset != lit:  # otherwise it is as it was held until now
                output.values.add(ready_us, lit)

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        blocking, drive_us, now_ms = self.blocking, self.drive_us, self.this.now_ms
        for output in self.order:
            clock_us += drive_us
            if clock_us >= blocking.taken_us:
                clock_us = blocking.give_way(clock_us)
            if output.pending is not None:
                if output.pending.waits:
                    clock_us = self._stand_by(output, clock_us)
                    continue
                output.course, output.pending = output.pending, None
                output.spent = output.told = False
                output.course.stand(output.level)
                level = output.course.begin(now_ms)
                output.play(output.course.hz, clock_us)
            elif output.course.still and not output.guarded:
                continue
            else:
                level = output.course.update(now_ms)
                if output.ends is not None and not output.told and output.course.ended:
                    output.told = True
                    output.ends()
            if output.guarded:
                level, cut = output.allowed(level, now_ms)
                if cut != output.cut:
                    output.cut = cut
                    output.cuts.add(clock_us, cut)
            if level != output.level:
                output.put(level, clock_us, now_ms)
        return clock_us

    def _stand_by(self, output: OutputSlot, clock_us: int) -> int:
        """Run a drive that holds the pass, to its end: the instant after it. Interlocked, it waits its turn."""
        course, now_ms = output.pending, self.this.now_ms
        if course is None or (output.rivals and not output.level and output.rival_holds(now_ms)):
            return clock_us
        output.pending = None
        output.play(course.hz, clock_us)
        for level, us in course.waits:
            if level != output.level:
                output.put(level, clock_us, self.counter.at(clock_us))
            clock_us = self.blocking.hold(clock_us, us, f"drive {output.id}")
        level = course.update(now_ms)
        if level != output.level:
            output.put(level, clock_us, self.counter.at(clock_us))
        output.course = SteadyCourse(level)
        if course.again:  # and so on, in the next pass
            output.pending = course
        elif output.ends is not None:
            output.ends()
        output.changed_ms = self.counter.at(clock_us)  # a dead time is counted from when the loop goes on
        output.ever = True
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`."""
        for output in self.order:
            if output.pending is not None:
                return start_us
            if output.guarded:
                dues += output.dues()
            elif not output.course.still and (due := output.course.due()):
                dues.append(due)
        return horizon_us

    @property
    def recordings(self) -> list[Recording]:
        """See `StageRunner.recordings`."""
        return [one for slot in self.order for one in (slot.values, slot.duty, slot.pitch, slot.cuts)]
