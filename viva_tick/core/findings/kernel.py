"""Tasks under the kernel: what does not fit, what never waits, what returns, what is held up."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import pointer
from ..kernel import LOOP
from ..pace import schedulability
from ..units import ms
from .finding import Evidence, Finding, Severity
from .mends import replaced

STACK_BYTES = 256  # what is usually given to a task of such boards, guessed (common practice)


def unschedulable(evidence: Evidence) -> Iterator[Finding]:
    """Tasks that are not done before they are due again."""
    bench = evidence.bench
    if bench.firmware.school != "kernel":
        return
    study = schedulability(bench)
    spinning = {one.task.id for one in study.responses if any(above.ends == "spins" for above in one.above)}
    if study.load > 1:
        yield Finding(
            code="pace.kernel-overload",
            severity=Severity.MUST,
            station="pace",
            part="kernel",
            title="The tasks want more than there is",
            sentence=f"Utilisation is {float(study.load):.2f}; above 1 something starves, whatever its priority.",
            numbers=(("utilisation", f"{float(study.load):.3f}"), ("bound", f"{study.limit:.3f}")),
            pointer="/firmware/tasks",
        )
    for one in study.responses:
        ident = one.task.id
        if one.response_us is not None or ident in spinning or one.unbounded:
            continue
        name = "The loop" if ident == LOOP else next(t.name for t in bench.firmware.tasks if t.id == ident)
        last = one.steps[-1] if one.steps else 0
        yield Finding(
            code="pace.unschedulable",
            severity=Severity.MUST,
            station="pace",
            part=ident,
            title=f"{name} is not done in time",
            sentence=f"It must be done {ms(one.task.by_us)} after it is due; with what goes before it, its response "
            f"passes that ({ms(last)} and growing). A shorter period wants a higher priority.",
            numbers=(
                ("period", ms(one.task.period_us)),
                ("own work", ms(one.task.run_us)),
                ("response", f"over {ms(one.task.by_us)}"),
            ),
            pointer="/firmware/kernel/loop_us" if ident == LOOP else "/firmware/tasks",
        )


def busy(evidence: Evidence) -> Iterator[Finding]:
    """Something on top never gives the processor away."""
    bench = evidence.bench
    if bench.firmware.school != "kernel":
        return
    kernel = bench.firmware.kernel
    below = [task.name for task in bench.firmware.tasks if task.priority < kernel.loop_priority]
    if not kernel.loop_us and below:
        yield Finding(
            code="pace.busy-loop",
            severity=Severity.MUST,
            station="pace",
            part="kernel",
            title="The loop never waits",
            sentence=f"It goes round without a pause at priority {kernel.loop_priority}: {', '.join(below)} never "
            f"runs. "
            "Let it wait for the next tick.",
            numbers=(("priority", str(kernel.loop_priority)), ("starve", str(len(below)))),
            pointer="/firmware/kernel/loop_us",
            patch=(
                {"op": "replace", "path": "/firmware/kernel/loop_us", "value": max(kernel.tick_us // 1000, 1) * 1000},
            ),
            mend="Wait for the next tick",
        )
    for number, task in enumerate(bench.firmware.tasks):
        where = pointer("firmware", "tasks", number, "ends")
        mend = replaced(where, "waits")
        under = [one.name for one in bench.firmware.tasks if one.priority < task.priority]
        under += ["the loop"] if kernel.loop_priority < task.priority else []
        if task.ends == "spins":
            yield Finding(
                code="pace.never-yields",
                severity=Severity.MUST,
                station="pace",
                part=task.id,
                title=f"{task.name} never gives the processor up",
                sentence=f"After its work it busy-waits until its time has come. {', '.join(under) or 'Nothing'} "
                f"{'starves' if under else 'is below it'}: a task that has nothing to do waits.",
                numbers=(("priority", str(task.priority)), ("starve", str(len(under)))),
                pointer=where,
                patch=mend,
                mend="Let it wait",
            )
        elif task.ends == "returns":
            yield Finding(
                code="pace.returns",
                severity=Severity.MUST,
                station="pace",
                part=task.id,
                title=f"{task.name} returns",
                sentence="A task's function must not end: the kernel has nowhere to return to. It runs once, and "
                "then the board is lost, or the task is. Put its work in a loop that waits.",
                numbers=(("period", ms(task.period_us)),),
                pointer=where,
                patch=mend,
                mend="Put it in a loop",
            )


def stacks(evidence: Evidence) -> Iterator[Finding]:
    """Stacks that are guessed, or do not fit."""
    bench = evidence.bench
    if bench.firmware.school != "kernel":
        return
    between = bench.firmware.kernel.between
    rows = [(task.name, task.stack_bytes) for task in bench.firmware.tasks]
    rows += [(body.name, body.stack_bytes) for body in between.bodies]
    rows.append(("The loop", bench.firmware.kernel.stack_bytes))
    guessed = [name for name, size in rows if size is None]
    total = sum(size or STACK_BYTES for _, size in rows)
    board = bench.the_board
    if total > board.ram_bytes * 3 // 4:
        yield Finding(
            code="pace.stack-room",
            severity=Severity.MUST,
            station="pace",
            part="kernel",
            title="The stacks do not fit",
            sentence=f"{len(rows)} stacks take {total:,} of {board.ram_bytes:,} bytes, and variables want the rest.",
            numbers=(("stacks", f"{total:,} bytes"), ("memory", f"{board.ram_bytes:,} bytes")),
            pointer="/firmware/kernel/stack_bytes",
        )
    if guessed:
        yield Finding(
            code="pace.stack-guessed",
            severity=Severity.NOTE,
            station="pace",
            part="kernel",
            title="Stacks are guessed",
            sentence=f"{', '.join(guessed)}: {STACK_BYTES} bytes each are taken here. Let each run at its worst, "
            f"read how much "
            "was never touched, and type that in with a half more.",
            numbers=(("guessed", str(len(guessed))), ("taken", f"{total:,} bytes")),
            pointer="/firmware/kernel/stack_bytes",
        )


def unshared(evidence: Evidence) -> Iterator[Finding]:
    """Two tasks of different priority use one line or one bus, and nothing keeps them apart."""
    bench = evidence.bench
    if bench.firmware.school != "kernel":
        return
    uses = {"print": "the serial line", "send": "the serial line", "refresh": "the bus"}
    for what in dict.fromkeys(uses.values()):
        mine = [(n, task) for n, task in enumerate(bench.firmware.tasks) if uses.get(task.does) == what]
        names = {task.shares for _, task in mine}
        if len(mine) < 2 or len({task.priority for _, task in mine}) < 2 or (len(names) == 1 and "" not in names):
            continue
        word = what.removeprefix("the ")
        patch = tuple(
            one
            for n, task in mine
            for one in (
                *replaced(pointer("firmware", "tasks", n, "shares"), word),
                *replaced(pointer("firmware", "tasks", n, "holds_us"), task.run_us),
            )
        )
        yield Finding(
            code="pace.unshared",
            severity=Severity.MUST,
            station="pace",
            part=mine[0][1].id,
            title=f"{mine[0][1].name} and {mine[1][1].name} share {what} unguarded",
            sentence=f"The higher one interrupts the other in the middle of a line or a transfer on {what}. Let both "
            "take a resource for it first.",
            numbers=(("tasks", str(len(mine))), ("resource", "none")),
            pointer=pointer("firmware", "tasks", mine[0][0], "shares"),
            patch=patch,
            mend=f"Both take “{word}”",
        )


def inversion(evidence: Evidence) -> Iterator[Finding]:
    """Something of no concern keeps a high task waiting for what a low one holds."""
    bench = evidence.bench
    if bench.firmware.school != "kernel" or bench.firmware.kernel.inherits:
        return
    names = {task.id: task.name for task in bench.firmware.tasks} | {LOOP: "the loop"}
    for one in schedulability(bench).responses:
        if not one.unbounded:
            continue
        yield Finding(
            code="pace.inversion",
            severity=Severity.MUST,
            station="pace",
            part=one.task.id,
            title=f"{names[one.task.id]} waits for lower ones",
            sentence=f"What it wants, “{one.task.shares}”, is held by a task below it, and "
            f"{', '.join(names[n] for n in one.unbounded)} "
            "can interrupt that one for as long as it likes. Let the holder inherit the priority of the waiting task.",
            numbers=(("shares", one.task.shares), ("held", ms(one.blocked_us))),
            pointer="/firmware/kernel/inherits",
            patch=replaced("/firmware/kernel/inherits", True),
            mend="Let it inherit",
        )
