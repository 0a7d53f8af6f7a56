"""The processor under the kernel: when the tasks above the loop have it, and where each task's jobs lie."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from functools import lru_cache

from ..clock import NEVER
from ..document import Bench
from ..kernel import LOOP, Job, KernelTask, kernel_tasks, simulate
from .trace import Kind, Recording

MOST_US = 120_000_000  # how long the kernel is followed

_simulated = lru_cache(maxsize=4)(simulate)  # hang tests ask for the same over and over


class Processor:
    """Worked out once, for the whole run, from when set-up is done. Tasks above the loop, and its equals, take what
    they need whatever the loop does; those below get what a loop leaves that does nothing out of the ordinary."""

    def __init__(self, bench: Bench, loop_us: int, length_us: int) -> None:
        kernel = bench.firmware.kernel
        self.loop_us, self.loop_priority = kernel.loop_us, kernel.loop_priority
        self.tasks = kernel_tasks(bench, loop_us)
        above = tuple(one for one in self.tasks if one.id != LOOP and one.priority >= kernel.loop_priority)
        rules = (kernel.tick_us, kernel.slice_ticks * kernel.tick_us, kernel.switch_us, kernel.inherits)
        self.until_us = min(length_us, MOST_US)
        interrupting = _simulated(above, self.until_us, *rules)
        taken = interrupting.slices
        self.from_us: list[int] = []
        self.to_us: list[int] = []
        for one in taken:
            if self.to_us and self.to_us[-1] == one.from_us:
                self.to_us[-1] = one.to_us
            else:
                self.from_us.append(one.from_us)
                self.to_us.append(one.to_us)
        self.whole = _simulated(self.tasks, self.until_us, *rules)
        self.until_us = min(self.until_us, interrupting.length_us, self.whole.length_us)
        self.zero_us = 0
        self.place = 0
        self.begun = {task.id: self._begun(number) for number, task in enumerate(self.tasks)}

    def _begun(self, number: int) -> list[int]:
        return [job.begun_us for job in self.whole.jobs if job.task == number and job.begun_us is not None]

    def begin(self, ready_us: int) -> int:
        """Set-up is done: the tasks begin anew. When the processor is first taken from the loop."""
        self.zero_us = ready_us
        self.place = 0
        return self.from_us[0] + ready_us if self.from_us else NEVER

    def back(self, clock_us: int) -> tuple[int, int]:
        """When the loop has the processor, at `clock_us` or after; and when it is taken from it next."""
        at_us = clock_us - self.zero_us
        place = bisect_right(self.from_us, at_us) - 1
        while place >= 0 and place < len(self.to_us) and at_us < self.to_us[place]:
            at_us = self.to_us[place]
            place = bisect_right(self.from_us, at_us) - 1
        place += 1
        next_us = self.from_us[place] + self.zero_us if place < len(self.from_us) else NEVER
        return at_us + self.zero_us, next_us

    def beat_us(self, idle_us: int) -> int:
        """From one idle pass to the next, where nobody takes the processor."""
        return -(-idle_us // self.loop_us) * self.loop_us if self.loop_us else idle_us

    def off_beat(self, start_us: int) -> bool:
        """Whether a pass begins where a task has kept it waiting, so that the next comes sooner."""
        return bool(self.loop_us and (start_us - self.zero_us) % self.loop_us)

    def next_pass(self, clock_us: int) -> int:
        """When the loop's next pass is due: at the next of its beats, or at once where it never waits."""
        if not self.loop_us:
            return clock_us
        return self.zero_us + -(-(clock_us - self.zero_us) // self.loop_us) * self.loop_us

    def fed_us(self, task: str, clock_us: int) -> int:
        """When a task began its last job before `clock_us`; long ago if it never did."""
        begun = self.begun.get(task, [])
        place = bisect_left(begun, clock_us - self.zero_us + 1) - 1
        return begun[place] + self.zero_us if place >= 0 else -NEVER

    def runs_beside(self, task: str | None, works: bool) -> bool:
        """Whether a task has the processor while the loop stands still, or works."""
        return any(one.id == task and (not works or one.priority >= self.loop_priority) for one in self.tasks)

    def jobs(self, boots: list[tuple[int, int]], length_us: int) -> list[Recording]:
        """The jobs of each task over the boots of a run, as the engine records them."""
        recordings = []
        for number, task in enumerate(self.tasks):
            if task.id == LOOP:
                continue
            recording = Recording(Kind.JOB, task.id)
            for place, (_, ready_us) in enumerate(boots):
                until_us = boots[place + 1][0] if place + 1 < len(boots) else length_us
                for job in self.whole.jobs:
                    if job.task == number and job.begun_us is not None and ready_us + job.begun_us < until_us:
                        recording.add(ready_us + job.begun_us, _said(job, task, self.whole.length_us))
            recordings.append(recording)
        return recordings


def _said(job: Job, task: KernelTask, length_us: int) -> tuple[int, int, int]:
    begun_us = job.begun_us or 0
    done_us = length_us if job.done_us is None else job.done_us
    return (done_us - begun_us, begun_us - job.due_us, int(done_us - job.due_us > task.period_us))
