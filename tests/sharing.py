"""Test modules shared out among as many processes as there are hands: what is long first, so that all end together."""

from __future__ import annotations

import io
import resource
import time
import unittest
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path

from tests.depth import DEPTH

HANDS = 2
ROOT = Path(__file__).parents[1]
# The longest of those that need no browser, in the order of what they took when it was measured last.
LONG = (
    "core.test_targets",
    "core.test_emit",
    "core.test_builder",
    "core.test_each",
    "app.test_offers",
    "core.test_narrow",
    "app.test_approved",
    "core.test_findings",
    "core.test_engine",
    "core.test_machines",
)


def shares() -> list[list[str]]:
    """Names of the test modules in the order in which they begin. What drives a browser is one share: two browsers at
    once would wait for each other."""
    found = sorted(
        ".".join(path.relative_to(ROOT).with_suffix("").parts) for path in (ROOT / "tests").rglob("test_*.py")
    )
    if DEPTH > 1:
        found = [name for name in found if "DEPTH" in (ROOT / f"{name.replace('.', '/')}.py").read_text()]
        return [[name] for name in sorted(found, key=lambda name: name.removeprefix("tests.") not in LONG)]
    browser = [name for name in found if ".browser." in name]
    long = [f"tests.{name}" for name in LONG]
    assert set(long) <= set(found), long
    return [browser, *([name] for name in long), *([name] for name in found if name not in {*browser, *long})]


def _worked_s() -> float:
    """Processor time so far, with that of programs that were started and are done."""
    used = [resource.getrusage(whose) for whose in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)]
    return sum(one.ru_utime + one.ru_stime for one in used)


def run(names: list[str]) -> tuple[str, int, int]:
    """(what was said, passed, failed) of the modules that are named, here and now."""
    began_s, worked_s = time.monotonic(), _worked_s()
    said = io.StringIO()
    suite = unittest.TestLoader().loadTestsFromNames(names)
    result = unittest.TextTestRunner(stream=said, warnings="ignore").run(suite)
    bad = {str(getattr(test, "test_case", test)) for test, _ in result.failures + result.errors}
    bad |= {str(test) for test in result.unexpectedSuccesses}
    took = f"{time.monotonic() - began_s:.0f} s, {_worked_s() - worked_s:.0f} s of a processor: {names[0]}"
    return f"{said.getvalue().rstrip()}\n{took}", max(result.testsRun - len(bad), 0), len(bad)


def shared() -> Iterator[tuple[str, int, int]]:
    """The same of every share, as it is done. A process that dies without counting has failed."""
    with ProcessPoolExecutor(HANDS, mp_context=get_context("spawn")) as hands:
        going = {hands.submit(run, names): names for names in shares()}
        for one in as_completed(going):
            try:
                yield one.result()
            except BrokenProcessPool as error:
                yield f"{', '.join(going[one])}: {error}", 0, 1
