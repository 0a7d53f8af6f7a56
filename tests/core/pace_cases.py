"""For each code of Pace and Guard a bench that must show it, and whether a mend must be offered."""

from __future__ import annotations

from typing import Any

from tests.core.pace_benches import PRESS, STATES, TRANSITIONS, bench_of, task
from viva_tick.core.document import Bench, bench_data, bench_from_data

MAINS = {"loads": ["mains"], "hold": "down"}
HEATER = {"kind": "heater", "loads": ["heat"], "hold": "down"}
DOG = {"mode": "reset", "timeout_us": 250_000, "cause": "kept"}
COUNT = [{"id": "count", "name": "Count", "least": 0, "most": 9}]
LIMIT = {"lamp": {"longest_us": 60_000_000}}
KERNEL = {"school": "kernel", "kernel": {"stack_bytes": 200}}
BUSY = {"kind": "pulse", "length_us": 90_000, "blocking": True}
HOLDS = [STATES[0], {"id": "on", "name": "On", "drives": {"lamp": BUSY}}]
COUNTING = [
    {"source": "off", "on": PRESS, "target": "on", "actions": [{"do": "add", "variable": "count", "number": 1}]},
    {"source": "on", "on": PRESS, "target": "off", "actions": [{"do": "add", "variable": "count", "number": 1}]},
]


def held(priority: int, run_us: int = 5_000, **more: Any) -> dict[str, Any]:
    return task(f"t{priority}", 100, run_us, priority=priority, stack_bytes=200, **more)


def dogged(timeout_us: int = 250_000, tasks: Any = (), lamp: Any = MAINS, **dog: Any) -> Bench:
    """A lamp on mains with a longest time, and a watchdog."""
    watchdog = {**DOG, "timeout_us": timeout_us, **dog}
    return bench_of(lamp=lamp, limits=LIMIT, watchdog=watchdog, tasks=list(tasks))


def body(ident: str, *steps: dict[str, Any], priority: int = 3, **more: Any) -> dict[str, Any]:
    return {"id": ident, "name": ident.title(), "priority": priority, "stack_bytes": 200, "steps": list(steps), **more}


def between(*bodies: dict[str, Any], school: str = "kernel", presses: Any = (), **more: Any) -> Bench:
    """Tasks under a kernel, with what stands between them; and a button that toggles a lamp."""
    found: dict[str, Any] = {
        "bodies": list(bodies),
        "mutexes": TWO,
        "flags": [{"id": "f", "name": "F"}],
        **more.pop("has", {}),
    }
    kernel = {"stack_bytes": 200, "between": found}
    return bench_of(presses=list(presses), school=school, kernel=kernel, **more)


def do(what: str, of: str = "", us: int = 0, **more: Any) -> dict[str, Any]:
    return {"do": what, **({"of": of} if of else {}), **({"us": us} if us else {}), **more}


TWO = [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}]
WORK, REST = do("work", us=2_000), do("rest", us=50_000)
FIRST = body("first", do("take", "a"), WORK, do("take", "b"), do("give", "b"), do("give", "a"), REST)
SECOND = body("second", do("take", "b"), WORK, do("take", "a"), do("give", "a"), do("give", "b"), REST, priority=4)
SHARED_WORK = do("work", us=2_000, uses="the log")
FILLS = {"queues": [{"id": "q", "name": "Q", "length": 2}]}
OWNS = {"owns": ["button", "toggle"], "period_us": 10_000}


def two_owners() -> Bench:
    """Two machines that count presses in one variable, one of them a task's."""
    data = bench_data(between(body("first", do("next"), do("own"), **OWNS), variables=COUNT, transitions=COUNTING))
    mine = data["firmware"]["machines"][0]
    data["firmware"]["machines"].append({**mine, "id": "other", "name": "Other"})
    for state in data["firmware"]["machines"][1]["states"]:
        state["drives"] = {}
    data["firmware"]["machines"][1]["transitions"] = [
        {**one, "on": {"kind": "timeout", "after_us": 100_000}} for one in mine["transitions"]
    ]
    return bench_from_data(data)


