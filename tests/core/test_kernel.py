"""Fixed priorities: the kernel and the response times against the textbook sets and against a simulation in simpy."""

from __future__ import annotations

import unittest
from collections.abc import Generator
from dataclasses import replace
from fractions import Fraction
from math import log
from typing import Any

import simpy
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from tests.core.pace_benches import READY_US, bench_of, rows, run_of, task
from tests.depth import DEPTH
from viva_tick.core.engine import Kind
from viva_tick.core.kernel import KernelTask, simulate
from viva_tick.core.pace import bound, hyperperiod_us, judge, response, schedulability, utilisation

SOME = settings(max_examples=150 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))


def by_period(rows: list[tuple[int, int]]) -> list[KernelTask]:
    """(T, C) with the shortest period first in priority."""
    ordered = sorted({period for period, _ in rows}, reverse=True)
    return [KernelTask(f"t{n}", t, c, ordered.index(t) + 1) for n, (t, c) in enumerate(rows)]


def in_simpy(tasks: list[KernelTask], length_us: int) -> dict[tuple[int, int], int]:
    """(task, due) → done, by a preemptive processor of simpy's that knows nothing of ours."""
    world = simpy.Environment()
    processor = simpy.PreemptiveResource(world, capacity=1)
    done: dict[tuple[int, int], int] = {}

    def one(number: int, task: KernelTask) -> Generator[Any, Any, None]:
        due = task.offset_us
        while due < length_us:
            if world.now < due:
                yield world.timeout(due - world.now)
            left = task.run_us
            while left:
                with processor.request(priority=-task.priority) as turn:
                    begun = None
                    try:
                        yield turn
                        begun = world.now
                        yield world.timeout(left)
                        left = 0
                    except simpy.Interrupt:
                        left -= int(world.now - begun) if begun is not None else 0
            done[number, due] = int(world.now)
            due += task.period_us

    for number, found in enumerate(tasks):
        world.process(one(number, found))
    world.run(until=length_us)
    return done


