"""Fixed priorities, preemption, a time-slice among equals, one resource at the beginning of a job.

From one event to the next: a release, the end of work, the end of a hold, the end of a time-slice. Times are µs. A
release is noticed at the next tick. Of a task whose job is still going on when its next is due, the jobs queue.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

NEVER = 1 << 62
IDLE = -1


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


def simulate(
    tasks: tuple[KernelTask, ...],
    length_us: int,
    tick_us: int = 1,
    slice_us: int = NEVER,
    switch_us: int = 0,
    inherits: bool = True,
) -> Schedule:
    """Run `tasks` from 0 to `length_us`."""
    live = [_Live(number, task) for number, task in enumerate(tasks)]
    due = [-(-task.offset_us // tick_us) * tick_us for task in tasks]
    count = [0] * len(tasks)
    owner: dict[str, _Live] = {}
    slices: list[Slice] = []
    jobs: list[Job] = []
    turn: deque[int] = deque(range(len(tasks)))  # who was served longest ago comes first among equals
    clock_us = 0
    running, slice_end_us = IDLE, NEVER

    def rank(one: _Live) -> int:
        """Its own priority, or that of the highest that waits for what it holds."""
        own = one.task.priority
        if inherits and one.hold_us and owner.get(one.task.shares) is one:
            waiting = [
                other.task.priority
                for other in live
                if other is not one and other.ready and other.hold_us and other.task.shares == one.task.shares
            ]
            return max([own, *waiting])
        return own

    def blocked(one: _Live) -> bool:
        held = owner.get(one.task.shares) if one.hold_us else None
        return held is not None and held is not one

    while clock_us < length_us:
        for number, one in enumerate(live):
            while due[number] <= clock_us:
                if not one.gone:
                    one.queue.append(due[number])
                count[number] += 1
                exact = tasks[number].offset_us + count[number] * tasks[number].period_us
                due[number] = -(-exact // tick_us) * tick_us
            if not one.spins:
                one.take()
        can = [one for one in live if one.ready and not blocked(one)]
        next_due_us = min(min(due, default=NEVER), length_us)
        if not can:
            running = IDLE
            clock_us = next_due_us
            continue
        top = max(rank(one) for one in can)
        equals = [one for one in can if rank(one) == top]
        numbers = {one.number for one in equals}
        if running not in numbers or (clock_us >= slice_end_us and len(equals) > 1):
            chosen = next(number for number in turn if number in numbers and (number != running or len(numbers) == 1))
            turn.remove(chosen)
            turn.append(chosen)
            if switch_us and slices and running != chosen:
                slices.append(Slice(clock_us, clock_us + switch_us, chosen))
                clock_us += switch_us
            running, slice_end_us = chosen, clock_us + slice_us
        one = live[running]
        if one.begun_us == NEVER and one.due_us != NEVER:
            one.begun_us = clock_us
            if one.hold_us:
                owner[one.task.shares] = one
        elif one.hold_us:
            owner[one.task.shares] = one
        work_us = NEVER if one.spins else one.hold_us or one.left_us
        end_us = min(clock_us + work_us, max(next_due_us, clock_us), slice_end_us if len(equals) > 1 else NEVER)
        end_us = min(end_us, length_us)
        spent_us = end_us - clock_us
        for other in live:
            if other is not one and other.due_us != NEVER and blocked(other):
                other.waited_us += spent_us
        if spent_us:
            slices.append(Slice(clock_us, end_us, one.number))
        clock_us = end_us
        if one.spins:
            continue
        one.left_us -= spent_us
        if one.hold_us:
            one.hold_us -= spent_us
            if not one.hold_us:
                owner.pop(one.task.shares, None)
        if not one.left_us:
            jobs.append(Job(one.number, one.due_us, one.begun_us, clock_us, one.waited_us))
            one.due_us = NEVER
            if one.task.ends == "returns":
                one.gone = True
                one.queue.clear()
            elif one.task.ends == "spins":
                one.spins = True
    for one in live:
        if one.due_us != NEVER:
            begun_us = None if one.begun_us == NEVER else one.begun_us
            jobs.append(Job(one.number, one.due_us, begun_us, None, one.waited_us))
        jobs += [Job(one.number, due_us, None, None) for due_us in one.queue]
    jobs.sort(key=lambda job: (job.due_us, job.task))
    gone = frozenset(one.number for one in live if one.gone)
    return Schedule(_joined(slices), tuple(jobs), gone, length_us)


def _joined(slices: list[Slice]) -> tuple[Slice, ...]:
    found: list[Slice] = []
    for one in slices:
        if found and found[-1].task == one.task and found[-1].to_us == one.from_us:
            found[-1] = Slice(found[-1].from_us, one.to_us, one.task)
        else:
            found.append(one)
    return tuple(found)
