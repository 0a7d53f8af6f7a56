"""Every test: the code's form, the core, the application, the browser. The last line counts them."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from tests.sharing import run, shared

MEMORY, ROOM = Path("/dev/shm"), 2**30


@contextmanager
def in_memory() -> Iterator[None]:
    """What tests put down for a while lies in memory, where there is room, so that no disk is waited for; then it goes."""
    free = os.statvfs(MEMORY) if os.access(MEMORY, os.W_OK) else None
    if free is None or free.f_bavail * free.f_frsize < ROOM or "TMPDIR" in os.environ:
        yield
        return
    with TemporaryDirectory(prefix="viva-tick-", dir=MEMORY, ignore_cleanup_errors=True) as folder:
        os.environ["TMPDIR"] = folder
        yield


def main() -> int:
    """Run all, or the modules that are named."""
    began = time.monotonic()
    passed = failed = 0
    with in_memory():
        for said, good, bad in [run(sys.argv[1:])] if sys.argv[1:] else shared():
            print(said, flush=True)
            passed, failed = passed + good, failed + bad
    print(f"in {time.monotonic() - began:.0f} s")
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main())
