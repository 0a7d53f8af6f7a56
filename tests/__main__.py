"""Every test: the code's form, the core, the application, the browser. The last line counts them."""

from __future__ import annotations

import os
import sys
import time
from multiprocessing.util import Finalize
from pathlib import Path
from shutil import rmtree
from tempfile import mkdtemp

from tests.sharing import run, shared

MEMORY, ROOM = Path("/dev/shm"), 2**30


def in_memory() -> None:
    """What tests put down for a while lies in memory, where there is room, so that no disk is waited for; then it goes,
    after what others have put there."""
    free = os.statvfs(MEMORY) if os.access(MEMORY, os.W_OK) else None
    if free is not None and free.f_bavail * free.f_frsize > ROOM and "TMPDIR" not in os.environ:
        os.environ["TMPDIR"] = folder = mkdtemp(prefix="viva-tick-", dir=MEMORY)
        Finalize(None, rmtree, (folder, True), exitpriority=-1_000)


def main() -> int:
    """Run all, or the modules that are named."""
    began = time.monotonic()
    passed = failed = 0
    in_memory()
    for said, good, bad in [run(sys.argv[1:])] if sys.argv[1:] else shared():
        print(said, flush=True)
        passed, failed = passed + good, failed + bad
    print(f"in {time.monotonic() - began:.0f} s")
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main())
