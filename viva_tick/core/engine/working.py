"""Work that stands in a pass: jobs of tasks, waits kept with delays, what the kernel takes, what a fault does."""

from __future__ import annotations

from ..clock import MASK, US_PER_MS
from .faults import HELD_BY, Fault
from .guarding import NEVER, GuardedBoard, Reset
from .sensed.measure import MeasureSlot
from .shared import Processor
from .slots import MachineSlot
from .tasks import SerialOut, TaskSlot


class WorkingBoard(GuardedBoard):
    """`taken_us`: when tasks above the loop next have the processor; `fault_us`: when the fault next does something;
    `frozen`: where the millisecond counter stands still."""

    machines: list[MachineSlot]
    line: SerialOut
    processor: Processor | None
    taken_us: int
    fault: Fault | None
    fault_us: int
    frozen: int | None
    tasks: list[TaskSlot]
    length_us: int

    def counter(self, at_us: int) -> int:
        """The millisecond counter at an instant."""
        raise NotImplementedError

    def samples_now(self, of: str, now_ms: int) -> bool:
        """Whether that sensor, or that task's, is sampled in this pass."""
        slot = self.sensed.get(of)
        if isinstance(slot, MeasureSlot):
            return now_ms - slot.last_ms & MASK >= slot.sample_ms
        return any(task.id == of and task.due(now_ms) for task in self.tasks)

    def held_up(self, clock_us: int, length_us: int, what: str, works: bool = False, feeds: bool = True) -> int:
        """`hold`, and the processor given back by what has a higher priority."""
        end_us = self.hold(clock_us, length_us, what, works, feeds)
        return self.give_way(end_us) if end_us >= self.taken_us else end_us

    def job(self, task: TaskSlot, clock_us: int, now_ms: int) -> int:
        """Run a task's job, or the next slice of it; the instant after it."""
        late_us = -1
        begun_us = clock_us
        if not task.left_us and not task.letters:
            due_us = clock_us - ((self.counter(clock_us) - task.last_ms & MASK) - task.period_ms) * US_PER_MS
            due_us -= (clock_us - self.counter_zero_us) % US_PER_MS
            if not task.start(now_ms):
                return clock_us
            late_us = max(clock_us - due_us, 0)
            if self.feed_task == task.id:
                self.feed(clock_us)
        if task.left_us:
            length_us = task.left_us if task.blocking else min(task.left_us, task.slice_us)
            task.left_us -= length_us
            clock_us = self.held_up(clock_us, length_us, f"task {task.id}", works=True)
        if task.letters and not task.left_us:
            count = task.letters
            if task.blocking:
                while count:  # as much as the buffer holds at a time
                    part = min(count, self.line.buffer)
                    if wait_us := self.line.room_us(clock_us, part):
                        clock_us = self.held_up(clock_us, wait_us, f"serial {task.id}", feeds=False)
                    self.line.put(clock_us, part)
                    count -= part
            else:
                part = min(count, self.line.buffer - self.line.waiting(clock_us))
                if part > 0:
                    self.line.put(clock_us, part)
                    count -= part
            task.letters = count
        if late_us >= 0 or clock_us > begun_us:
            task.jobs.add(begun_us, (clock_us - begun_us, late_us, task.missed))
            task.missed = 0
        return clock_us

    def followed_until(self, length_us: int) -> int:
        """Until when the run can go: to its end, or as long as the kernel is followed."""
        if self.processor is None:
            return length_us
        return min(length_us, self.processor.zero_us + self.processor.until_us)

    def give_way(self, clock_us: int) -> int:
        """Tasks of a higher priority have the processor at `clock_us`: the instant at which the loop has it back."""
        if self.processor is None:
            return clock_us
        clock_us, self.taken_us = self.processor.back(clock_us)
        if (
            self.feed_task
            and (fed_us := self.processor.fed_us(self.feed_task, clock_us)) + self.timeout_us > self.bites_us
        ):
            self.feed(fed_us)
        return clock_us

    def go_wrong(self, clock_us: int, now_ms: int) -> int:
        """The fault that is due by now; the instant after what it does in this pass."""
        fault = self.fault
        if fault is None:
            return clock_us
        over_us = fault.at_us + fault.for_us
        if fault.kind in ("stuck", "counter", "dip") or clock_us >= over_us:
            self.fault_us = NEVER
        if fault.kind == "dip":
            raise Reset(clock_us, "supply")
        if fault.kind == "counter":
            self.frozen = now_ms
        elif fault.kind == "stuck":
            clock_us = self.held_up(clock_us, max(self.length_us - clock_us, 0), HELD_BY["stuck"])
        elif fault.kind == "storm" and clock_us < over_us:
            clock_us = self.held_up(clock_us, max(over_us - clock_us, 0), HELD_BY["storm"], works=True)
        elif fault.kind == "bus" and clock_us < over_us and self.samples_now(fault.of, now_ms):
            clock_us = self.held_up(clock_us, min(over_us, self.length_us) - clock_us, HELD_BY["bus"])
        elif fault.kind == "starve" and clock_us < over_us:
            clock_us = self.held_up(clock_us, fault.by_us, HELD_BY["starve"], works=True)
        return clock_us
