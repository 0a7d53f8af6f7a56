"""The same bench and scenario in two schools: what each loses, and how long it makes everybody wait."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Bench, Scenario, School
from ..engine import Budget, Run, SkippingEngine
from ..program import under
from ..timing import Answers, answers


@dataclass(frozen=True)
class SchoolRun:
    """One school's run in a few numbers: presses made, missed and doubled; the median and longest from contact to
    belief, the longest pass, the latest that a job began; µs, None where there is nothing to say."""

    school: School
    made: int
    missed: int
    false: int
    wait_us: int | None
    worst_wait_us: int | None
    longest_pass_us: int
    jitter_us: int | None
    missed_jobs: int
    resets: int
    broken: int


def school_run(school: School, said: Answers) -> SchoolRun:
    """The numbers out of a run's answers."""
    tallies = said.tallies.values()
    waits = sorted(wait for tally in tallies for wait in tally.waits_us)
    jobs = said.jobs.values()
    return SchoolRun(
        school,
        sum(tally.made for tally in tallies),
        sum(len(tally.missed_us) for tally in tallies),
        sum(len(tally.doubled_us) + len(tally.from_nothing_us) for tally in tallies),
        waits[(len(waits) - 1) // 2] if waits else None,
        waits[-1] if waits else None,
        said.longest_pass_us,
        max((one.jitter_us for one in jobs), default=None),
        sum(one.missed for one in jobs),
        len(said.resets_us),
        sum(not one.met for one in said.expected),
    )


def in_school(bench: Bench, scenario: Scenario, school: School, budget: Budget | None = None) -> tuple[Run, Answers]:
    """A run of the bench in a school, and what it answers."""
    other = under(bench, school)
    run = SkippingEngine().run(other, scenario, budget=budget)
    return run, answers(other, run)
