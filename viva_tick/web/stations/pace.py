"""Pace: whether everything gets its turn in time."""

from __future__ import annotations

from functools import partial
from typing import Any, Literal

from ...core.at_hand import AtHand
from ...core.document import Bench, Task
from ...core.engine import SkippingEngine
from ...core.ids import free_id
from ...core.kernel import LOOP
from ...core.pace import (
    LineStudy,
    SchoolRun,
    Spread,
    across_the_wrap,
    anatomy,
    holds,
    in_school,
    line_study,
    longest_of,
    off_a_day_s,
    reach,
    schedulability,
    school_run,
    spread,
    waits,
)
from ...core.program import SCHOOLS, under
from ...core.study import AT_ONCE, run_key
from ...core.timing import JobTally, job_tallies
from ..drawings import pass_bar, timeline
from ..patches import Patch, add, put
from .base import Station, StationRequest
from .pace_between import between_context, body_context, new_body

FIXED = (
    ("_pass", "The pass", "what it is made of"),
    ("_reach", "Responsiveness", "how long each input waits"),
    ("_schools", "Three loop styles", "delays, counter, kernel"),
    ("_clock", "Time keeping", "wrap, width, drift"),
    ("_serial", "Serial line", "baud, buffer, line ends"),
)
PARTS = {"_reach": (), "_schools": ("kernel",), "_clock": ("timekeeping", "sleep"), "_serial": ("serial",)}
CHARACTERS = {"print": 40, "send": 16}
DOES = (
    ("compute", "works something out"),
    ("sample", "samples a sensor"),
    ("print", "prints a line"),
    ("send", "sends"),
    ("refresh", "refreshes a display"),
)
LATE = (
    ("catch-up", "runs every job that is due, one after another"),
    ("run-late", "runs one, late, and lets the others go"),
    ("skip", "waits for the next time"),
)
ENDS = (("waits", "waits for its next time"), ("spins", "busy-waits"), ("returns", "returns"))
COSTS = (
    ("base", "the loop itself, once a pass"),
    ("read", "reading an input"),
    ("step", "stepping a machine"),
    ("task", "looking whether a task is due"),
    ("drive", "an output"),
)
BAUDS = (1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200, 250000, 500000, 1000000)


def _items(bench: Bench) -> list[str]:
    return [ident for ident, _, _ in _fixed(bench)] + [
        one.id for ones in (bench.firmware.tasks, bench.firmware.kernel.between.bodies) for one in ones
    ]


def _fixed(bench: Bench) -> tuple[tuple[str, str, str], ...]:
    """What there is of every bench; and of one with a kernel what stands between its tasks."""
    wanted = bench.firmware.school == "kernel" or bench.firmware.kernel.between.used
    return (*FIXED, ("_between", "Between the tasks", "flags, queues, timers")) if wanted else FIXED


def _new_task(bench: Bench, does: str) -> dict[str, Any]:
    ident = free_id(
        {"print": "report", "sample": "sample", "refresh": "display", "send": "send"}.get(does, "work"),
        {task.id for task in bench.firmware.tasks},
    )
    value: dict[str, Any] = {"id": ident, "name": ident.replace("-", " ").capitalize(), "period_us": 500_000}
    value |= {"run_us": 2_000, "does": does}
    return value | ({"characters": CHARACTERS[does]} if does in CHARACTERS else {})


def _schools(asked: StationRequest) -> list[dict[str, Any]]:
    """Each school's run of the scenario in numbers."""
    bench, done = asked.bench, asked.study
    if done.scenario is None or done.answers is None:
        return []
    rows = []
    for school, (title, sentence) in SCHOOLS.items():
        if school != bench.firmware.school and done.run and done.run.stopped:
            continue  # they would stop elsewhere
        key = run_key(under(bench, school), done.scenario)
        run = _RUNS.get(key)
        if run is None:
            said = (
                done.answers if school == bench.firmware.school else in_school(bench, done.scenario, school, AT_ONCE)[1]
            )
            run = _RUNS.put(key, school_run(school, said))
        rows.append({"id": school, "title": title, "sentence": sentence, "run": run})
    return rows


_RUNS: AtHand[str, SchoolRun] = AtHand(60)  # by what they depend on


def _otherwise(asked: StationRequest, task: Task) -> tuple[str, JobTally] | None:
    """The other way to keep a task's beat, and how the same scenario goes with it."""
    bench, done = asked.bench, asked.study
    if done.scenario is None or bench.firmware.school != "counter" or (done.run and done.run.stopped):
        return None
    keeps: Literal["last", "now"] = "now" if task.keeps == "last" else "last"
    tasks = tuple(one.model_copy(update={"keeps": keeps}) if one.id == task.id else one for one in bench.firmware.tasks)
    other = bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"tasks": tasks})})
    return keeps, job_tallies(other, SkippingEngine().run(other, done.scenario, budget=AT_ONCE))[task.id]


