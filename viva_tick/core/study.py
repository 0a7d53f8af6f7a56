"""A bench looked at whole: a run of one scenario, what it answers, what the checks find."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass

from .document import Bench, Scenario
from .engine import Budget, Run, SkippingEngine
from .findings import Evidence, Finding, Severity, find
from .program import idle_pass_us
from .repeats import Repeats
from .timing import Answers, answers
from .version import core_version

MOST_WORK = 100_000  # changes of all runs that one answer looks at
AT_ONCE = Budget(passes=40_000, changes=100_000)  # as far as somebody waits for an answer
FURTHER = Budget(passes=300_000, changes=150_000)  # as far as a page can show, where somebody asks for it


@dataclass(frozen=True)
class Study:
    """One scenario's run, its answers, all findings, and what is known of its repeats; without a scenario only what
    can be found without a run."""

    bench: Bench
    scenario: Scenario | None
    run: Run | None
    answers: Answers | None
    findings: tuple[Finding, ...]
    repeats: Repeats | None = None


def study(
    bench: Bench,
    scenario: Scenario | None,
    seed: int | None = None,
    budget: Budget | None = None,
    run: Run | None = None,
    mends: bool = True,
    repeats: Repeats | None = None,
) -> Study:
    """Run a scenario (or take a run of it that is at hand) and say everything about it, and what is known of its
    repeats; mends only if wanted."""
    said = None
    if scenario is not None:
        run = run or SkippingEngine().run(bench, scenario, seed, budget)
        said = answers(bench, run)
    evidence = Evidence(bench, scenario, run if scenario else None, said, idle_pass_us(bench), mends, repeats)
    return Study(bench, scenario, evidence.run, said, tuple(find(evidence)), repeats)


class ToBeFixed(list[Finding]):
    """Every finding that must be fixed, over all scenarios, each once; `left` are the scenarios that were not looked
    at, since the others had taken too long."""

    left: tuple[str, ...] = ()


def to_be_fixed(
    bench: Bench, known: Study | None = None, run_of: Callable[[Scenario], Run | None] = lambda scenario: None
) -> ToBeFixed:
    """What must be fixed before a bench is built; `known` is a study that is at hand, `run_of` a way to their runs."""
    found: dict[tuple[str, str], Finding] = {}
    said = ToBeFixed()
    work_left = MOST_WORK
    for place, scenario in enumerate(bench.scenarios or (None,)):
        if work_left < 0:
            said.left = tuple(one.name for one in bench.scenarios[place:])
            break
        at_hand = known is not None and known.scenario is scenario
        run = run_of(scenario) if scenario and not at_hand else None
        done = known if known and at_hand else study(bench, scenario, run=run, mends=False)
        work_left -= done.run.trace.changes if done.run else 0
        for one in done.findings:
            if one.severity is Severity.MUST:
                found.setdefault((one.code, one.pointer), one)
    said += found.values()
    return said


def run_key(bench: Bench, scenario: Scenario, seed: int | None = None) -> str:
    """The hash under which a run is kept: document, scenario, seed, core."""
    seed = scenario.seed if seed is None else seed
    said = "\n".join((core_version(), bench.run_text, scenario.model_dump_json(), str(seed)))
    return hashlib.blake2b(said.encode(), digest_size=16).hexdigest()
