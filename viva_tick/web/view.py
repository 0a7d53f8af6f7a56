"""One shape of answer for every screen and every edit: the fragments to show, and what the strip draws."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

from flask import render_template

from ..core.document import Bench
from ..core.exploring import play
from ..core.findings import Finding, Severity
from ..core.first_scenario import first_scenario
from ..core.study import Study
from ..store import Revision
from .answers import benches, drills
from .begin import STEPS, step_of
from .doings import doings, expectations, standing, to_add, to_expect, to_stand
from .drilled import drill_context, drilled_strip
from .location import Location
from .logged import log_context
from .shielded import failures, shielded
from .stations import STATIONS, Station, StationRequest
from .strip_shown import NO_STRIP, strip_of
from .studies import before_it, studied


def _counts(done: Study) -> dict[str, dict[str, int]]:
    counts = {name: {"must": 0, "look": 0, "there": int(_is_there(done.bench, name))} for name in STATIONS}
    for finding in done.findings:
        if finding.severity is not Severity.NOTE:
            counts[finding.station][finding.severity] += 1
    return counts


def _is_there(bench: Bench, station: str) -> bool:
    """Whether a station has something that could be wrong and is not."""
    firmware = bench.firmware
    return {
        "wire": bool(bench.parts),
        "clean": bool(bench.contacts or firmware.readings),
        "behave": bool(firmware.machines),
        "pace": bool(firmware.machines or firmware.tasks),
        "guard": firmware.watchdog.mode != "off",
        "try": any(one.expects for one in bench.scenarios),
        "build": bool(firmware.machines and bench.outputs),
        "log": bool(bench.captures),
    }.get(station, False)


def _played(bench: Bench, finding: Finding) -> dict[str, Any] | None:
    """The scenario that shows a finding; None where nothing has to be done to see it."""
    return play(bench, finding.play, f"See: {finding.title}") if finding.play else None


def _at_the_station(
    place: Location, bench: Bench, done: Study, preview: bool, bench_id: int
) -> tuple[Station, StationRequest]:
    """The station of a location, and what it is asked: to show what is picked there, or else the first thing of it."""
    station = STATIONS[place.station]
    items = station.items(bench)
    picked = place.picked if station.any_item or place.picked in items else (items[0] if items else None)
    chosen = place.chosen if picked == place.picked else None
    return station, StationRequest(bench, done, picked, preview, chosen, place.look, bench_id)


def _findings_of(done: Study, station: str, picked: str | None) -> dict[str, Any]:
    """What stands out, here and elsewhere; here cautions first, then the weightiest, among those what is picked."""
    here = [finding for finding in done.findings if finding.station == station]
    grave = list(Severity)
    here.sort(key=lambda one: (one.code != "wire.hazard", grave.index(one.severity), one.part != picked))
    return {
        "counts": _counts(done),
        "here": here,
        "elsewhere": [finding for finding in done.findings if finding.station != station],
        "must_parts": {one.part for one in here if one.severity is Severity.MUST},
        "look_parts": {one.part for one in here if one.severity is Severity.LOOK},
    }


def _scenario_of(bench: Bench, done: Study, closed: bool) -> dict[str, Any]:
    """The scenario that is chosen: what is done in it, and what is expected of it; unless its panel is closed, what
    else could be."""
    scenario = done.scenario
    could: dict[str, Any] = {} if closed else {"first_scenario": first_scenario(bench)}
    if scenario and not closed:
        could |= {
            "to_add": to_add(bench, scenario),
            "to_expect": to_expect(bench, scenario, done.run),
            "to_stand": to_stand(bench, scenario),
        }
    return {
        "scenario": scenario,
        "closed": closed,
        "doings": doings(bench, scenario) if scenario else [],
        "expected": expectations(bench, scenario, done.answers) if scenario else [],
        "standings": standing(bench, scenario) if scenario else [],
        "played": partial(_played, bench),
        "scenario_index": bench.scenarios.index(scenario) if scenario else None,
        **could,
    }


def _scenario_bare(bench: Bench, done: Study) -> dict[str, Any]:
    """The same where it cannot be worked out: the scenario alone."""
    return {
        "scenario": done.scenario,
        **dict.fromkeys(("doings", "to_add", "expected", "to_expect", "standings", "to_stand"), ()),
        "played": lambda finding: None,
        "first_scenario": {},
        "scenario_index": bench.scenarios.index(done.scenario) if done.scenario else None,
    }


def page_context(
    revision: Revision, bench: Bench, place: Location, preview: bool = False, before: Revision | None = None
) -> dict[str, Any]:
    """What the templates of a workspace are given. `bench` differs from the revision's own in a preview only; `before`
    is the revision whose run is the ghost, if it is at hand or not the parent."""
    drill = drills().of(revision.bench_id)
    if drill and not drill.ended:
        place = replace(place, station="try")
    follows = not bench.scenarios
    done, key = studied(bench, place.scenario, keep=not preview)
    bench = done.bench
    ghost = shielded("The run before", lambda: before_it(revision, done, preview, before), lambda: None)
    station, asked = _at_the_station(place, bench, done, preview, revision.bench_id)
    closed = place.closed and station.id != "try"  # there it is a part of the page
    bare: dict[str, Any] = {
        "strip": dict(NO_STRIP),
        "beside": None,
        "fault": None,
        "number": None,
        "laid": (bench.firmware.school,) * 2,
    }
    strip = shielded("The strip", lambda: strip_of(asked, key, place, station.id, ghost), lambda: bare)
    if drill:
        strip = drilled_strip(drill, done, strip)
    return {
        "drill": drill,
        "bench": bench,
        "bench_id": revision.bench_id,
        "revision": revision,
        "can_redo": benches().can_redo(revision),
        "station": station,
        "stations": list(STATIONS.values()),
        "picked": asked.picked,
        "study": done,
        "look": place.look,
        "follows": follows,
        **(shielded("The log", lambda: log_context(revision, asked.picked), dict) if station.id == "log" else {}),
        "begin_step": step_of(bench, station.id),
        "begin_steps": STEPS,
        **_findings_of(done, station.id, asked.picked),
        **(drill_context(drill, bench) if drill else {}),
        **strip,
        **shielded("The scenario", lambda: _scenario_of(bench, done, closed), partial(_scenario_bare, bench, done)),
        **shielded(station.title, lambda: station.context(asked), dict),
        "failures": failures,
    }


BROKEN = "fragments/broken.html"


FRAGMENTS = {
    "title": "fragments/title.html",
    "path": "fragments/path.html",
    "side": "stations/{station}-side.html",
    "editor": "stations/{station}.html",
    "scenarios": "fragments/scenarios.html",
    "begin": "fragments/begin.html",
    "outs": "fragments/outs.html",  # the last: it tells of what has failed before
}


def fragment(name: str, context: dict[str, Any]) -> str:
    """One of the page's fragments; where it cannot be drawn, cards that say so."""
    path = FRAGMENTS[name].format(station=context["station"].id)
    if context["drill"] and (name in ("path", "outs") or not context["drill"].ended):
        path = f"drill/{name}.html"
    what = {"editor": context["station"].title, "side": "The list", "outs": "What stands out"}.get(name, "The head")
    return shielded(what, lambda: _drawn(name, path, context), lambda: render_template(BROKEN, **context))


