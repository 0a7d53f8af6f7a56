"""A bench looked at whole, its run from the cache where it is there; and the run before it, for the ghost."""

from __future__ import annotations

from dataclasses import replace

from ..core.at_hand import AtHand
from ..core.document import Bench, Scenario
from ..core.engine import Run, SkippingEngine
from ..core.first_scenario import with_first
from ..core.study import AT_ONCE, FURTHER, Study, run_key, study
from ..core.timing import Answers
from ..store import Revision
from .answers import benches, runs
from .shielded import shielded
from .so_far import so_far

_ANSWERS: AtHand[str, Answers] = AtHand(24)  # by the key of the run, which says all that they depend on


Ran = tuple[Answers | None, str | None]


def _scenario(bench: Bench, name: str | None) -> Scenario | None:
    return next((s for s in bench.scenarios if s.name == name), bench.scenarios[0] if bench.scenarios else None)


def studied(bench: Bench, name: str | None, keep: bool = True, mends: bool = True) -> tuple[Study, str | None]:
    """The study of one scenario, its run from the cache where it is there, and the run's key. Where its run cannot be
    worked out, what can be said without; where nothing can, nothing. A bench without a scenario has its first one."""
    bench = with_first(bench)
    scenario = _scenario(bench, name)
    empty = Study(bench, scenario, None, None, ())
    return shielded(
        "The run",
        lambda: _studied(bench, scenario, keep, mends),
        lambda: shielded(
            "What stands out", lambda: (_without_a_run(bench, scenario, mends), None), lambda: (empty, None)
        ),
    )


def run_of(bench: Bench, scenario: Scenario) -> Run:
    """The run of a scenario, from the cache where it is there."""
    key, found = _at_hand(bench, scenario)
    if found is None:
        found = SkippingEngine().run(bench, scenario, budget=AT_ONCE)
        runs().put(key, found)
    return found


def _at_hand(bench: Bench, scenario: Scenario) -> tuple[str, Run | None]:
    """The key of a scenario's run, and the run where it has been run already, as far as it has."""
    key = run_key(bench, scenario)
    found = runs().get(key)
    if found is not None and found.stopped and (further := runs().get(f"{key}-further")) is not None:
        return f"{key}-further", further
    return key, found


def run_further(bench: Bench, name: str | None) -> None:
    """Run a scenario that stopped early as far as anything is run."""
    bench = with_first(bench)
    scenario = _scenario(bench, name)
    if scenario is not None and run_of(bench, scenario).stopped:
        further = SkippingEngine().run(bench, scenario, budget=FURTHER)
        runs().put(f"{run_key(bench, scenario)}-further", further)
        runs().settle()  # it is asked for again at once


def _without_a_run(bench: Bench, scenario: Scenario | None, mends: bool) -> Study:
    """What can be said of a bench whose scenario cannot be run."""
    return replace(study(bench, None, mends=mends), scenario=scenario)


def _studied(bench: Bench, scenario: Scenario | None, keep: bool, mends: bool) -> tuple[Study, str | None]:
    if scenario is None:
        return study(bench, None, mends=mends), None
    key, found = _at_hand(bench, scenario)
    repeats = so_far(bench, scenario).repeats if mends else None
    done = study(bench, scenario, budget=AT_ONCE, run=found, mends=mends, repeats=repeats)
    if found is None and done.run is not None:
        (runs().put if keep else runs().remember)(key, done.run)
    if done.answers is not None:
        _ANSWERS.put(key, done.answers)
    return done, key


def before_it(revision: Revision, done: Study, preview: bool, before: Revision | None) -> Ran | None:
    """The run to draw as the ghost, of the same scenario: before the preview, before the last edit, or of the revision
    that an undo or redo left. None where that bench did not have the scenario."""
    if preview:
        bench = revision.bench
    else:
        if before is None and revision.parent_id:
            before = benches().revision(revision.bench_id, revision.parent_id)
        if before is None:
            return None
        bench = before.bench
    bench = with_first(bench)
    if done.scenario is None or done.scenario.name not in {scenario.name for scenario in bench.scenarios}:
        return None
    scenario = bench.scenario(done.scenario.name)
    key, run = _at_hand(bench, scenario)
    # What is held against the run before needs its answers only; an edit ago they were worked out.
    known = _ANSWERS.get(key)
    if known is not None and run is not None:
        return known, key
    earlier, key_of_it = studied(bench, scenario.name, mends=False)
    return earlier.answers, key_of_it
