"""Ten thousand edits through the server as it is served: its memory before, on the way and after."""

from __future__ import annotations

import json
import sys
import time

from scripts.crowd import Person, p95
from tests.browser.server import Server
from tests.processes import family, own_mb

EDITS, FIRST, LOOK = 10_000, 500, 1_000
MOST_MORE_MB = 20.0  # than after the first edits, when all that is kept at hand is there
METHODS = ("rest-first", "act-ignore", "count-samples")


def memory_mb(server: Server) -> float:
    """Of the server and all its processes."""
    return sum(map(own_mb, family(server.process.pid)))


def main() -> int:
    """Edit, and say what it took; 1 where the memory has grown."""
    server = Server()
    person = Person(server.url)
    person.ask("GET", "/benches/1/clean?picked=foot-pedal")
    revision = json.loads(person.ask("GET", "/api/benches/1")[1])["revision"]
    taken, seen, peak = [], [], 0.0
    began = time.monotonic()
    for n in range(EDITS):
        value = {"method": METHODS[n // 10 % 3], "interval_us": 1_000 * (1 + n * 7 % 997)}
        patch = [{"op": "replace", "path": "/firmware/debounce/foot-pedal", "value": value}]
        body = {"base": revision, "patch": patch, "place": {"station": "clean", "picked": "foot-pedal"}}
        status, said, took_s = person.ask("POST", "/api/benches/1/edit", body)
        if status != 200:
            print(f"edit {n}: {status}: {said[:200]!r}")
            return 1
        taken.append(took_s)
        revision = json.loads(said)["revision"]
        if n + 1 in (1, FIRST) or (n + 1) % LOOK == 0:
            seen.append((n + 1, memory_mb(server)))
            peak = max(peak, seen[-1][1])
            print(f"{n + 1:6,} edits: {seen[-1][1]:.0f} MB, {1000 * p95(taken[-LOOK:]):.1f} ms (95 %)", flush=True)
    server.kill()
    first = next(mb for many, mb in seen if many == FIRST)
    more = seen[-1][1] - first
    print(
        f"{EDITS:,} edits in {time.monotonic() - began:.0f} s; {more:+.0f} MB since the first {FIRST}, {peak:.0f} MB at most"
    )
    return int(more > MOST_MORE_MB)


if __name__ == "__main__":
    sys.exit(main())
