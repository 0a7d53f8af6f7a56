"""Whether fixed priorities can work: utilisation, the bound, exact response times by iteration.

Sources: Liu & Layland 1973 (bound); Joseph & Pandya 1986 (response times); Lehoczky 1990 (deadlines beyond the period:
every job of the busy period, not its first alone); Burns & Wellings, Real-Time Systems and Programming Languages (from
memory: blocking by a resource).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from math import gcd

from ..document import Bench
from ..kernel import LOOP, KernelTask, kernel_tasks
from ..program import working_pass_us
from ..units import ms

MOST_STEPS = 500
MOST_JOBS = 10_000  # of one busy period


def bound(tasks: int) -> float:
    """n(2^(1/n) − 1): a set of n tasks that uses no more meets every deadline, shortest period first."""
    return tasks * (2 ** (1 / tasks) - 1) if tasks else 1.0


def utilisation(tasks: Sequence[KernelTask]) -> Fraction:
    """The share of the processor that they use, exactly."""
    return sum((Fraction(task.run_us, task.period_us) for task in tasks), Fraction(0))


@dataclass(frozen=True)
class Response:
    """A task's longest response in µs, None where the iteration passes its deadline; `steps` are the values it went
    through, from when everything comes at once to when the job is done that takes longest, after `before` others of
    its own; `above` are the tasks that can interrupt it, `blocked_us` how long something below can hold it up.
    `unbounded`: tasks in between can hold it up for as long as they like, since nobody inherits."""

    task: KernelTask
    response_us: int | None
    steps: tuple[int, ...]
    above: tuple[KernelTask, ...]
    blocked_us: int
    unbounded: tuple[str, ...] = ()
    before: int = 0

    @property
    def slack_us(self) -> int | None:
        """What is left until it must be done."""
        return None if self.response_us is None else self.task.by_us - self.response_us

    @property
    def words(self) -> str:
        """The response for reading."""
        if self.response_us is not None:
            return ms(self.response_us)
        return "never" if not self.steps or self.unbounded else f"over {ms(self.task.by_us)}"


def blocking_us(task: KernelTask, tasks: Sequence[KernelTask]) -> int:
    """The longest that a task below holds something which this one, or one above it, wants."""
    wanted = {one.shares for one in tasks if one.shares and one.priority >= task.priority}
    return max((one.holds_us for one in tasks if one.priority < task.priority and one.shares in wanted), default=0)


def in_between(task: KernelTask, tasks: Sequence[KernelTask]) -> tuple[str, ...]:
    """Who can run while a task below holds what this one wants, without having anything to do with it."""
    holders = [one for one in tasks if task.shares and one.shares == task.shares and one.priority < task.priority]
    if not holders:
        return ()
    low = min(one.priority for one in holders)
    return tuple(one.id for one in tasks if low < one.priority < task.priority and one.shares != task.shares)


def response(task: KernelTask, tasks: Sequence[KernelTask], switch_us: int = 0, inherits: bool = True) -> Response:
    """Of each job q = 0, 1, … until one is done before the next is due: W = (q + 1)·C + B + Σ ⌈W/Tj⌉·Cj over everything
    of the same priority or a higher one, R = W − q·T; the longest R. A task that never gives the processor away takes
    all of it."""
    above = tuple(one for one in tasks if one.id != task.id and one.priority >= task.priority)
    middle = () if inherits else in_between(task, tasks)
    blocked_us = blocking_us(task, tasks)
    if any(one.ends == "spins" for one in above):
        return Response(task, None, (), above, blocked_us, middle)
    own_us = task.run_us + 2 * switch_us
    found: Response | None = None
    done_us = blocked_us
    for before in range(MOST_JOBS):
        earlier_us = before * task.period_us
        value_us, steps = done_us + own_us, [done_us + own_us]
        while value_us - earlier_us <= task.by_us and len(steps) < MOST_STEPS:
            done_us = (before + 1) * own_us + blocked_us
            done_us += sum(-(-value_us // one.period_us) * (one.run_us + 2 * switch_us) for one in above)
            steps.append(done_us)
            if done_us == value_us:
                break
            value_us = done_us
        else:
            return Response(task, None, tuple(steps), above, blocked_us, middle, before)
        took_us = done_us - earlier_us
        if found is None or took_us > (found.response_us or 0):
            found = Response(task, took_us, tuple(steps), above, blocked_us, middle, before)
        if done_us <= earlier_us + task.period_us:
            return replace(found, response_us=None) if middle else found
    return Response(task, None, (), above, blocked_us, middle)


@dataclass(frozen=True)
class Schedulability:
    """`load` is the utilisation, `limit` the bound for as many tasks; `hints` are periods that would divide the others
    (task id, period now, period to take, load with it)."""

    tasks: tuple[KernelTask, ...]
    load: Fraction
    limit: float
    responses: tuple[Response, ...]
    hints: tuple[tuple[str, int, int, float], ...]

    @property
    def works(self) -> bool:
        """Whether every task is done before it is due again."""
        return all(one.response_us is not None for one in self.responses)

    @property
    def worst(self) -> Response | None:
        """The one with the least to spare."""
        late = next((one for one in self.responses if one.response_us is None), None)
        spare = [one for one in self.responses if one.slack_us is not None]
        return late or min(spare, key=lambda one: (one.slack_us or 0) / one.task.by_us, default=None)


def is_harmonic(periods: Sequence[int]) -> bool:
    """Whether each period divides every longer one: such a set works up to a load of one."""
    ordered = sorted(set(periods))
    return all(longer % shorter == 0 for shorter, longer in pairwise(ordered))


def _harmonic_below(period_us: int, others: Sequence[int]) -> int | None:
    """The longest period in whole ms, shorter than `period_us` and longer than its half, in which each of a row that
    divide each other divides or is divided: a multiple of the next shorter of them, a divisor of the next longer."""
    if any(us % 1000 for us in others):
        return None
    most_ms, least_ms = (period_us - 1) // 1000, period_us // 2 // 1000 + 1
    longer = [us // 1000 for us in others if us // 1000 > least_ms]
    if not longer:
        step_ms = max(us // 1000 for us in others)
        candidates = [most_ms // step_ms * step_ms]
    else:
        row = min(longer)
        candidates = [
            row // count for count in range(row // most_ms, row // least_ms + 1) if count and row % count == 0
        ]
        candidates += [us for us in longer if us <= most_ms]
    fits = [ms_ for ms_ in candidates if least_ms <= ms_ <= most_ms and is_harmonic([*others, ms_ * 1000])]
    return max(fits) * 1000 if fits else None


def hints(tasks: Sequence[KernelTask]) -> tuple[tuple[str, int, int, float], ...]:
    """For each task that spoils a row of periods that divide each other: the next shorter period that would not."""
    found = []
    for task in tasks:
        others = [one.period_us for one in tasks if one.id not in (task.id, LOOP)]
        if task.id == LOOP or not others or is_harmonic([*others, task.period_us]) or not is_harmonic(others):
            continue
        if shorter_us := _harmonic_below(task.period_us, others):
            load = utilisation(tasks) - Fraction(task.run_us, task.period_us) + Fraction(task.run_us, shorter_us)
            found.append((task.id, task.period_us, shorter_us, float(load)))
    return tuple(found)


def schedulability(bench: Bench) -> Schedulability:
    """A bench's tasks and its loop under the kernel."""
    tasks = kernel_tasks(bench, working_pass_us(bench))
    kernel = bench.firmware.kernel
    return judge(tasks, kernel.switch_us, kernel.inherits)


def judge(tasks: Sequence[KernelTask], switch_us: int = 0, inherits: bool = True) -> Schedulability:
    """A set of tasks under fixed priorities; deadlines are the periods, or what a task has of its own."""
    counted = tuple(task for task in tasks if task.ends != "spins")
    rows = tuple(response(task, tasks, switch_us, inherits) for task in tasks)
    return Schedulability(tuple(tasks), utilisation(counted), bound(len(counted)), rows, hints(tasks))


def hyperperiod_us(periods: Sequence[int]) -> int:
    """When all of them come together again."""
    whole = 1
    for period in periods:
        whole = whole * period // gcd(whole, period)
    return whole