def _steps(bench: Bench) -> list[dict[str, Any]]:
    """Response times with how they were come by."""
    names = {task.id: task.name for task in bench.firmware.tasks} | {LOOP: "The loop"}
    study = schedulability(bench)
    return [
        {
            "name": names[one.task.id],
            "one": one,
            "steps": (f"job {one.before + 1} in a row: " if one.before else "")
            + " → ".join(f"{step / 1000:.3g}" for step in one.steps[:9])
            + (" …" if len(one.steps) > 9 else ""),
            "above": ", ".join(names[other.id] for other in one.above) or "nothing",
            "worst": study.worst is one,
        }
        for one in study.responses
    ]


def _serial(bench: Bench) -> tuple[LineStudy, list[dict[str, Any]]]:
    study = line_study(bench)
    rows = [
        {
            "task": task,
            "line_us": study.line_us(task.characters),
            "share": study.line_us(task.characters) / task.period_us,
        }
        for task in bench.firmware.tasks
        if task.talks
    ]
    return study, rows


def _clock(bench: Bench) -> dict[str, Any]:
    rows = waits(bench)
    shown = min((wait.asked_ms for wait in rows), default=100)
    return {
        "rows": rows,
        "shown_ms": shown,
        "wrap": across_the_wrap(shown, shown // 2),
        "off_a_day_s": off_a_day_s(bench.the_board.clock_ppm),
        "ppm": bench.the_board.clock_ppm,
    }


def _does_now(task: Task, at: str, does: str) -> Patch:
    """The patch that has a task do something else; what talks says so much."""
    says = does in CHARACTERS and not task.characters
    return put(f"{at}/does", does) + (put(f"{at}/characters", CHARACTERS[does]) if says else [])


def _spread_patch(bench: Bench, found: Spread) -> Patch:
    """The patch that begins every task at its own time."""
    rows = (
        add(f"/firmware/tasks/{n}/offset_us", found.offsets_ms[task.id] * 1000)
        for n, task in enumerate(bench.firmware.tasks)
    )
    return Patch(operation for row in rows for operation in row)


def _context(asked: StationRequest) -> dict[str, Any]:
    bench, picked, done = asked.bench, asked.picked, asked.study
    parts = anatomy(bench)
    task: Task | None = next((one for one in bench.firmware.tasks if one.id == picked), None)
    bars = [pass_bar("usual", parts, False), pass_bar("longest, computed", parts, True)]
    if done.run is not None and done.run.trace.changes:
        at_us, seen = longest_of(bench, done.run)
        bars.insert(1, pass_bar("longest in this run", seen, True, at_us))
    context: dict[str, Any] = {
        "listed": _fixed(bench),
        "bodies": bench.firmware.kernel.between.bodies,
        "new_body": new_body(bench),
        **body_context(bench, picked),
        "parts_of": PARTS,
        "anatomy": parts,
        "beside_of": {one.what: one for one in holds(bench)},
        "bars": bars,
        "task": task,
        "task_at": f"/firmware/tasks/{bench.firmware.tasks.index(task)}" if task else "",
        "jobs": done.answers.jobs if done.answers else {},
        "timeline": timeline(bench) if not asked.preview and picked not in ("_clock", "_serial") else None,
        "does": DOES,
        "late": LATE,
        "ends": ENDS,
        "new_tasks": [(words, _new_task(bench, does)) for does, words in DOES],
        "schools": SCHOOLS,
        "school": bench.firmware.school,
    }
    if asked.preview:
        return context
    if picked == "_pass":
        context |= {"costs": COSTS, "usual_costs": bench.the_board.cost_us, "measured": bench.firmware.measured}
    if picked == "_pass" or task:
        found = spread(bench) if bench.firmware.school != "kernel" else None
        context |= {"spread": found, "spread_patch": _spread_patch(bench, found) if found else None}
    if task:
        context["otherwise"] = _otherwise(asked, task)
        context["does_now"] = partial(_does_now, task, context["task_at"])
    if picked == "_reach":
        context["reach"] = reach(bench, done.run, done.answers)
    if picked == "_schools":
        context |= {"school_rows": _schools(asked), "plan": schedulability(bench), "responses": _steps(bench)}
    if picked == "_between":
        context |= between_context(bench)
    if picked == "_clock":
        context["clock"] = _clock(bench)
    if picked == "_serial":
        context["line"], context["lines"] = _serial(bench)
        context["bauds"] = BAUDS
    return context


STATION = Station("pace", "Pace", _items, _context)