def kept(many: int = 20, **keep: Any) -> Bench:
    presses = [(100 + 50 * n, 20) for n in range(many)]
    return bench_of(
        presses=presses, variables=COUNT, transitions=COUNTING, keeps=[{"of": "count", "where": "store", **keep}]
    )


def commanded(**serial: Any) -> Bench:
    """Something at the other end of the line that sends one character and a line's end."""
    data = bench_data(bench_of(serial=serial))
    typed = {"id": "typed", "name": "Typed", "kind": "commands", "pin": "D0", "source": "radio", "names": ["up"]}
    data["inputs"].append(typed)
    data["firmware"]["readings"] = {"typed": {"kind": "listen", "names": ["up"]}}
    return bench_from_data(data)


BLINKS = [
    {"id": "off", "name": "Off", "drives": {"lamp": {"kind": "blink", "on_us": 500_000, "off_us": 500_000}}},
    {"id": "on", "name": "On"},
]
PRINTS = {"does": "print"}
PACE_CASES: list[tuple[str, Bench, bool]] = [
    ("pace.promised", bench_of(states=HOLDS, presses=[(200, 150)], taps={"button": {"respond_us": 50_000}}), False),
    ("pace.overload", bench_of(tasks=[task("work", 10, 6_000), task("more", 20, 9_000)]), False),
    ("pace.missed-jobs", bench_of(tasks=[task("work", 20, 10, late="run-late"), task("long", 400, 90_000)]), False),
    ("pace.catch-up", bench_of(tasks=[task("work", 20, 10), task("long", 400, 90_000)]), True),
    ("pace.drift", bench_of(tasks=[task("work", 53, 100, keeps="now"), task("o", 50, 9_500, priority=5)]), True),
    ("pace.drift", bench_of(tasks=[task("work", 500, 100, keeps="now")]), True),
    ("pace.wrap", bench_of(tasks=[task("work", 500, 100)], timekeeping={"compares": "until"}), True),
    ("pace.overflow", bench_of(tasks=[task("work", 60_000, 100)], timekeeping={"product": "int"}), True),
    ("pace.prints-too-much", bench_of(tasks=[task("work", 50, 100, characters=80, **PRINTS)]), True),
    ("pace.prints-too-much", bench_of(tasks=[task("work", 9, 100, characters=999, **PRINTS)], serial={"baud": 1_000_000}), False),
    ("pace.baud", bench_of(tasks=[task("work", 500, 100, characters=8, **PRINTS)], serial={"baud": 115_200}), False),
    ("pace.line-end", commanded(ending="crlf"), True),
    ("pace.too-fine", bench_of(states=[{"id": "off", "name": "Off", "drives": {"lamp": {"kind": "blink", "on_us": 5_000, "off_us": 9_000}}}], transitions=[], loop={"tail_delay_us": 20_000}), False),
    ("pace.pile-up", bench_of(tasks=[task("a", 100, 9_000), task("b", 200, 8_000)]), True),
    ("pace.asleep", bench_of(sleep={"wakes": "watchdog"}, states=HOLDS, debounce={"button": {"method": "rest-first", "interval_us": 20_000}}), True),
    ("pace.asleep", bench_of(sleep={"wakes": "pin"}, states=BLINKS), True),
    ("pace.asleep", bench_of(sleep={"wakes": "pin"}, transitions=[*TRANSITIONS, {"source": "on", "on": {"kind": "timeout", "after_us": 900_000}, "target": "off"}]), True),
    ("pace.asleep", bench_of(tasks=[task("a", 500, 10)], sleep={"wakes": "watchdog", "every_us": 16_000}), True),
    ("pace.kernel-overload", bench_of(tasks=[held(5, 60_000), held(4, 60_000)], **KERNEL), False),
    ("pace.unschedulable", bench_of(tasks=[held(5, 5_000)], taps={"button": {"hold_us": 3_000}}, **KERNEL), False),
    ("pace.busy-loop", bench_of(tasks=[held(1)], school="kernel", kernel={"loop_us": 0, "loop_priority": 3}), True),
    ("pace.never-yields", bench_of(tasks=[held(5, ends="spins")], **KERNEL), True),
    ("pace.returns", bench_of(tasks=[held(5, ends="returns")], **KERNEL), True),
    ("pace.stack-guessed", bench_of(tasks=[task("a", 100, 100)], **KERNEL), False),
    ("pace.stack-room", bench_of(tasks=[{**held(5), "stack_bytes": 1_900}], **KERNEL), False),
    ("pace.inversion", bench_of(tasks=[held(7, shares="bus", holds_us=900), held(5), held(3, shares="bus", holds_us=900)], school="kernel", kernel={"inherits": False}), True),
    ("guard.none", bench_of(lamp=MAINS), True),
    ("guard.mode", bench_of(board="two-core-32bit-3v3", watchdog={**DOG, "mode": "interrupt"}), True),
    ("guard.no-step", dogged(200_000), True),
    ("pace.no-kernel", between(body("first", WORK, REST), school="counter"), True),
    ("pace.queue-full", between(body("first", *[do("put", "q")] * 5, REST), body("second", do("receive", "q"), do("rest", us=900_000)), has=FILLS, length_ms=500), True),
    ("pace.deadlock", between(FIRST, SECOND), True),
    ("pace.deadlock", between(body("first", do("take", "a"), do("take", "a"), do("give", "a"), REST)), True),
    ("pace.starves", between(body("first", WORK), body("second", WORK, REST, priority=2)), False),
    ("pace.hook-waits", between(body("first", WORK, REST), has={"idle_hook": [REST]}), True),
    ("pace.hook-waits", between(has={"timers": [{"id": "t", "name": "T", "steps": [do("take", "f")]}]}), True),
    ("pace.never-given", between(body("first", do("take", "f"), WORK)), True),
    ("pace.unguarded", between(body("first", SHARED_WORK, REST), body("second", REST, SHARED_WORK, priority=4)), True),
    ("pace.shared-number", two_owners(), False),
    ("pace.never-steps", between(body("first", do("next"), **OWNS)), True),
    ("pace.owned-apart", between(body("first", do("next"), do("own"), owns=["toggle"], period_us=10_000)), True),
    ("guard.too-short", dogged(16_000, [task("work", 500, 30_000)]), True),
    ("guard.too-short", dogged(1_000_000, [task("work", 5_000, 900_000)]), False),
    ("guard.too-long", dogged(8_000_000), True),
    ("guard.fed-interrupt", dogged(feed="interrupt"), True),
    ("guard.fed-interrupt", dogged(also=["interrupt"]), True),
    ("guard.fed-wait", dogged(also=["wait"]), True),
    ("guard.fed-often", dogged(also=["start"]), True),
    ("guard.unfed", dogged(feed="task", feed_task="nobody"), True),
    ("guard.never-resets", dogged(mode="interrupt"), True),
    ("guard.left-on", dogged(off_at_start=False), True),
    ("guard.cause-lost", bench_of(watchdog={**DOG, "cause": "lost"}, board="small-8bit-5v"), True),
    ("guard.cause-cleared", bench_of(watchdog={**DOG, "cause": "kept"}), True),
    ("guard.cause-cleared", bench_of(watchdog=DOG, transitions=[{"source": "off", "on": {"kind": "watchdog-reset"}, "target": "on"}]), True),
    ("guard.cause-unknown", bench_of(transitions=[{"source": "off", "on": {"kind": "pin-reset"}, "target": "on"}]), True),
    ("guard.worn", kept(when="feed"), True),
    ("guard.worn", kept(when="change"), True),
    ("guard.no-store", bench_of(variables=COUNT, transitions=COUNTING, board="computer-3v3", keeps=[{"of": "count", "where": "store"}]), True),
    ("guard.survives", bench_of(lamp=MAINS, keeps=[{"of": "toggle"}]), True),
    ("guard.alone", bench_of(lamp=MAINS, watchdog=DOG), True),
    ("guard.alone", bench_of(lamp=HEATER, watchdog=DOG), True),
]  # fmt: skip
