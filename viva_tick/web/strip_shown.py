"""The strip as it is shown at a station: which run, what lies behind it, which lanes come first."""

from __future__ import annotations

import re
from dataclasses import asdict, replace
from typing import Any

from ..core.cautions import hurts
from ..core.debounce import METHODS
from ..core.document import Bench, Machine, School, State
from ..core.document.parts import Analogue
from ..core.engine import Run
from ..core.program import SCHOOLS, idle_pass_us, under
from ..core.study import Study
from ..core.sweep import decide
from ..core.timing import answers, difference
from ..core.units import at_s, ms
from .answers import benches
from .doings import doing_bars
from .hanging import faulty_run, read_fault
from .location import Location
from .numbered import numbered
from .stations import StationRequest
from .strip import Lane, is_quiet, lanes, run_window, scales, span_words
from .studies import Ran, studied

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
        "lanes": [asdict(lane) for lane in _lanes(done, first)],
        "length_us": done.run.trace.length_us,
        "stopped": done.run.stopped and f"stopped at {at_s(done.run.trace.length_us)}",
        "stopped_why": done.run.stopped,
        "further": bool(done.run.stopped and key and "-" not in key),
        "scenario": done.run.scenario,
        "states": {m.id: [[state.id, _standing(m, state)] for state in m.states] for m in bench.firmware.machines},
        "names": {part.id: part.name for part in (*bench.parts, *bench.lines, *bench.text_lines)}
        | {task.id: task.name for task in bench.firmware.tasks}
        | bench.firmware.kernel.between.names
        | {machine.id: machine.name for machine in bench.firmware.machines},
        "timeout_us": bench.firmware.watchdog.timeout_us,
        "scales": scales(bench, done.run),
        "windows": _windows(str(key), done.run, wanted),
        "doing": doing_bars(bench, done.scenario, done.answers) if done.scenario in bench.scenarios else {},
    }
    if before and before[0]:
        strip |= {"ghost": before[1], "difference": difference(bench, before[0], done.answers)}
    return strip


def _lanes(done: Study, first: First) -> list[Lane]:
    """The lanes of a run; of those in which nothing happens, none that has to do with what is picked, or that something
    is done to, is quiet."""
    bench, run, answers_ = done.bench, done.run, done.answers
    assert run is not None
    assert answers_ is not None
    chosen, machine, more = first
    near = {chosen, machine, *more} - {None}
    busy = {one.input for one in done.scenario.stimuli} if done.scenario else set()
    timeout_us, longest_us = bench.firmware.watchdog.timeout_us, answers_.longest_pass_us
    found = lanes(bench, answers_, *first)
    spans = {part.id: span_words(bench, part, run) for part in bench.readers if isinstance(part, Analogue)}
    found = [replace(lane, note=spans[lane.of] or lane.note) if lane.kind == "measure" else lane for lane in found]
    return [
        replace(lane, quiet=lane.of not in near | busy and is_quiet(lane, run, timeout_us, longest_us))
        for lane in found
    ]


def _standing(machine: Machine, state: State) -> str:
    """A state's name, behind that of the state around it."""
    return f"{machine.state(state.parent).name}: {state.name}" if state.parent else state.name


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


def _two_states(asked: StationRequest, picked: str | None) -> tuple[Study, str | None, Ran | None] | None:
    """The study of the later of two revisions, “compare-12-15”, its run's key, and the run of the earlier one."""
    found = re.fullmatch(r"compare-(\d{1,15})-(\d{1,15})", picked or "")
    if found is None or not asked.bench_id:
        return None
    pair = [benches().revision(asked.bench_id, int(number)) for number in found.groups()]
    if not all(pair):
        return None
    name = asked.study.scenario.name if asked.study.scenario else None
    (before, before_key), (after, after_key) = (
        studied(one.bench, name, keep=False, mends=False) for one in pair if one
    )
    return after, after_key, (before.answers, before_key)


def _with_fault(done: Study, key: str | None, word: str | None) -> tuple[Study, str | None, Ran | None] | None:
    """The study with the run of a fault in place of its own, that run's key, and its own run as the ghost."""
    fault = read_fault(done.bench, word) if done.scenario else None
    if fault is None or done.scenario is None:
        return None
    faulty_key, run = faulty_run(done.bench, done.scenario, fault)
    return replace(done, run=run, answers=answers(done.bench, run)), faulty_key, (done.answers, key)


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


def strip_of(
    asked: StationRequest, key: str | None, place: Location, station: str, before: Ran | None
) -> dict[str, Any]:
    """The strip as it is shown at a station: the run, or the one that is laid over it, and what that is; "fault" and
    "laid" say which of them it is."""
    bench, done, preview = asked.bench, asked.study, asked.preview
    wrong = _with_fault(done, key, place.fault) if station == "guard" and not preview else None
    other = numbered(done, place.number) if not wrong and not preview else None
    laid = laid_schools(bench, place.beside) if station == "pace" and not preview else None
    numbered_run = (*other, (done.answers, key)) if other else None
    own = (done, key, before)
    shown, shown_key, behind = wrong or numbered_run or _in_schools(asked, key, laid) or own
    two = _two_states(asked, place.picked) if station == "log" and not preview else None
    if two:
        shown, shown_key, behind = two
    strip = _strip(shown, shown_key, behind, _first_lanes(station, asked.picked, bench), place.windows)
    if wrong:
        strip["beside"] = "without the fault"
    if two:
        strip["beside"] = "as it was before"
    if other:
        strip |= {"number": place.number, "beside": f"number {place.number}, against the run as it is"}
    beside = _beside(asked, place.beside) if station == "clean" and not preview and not other else None
    _lay_beside(strip, bench, done, beside)
    if laid and laid[0] != laid[1]:
        strip["beside"] = f"{laid[0]}, against {laid[1]}"
    return {
        "strip": strip,
        "beside": place.beside if beside or laid else None,
        "fault": place.fault if wrong else None,
        "number": place.number if other else None,
        "laid": laid or (bench.firmware.school, bench.firmware.school),
    }
