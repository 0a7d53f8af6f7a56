"""Every test: the code's form, the core, the application, the browser. The last line counts them."""

from __future__ import annotations

import sys
import time

from tests.sharing import run, shared


def main() -> int:
    """Run all, or the modules that are named."""
    began = time.monotonic()
    passed = failed = 0
    for said, good, bad in [run(sys.argv[1:])] if sys.argv[1:] else shared():
        print(said, flush=True)
        passed, failed = passed + good, failed + bad
    print(f"in {time.monotonic() - began:.0f} s")
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main())
