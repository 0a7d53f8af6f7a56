"""The loop's tasks, those that are due, the highest priority first."""

from __future__ import annotations

from ...clock import MASK, US_PER_MS
from ...program import Program, Stage
from ..blocking import Blocking
from ..clock import Counter, Pass
from ..tasks import SerialOut, TaskSlot
from ..trace import Recording
from .base import Due, StageRunner


class TaskStage(StageRunner):
    """`tasks` in the order in which they run; `jobs` what is recorded of them, in list order; `line` is what they print
    on."""

    def __init__(self, program: Program, this: Pass, counter: Counter, blocking: Blocking) -> None:
        firmware = program.bench.firmware
        self.this, self.counter, self.blocking = this, counter, blocking
        slots = {task.id: TaskSlot(task, program.timekeeping, program.board.int_bits) for task in firmware.tasks}
        self.jobs = [slot.jobs for slot in slots.values()]
        self.tasks = [slots[block.of] for block in program.of(Stage.TASK)]
        self.task_us = program.bench.costs.task
        self.serial, self.baud = firmware.serial, program.bench.line_baud
        self.line = SerialOut(self.serial, self.baud)

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`. What was in the transmit buffer is lost."""
        self.line = SerialOut(self.serial, self.baud)
        for task in self.tasks:
            task.begin(now_ms)

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        now_ms = self.this.now_ms
        for task in self.tasks:
            clock_us += self.task_us
            if task.left_us or task.letters or task.due(now_ms):
                clock_us = self._job(task, clock_us, now_ms)
        return clock_us

    def _job(self, task: TaskSlot, clock_us: int, now_ms: int) -> int:
        """Run a task's job, or the next slice of it; the instant after it."""
        late_us = -1
        begun_us = clock_us
        if not task.left_us and not task.letters:
            due_us = clock_us - ((self.counter.at(clock_us) - task.last_ms & MASK) - task.wait_ms) * US_PER_MS
            due_us -= (clock_us - self.counter.zero_us) % US_PER_MS
            if not task.start(now_ms):
                return clock_us
            late_us = max(clock_us - due_us, 0)
            if self.blocking.watchdog.feed_task == task.id:
                self.blocking.watchdog.feed(clock_us)
            self.blocking.watchdog.reported.add(task.id)
        if task.left_us:
            length_us = task.left_us if task.blocking else min(task.left_us, task.slice_us)
            task.left_us -= length_us
            clock_us = self.blocking.hold(clock_us, length_us, f"task {task.id}", works=True)
        if task.letters and not task.left_us:
            clock_us = self._print(task, clock_us)
        if late_us >= 0 or clock_us > begun_us:
            task.jobs.add(begun_us, (clock_us - begun_us, late_us, task.missed))
            task.missed = 0
        return clock_us

    def _print(self, task: TaskSlot, clock_us: int) -> int:
        """Put its characters into the transmit buffer: all of them where it waits for room, else as many as there is
        room for."""
        line = self.line
        if not task.blocking:
            part = min(task.letters, line.buffer - line.waiting(clock_us))
            if part > 0:
                line.put(clock_us, part)
                task.letters -= part
            return clock_us
        letters, task.letters = task.letters, 0
        return self.write(clock_us, letters, f"serial {task.id}")

    def write(self, clock_us: int, letters: int, what: str) -> int:
        """Put characters into the transmit buffer; where it is full the pass stands still until there is room."""
        line = self.line
        while letters:  # as much as the buffer holds at a time
            part = min(letters, line.buffer)
            if wait_us := line.room_us(clock_us, part):
                clock_us = self.blocking.hold(clock_us, wait_us, what, feeds=False)
            line.put(clock_us, part)
            letters -= part
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`."""
        now_ms = self.counter.at(start_us)
        for task in self.tasks:
            if task.left_us or task.letters:
                return start_us
            dues.append(task.mark(now_ms))
        return horizon_us

    @property
    def recordings(self) -> list[Recording]:
        """See `StageRunner.recordings`."""
        return self.jobs
