"""One shape of answer for every screen and every edit: the fragments to show, and what the strip draws."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from functools import partial
from typing import Any

from flask import render_template

from ..core.at_hand import AtHand
from ..core.cautions import hurts
from ..core.courses import tried_out
from ..core.debounce import METHODS
from ..core.document import Bench, Machine, Scenario, School, State
from ..core.document.parts import Sensed
from ..core.engine import Run
from ..core.findings import Finding, Severity
from ..core.machines import play
from ..core.program import SCHOOLS, idle_pass_us, under
from ..core.study import Study, run_key, study
from ..core.sweep import decide
from ..core.timing import Answers, answers, difference
from ..core.units import ms
from ..store import Revision
from .answers import benches, runs
from .doings import doing_bars, doings, expectations, to_add, to_expect
from .hanging import faulty_run, read_fault
from .shielded import failures, shielded
from .stations import STATIONS, Station, StationRequest
from .strip import Lane, lanes, run_window, scales


@dataclass(frozen=True)
class Location:
    """Where the person is: station, what is picked there, scenario; what of the strip they are looking at; the
    debounce method, or the school, that is laid beside the one in use; what is chosen of a machine, and how it is
    looked at; the fault whose run the strip shows."""

    station: str
    picked: str | None
    scenario: str | None
    windows: tuple[Any, ...] = ()
    beside: str | None = None
    chosen: str | None = None
    look: str = "grid"
    fault: str | None = None

    @staticmethod
    def of(data: Any) -> Location:
        """From what a request says; anything unknown becomes the first that exists, later."""
        said = data if hasattr(data, "get") else {}

        def word(name: str) -> str | None:
            value = said.get(name)
            return value if isinstance(value, str) and value else None

        station = word("station")
        seen = said.get("windows")
        windows = tuple(seen[:2]) if isinstance(seen, list) else ()
        return Location(
            station if station in STATIONS else "wire",
            word("picked"),
            word("scenario"),
            windows,
            word("beside"),
            word("chosen"),
            "map" if word("look") == "map" else "grid",
            word("fault"),
        )


def _scenario(bench: Bench, name: str | None) -> Scenario | None:
    return next((s for s in bench.scenarios if s.name == name), bench.scenarios[0] if bench.scenarios else None)


def studied(bench: Bench, name: str | None, keep: bool = True, mends: bool = True) -> tuple[Study, str | None]:
    """The study of one scenario, its run from the cache where it is there, and the run's key. Where its run cannot be
    worked out, what can be said without; where nothing can, nothing."""
    scenario = _scenario(bench, name)
    empty = Study(bench, scenario, None, None, ())
    return shielded(
        "The run",
        lambda: _studied(bench, scenario, keep, mends),
        lambda: shielded(
            "What stands out", lambda: (_without_a_run(bench, scenario, mends), None), lambda: (empty, None)
        ),
    )


def _without_a_run(bench: Bench, scenario: Scenario | None, mends: bool) -> Study:
    """What can be said of a bench whose scenario cannot be run."""
    return replace(study(bench, None, mends=mends), scenario=scenario)


def _studied(bench: Bench, scenario: Scenario | None, keep: bool, mends: bool) -> tuple[Study, str | None]:
    if scenario is None:
        return study(bench, None, mends=mends), None
    key = run_key(bench, scenario)
    found = runs().get(key)
    done = study(bench, scenario, run=found, mends=mends)
    if found is None and done.run is not None:
        (runs().put if keep else runs().remember)(key, done.run)
    if done.answers is not None:
        _ANSWERS.put(key, done.answers)
    return done, key


_ANSWERS: AtHand[str, Answers] = AtHand(64)  # by the key of the run, which says all that they depend on


def _counts(done: Study) -> dict[str, dict[str, int]]:
    counts = {name: {"must": 0, "look": 0} for name in STATIONS}
    for finding in done.findings:
        if finding.severity is not Severity.NOTE:
            counts[finding.station][finding.severity] += 1
    return counts


Ran = tuple[Answers | None, str | None]


def _before(revision: Revision, done: Study, preview: bool, before_id: int | None) -> Ran | None:
    """The run to draw as the ghost, of the same scenario: before the preview, before the last edit, or of the revision
    that an undo or redo left. None where that bench did not have the scenario."""
    if preview:
        bench = revision.bench
    else:
        before_id = before_id or revision.parent_id
        found = benches().revision(revision.bench_id, before_id) if before_id else None
        if found is None:
            return None
        bench = found.bench
    if done.scenario is None or done.scenario.name not in {scenario.name for scenario in bench.scenarios}:
        return None
    scenario = bench.scenario(done.scenario.name)
    key = run_key(bench, scenario)
    # What is held against the run before needs its answers only; an edit ago they were worked out.
    known = _ANSWERS.get(key)
    if known is not None and runs().get(key) is not None:
        return known, key
    earlier, key_of_it = studied(bench, scenario.name, mends=False)
    return earlier.answers, key_of_it


NO_STRIP: dict[str, Any] = {"key": None, "ghost": None, "difference": "", "lanes": [], "length_us": 0}
First = tuple[str | None, str | None, frozenset[str]]


def _strip(done: Study, key: str | None, before: Ran | None, first: First, wanted: tuple[Any, ...]) -> dict[str, Any]:
    """What the strip needs to know of a run, and the windows of it that the screen will ask for; `first` are the input,
    the machine and whatever else whose lanes come first."""
    strip: dict[str, Any] = {**NO_STRIP, "key": key}
    if not done.answers or not done.run:
        return strip
    bench = done.bench
    strip |= {
        "lanes": [asdict(lane) for lane in lanes(bench, done.answers, *first)],
        "length_us": done.run.trace.length_us,
        "stopped": done.run.stopped,
        "scenario": done.run.scenario,
        "states": {m.id: [[state.id, _standing(m, state)] for state in m.states] for m in bench.firmware.machines},
        "names": {part.id: part.name for part in (*bench.parts, *bench.lines)}
        | {task.id: task.name for task in bench.firmware.tasks}
        | {machine.id: machine.name for machine in bench.firmware.machines},
        "timeout_us": bench.firmware.watchdog.timeout_us,
        "scales": scales(bench, done.run),
        "windows": _windows(str(key), done.run, wanted),
        "doing": doing_bars(bench, done.scenario, done.answers) if done.scenario in bench.scenarios else {},
    }
    if before and before[0]:
        strip |= {"ghost": before[1], "difference": difference(bench, before[0], done.answers)}
    return strip


def _standing(machine: Machine, state: State) -> str:
    """A state's name, behind that of the state around it."""
    return f"{machine.state(state.inside).name}: {state.name}" if state.inside else state.name


