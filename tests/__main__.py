"""Every test: the code's form, the core, the application, the browser. The last line counts them.

Without names two halves run at once, what a browser drives and the rest, as long as each other: a machine has more than one processor.
"""

from __future__ import annotations

import re
import subprocess
import sys
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]
BESIDE = {"tests.core.test_emit"}  # it waits for a compiler as the browser's tests wait for a browser
COUNT = re.compile(r"^(\d+) passed, (\d+) failed$", re.MULTILINE)


def modules() -> tuple[list[str], list[str]]:
    """Names of the test modules: those that drive a browser and those beside them, and the others."""
    found = sorted(
        ".".join(path.relative_to(ROOT).with_suffix("").parts) for path in (ROOT / "tests").rglob("test_*.py")
    )
    with_it = [name for name in found if ".browser." in name or name in BESIDE]
    return with_it, [name for name in found if name not in with_it]


def run(names: list[str]) -> tuple[int, int]:
    """(passed, failed) of the modules that are named, here and now."""
    suite = unittest.TestLoader().loadTestsFromNames(names)
    result = unittest.TextTestRunner(stream=sys.stdout, warnings="ignore").run(suite)
    bad = {str(getattr(test, "test_case", test)) for test, _ in result.failures + result.errors}
    bad |= {str(test) for test in result.unexpectedSuccesses}
    return max(result.testsRun - len(bad), 0), len(bad)


def halves() -> tuple[int, int]:
    """The same of all of them, in two processes. One that dies without counting has failed."""
    command = [sys.executable, "-W", "ignore", "-m", "tests"]
    going = [
        subprocess.Popen([*command, *half], cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        for half in modules()
    ]
    passed = failed = 0
    for one in going:
        said, _ = one.communicate()
        counts = COUNT.findall(said)
        print(COUNT.sub("", said).rstrip(), flush=True)
        passed += int(counts[-1][0]) if counts else 0
        failed += int(counts[-1][1]) if counts else 1
    return passed, failed


def main() -> int:
    """Run all, or the modules that are named."""
    began = time.monotonic()
    passed, failed = run(sys.argv[1:]) if sys.argv[1:] else halves()
    print(f"in {time.monotonic() - began:.0f} s")
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main())
