"""The run of one of a scenario's repeats, on the strip."""

from __future__ import annotations

from dataclasses import replace

from ..core.engine import SkippingEngine
from ..core.repeats import drawn, varied
from ..core.study import AT_ONCE, Study, run_key
from ..core.timing import answers
from .answers import runs

MOST = 10_000_000


def numbered(done: Study, number: int | None) -> tuple[Study, str | None] | None:
    """The study with the run of one of its scenario's repeats in place of its own, and that run's key; None for the
    run on the strip."""
    if not number or number > MOST or done.scenario is None or done.answers is None:
        return None
    key = f"{run_key(done.bench, done.scenario)}-number-{number}"
    bench, scenario, seed = varied(done.bench, done.scenario, drawn(number))
    run = runs().get(key)
    if run is None:
        run = SkippingEngine().run(bench, scenario, seed, AT_ONCE)
        runs().remember(key, run)
    return replace(done, bench=bench, scenario=scenario, run=run, answers=answers(bench, run)), key
