"""Guard: what happens when something hangs, and how the bench starts again."""

from __future__ import annotations

from functools import partial
from typing import Any

from ...core.cautions import hurts
from ...core.document import Bench, Keep, Sleep, Watchdog
from ...core.engine import Kind, Run
from ...core.guard import (
    VERDICTS,
    Choice,
    SleepStudy,
    choose,
    fault_at,
    faults_of,
    hang_run,
    instants,
    phases,
    save_us,
    sleep_study,
    starts,
    wear,
)
from ...core.timing import Answers
from ..drawings import dial, start_strip
from ..drawings.start_strip import StartStrip
from ..hanging import MANY, known_rows
from ..patches import Patch, put
from .base import Station, StationRequest

FIXED = (
    ("_watchdog", "Watchdog", "its time, where it is fed"),
    ("_hangs", "Fault tests", "what each fault does"),
    ("_start", "Start-up", "outputs from power-on"),
    ("_sleep", "Sleep", "how long the battery lasts"),
)
WATCHDOG = "/firmware/watchdog"
SLEEP_MODES: tuple[tuple[str, str, dict[str, Any] | None], ...] = (
    ("no", "it stays awake", None),
    ("watchdog", "it sleeps until the watchdog wakes it", {"wakes": "watchdog", "every_us": 125_000}),
    ("timer", "it sleeps until a timer wakes it", {"wakes": "timer", "every_us": 125_000}),
    ("pin", "it sleeps until a pin wakes it", {"wakes": "pin", "awake_us": 200_000}),
)
FIRST_CELL = {"capacity_mah": 2000, "usable_percent": 80, "lost_a_year_percent": 3}
MODES = (
    ("off", "off"),
    ("interrupt", "calls its interrupt"),
    ("reset", "resets the board"),
    ("interrupt-reset", "calls its interrupt, then resets the board"),
)
FEEDS = (
    ("start", "at the start of a pass"),
    ("end", "at the end of a pass"),
    ("task", "by a task"),
    ("reports", "when every task has reported"),
    ("action", "by an action of a machine"),
    ("interrupt", "in a timer interrupt"),
)
ALSO = (*FEEDS, ("wait", "inside every wait"))
CAUSES = (
    ("lost", "is not kept"),
    ("kept", "is kept in memory kept through a reset"),
    ("stored", "is stored where it outlives the supply"),
)
WHEN = (
    ("change", "at each change"),
    ("feed", "at each feed"),
    ("every", "every so often"),
    ("interrupt", "when the watchdog calls its interrupt"),
)


def _items(bench: Bench) -> list[str]:
    return [ident for ident, _, _ in FIXED]


def _keepable(bench: Bench) -> list[tuple[str, str, dict[str, Any]]]:
    """What can be kept and is not: (words, id, value)."""
    kept = {keep.of for keep in bench.firmware.keeps}
    rows = [(one.name, one.id) for one in bench.firmware.variables]
    rows += [(f"the state of {machine.name}", machine.id) for machine in bench.firmware.machines]
    return [(words, ident, Keep(of=ident).model_dump(mode="json")) for words, ident in rows if ident not in kept]


def _names(bench: Bench) -> dict[str, str]:
    return {one.id: one.name for one in bench.firmware.variables} | {
        machine.id: f"State of {machine.name}" for machine in bench.firmware.machines
    }


def _when_on(bench: Bench, run: Run) -> int:
    """An instant at which something that can hurt is on; 0 where there is none."""
    for channel in bench.channels:
        signal = run.trace.signal(Kind.OUTPUT, channel.id)
        ends = [*signal.times_us[1:], run.trace.length_us]
        for at_us, to_us, value in zip(signal.times_us, ends, signal.values, strict=True):
            if hurts(channel) and value == 1:
                return (at_us + to_us) // 2
    return 0


