"""The same for what gives everything its turn and what guards it: tasks, schools, the serial line, the watchdog."""

from __future__ import annotations

import re
from typing import Any

from ..document import Bench
from ..units import ms

SCHOOL_WORDS = {
    "counter": "with the millisecond counter",
    "delays": "with delays",
    "kernel": "tasks under a kernel",
}
TASK_WORDS = {
    "period_us": "every {}",
    "run_us": "takes {}",
    "offset_us": "begins {} after set-up",
    "slice_us": "slices of {}",
    "holds_us": "holds it for {}",
    "priority": "priority {}",
    "characters": "{} characters",
    "does": "to {}",
    "stack_bytes": "stack of {} bytes",
}
TASK_CHOICES = {
    ("keeps", "last"): "keeps its beat",
    ("keeps", "now"): "counts from now on",
    ("late", "catch-up"): "catches up when late",
    ("late", "run-late"): "runs one when late",
    ("late", "skip"): "lets late jobs go",
    ("blocking", True): "holds the loop",
    ("blocking", False): "runs beside the loop",
    ("ends", "waits"): "waits after its work",
    ("ends", "spins"): "busy-waits after its work",
    ("ends", "returns"): "returns after its work",
    ("offset_us", None): "begins one period after set-up",
    ("stack_bytes", None): "its stack is guessed",
}
GUARD_WORDS = {
    ("mode", "off"): "off",
    ("mode", "interrupt"): "calls its interrupt",
    ("mode", "reset"): "resets the board",
    ("mode", "interrupt-reset"): "calls its interrupt, then resets the board",
    ("off_at_start", True): "turned off at start-up",
    ("off_at_start", False): "left on at start-up",
    ("cause", "lost"): "its cause is lost",
    ("cause", "kept"): "its cause is kept",
    ("cause", "stored"): "its cause is stored",
}


def task_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """A field of a task."""
    index, field, value = int(found[1]), found[2], operation.get("value")
    tasks = after.firmware.tasks if index < len(after.firmware.tasks) else before.firmware.tasks
    name = tasks[index].name
    if field == "name":
        return f"a task is called {value}"
    if field == "shares":
        return f"{name}: shares {value or 'nothing'}"
    if (field, value) in TASK_CHOICES:
        return f"{name}: {TASK_CHOICES[field, value]}"
    shown = ms(value) if field.endswith("_us") and isinstance(value, int) else str(value)
    return f"{name}: {TASK_WORDS.get(field, field + ' {}').format(shown)}"


def between_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """What became of the tasks of the kernel, and of what stands between them."""
    field, place, rest = found[1], found[2], found[3] or ""
    word = {"bodies": "task", "flags": "flag", "mutexes": "mutex", "queues": "queue", "timers": "timer"}.get(field)
    if word is None:
        return f"the kernel's {field.replace('_', ' ')}"
    ones = getattr((after if operation.get("op") != "remove" or rest else before).firmware.kernel.between, field)
    number = len(ones) - 1 if place == "-" or place is None else int(place)
    name = ones[number].name if 0 <= number < len(ones) else word
    if rest:
        what = "its steps" if rest.startswith("steps") else rest.split("/")[0].replace("_us", "").replace("_", " ")
        return f"{name}: {what}"
    return f"a {word} of the kernel, {name}, {'removed' if operation.get('op') == 'remove' else 'added'}"


def watchdog_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """A field of the watchdog."""
    field, value = found[1] or "", operation.get("value")
    watchdog = after.firmware.watchdog
    if field == "timeout_us":
        return f"watchdog {ms(before.firmware.watchdog.timeout_us)} → {ms(watchdog.timeout_us)}"
    if field in ("feed", "feed_task", "also"):
        places = [watchdog.feed, *watchdog.also]
        return f"watchdog fed: {', '.join(dict.fromkeys(places))}"
    if field == "margin_percent":
        return f"watchdog: a margin of {value} %"
    if field == "hazard_us":
        return f"a hazardous output may stay on {ms(watchdog.hazard_us)} after a hang"
    said = GUARD_WORDS.get((field, value)) if isinstance(value, str | bool) else None
    return f"watchdog: {said}" if said else "watchdog"


def school_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """The school."""
    return f"loop style: {SCHOOL_WORDS[after.firmware.school]}"


def measured_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """A cost that was measured."""
    value = operation.get("value")
    block = {"base": "the loop itself", "read": "a reading", "step": "a machine's step", "task": "a look at a task"}
    what = block.get(found[1], "an output")
    return f"{what} takes {value} µs, measured" if value is not None else f"{what} takes what is usual"


def serial_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """The serial line."""
    field, serial = found[1], after.firmware.serial
    return {
        "baud": f"serial line at {serial.baud} baud",
        "theirs": f"the other end at {serial.theirs or serial.baud} baud",
        "buffer_bytes": f"transmit buffer of {serial.buffer_bytes} bytes",
        "ending": f"the other end ends its lines with {serial.ending}",
        "traces": "the program says what changes" if serial.traces else "the program says nothing of what changes",
        "reads": "lines are read whole" if serial.reads == "line" else "characters are read one by one",
    }.get(field, "serial line")


def timekeeping_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """How time is kept."""
    keeping = after.firmware.timekeeping
    if found[1] == "compares":
        return "compares the time since" if keeping.compares == "since" else "compares with the end time"
    return f"seconds × 1000 in {'a long' if keeping.product == 'long' else 'an int'}"


def keep_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """What outlives a reset."""

    def kept(bench: Bench) -> dict[str, str]:
        names = {one.id: one.name for one in bench.firmware.variables}
        names |= {machine.id: f"the state of {machine.name}" for machine in bench.firmware.machines}
        return {keep.of: names.get(keep.of, keep.of) for keep in bench.firmware.keeps}

    was, now = kept(before), kept(after)
    if came := [name for of, name in now.items() if of not in was]:
        return f"{', '.join(came)} outlives a reset"
    if went := [name for of, name in was.items() if of not in now]:
        return f"{', '.join(went)} begins anew after a reset"
    return "where and when it is kept over a reset"


def sleep_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """Sleep between passes."""
    sleep = after.firmware.sleep
    if sleep is None:
        return "awake all the time"
    if sleep.wakes == "pin":
        return f"asleep {ms(sleep.awake_us)} after the last move, woken by a pin"
    return f"asleep {ms(sleep.every_us)} between passes, woken by a {sleep.wakes}"


def cell_words(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """What it runs on."""
    cell = after.cell
    return (
        f"runs on a battery of {cell.capacity_mah} mAh, {cell.usable_percent} % usable" if cell else "runs on a supply"
    )
