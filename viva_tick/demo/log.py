"""The log that the print timer comes with: what its maker noted, tried and ticked off. All invented."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ..core.document import Bench
from ..core.record import lines_of

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


def demo_entries(name: str, bench: Bench) -> list[tuple[str, str, dict[str, Any]]]:
    """(kind, words, data) of the entries that a demo bench comes with, the oldest first."""
    if name != "print-timer":
        return []
    lines = [asdict(one) for one in lines_of(bench)]
    for line in lines:
        if line["id"] in TICKED:
            state, value = TICKED[line["id"]]
            line |= {"state": state, "value": value, "who": WHO, "at": "2026-11-21T16:20:00", "wrong": ""}
    return [
        ("note", NOTE, {}),
        ("trial", TRIAL["title"], TRIAL),  # type: ignore[list-item]
        ("card", f"Test card, {len(lines)} lines", {"lines": lines}),
    ]