def _starts(asked: StationRequest) -> list[StartStrip]:
    """Each output through a start, from power-on and after each cause."""
    bench, done = asked.bench, asked.study
    if done.scenario is None or done.run is None:
        return []
    rows: list[tuple[str, Run]] = [("From power-on", done.run)]
    middle = _when_on(bench, done.run) or instants(bench, done.scenario, 1)[0]
    if bench.firmware.watchdog.resets:
        rows.append(("After the watchdog", hang_run(bench, done.scenario, fault_at(bench, "stuck", "", middle))))
    rows.append(("After a dip of the supply", hang_run(bench, done.scenario, fault_at(bench, "dip", "", middle))))
    found = []
    for words, run in rows:
        place = 0 if run is done.run else 1
        if place < len(run.boots):
            found.append(start_strip(words, starts(bench, run, *run.boots[place]), phases(bench)))
    return found


def _sleeps(bench: Bench, said: Answers | None, length_us: int) -> list[list[tuple[Sleep, SleepStudy]]]:
    """Every step of the board to sleep for, woken by its watchdog or by a timer."""
    rows = []
    for every_us in bench.the_board.watchdog_steps_us:
        row = []
        for wakes in ("watchdog", "timer"):
            sleep = Sleep(wakes=wakes, every_us=every_us // 1000 * 1000)
            firmware = bench.firmware.model_copy(update={"sleep": sleep})
            row.append((sleep, sleep_study(bench.model_copy(update={"firmware": firmware}), said, length_us)))
        rows.append(row)
    return rows


def _hangs(asked: StationRequest) -> list[dict[str, Any]]:
    """Every fault of the bench with what is known of it so far."""
    bench, done = asked.bench, asked.study
    known = known_rows(bench, done.scenario) if done.scenario else {}
    return [
        {"fault": kind, "of": of, "name": name, "row": known.get((kind.id, of))} for kind, of, name in faults_of(bench)
    ]


def _take_step(watchdog: Watchdog, choice: Choice) -> Patch | None:
    """The patch that takes the advised step, and switches the watchdog on with it."""
    if choice.best is None:
        return None
    step = put(f"{WATCHDOG}/timeout_us", choice.best.step_us)
    return step if watchdog.on else step + put(f"{WATCHDOG}/mode", "reset")


def _feed_at(bench: Bench, place: str) -> Patch:
    """The patch that feeds it elsewhere; in a task: the first, if none is named."""
    tasks = [*bench.firmware.feeders]
    names = place == "task" and tasks and not bench.firmware.watchdog.feed_task
    return put(f"{WATCHDOG}/feed", place) + (put(f"{WATCHDOG}/feed_task", tasks[0]) if names else [])


def _context(asked: StationRequest) -> dict[str, Any]:
    bench, picked, done = asked.bench, asked.picked, asked.study
    watchdog = bench.firmware.watchdog
    healthy = done.answers if done.answers and not done.answers.resets_us else None
    choice = choose(bench, healthy.longest_pass_us if healthy else 0)
    context: dict[str, Any] = {
        "listed": FIXED,
        "watchdog": watchdog,
        "choice": choice,
        "modes": MODES,
        "feeds": FEEDS,
        "also": ALSO,
        "causes": CAUSES,
        "verdicts": VERDICTS,
        "keep_names": _names(bench),
        "keepable": _keepable(bench),
        "when": WHEN,
    }
    if asked.preview:
        return context
    if picked == "_watchdog":
        context |= {"take_step": _take_step(watchdog, choice), "feed_at": partial(_feed_at, bench)}
        context["dial"] = dial(choice, watchdog.hazard_us, watchdog.on)
    if picked == "_hangs":
        context |= {"hangs": _hangs(asked), "many": MANY}
    if picked == "_start":
        context |= {
            "starts": _starts(asked),
            "wear": wear(bench, done.run),
            "store": bench.the_board.store,
            "save_us": save_us(bench),
        }
    if picked == "_sleep":
        length_us = done.run.trace.length_us if done.run else 0
        context |= {"sleep": sleep_study(bench, done.answers, length_us), "board": bench.the_board}
        context |= {"sleep_modes": SLEEP_MODES, "first_cell": FIRST_CELL}
        context["sleeps"] = _sleeps(bench, done.answers, length_us)
    return context


STATION = Station("guard", "Guard", _items, _context)