@st.composite
def task_sets(draw: st.DrawFn) -> list[KernelTask]:
    """Two to four tasks whose periods come together within 1200."""
    count = draw(st.integers(2, 4))
    periods = draw(st.lists(st.sampled_from([40, 50, 60, 80, 100, 120, 150, 200]), min_size=count, max_size=count))
    priorities = draw(st.permutations(range(1, count + 1)))
    return [
        KernelTask(f"t{n}", period, draw(st.integers(1, period // 2)), priority, draw(st.sampled_from([0, 0, 7, 30])))
        for n, (period, priority) in enumerate(zip(periods, priorities, strict=True))
    ]


class Published(unittest.TestCase):
    def test_response_times_of_the_textbook_sets(self) -> None:
        # Burns & Wellings, Real-Time Systems and Programming Languages (from memory; the arithmetic checks).
        for given_rows, expected in (
            ([(7, 3), (12, 3), (20, 5)], [3, 6, 20]),
            ([(80, 40), (40, 10), (20, 5)], [80, 15, 5]),
        ):
            tasks = by_period(given_rows)
            study = judge(tasks)
            self.assertEqual([one.response_us for one in study.responses], expected)
            self.assertTrue(study.works)
            schedule = simulate(tuple(tasks), hyperperiod_us([one.period_us for one in tasks]))
            self.assertEqual([schedule.response_us(n) for n in range(3)], expected)
        self.assertEqual(utilisation(by_period([(80, 40), (40, 10), (20, 5)])), 1)
        steps = response(by_period([(7, 3), (12, 3), (20, 5)])[2], by_period([(7, 3), (12, 3), (20, 5)])).steps
        self.assertEqual(steps, (5, 11, 14, 17, 20, 20))  # as the book writes it out

    def test_the_bound_is_that_of_liu_and_layland(self) -> None:
        for count, value in ((1, 1.0), (2, 0.8284), (3, 0.7798), (4, 0.7568)):
            self.assertAlmostEqual(bound(count), value, 4)
        self.assertAlmostEqual(bound(10_000), log(2), 4)

    @SOME
    @given(task_sets())
    def test_a_set_below_the_bound_always_works(self, tasks: list[KernelTask]) -> None:
        periods = sorted({one.period_us for one in tasks})
        assume(len(periods) == len(tasks))
        ranked = [KernelTask(t.id, t.period_us, t.run_us, len(periods) - periods.index(t.period_us)) for t in tasks]
        study = judge(ranked)
        if float(study.load) <= study.limit:
            self.assertTrue(study.works)
        if study.load > 1:
            self.assertFalse(study.works)


class AgainstSimpy(unittest.TestCase):
    @SOME
    @given(task_sets())
    def test_every_job_is_done_when_simpy_says(self, tasks: list[KernelTask]) -> None:
        length = 2_400
        other = in_simpy(tasks, length)
        mine = {
            (job.task, job.due_us): job.done_us
            for job in simulate(tuple(tasks), length).jobs
            if job.done_us is not None and job.done_us < length
        }
        self.assertEqual(mine, {key: at for key, at in other.items() if at < length})

    @SOME
    @given(task_sets(), st.lists(st.integers(0, 8), min_size=4, max_size=4))
    def test_no_job_takes_longer_than_the_response_time_and_one_does_so_long(
        self, tasks: list[KernelTask], later: list[int]
    ) -> None:
        # The critical instant; deadlines lie before the next period's or up to four further on.
        at_once = [
            KernelTask(t.id, t.period_us, t.run_us, t.priority, deadline_us=(t.period_us * more) // 2 if more else 0)
            for t, more in zip(tasks, later, strict=False)
        ]
        other = in_simpy(at_once, 2_400)
        for number, task_ in enumerate(at_once):
            found = response(task_, at_once)
            longest = max((done - due for (n, due), done in other.items() if n == number), default=2_400)
            if found.response_us is not None:
                self.assertEqual(longest, found.response_us)
            elif utilisation([task_, *found.above]) <= 1:
                self.assertGreater(longest, task_.by_us)

    def test_a_deadline_beyond_the_period_is_met_by_every_job_of_a_busy_time(self) -> None:
        tasks = [KernelTask("t0", 70, 26, 2), KernelTask("t1", 100, 62, 1, deadline_us=118)]  # Lehoczky 1990's set
        found = response(tasks[1], tasks)
        self.assertEqual((found.response_us, found.before), (118, 4))
        done = in_simpy(tasks, 1_400)
        took = [done[1, due] - due for due in range(0, 700, 100)]
        self.assertEqual(took, [114, 102, 116, 104, 118, 106, 94])
        self.assertIsNone(response(replace(tasks[1], deadline_us=117), tasks).response_us)

    def test_a_kernel_bench_runs_its_tasks_as_simpy_does(self) -> None:
        tasks = [task("fast", 7, 3000, priority=4, offset_us=0), task("mid", 12, 3000, priority=3, offset_us=0)]
        tasks.append(task("slow", 20, 5000, priority=2, offset_us=0))
        bench = bench_of(tasks=tasks, school="kernel", kernel={"switch_us": 0, "loop_us": 50_000}, length_ms=900)
        run = run_of(bench)
        same = [KernelTask(t["id"], t["period_us"], t["run_us"], t["priority"]) for t in tasks]
        done = in_simpy(same, 800_000)
        for number, one in enumerate(same):
            mine = [at + value[0] - READY_US for at, value in rows(run, Kind.JOB, one.id)]
            theirs = sorted(at for (n, _), at in done.items() if n == number)
            self.assertEqual(mine[: len(theirs)], theirs)


class Mistakes(unittest.TestCase):
    def test_one_that_never_gives_way_starves_those_below_and_no_other(self) -> None:
        tasks = (KernelTask("hog", 50, 5, 2, 0, "spins"), KernelTask("low", 50, 5, 1), KernelTask("high", 50, 5, 3))
        schedule = simulate(tasks, 1_000)
        self.assertEqual([schedule.response_us(n) for n in (1, 2)], [None, 5])
        self.assertEqual([one.response_us for one in judge(tasks).responses][1:], [None, 5])

    def test_one_that_returns_runs_once(self) -> None:
        schedule = simulate((KernelTask("gone", 50, 5, 2, 0, "returns"), KernelTask("low", 50, 5, 1)), 1_000)
        self.assertEqual(sum(job.task == 0 for job in schedule.jobs), 1)
        self.assertEqual(schedule.gone, {0})

    def test_equals_take_turns_tick_by_tick(self) -> None:
        schedule = simulate((KernelTask("a", 100, 6, 1), KernelTask("b", 100, 6, 1)), 100, 2, 2)
        self.assertEqual(
            [(one.from_us, one.to_us, one.task) for one in schedule.slices],
            [(0, 2, 0), (2, 4, 1), (4, 6, 0), (6, 8, 1), (8, 10, 0), (10, 12, 1)],
        )

    def test_inversion_and_its_cure(self) -> None:
        # The low one takes the lock at 0; the high one wants it at 2; the middle one has 30 to do from 3 on.
        tasks = (
            KernelTask("low", 200, 10, 1, 0, "waits", "bus", 8),
            KernelTask("mid", 200, 30, 2, 3),
            KernelTask("high", 200, 5, 3, 2, "waits", "bus", 5),
        )
        for inherits, done in ((False, 43), (True, 13)):
            jobs = {job.task: job for job in simulate(tasks, 200, inherits=inherits).jobs}
            self.assertEqual(jobs[2].done_us, done)
        self.assertEqual(response(tasks[2], tasks, inherits=False).unbounded, ("mid",))
        bounded = response(tasks[2], tasks)
        self.assertEqual((bounded.blocked_us, bounded.response_us), (8, 13))

    def test_periods_that_would_divide_each_other_are_named(self) -> None:
        study = judge(by_period([(10_000, 2_000), (20_000, 4_000), (50_000, 9_000)]))
        self.assertEqual(study.hints, (("t2", 50_000, 40_000, 0.2 + 0.2 + 0.225),))

    def test_the_loop_of_a_bench_is_a_task_among_them(self) -> None:
        bench = bench_of(tasks=[task("work", 10, 4000)], school="kernel", kernel={"switch_us": 0})
        study = schedulability(bench)
        loop = study.responses[-1]
        self.assertEqual(loop.response_us, 4_000 + loop.task.run_us)  # a tap of 80 ms is read in time all the same
        slow = bench_of(tasks=[task("work", 10, 4000)], school="kernel", taps={"button": {"hold_us": 3_000}})
        self.assertIsNone(schedulability(slow).responses[-1].response_us)
        self.assertEqual(study.load, Fraction(4, 10) + Fraction(loop.task.run_us, 1000))

    def test_a_run_that_is_longer_than_the_kernel_is_followed_says_so(self) -> None:
        bench = bench_of(tasks=[task("work", 500, 100)], school="kernel", length_ms=300_000)
        run = run_of(bench)
        self.assertIn("the kernel is followed no longer", run.stopped or "")
        self.assertGreater(run.trace.length_us, 60_000_000)

    def test_what_is_above_the_loop_makes_it_deaf_for_so_long_and_no_longer(self) -> None:
        presses = [(165 + 5, 20), (165 + 45, 20)]  # set up at 65 ms: the first falls into the task, the other beside it
        bench = bench_of(
            presses=presses,
            tasks=[task("work", 100, 30_000, priority=5, offset_us=0)],
            school="kernel",
            length_ms=400,
        )
        run = run_of(bench)
        pressed = [at for at, what in rows(run, Kind.EVENT, "button") if what == "press"]
        self.assertEqual(len(pressed), 1)
        self.assertGreater(pressed[0], 210_000)
        for at, _ in rows(run, Kind.READING, "button"):
            into = (at - READY_US) % 100_000
            self.assertFalse(100 < into < 30_000, f"read at {at} µs, while the task has the processor")


if __name__ == "__main__":
    unittest.main()
