"""Tasks in the sketch: when each is due, how its beat is kept, its slices, what it prints."""

from __future__ import annotations

from ..clock import as_kept
from ..document import Bench, Task
from .names import comment, snake
from .yours import place

KINDS = {
    "compute": "works something out",
    "sample": "samples a sensor",
    "print": "prints a line",
    "send": "sends",
    "refresh": "refreshes a display",
}


def span(bench: Bench, wait_ms: int) -> str:
    """A wait as the bench works it out."""
    narrow = bench.firmware.timekeeping.product == "int" and bench.the_board.int_bits == 16
    return f"uint32_t(int16_t({wait_ms}UL))" if narrow else f"{wait_ms}UL"


UNTIL = "  // chosen: wrong where the counter wraps, after 49 days 17 hours"
NARROW = "  // chosen: a product of 16 bits ends at 32.767 s"


def why_wrong(bench: Bench, counted: bool = True) -> str:
    """A note behind a comparison that the bench makes wrong on purpose; empty where it does not."""
    keeping = bench.firmware.timekeeping
    if keeping.compares == "until":
        return UNTIL
    narrow = keeping.product == "int" and bench.the_board.int_bits == 16 and counted
    return NARROW if narrow else ""


def is_due(bench: Bench, since: str, wait: str) -> str:
    """Whether a time has come, compared as the bench compares."""
    if bench.firmware.timekeeping.compares == "until":
        return f"now >= uint32_t({since} + {wait})"
    return f"uint32_t(now - {since}) >= {wait}"


def slices(task: Task) -> int:
    """How many passes a job takes."""
    return 1 if task.blocking or not task.run_us else -(-task.run_us // task.slice_us)


def begins_later(bench: Bench, task: Task) -> bool:
    """Whether its first job comes later than a period after set-up, and is waited for by itself: the time since its
    last would be below nothing, which is a very long time."""
    period_ms = as_kept(task.period_us // 1000, bench.firmware.timekeeping.product == "int", bench.the_board.int_bits)
    return bench.firmware.timekeeping.compares != "until" and (task.offset_us or 0) // 1000 > period_ms


def period_name(task: Task) -> str:
    """The name of a task's period."""
    return f"{snake(task.id).upper()}_EVERY_MS"


def task_constant(bench: Bench, task: Task) -> str:
    """A task's period by its name."""
    period = span(bench, task.period_us // 1000)
    return f"const uint32_t {period_name(task)} = {period};  // {comment(task.name)}\n"


def task_values(bench: Bench, task: Task) -> str:
    """The variables of a task."""
    name = snake(task.id)
    text = f"uint32_t {name}_last = 0;\n"
    if begins_later(bench, task):
        text += f"uint32_t {name}_wait = 0;  // its first job comes later than a period\n"
    if slices(task) > 1:
        text += f"uint16_t {name}_left = 0;  // slices of its job\n"
    if task.talks and not task.blocking:
        text += f"uint16_t {name}_letters = 0;  // not in the transmit buffer yet\n"
    return text


def task_text(task: Task) -> str:
    """The function that does its work."""
    name = snake(task.id)
    count = slices(task)
    work = f"  // Your work goes here; the bench counts on {task.run_us} us at most."
    if count > 1:
        work = f"  // Your work goes here, {count} slices of at most {task.slice_us} us; `left` counts down to 1."
    mine = [work] if count > 1 or not task.talks or task.run_us else []
    body = place(task.id, mine, "  ")
    if task.talks and task.blocking:
        body += [
            f"  // {task.characters} characters; where the buffer is full this waits.",
            f"  for (uint16_t n = 0; n < {task.characters}; ++n) Serial.write('.');",
        ]
    takes = "uint16_t left" if count > 1 else ""
    head = f"// {comment(task.name)}: {KINDS[task.does]}\nvoid run_{name}({takes}) {{\n"
    if count > 1:
        body.append("  (void)left;")
    return head + "\n".join(body) + "\n}\n"


def task_setup(bench: Bench, task: Task) -> str:
    """When its first job is due."""
    name = snake(task.id)
    if task.offset_us is None:
        return f"  {name}_last = now;"
    if begins_later(bench, task):
        return f"  {name}_last = now;\n  {name}_wait = {task.offset_us // 1000}UL;"
    period = period_name(task)
    return f"  {name}_last = now + {task.offset_us // 1000}UL - {period};"


def task_loop(bench: Bench, task: Task, feed: str) -> str:
    """Its place in the pass; `feed` are the statements that feed the watchdog in its jobs, if it is fed there."""
    name = snake(task.id)
    period = period_name(task)
    count = slices(task)
    later = begins_later(bench, task)
    due = is_due(bench, f"{name}_last", f"{name}_wait" if later else period)
    start, run = [f"{name}_last += {name}_wait - {period};", f"{name}_wait = {period};"] if later else [], []
    if task.keeps == "now":
        start.append(f"{name}_last = now;")
    elif task.late == "catch-up":
        start.append(f"{name}_last += {period};")
    else:
        start += [f"const uint32_t gone = uint32_t(now - {name}_last) / {period};", f"{name}_last += gone * {period};"]
    run += [row.strip() for row in feed.splitlines()]
    run.append(f"{name}_left = {count};" if count > 1 else f"run_{name}();")
    if task.talks and not task.blocking:
        run.append(f"{name}_letters = {task.characters};")
    if task.keeps == "last" and task.late == "skip":
        run = ["if (gone <= 1) {", *(f"  {line}" for line in run), "}"]
    busy = [f"{name}_left == 0"] if count > 1 else []
    if task.talks and not task.blocking:
        busy.append(f"{name}_letters == 0")
    asked = " && ".join([*busy, due])
    lines = [f"if ({asked}) {{{why_wrong(bench)}", *(f"  {line}" for line in (*start, *run)), "}"]
    if count > 1:
        lines += [f"if ({name}_left) {{", f"  run_{name}({name}_left);", f"  --{name}_left;", "}"]
    if task.talks and not task.blocking:
        after = f"{name}_left == 0 && " if count > 1 else ""
        lines += [
            f"while ({after}{name}_letters && Serial.availableForWrite() > 0) {{  // as there is room",
            "  Serial.write('.');",
            f"  --{name}_letters;",
            "}",
        ]
    return "\n" + "".join(f"  {line}\n" for line in lines)
