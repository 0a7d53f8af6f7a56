"""What a drill shows of its bench: what a person at a real bench has, and nothing else."""

from __future__ import annotations

from typing import Any

from ..core.document import Bench
from ..core.drills import FAULTS, GROUPS, codes
from ..core.drills.drill import COSTS, places
from ..core.drills.meant import meant
from ..core.emit import TARGETS, targets_of, wires
from ..core.findings import Finding
from ..core.study import Study, study
from ..store import Drill
from .studies import studied

OUTSIDE = ("output", "text", "angle")


def drilled_strip(drill: Drill, done: Study, context: dict[str, Any]) -> dict[str, Any]:
    """The strip of a drill: the outputs, and the pin that the probe is on; when it is over, all of it, over the run
    without the faults."""
    strip = dict(context["strip"])
    if drill.ended:
        name = done.scenario.name if done.scenario else None
        _, key = studied(drill.sound, name, keep=False, mends=False)
        return {**context, "strip": {**strip, "ghost": key, "beside": "without the faults"}}
    probe = drill.last("probe")
    lanes = [
        {**lane, "extra": False, "note": "the probe" if lane["kind"] == "level" else lane["note"]}
        for lane in strip.get("lanes", ())
        if lane["kind"] in OUTSIDE or (probe and lane["id"] == f"level {probe['of']}")
    ]
    hidden = {"lanes": lanes, "ghost": None, "difference": "", "beside": None, "windows": None, "stopped_why": ""}
    return {**context, "strip": {**strip, **hidden}}


def drill_context(drill: Drill, bench: Bench) -> dict[str, Any]:
    """What the templates of a drill are given besides."""
    hidden = [(FAULTS[one["id"]], one["of"]) for one in drill.faults if one["id"] in FAULTS]
    found = [{"id": one.id, "fault": one, "words": one.words.replace("{of}", of)} for one, of in hidden]
    hints = [hint for one, _ in hidden if one.id not in drill.found for hint in one.hints]
    given = sum(one["what"] == "hint" for one in drill.asked)
    program = next(iter(targets_of(bench)), TARGETS["c"])
    context: dict[str, Any] = {
        "drill_costs": COSTS,
        "drill_faults": found,
        "drill_groups": GROUPS,
        "drill_kinds": list(FAULTS.values()),
        "drill_meant": meant(drill.sound),
        "drill_places": places(bench),
        "drill_hints_left": max(len(hints) - given, 0),
        "drill_wires": wires(bench) if drill.last("wires") or drill.ended else (),
        "drill_program": program.emit(bench, []).text if drill.last("program") and not drill.ended else "",
    }
    if not drill.ended:
        context |= {"here": [], "elsewhere": [], "expected": [], "standings": []}
        return context
    new = codes(bench) - codes(drill.sound)
    wanted = {one.code for one, _ in hidden}
    named: dict[tuple[str, str], Finding] = {}
    for scenario in bench.scenarios or (None,):
        for finding in study(bench, scenario, mends=False).findings:
            if (finding.code, finding.part) in new and finding.code in wanted:
                named.setdefault((finding.code, finding.part), finding)
    return {**context, "drill_named": list(named.values())}
