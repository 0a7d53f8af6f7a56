"""What the command finder knows of a bench: places to go to, and things to do."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..core.document import Bench
from ..core.findings import Finding
from .stations import STATIONS
from .stations.wire import addable

Entry = dict[str, Any]
# words, more words that find it, what the page does
ACTS = (
    ("Undo", "back", "undo"),
    ("Redo", "again", "redo"),
    ("What was changed", "history log", "history"),
    ("Light or dark", "theme colours", "theme"),
    ("Help: keys", "shortcuts", "help"),
    ("Four steps to begin", "start tour", "begin"),
    ("Fold what stands out", "findings rail", "rail"),
    ("Height of the strip", "peek half tall", "strip"),
    ("All benches", "home", "home"),
)
SEVERITIES = {"must": "to fix", "look": "worth a look", "note": "note"}


def entries(bench: Bench, findings: tuple[Finding, ...]) -> Iterator[Entry]:
    """Everything that can be found: `words` and its `group`, `more` words that find it; `to` (a place), `act` (of the
    page) or `patch` with what is picked after it."""
    for station in STATIONS.values():
        yield {"words": station.title, "group": "station", "to": {"station": station.id, "picked": None}}
    for part in bench.parts:
        yield {"words": part.name, "group": "part, Wire", "to": {"station": "wire", "picked": part.id}}
    for ident in STATIONS["clean"].items(bench):
        names = {line.id: line.name for line in bench.contacts} | {part.id: part.name for part in bench.parts}
        yield {
            "words": names.get(ident, ident),
            "group": "input, Clean",
            "more": "debounce threshold",
            "to": {"station": "clean", "picked": ident},
        }
    for machine in bench.firmware.machines:
        there = {"station": "behave", "picked": machine.id}
        yield {"words": machine.name, "group": "machine, Behave", "to": there}
        for state in machine.states:
            at = {**there, "look": "grid", "chosen": f"state {state.id}"}
            yield {"words": state.name, "group": f"state of {machine.name}", "to": at}
    for task in bench.firmware.tasks:
        yield {"words": task.name, "group": "task, Pace", "to": {"station": "pace", "picked": task.id}}
    for body in bench.firmware.kernel.between.bodies:
        yield {"words": body.name, "group": "task of the kernel, Pace", "to": {"station": "pace", "picked": body.id}}
    for scenario in bench.scenarios:
        yield {"words": scenario.name, "group": "scenario", "to": {"scenario": scenario.name}}
    for finding in findings:
        group = f"{SEVERITIES[finding.severity]}, {STATIONS[finding.station].title}"
        yield {"words": finding.title, "group": group, "to": {"station": finding.station, "picked": finding.part}}
    for words, known, act in ACTS:
        yield {"words": words, "group": "action", "more": known, "act": act}
    for kind, patch, ident in addable(bench):
        yield {
            "words": f"Add a part: {kind.name}",
            "group": "action",
            "more": f"{kind.does} {kind.words} {kind.group}",
            "patch": patch,
            "pick": ident,
            "to": {"station": "wire"},
        }
