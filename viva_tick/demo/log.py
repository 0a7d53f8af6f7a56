"""The log that the print timer comes with: what its maker noted, tried and ticked off. All invented."""

from __future__ import annotations

import zlib
from dataclasses import asdict
from itertools import pairwise
from typing import Any

import jsonpatch

from ..core.document import Bench
from ..core.document.load import bench_data, bench_from_data
from ..core.edits import apply_patch, words
from ..core.record import lines_of
from ..core.told import Otherness, board_run, pins_vcd

WHO = "Ada"
# What came out so far, by the line's id: how, and what the meter showed.
TICKED: dict[str, tuple[str, float | None]] = {
    "power rails": ("pass", 8_200.0),
    "power supply": ("pass", 4.98),
    "scenario One print 0": ("fail", None),
    "scenario One print 1": ("pass", None),
    "scenario Next sheet in a hurry 0": ("fail", None),
}
TRIAL = {
    "title": "The pedal tapped fifty times",
    "of": "foot-pedal",
    "outcome": "doubled",
    "condition": "wait",
    "unit": "ms",
    "aim": 5,
    "note": "",
    "rows": [{"at": 5, "so": 7, "of": 50}, {"at": 10, "so": 1, "of": 50}, {"at": 20, "so": 0, "of": 80}],
}
NOTE = "On a cold morning the pedal went from focus to timed by itself, twice in ten. The safelight never failed."


CAPTURED = "One print, three pins"
# What was done to it, the other way round: what it was before the last edit, and before the one before.
BEFORE: tuple[list[dict[str, Any]], ...] = (
    [{"op": "replace", "path": "/firmware/debounce/foot-pedal", "value": {"method": "none", "interval_us": 2_000}}],
    [{"op": "remove", "path": "/firmware/watchdog"}],
)


def demo_revisions(name: str, bench: Bench) -> tuple[list[tuple[Bench, str]], str]:
    """(the states before the one that it comes in, the oldest first, with what was done then; what was done last)."""
    first = "demo bench added"
    if name != "print-timer":
        return [], first
    states = [bench]
    for patch in BEFORE:
        data = bench_data(states[0])
        states.insert(0, bench_from_data(bench_data(apply_patch(bench_from_data(data), patch))))
    said = [first, *(words(one, two, _patch(one, two)) for one, two in pairwise(states))]
    return list(zip(states[:-1], said[:-1], strict=True)), said[-1]


def _patch(before: Bench, after: Bench) -> list[dict[str, Any]]:
    made: list[dict[str, Any]] = jsonpatch.make_patch(bench_data(before), bench_data(after)).patch
    return made


def demo_capture(bench: Bench) -> str:
    """What an instrument saw at three pins of a board with a worn pedal and long passes: it disagrees twice."""
    run = board_run(bench, bench.scenario("One print"), Otherness(25, {"foot-pedal": "worn-button"}, 0.0, 12.0))
    return pins_vcd(bench, run, 0.0, run.boots[0][1], passes=True, only=frozenset({"D4", "D8"}))


def demo_entries(name: str, bench: Bench) -> list[tuple[str, str, dict[str, Any], bytes | None]]:
    """(kind, words, data, what is kept beside it) of the entries that a demo bench comes with, the oldest first."""
    if name != "print-timer":
        return []
    lines = [asdict(one) for one in lines_of(bench)]
    for line in lines:
        if line["id"] in TICKED:
            state, value = TICKED[line["id"]]
            line |= {"state": state, "value": value, "who": WHO, "at": "2026-11-21T16:20:00", "wrong": ""}
    text = demo_capture(bench)
    return [
        ("note", NOTE, {}, None),
        ("trial", TRIAL["title"], TRIAL, None),  # type: ignore[list-item]
        ("card", f"Test card, {len(lines)} lines", {"lines": lines}, None),
        ("capture", CAPTURED, {"channels": {}, "characters": len(text)}, zlib.compress(text.encode())),
    ]