def _drawn(name: str, path: str, context: dict[str, Any]) -> str:
    """The fragment; above what stands out, what has failed so far."""
    drawn = render_template(path, **context)
    return render_template(BROKEN, **context) + drawn if name == "outs" and failures() else drawn


def view(
    revision: Revision, bench: Bench, place: Location, preview: bool = False, before: Revision | None = None
) -> dict[str, Any]:
    """The answer to an edit, a preview or a change of place. A preview leaves the editor alone: it is being dragged."""
    context = page_context(revision, bench, place, preview, before)
    names = ("path", "outs") if preview else tuple(FRAGMENTS)
    fragments = {name: fragment(name, context) for name in names}
    answer: dict[str, Any] = {
        "revision": revision.id,
        "station": context["station"].id,
        "picked": context["picked"],
        "beside": context["beside"],
        "fault": context["fault"],
        "number": context["number"],
        "chosen": context.get("chosen_word") if context.get("chosen") else None,
        "look": place.look,
        "scenario": context["scenario"].name if context.get("scenario") else None,
        "preview": preview,
        "fragments": fragments,
        "strip": context["strip"],
    }
    if preview and context["station"].id == "clean":
        for told, name in (("tally", "figures"), ("sensed_figures", "figures-sensed")):
            if context.get(told):
                answer["figures"] = render_template(f"fragments/{name}.html", **context)
    return answer


def beside(revision: Revision, place: Location) -> dict[str, Any]:
    """The fragments that tell what stands out, where more has been found out since they were drawn."""
    context = page_context(revision, revision.bench, place)
    return {"fragments": {name: fragment(name, context) for name in ("path", "scenarios", "outs")}}