def _beside(asked: StationRequest, method: str | None) -> tuple[Ran, str, str] | None:
    """The run of the same presses with another method for the contact that is picked, the contact, and what to call
    it. At the interval that would be advised for it, or its default."""
    bench, picked = asked.bench, asked.picked
    now = bench.debounce(picked) if picked in {line.id for line in bench.contacts} else None
    if now is None or method not in METHODS or method == now.method or asked.study.scenario is None or picked is None:
        return None
    choice = decide(bench, picked, idle_pass_us(bench)).choices.get(method)
    interval_us = choice.advice.advised_us if choice and choice.advice else METHODS[method].default_us
    other = now.model_copy(update={"method": method, "interval_us": interval_us})
    debounce = {**bench.firmware.debounce, picked: other}
    variant = bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"debounce": debounce})})
    words = METHODS[method].title.lower() + (f", {ms(interval_us)}" if METHODS[method].has_interval else "")
    other_run, key = studied(variant, asked.study.scenario.name, keep=False, mends=False)
    return (other_run.answers, key), picked, words


def _lay_beside(strip: dict[str, Any], bench: Bench, now: Study, found: tuple[Ran, str, str] | None) -> None:
    """The other run takes the ghost's place, with a lane of its own under the contact's."""
    if found is None or now.answers is None or found[0][0] is None:
        return
    (answers, key), picked, words = found
    lanes_ = strip["lanes"]
    place = next((n + 1 for n, lane in enumerate(lanes_) if lane["id"] == f"cleaned {picked}"), len(lanes_))
    title = bench.contact(picked).name
    lane = Lane(f"beside {picked}", "beside", picked, title, words)
    strip |= {
        "lanes": [*lanes_[:place], asdict(lane), *lanes_[place:]],
        "ghost": key,
        "beside": words,
        "difference": difference(bench, now.answers, answers) if answers else "",
    }


def laid_schools(bench: Bench, word: str | None) -> tuple[School, School] | None:
    """(on the strip, behind it) of the schools that a place names, “kernel” or “delays:kernel”; None where that is the
    bench's own run alone."""
    shown, _, behind = (word or "").rpartition(":")
    own = bench.firmware.school
    pair = tuple(school if school in SCHOOLS else own for school in (shown, behind))
    return None if pair == (own, own) else pair  # type: ignore[return-value]


