"""Processes of this machine: who has begun whom, who is gone, how much memory is a process's own."""

from __future__ import annotations

import re
import time
from pathlib import Path


def gone_within(number: int, seconds: float) -> bool:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if not Path(f"/proc/{number}").exists() or "State:\tZ" in Path(f"/proc/{number}/status").read_text():
            return True
        time.sleep(0.02)
    return False


def family(number: int) -> list[int]:
    """A process and what it has begun, and what they have."""
    rows = [path.read_text().rpartition(")")[2].split() for path in Path("/proc").glob("[0-9]*/stat")]
    parents = dict(zip((int(path.parent.name) for path in Path("/proc").glob("[0-9]*/stat")), rows, strict=False))
    found = [number]
    for one in found:
        found += [child for child, row in parents.items() if int(row[1]) == one]
    return found


def own_mb(number: int) -> float:
    """The memory of a process, what it shares with others counted by its share."""
    found = re.search(r"^Pss:\s+(\d+) kB", Path(f"/proc/{number}/smaps_rollup").read_text(), re.MULTILINE)
    return int(found[1]) / 1024 if found else 0.0
