"""Every test: the code's form, the core, the application, the browser. The last line counts them."""

from __future__ import annotations

import sys
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]


def main() -> int:
    """Run all, or the modules that are named."""
    began = time.monotonic()
    loader = unittest.TestLoader()
    named = sys.argv[1:]
    suite = loader.loadTestsFromNames(named) if named else loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))
    result = unittest.TextTestRunner(stream=sys.stdout, warnings="ignore").run(suite)
    bad = {str(getattr(test, "test_case", test)) for test, _ in result.failures + result.errors}
    bad |= {str(test) for test in result.unexpectedSuccesses}
    failed = len(bad)
    print(f"in {time.monotonic() - began:.0f} s")
    print(f"{max(result.testsRun - failed, 0)} passed, {failed} failed", flush=True)
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main())