def _in_schools(
    asked: StationRequest, key: str | None, pair: tuple[School, School] | None
) -> tuple[Study, str | None, Ran] | None:
    """The study of the school that is on the strip, its run's key, and the run of the one behind it."""
    bench, done = asked.bench, asked.study
    if pair is None or done.scenario is None or done.answers is None:
        return None
    found: list[tuple[Study, str | None]] = []
    for school in pair:
        own = school == bench.firmware.school
        one = (done, key) if own else studied(under(bench, school), done.scenario.name, keep=False, mends=False)
        found.append(one)
    (shown, shown_key), (behind, behind_key) = found
    return shown, shown_key, (behind.answers, behind_key)


def _with_fault(done: Study, key: str | None, word: str | None) -> tuple[Study, str | None, Ran | None] | None:
    """The study with the run of a fault in place of its own, that run's key, and its own run as the ghost."""
    fault = read_fault(done.bench, word) if done.scenario else None
    if fault is None or done.scenario is None:
        return None
    faulty_key, run = faulty_run(done.bench, done.scenario, fault)
    return replace(done, run=run, answers=answers(done.bench, run)), faulty_key, (done.answers, key)


def _first_scenario(bench: Bench) -> dict[str, Any]:
    """Each input pressed, turned, moved or sent once, one after another: somewhere to begin."""
    taken = {scenario.name for scenario in bench.scenarios}
    stimuli: list[dict[str, Any]] = []
    clock_us = 300_000
    for at, part in bench.placed:
        for line in part.contacts(at):
            stimuli.append({"kind": "press", "input": line.id, "at_us": clock_us, "hold_us": 150_000})
            clock_us += 500_000
        if isinstance(part, Sensed):
            tried = tried_out(part)
            stimuli += [{**one, "input": part.id, "at_us": clock_us + one["at_us"]} for one in tried]
            clock_us += max((one["at_us"] for one in tried), default=0) + 500_000
    name = next(n for i in range(1, 99) if (n := f"Each once {i}" if i > 1 else "Each once") not in taken)
    return {"name": name, "length_us": clock_us + 700_000, "stimuli": stimuli}


def _played(bench: Bench, finding: Finding) -> dict[str, Any] | None:
    """The scenario that shows a finding; None where nothing has to be done to see it."""
    return play(bench, finding.play, f"See: {finding.title}") if finding.play else None


def _windows(key: str, run: Run, wanted: tuple[Any, ...]) -> list[dict[str, Any]]:
    """The windows of the run that the screen will ask for, sent along so that it need not ask."""
    shown: list[dict[str, Any]] = []
    for wish in wanted:
        try:
            names = [str(name) for name in wish["lanes"]]
            shown.append(run_window(key, run, names, int(wish["from"]), int(wish["to"]), int(wish["columns"])))
        except (KeyError, TypeError, ValueError):
            continue
    return shown


def _at_the_station(place: Location, bench: Bench, done: Study, preview: bool) -> tuple[Station, StationRequest]:
    """The station of a location, and what it is asked: to show what is picked there, or else the first thing of it."""
    station = STATIONS[place.station]
    items = station.items(bench)
    picked = place.picked if place.picked in items else (items[0] if items else None)
    chosen = place.chosen if picked == place.picked else None
    return station, StationRequest(bench, done, picked, preview, chosen, place.look)


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


def _first_lanes(station: str, picked: str | None, bench: Bench) -> tuple[str | None, str | None, frozenset[str]]:
    """Which lanes of the strip come first: a part's, a machine's, and others by id ("" is the loop)."""
    part = picked if station in ("clean", "wire") else None
    machine = picked if station == "behave" else None
    first: list[str] = []
    if station == "pace":
        tasks = [task.id for task in bench.firmware.tasks]
        first = ["", *([picked] if picked in tasks else tasks)]
    elif station == "guard":
        first = ["", *(channel.id for channel in bench.channels if hurts(channel))]
    return part, machine, frozenset(first)


