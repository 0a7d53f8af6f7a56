"""Fixed priorities, preemption, a time-slice among equals, one resource at the beginning of a job.

From one event to the next: a release, the end of work, the end of a hold, the end of a time-slice. Times are µs. A
release is noticed at the next tick. Of a task whose job is still going on when its next is due, the jobs queue.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

from ..clock import NEVER

IDLE = -1
MOST_WORK = 750_000  # events times tasks: a second or so


@dataclass(frozen=True)
class KernelTask:
    """What the kernel knows of a task; a higher `priority` goes first. See `document.Task` for the rest."""

    id: str
    period_us: int
    run_us: int
    priority: int
    offset_us: int = 0
    ends: str = "waits"
    shares: str = ""
    holds_us: int = 0
    deadline_us: int = 0

    @property
    def by_us(self) -> int:
        """When a job must be done, counted from when it is due: its deadline, or its period where it has none."""
        return self.deadline_us or self.period_us


@dataclass(frozen=True, slots=True)
class Slice:
    """The processor is a task's from `from_us` to `to_us`."""

    from_us: int
    to_us: int
    task: int


@dataclass(frozen=True, slots=True)
class Job:
    """One run of a task: due, begun, done (None: not within the time looked at), how long it waited for a resource,
    and how long of that something of a lower priority than the holder's own kept it waiting."""

    task: int
    due_us: int
    begun_us: int | None
    done_us: int | None
    waited_us: int = 0


@dataclass(frozen=True)
class Schedule:
    """Slices in order of time and jobs in the order in which they were due; `gone` are the tasks that have returned."""

    slices: tuple[Slice, ...]
    jobs: tuple[Job, ...]
    gone: frozenset[int]
    length_us: int

    def response_us(self, task: int) -> int | None:
        """The longest from due to done of a task; None where a job was never done."""
        mine = [job for job in self.jobs if job.task == task]
        if not mine or any(job.done_us is None and self.length_us - job.due_us > 0 for job in mine[:-1]):
            return None
        done = [job.done_us - job.due_us for job in mine if job.done_us is not None]
        return max(done, default=None)


class _Live:
    """A task as it runs: what is left of its job, and of the hold at its beginning."""

    __slots__ = ("begun_us", "due_us", "gone", "hold_us", "left_us", "number", "queue", "spins", "task", "waited_us")

    def __init__(self, number: int, task: KernelTask) -> None:
        self.number = number
        self.task = task
        self.queue: deque[int] = deque()
        self.left_us = self.hold_us = 0
        self.due_us = self.begun_us = NEVER
        self.waited_us = 0
        self.spins = self.gone = False

    @property
    def ready(self) -> bool:
        return not self.gone and (self.due_us != NEVER or self.spins)

    def take(self) -> None:
        """Its next job, if one is due."""
        if self.queue and self.due_us == NEVER:
            self.due_us = self.queue.popleft()
            self.left_us = self.task.run_us
            self.hold_us = min(self.task.holds_us, self.task.run_us) if self.task.shares else 0
            self.begun_us = NEVER
            self.waited_us = 0


