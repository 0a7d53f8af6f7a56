"""The inner pass as machine code: `make compiled`.

A copy of the package is laid into `build/compiled`, and what each pass of a run goes through is compiled beside its
Python there, by mypyc from the types that the code has anyway. The Python stays what is written, tested and shipped;
where the copy is not built nothing is missing but speed. What is compiled must leave the same bytes: every scenario
of the demo benches and benches at random are run by both, before the copy counts as built.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
from collections.abc import Iterator
from hashlib import sha256
from pathlib import Path

ROOT = Path(__file__).parents[1]
TO = ROOT / "build" / "compiled"
MADE = TO / "made"  # there when all of it is, and the same
DRAWN = TO / "drawn.json"
CORE = "viva_tick/core"
# Not: what describes documents (their classes are made as the program starts), and packages' own files.
INNER = (
    "clock.py", "contacts/bounce.py", "contacts/moves.py", "courses/*.py", "debounce/*.py", "electrics/analogue.py",
    "engine/blocking.py", "engine/clock.py", "engine/engines.py", "engine/firmware.py", "engine/host.py",
    "engine/sensed/*.py", "engine/slots.py", "engine/stages/*.py", "engine/trace.py", "engine/upsets.py",
    "engine/watchdog.py", "exploring/joint.py", "gestures/recogniser.py", "machines/compiled.py",
    "machines/running.py", "readers/*.py", "seeds.py",
)  # fmt: skip
CLASS = re.compile(r"^((?:@\w.*\n)*)(class \w+(?!.*\b(?:Exception|StrEnum|Protocol|NamedTuple)\b).*)$", re.MULTILINE)
FUTURE = re.compile(r"^from __future__ import annotations$", re.MULTILINE)


def inner(root: Path) -> list[str]:
    """The files that are compiled, from `root`."""
    found = [path for pattern in INNER for path in sorted((root / CORE).glob(pattern))]
    return [str(path.relative_to(root)) for path in found if path.name != "__init__.py"]


def _as_pickle_needs_it(found: re.Match[str]) -> str:
    """A class that what is put down can be taken up in: made without its `__init__`; frozen fields as they are."""
    how = "native_class=False" if "frozen=True" in found[1] else "allow_interpreted_subclasses=True"
    return f"@mypyc_attr({how})\n{found[0]}"


def build() -> None:
    """Lay the copy down and compile it. Ends with what the compiler says if that fails."""
    from mypyc.build import mypycify
    from setuptools import setup

    shutil.rmtree(TO, ignore_errors=True)
    TO.mkdir(parents=True)
    shutil.copytree(ROOT / "viva_tick", TO / "viva_tick", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", TO / "mypy.toml")
    os.chdir(TO)
    for file in map(Path, inner(TO)):
        text = CLASS.sub(_as_pickle_needs_it, file.read_text(encoding="utf-8"))
        file.write_text(FUTURE.sub(r"\g<0>\nfrom mypy_extensions import mypyc_attr", text, 1), encoding="utf-8")
    modules = mypycify(["--config-file=mypy.toml", *inner(TO)], opt_level="2", debug_level="0", group_name="viva_tick")
    setup(name="viva-tick", packages=[], ext_modules=modules, script_args=["-q", "build_ext", "--inplace"])
    for left in ("build", ".mypy_cache"):
        shutil.rmtree(TO / left, ignore_errors=True)
    subprocess.run([sys.executable, "-m", "compileall", "-q", "viva_tick"], check=True)  # the rest starts as quickly


def drawn() -> list[str]:
    """Benches at random, each with one scenario, as text: drawn once, since what is drawn hangs on the code, too."""
    from hypothesis import Phase, given, settings

    from tests.random_benches import benches, sensed_benches
    from viva_tick.core.document import Bench, Scenario, bench_text

    found: list[str] = []
    for strategy in (benches(), benches(schools=True), sensed_benches()):

        @settings(max_examples=100, derandomize=True, database=None, deadline=None, phases=[Phase.generate])
        @given(strategy)
        def at_random(made: tuple[Bench, Scenario]) -> None:
            found.append(bench_text(made[0]))

        at_random()
    return found


def digests() -> Iterator[str]:
    """One line for each run: what ran, and what its trace comes to."""
    from viva_tick.core.document import bench_from_text
    from viva_tick.core.engine import Budget, PlainEngine, SkippingEngine
    from viva_tick.core.engine import firmware as runs
    from viva_tick.demo import ORDER, demo_text

    yield f"by {'machine code' if runs.__file__.endswith('.so') else 'Python'}"
    named = [(name, demo_text(name)) for name in ORDER]
    named += [(f"at random {n}", text) for n, text in enumerate(json.loads(DRAWN.read_text(encoding="utf-8")))]
    for name, text in named:
        bench = bench_from_text(text)
        for scenario in bench.scenarios:
            for engine in (SkippingEngine(), PlainEngine()):
                run = engine.run(bench, scenario, budget=Budget(passes=100_000))
                left = repr((run.stopped, run.boots)).encode() + run.trace.to_bytes()
                yield f"{name}, {scenario.name}, {type(engine).__name__}: {sha256(left).hexdigest()[:24]}"


def said(by: Path) -> list[str]:
    """The digests by the package that is found first in a folder."""
    env = {**os.environ, "PYTHONSAFEPATH": "1", "PYTHONPATH": f"{by}{os.pathsep}{ROOT}"}
    command = [sys.executable, "-W", "ignore", "-m", "scripts.compiled", "digests"]
    return subprocess.run(command, env=env, cwd=ROOT, check=True, stdout=subprocess.PIPE, text=True).stdout.splitlines()


def main() -> int:
    """Build, and hold the two against each other; 1 where they differ."""
    if sys.argv[1:] == ["digests"]:
        print("\n".join(digests()))
        return 0
    build()
    DRAWN.write_text(json.dumps(drawn()), encoding="utf-8")
    python, machine = said(ROOT), said(TO)
    if (python[0], machine[0]) != ("by Python", "by machine code"):
        print(f"They are {python[0]} and {machine[0]}.")
        return 1
    differ = [one for one, other in zip(python[1:], machine[1:], strict=True) if one != other]
    print(f"{len(python) - 1} runs by Python and by machine code: {len(differ) or 'none'} differ")
    print("\n".join(differ[:20]))
    if not differ:
        MADE.touch()
    return min(len(differ), 1)


if __name__ == "__main__":
    sys.exit(main())