def _strip_of(
    asked: StationRequest, key: str | None, place: Location, station: str, before: Ran | None
) -> dict[str, Any]:
    """The strip as it is shown at a station: the run, or the one that is laid over it, and what that is; "fault" and
    "laid" say which of them it is."""
    bench, done, preview = asked.bench, asked.study, asked.preview
    wrong = _with_fault(done, key, place.fault) if station == "guard" and not preview else None
    laid = laid_schools(bench, place.beside) if station == "pace" and not preview else None
    shown, shown_key, behind = wrong or _in_schools(asked, key, laid) or (done, key, before)
    strip = _strip(shown, shown_key, behind, _first_lanes(station, asked.picked, bench), place.windows)
    if wrong:
        strip["beside"] = "without the fault"
    beside = _beside(asked, place.beside) if station == "clean" and not preview else None
    _lay_beside(strip, bench, done, beside)
    if laid and laid[0] != laid[1]:
        strip["beside"] = f"{laid[0]}, against {laid[1]}"
    return {
        "strip": strip,
        "beside": place.beside if beside or laid else None,
        "fault": place.fault if wrong else None,
        "laid": laid or (bench.firmware.school, bench.firmware.school),
    }


def _scenario_of(bench: Bench, done: Study) -> dict[str, Any]:
    """The scenario that is chosen: what is done in it, and what is expected of it."""
    scenario = done.scenario
    return {
        "scenario": scenario,
        "doings": doings(bench, scenario) if scenario else [],
        "to_add": to_add(bench, scenario) if scenario else [],
        "expected": expectations(bench, scenario, done.answers) if scenario else [],
        "to_expect": to_expect(bench, scenario, done.run) if scenario else [],
        "played": partial(_played, bench),
        "first_scenario": _first_scenario(bench),
        "scenario_index": bench.scenarios.index(scenario) if scenario else None,
    }


def _scenario_bare(bench: Bench, done: Study) -> dict[str, Any]:
    """The same where it cannot be worked out: the scenario alone."""
    return {
        "scenario": done.scenario,
        **dict.fromkeys(("doings", "to_add", "expected", "to_expect"), ()),
        "played": lambda finding: None,
        "first_scenario": {},
        "scenario_index": bench.scenarios.index(done.scenario) if done.scenario else None,
    }


def page_context(
    revision: Revision, bench: Bench, place: Location, preview: bool = False, before_id: int | None = None
) -> dict[str, Any]:
    """What the templates of a workspace are given. `bench` differs from the revision's own in a preview only;
    `before_id` is the revision whose run is the ghost, if it is not the parent."""
    done, key = studied(bench, place.scenario, keep=not preview)
    before = shielded("The run before", lambda: _before(revision, done, preview, before_id), lambda: None)
    station, asked = _at_the_station(place, bench, done, preview)
    bare: dict[str, Any] = {
        "strip": dict(NO_STRIP),
        "beside": None,
        "fault": None,
        "laid": (bench.firmware.school,) * 2,
    }
    strip = shielded("The strip", lambda: _strip_of(asked, key, place, station.id, before), lambda: bare)
    return {
        "bench": bench,
        "bench_id": revision.bench_id,
        "revision": revision,
        "can_redo": benches().can_redo(revision),
        "station": station,
        "stations": list(STATIONS.values()),
        "picked": asked.picked,
        "study": done,
        "look": place.look,
        **_findings_of(done, station.id, asked.picked),
        **strip,
        **shielded("The scenario", lambda: _scenario_of(bench, done), partial(_scenario_bare, bench, done)),
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
    "outs": "fragments/outs.html",  # the last: it tells of what has failed before
}


def fragment(name: str, context: dict[str, Any]) -> str:
    """One of the page's fragments; where it cannot be drawn, cards that say so."""
    path = FRAGMENTS[name].format(station=context["station"].id)
    what = {"editor": context["station"].title, "side": "The list", "outs": "What stands out"}.get(name, "The head")
    return shielded(what, lambda: _drawn(name, path, context), lambda: render_template(BROKEN, **context))


def _drawn(name: str, path: str, context: dict[str, Any]) -> str:
    """The fragment; above what stands out, what has failed so far."""
    drawn = render_template(path, **context)
    return render_template(BROKEN, **context) + drawn if name == "outs" and failures() else drawn


def view(
    revision: Revision, bench: Bench, place: Location, preview: bool = False, before_id: int | None = None
) -> dict[str, Any]:
    """The answer to an edit, a preview or a change of place. A preview leaves the editor alone: it is being dragged."""
    context = page_context(revision, bench, place, preview, before_id)
    names = ("path", "outs") if preview else tuple(FRAGMENTS)
    fragments = {name: fragment(name, context) for name in names}
    answer: dict[str, Any] = {
        "revision": revision.id,
        "station": context["station"].id,
        "picked": context["picked"],
        "beside": context["beside"],
        "fault": context["fault"],
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