class _Kernel:
    """The kernel at an instant: who is ready, who holds what, whose turn it is. `slice_end_us`: when the time-slice of
    the one that runs is over."""

    def __init__(
        self, tasks: tuple[KernelTask, ...], tick_us: int, slice_us: int, switch_us: int, inherits: bool
    ) -> None:
        self.tasks, self.tick_us, self.slice_us = tasks, tick_us, slice_us
        self.switch_us, self.inherits = switch_us, inherits
        self.live = [_Live(number, task) for number, task in enumerate(tasks)]
        self.due_us = [self._noticed_us(task.offset_us) for task in tasks]
        self.count = [0] * len(tasks)
        self.owner: dict[str, _Live] = {}
        self.slices: list[Slice] = []
        self.jobs: list[Job] = []
        self.turn: deque[int] = deque(range(len(tasks)))  # who was served longest ago comes first among equals
        self.clock_us = 0
        self.running, self.slice_end_us = IDLE, NEVER

    def _noticed_us(self, at_us: int) -> int:
        """A release is noticed at the next tick."""
        return -(-at_us // self.tick_us) * self.tick_us

    def release(self) -> None:
        """Every job that is due by now waits for the processor, and each task that has nothing to do takes one up."""
        for number, one in enumerate(self.live):
            if not one.queue and self.due_us[number] > self.clock_us:
                continue
            while self.due_us[number] <= self.clock_us:
                if not one.gone:
                    one.queue.append(self.due_us[number])
                self.count[number] += 1
                task = self.tasks[number]
                self.due_us[number] = self._noticed_us(task.offset_us + self.count[number] * task.period_us)
            if not one.spins:
                one.take()

    def blocked(self, one: _Live) -> bool:
        """Whether somebody else holds what it begins with."""
        held = self.owner.get(one.task.shares) if one.hold_us else None
        return held is not None and held is not one

    def rank(self, one: _Live) -> int:
        """Its own priority, or that of the highest that waits for what it holds."""
        own = one.task.priority
        if not (self.inherits and one.hold_us and self.owner.get(one.task.shares) is one):
            return own
        waiting = [
            other.task.priority
            for other in self.live
            if other is not one and other.ready and other.hold_us and other.task.shares == one.task.shares
        ]
        return max([own, *waiting])

    def equals(self) -> list[_Live]:
        """Those of the highest rank that can run; none where nobody can."""
        top = 0
        found: list[_Live] = []
        for one in self.live:
            if not one.ready or (one.hold_us and self.blocked(one)):
                continue
            rank = self.rank(one) if one.hold_us else one.task.priority
            if not found or rank > top:
                top, found = rank, [one]
            elif rank == top:
                found.append(one)
        return found

    def give(self, equals: list[_Live]) -> _Live:
        """The one of them that has the processor now: who has it, until its time-slice is over."""
        numbers = {one.number for one in equals}
        if self.running not in numbers or (self.clock_us >= self.slice_end_us and len(equals) > 1):
            chosen = next(n for n in self.turn if n in numbers and (n != self.running or len(numbers) == 1))
            self.turn.remove(chosen)
            self.turn.append(chosen)
            if self.switch_us and self.slices and self.running != chosen:
                self.slices.append(Slice(self.clock_us, self.clock_us + self.switch_us, chosen))
                self.clock_us += self.switch_us
            self.running, self.slice_end_us = chosen, self.clock_us + self.slice_us
        one = self.live[self.running]
        begins = one.begun_us == NEVER and one.due_us != NEVER
        if begins:
            one.begun_us = self.clock_us
        if one.hold_us:
            self.owner[one.task.shares] = one
        return one

    def run(self, one: _Live, until_us: int) -> None:
        """It works until its job or its hold is done, or until then."""
        work_us = NEVER if one.spins else one.hold_us or one.left_us
        end_us = min(self.clock_us + work_us, until_us)
        spent_us = end_us - self.clock_us
        for other in self.live:
            if other is not one and other.due_us != NEVER and self.blocked(other):
                other.waited_us += spent_us
        if spent_us:
            self.slices.append(Slice(self.clock_us, end_us, one.number))
        self.clock_us = end_us
        if one.spins:
            return
        one.left_us -= spent_us
        if one.hold_us:
            one.hold_us -= spent_us
            if not one.hold_us:
                self.owner.pop(one.task.shares, None)
        if not one.left_us:
            self.done(one)

    def done(self, one: _Live) -> None:
        """Its job is done; what it does after that is its own affair."""
        self.jobs.append(Job(one.number, one.due_us, one.begun_us, self.clock_us, one.waited_us))
        one.due_us = NEVER
        if one.task.ends == "returns":
            one.gone = True
            one.queue.clear()
        elif one.task.ends == "spins":
            one.spins = True

    def schedule(self, length_us: int) -> Schedule:
        """What came of it, with the jobs that are not done."""
        for one in self.live:
            if one.due_us != NEVER:
                begun_us = None if one.begun_us == NEVER else one.begun_us
                self.jobs.append(Job(one.number, one.due_us, begun_us, None, one.waited_us))
            self.jobs += [Job(one.number, due_us, None, None) for due_us in one.queue]
        jobs = sorted(self.jobs, key=lambda job: (job.due_us, job.task))
        gone = frozenset(one.number for one in self.live if one.gone)
        return Schedule(_joined(self.slices), tuple(jobs), gone, length_us)


def simulate(
    tasks: tuple[KernelTask, ...],
    length_us: int,
    tick_us: int = 1,
    slice_us: int = NEVER,
    switch_us: int = 0,
    inherits: bool = True,
) -> Schedule:
    """Run `tasks` from 0 to `length_us`, or as far as `MOST_WORK` goes: the schedule says how far that was."""
    kernel = _Kernel(tasks, tick_us, slice_us, switch_us, inherits)
    left = MOST_WORK // (len(tasks) + 4)
    while kernel.clock_us < length_us and left:
        left -= 1
        kernel.release()
        next_us = min(min(kernel.due_us, default=NEVER), length_us)
        equals = kernel.equals()
        if not equals:
            kernel.running = IDLE
            kernel.clock_us = next_us
            continue
        one = kernel.give(equals)
        until_us = min(max(next_us, kernel.clock_us), kernel.slice_end_us if len(equals) > 1 else NEVER, length_us)
        kernel.run(one, until_us)
    return kernel.schedule(min(length_us, kernel.clock_us))


def _joined(slices: list[Slice]) -> tuple[Slice, ...]:
    found: list[Slice] = []
    for one in slices:
        if found and found[-1].task == one.task and found[-1].to_us == one.from_us:
            found[-1] = Slice(found[-1].from_us, one.to_us, one.task)
        else:
            found.append(one)
    return tuple(found)
