"""The bench as tasks of the kernel that a board's builder brings: steps, queues, flags, mutexes, timers, hooks.

Every task is a function that goes round; what a task owns is a pass of its own, as the loop is. What is shared by all
(states, variables, what cleans an input) stands where the one program has it.
"""

from __future__ import annotations

from ..boards import KernelCalls
from ..document import HEARD, Bench, Task
from ..document.kernel import (
    Between,
    Body,
    Give,
    Next,
    Own,
    Put,
    Receive,
    Rest,
    StartTimer,
    Step,
    Steps,
    Take,
    Work,
    may_wait,
)
from .names import comment, snake
from .yours import place as own_place

OVER = """\
// One into a queue that is full: the oldest gives way.
void put_over(QueueHandle_t queue) {
  uint8_t oldest;
  if (!uxQueueSpacesAvailable(queue)) xQueueReceive(queue, &oldest, 0);
  xQueueSend(queue, &ONE, 0);
}
"""

ASKED = """
#ifndef pdTRUE
#error Include the headers of your kernel at the top of this file.
#endif
"""
OVER_CALLED = """\
void put_over_from_isr(QueueHandle_t queue) {
  uint8_t oldest;
  if (xQueueIsQueueFullFromISR(queue)) xQueueReceiveFromISR(queue, &oldest, nullptr);
  xQueueSendFromISR(queue, &ONE, nullptr);
}
"""
ENOUGH_BYTES = 2048  # of stack, where the bench does not say; on top of what the kernel itself wants (common practice)


def apart(bench: Bench) -> str:
    """A machine that listens for an input that another task reads, by name; empty where there is none."""
    owners = bench.firmware.kernel.between.owners
    reads = {line.id for line in bench.contacts} | {part.id for _, part in bench.sensed}
    for machine in bench.firmware.machines:
        heard = {one.on.input for one in machine.transitions if isinstance(one.on, HEARD)} & reads
        if any(owners.get(ident, "") != owners.get(machine.id, "") for ident in heard):
            return machine.name
    return ""


def why_none(bench: Bench) -> str:
    """Why a bench that runs under a kernel has no program of its tasks, as a sentence; empty where it has one."""
    words = bench.the_board.program
    if words is None or words.kernel is None:
        return f"The builder of this board ({bench.the_board.name}) brings no kernel."
    if name := apart(bench):
        return f"{name} listens for an input that another task reads: give both to one task first."
    return ""


def can_kernel(bench: Bench) -> bool:
    """Whether the bench runs under a kernel, and `why_none` has nothing to say."""
    return bench.firmware.school == "kernel" and not why_none(bench)


def _ticks(us: int | None) -> str:
    return "portMAX_DELAY" if us is None else f"pdMS_TO_TICKS({us // 1000})"


def work_text(name: str, note: str) -> str:
    """The function in which somebody's own work goes."""
    return "\n".join([f"void {name}() {{", *own_place(name, [note], "  "), "}", ""])


class KernelTexts:
    """What the kernel of a bench gives to the program."""

    def __init__(self, bench: Bench, words: KernelCalls) -> None:
        self.bench, self.words = bench, words
        self.between: Between = bench.firmware.kernel.between
        self.tasks = bench.firmware.tasks
        self.kinds = {one.id: "queue" for one in self.between.queues} | {one.id: "flag" for one in self.between.flags}
        self.kinds |= {one.id: "mutex" for one in self.between.mutexes} | {
            one.id: "timer" for one in self.between.timers
        }
        self.passes: dict[str, str] = {}
        self.shared = list(dict.fromkeys(task.shares for task in self.tasks if task.shares))

    def handle(self, ident: str) -> str:
        """The variable of a flag, mutex, queue or timer."""
        return f"{snake(ident)}_{self.kinds[ident]}"

    def _resource(self, shares: str) -> str:
        return f"resource_{self.shared.index(shares) + 1}"

    def signal(self, ident: str) -> str:
        """A machine's signal: it never waits."""
        if self.kinds[ident] == "queue":
            return self._send(ident, "0")
        return self._start(ident) if self.kinds[ident] == "timer" else self._give(ident)

    def taken(self, ident: str, raises: list[str]) -> str:
        """Whether there is one for the loop: who listens is told."""
        told = " ".join(raises)
        if self.kinds[ident] == "queue":
            asked = f"uint8_t got; if (xQueueReceive({self.handle(ident)}, &got, 0) == pdTRUE)"
            return f"  {{ {asked} {{ {told} }} }}\n"
        return f"  if (xSemaphoreTake({self.handle(ident)}, 0) == pdTRUE) {{ {told} }}\n"

    def _give(self, ident: str, called: bool = False) -> str:
        of = self.handle(ident)
        return f"xSemaphoreGiveFromISR({of}, nullptr);" if called else f"xSemaphoreGive({of});"

    def _send(self, ident: str, within: str, called: bool = False) -> str:
        full, of = self.between.full[ident], self.handle(ident)
        if full == "overwrite":
            return f"put_over_from_isr({of});" if called else f"put_over({of});"
        if called:
            return f"xQueueSendFromISR({of}, &ONE, nullptr);"
        return f"xQueueSend({of}, &ONE, {within if full == 'wait' else '0'});"

    def _start(self, ident: str, called: bool = False) -> str:
        of = self.handle(ident)
        return f"xTimerResetFromISR({of}, nullptr);" if called else f"xTimerReset({of}, 0);"

    def values(self) -> list[str]:
        """Handles, and the tick at which everything began."""
        types = {"queue": "QueueHandle_t", "timer": "TimerHandle_t"}
        named = self.between.names
        lines = [
            f"{types.get(kind, 'SemaphoreHandle_t')} {self.handle(ident)};  // {comment(named[ident])}\n"
            for ident, kind in self.kinds.items()
        ]
        lines += [f"SemaphoreHandle_t {self._resource(one)};  // {comment(one)}\n" for one in self.shared]
        ones = ["const uint8_t ONE = 1;  // what a queue is given\n"] if self.between.queues else []
        return [*lines, *ones, "TickType_t kernel_began = 0;\n"]

    # Steps.

    def _step(self, step: Step, work: str, body: Body | None, called: bool) -> list[str]:
        """One step as statements; a wait in vain begins the row anew. `called`: in an interrupt."""
        match step:
            case Own():
                return [f"{snake(body.id)}_pass();"] if body and body.id in self.passes else []
            case Work():
                return [f"{work}();"]
            case Rest():
                return [f"vTaskDelay({_ticks(step.us)});"]
            case Next():
                return [f"vTaskDelayUntil(&due, {_ticks(body.period_us if body else 0)});"]
            case Take() | Receive():
                of = self.handle(step.of)
                call = f"xQueueReceive({of}, &got, " if isinstance(step, Receive) else f"xSemaphoreTake({of}, "
                call += f"{_ticks(step.within_us)})"
                return [f"{call};" if step.within_us is None else f"if ({call} != pdTRUE) continue;"]
            case Give():
                return [self._give(step.of, called)]
            case Put():
                call = self._send(step.of, _ticks(step.within_us), called)
                vain = step.within_us is not None and self.between.full[step.of] == "wait"
                return [f"if ({call[:-1]} != pdTRUE) continue;" if vain else call]
            case StartTimer():
                return [self._start(step.of, called)]

    def _works(self, name: str, steps: Steps) -> tuple[list[str], dict[int, str]]:
        """(functions for the work of a row, their names by step)."""
        functions, names = [], {}
        for place, step in enumerate(steps):
            if isinstance(step, Work):
                names[place] = f"{name}_work_{place + 1}"
                on = f", on {comment(step.uses)}" if step.uses else ""
                note = f"  // Your work goes here; the bench counts on {step.us} us at most{on}."
                functions.append(work_text(names[place], note))
        return functions, names

    def _row(self, steps: Steps, names: dict[int, str], body: Body | None, called: bool = False) -> list[str]:
        rows = (self._step(step, names.get(place, ""), body, called) for place, step in enumerate(steps))
        return [row for some in rows for row in some]

    def functions(self, passes: dict[str, str]) -> list[str]:
        """Passes (by owner, "": the loop), works, bodies, timers, hooks, the loop's task."""
        self.passes = passes
        found = [OVER] if "overwrite" in self.between.full.values() else []
        found += [f"void {snake(owner) or 'loop'}_pass() {{\n{text}}}\n" for owner, text in passes.items()]
        for body in self.between.bodies:
            works, names = self._works(snake(body.id), body.steps)
            found += [*works, self._task(body, self._row(body.steps, names, body))]
        for task in self.tasks:
            found += self._plain(task)
        for timer in self.between.timers:
            steps = tuple(step for step in timer.steps if not may_wait(step, self.between.full))
            works, names = self._works(snake(timer.id), steps)
            rows = "".join(f"  {row}\n" for row in self._row(steps, names, None))
            found += [*works, f"void {snake(timer.id)}_over(TimerHandle_t) {{\n{rows}}}\n"]
        return [*found, *self._hooks(), self._loop_task()]

    def _task(self, body: Body, rows: list[str]) -> str:
        due = "  TickType_t due = kernel_began;\n" if any(isinstance(step, Next) for step in body.steps) else ""
        got = "  uint8_t got;\n" if any(isinstance(step, Receive) for step in body.steps) else ""
        rows = rows or ["vTaskDelay(portMAX_DELAY);"]
        said = "".join(f"    {row}\n" for row in rows)
        return (
            f"// {comment(body.name)}\nvoid {snake(body.id)}_task(void *) {{\n{due}{got}  for (;;) {{\n{said}  }}\n}}\n"
        )

    def _plain(self, task: Task) -> list[str]:
        """A periodic task: what it holds, then the rest of its work."""
        name = snake(task.id)
        offset_us = task.period_us if task.offset_us is None else task.offset_us
        held_us = min(task.holds_us, task.run_us) if task.shares else 0
        works: list[tuple[str, int, list[str], list[str]]] = []
        if held_us:
            resource = self._resource(task.shares)
            take, give = f"xSemaphoreTake({resource}, portMAX_DELAY);", f"xSemaphoreGive({resource});"
            works.append((f"{name}_held", held_us, [take], [give]))
        if task.run_us - held_us:
            works.append((f"{name}_work", task.run_us - held_us, [], []))
        functions = [
            work_text(what, f"  // Your work goes here; the bench counts on {us} us at most.")
            for what, us, _, _ in works
        ]
        rows = [row for what, _, before, after in works for row in (*before, f"{what}();", *after)]
        if task.talks and task.blocking:
            rows.append(f"for (uint16_t n = 0; n < {task.characters}; ++n) Serial.write('.');  // waits for room")
        elif task.talks:
            rows += [
                f"for (uint16_t left = {task.characters}; left;) {{  // as there is room",
                "  if (Serial.availableForWrite() <= 0) { vTaskDelay(1); continue; }",
                "  Serial.write('.');",
                "  --left;",
                "}",
            ]
        rows += {"spins": ["for (;;) {}  // chosen: it never waits"], "returns": ["return;  // chosen: wrong"]}.get(
            task.ends, []
        )
        said = "".join(f"    {row}\n" for row in [f"vTaskDelayUntil(&due, {_ticks(task.period_us)});", *rows])
        begin = f"  TickType_t due = kernel_began + {_ticks(offset_us)} - {_ticks(task.period_us)};\n"
        text = f"// {comment(task.name)}\nvoid {name}_task(void *) {{\n{begin}  for (;;) {{\n{said}  }}\n}}\n"
        return [*functions, text]

    def _hooks(self) -> list[str]:
        found = []
        for name, call, steps in (
            ("tick", "vApplicationTickHook", self.between.tick_hook),
            ("idle", "vApplicationIdleHook", self.between.idle_hook),
        ):
            steps = tuple(step for step in steps if not may_wait(step, self.between.full) and not isinstance(step, Own))
            if not steps:
                continue
            works, names = self._works(f"{name}_hook", steps)
            rows = self._row(steps, names, None, called=name == "tick")
            if any(row.startswith("put_over_from_isr") for row in rows):
                found.append(OVER_CALLED)
            said = "".join(f"  {row}\n" for row in rows)
            found += [*works, f'extern "C" void {call}(void) {{\n{said}}}\n']
        return found

    def _loop_task(self) -> str:
        loop_us = self.bench.firmware.kernel.loop_us
        period = _ticks(loop_us)
        rest = f"    vTaskDelay({period} - (xTaskGetTickCount() - kernel_began) % {period});\n" if loop_us else ""
        return (
            f"// The loop is a task, too.\nvoid loop_task(void *) {{\n  for (;;) {{\n    loop_pass();\n{rest}  }}\n}}\n"
        )

    def setup(self) -> list[str]:
        """The end of set-up: everything is made, and begins together."""
        kernel, lines = self.bench.firmware.kernel, []
        for ident, kind in self.kinds.items():
            if kind == "queue":
                queue = next(one for one in self.between.queues if one.id == ident)
                lines.append(f"{self.handle(ident)} = xQueueCreate({queue.length}, 1);")
            elif kind == "flag":
                lines.append(f"{self.handle(ident)} = xSemaphoreCreateBinary();")
            elif kind == "mutex":
                lines += self._mutex(self.handle(ident))
        for one in self.shared:
            lines += self._mutex(self._resource(one))
        lines += ["vTaskSuspendAll();", "kernel_began = xTaskGetTickCount();"]
        for timer in self.between.timers:
            name, again = snake(timer.id), "pdFALSE" if timer.once else "pdTRUE"
            made = f'xTimerCreate("{name}", {_ticks(timer.period_us)}, {again}, nullptr, {name}_over)'
            lines.append(f"{self.handle(timer.id)} = {made};")
            lines += [f"xTimerStart({self.handle(timer.id)}, 0);"] if timer.runs else []
        rows = [(snake(one.id), one.stack_bytes, one.priority) for one in self.between.bodies]
        rows += [(snake(task.id), task.stack_bytes, task.priority) for task in self.tasks]
        rows.append(("loop", kernel.stack_bytes, kernel.loop_priority))
        for name, stack, priority in rows:
            size = f"configMINIMAL_STACK_SIZE + {stack or ENOUGH_BYTES} / sizeof(StackType_t)"
            of = f'{name}_task, "{name[:15]}", {size}, nullptr, {priority}'
            lines.append(f"{self.words.create}({of}, {self.words.place});")
        return [f"  {line}" for line in [*lines, "xTaskResumeAll();"]]

    def _mutex(self, handle: str) -> list[str]:
        if self.bench.firmware.kernel.inherits:
            return [f"{handle} = xSemaphoreCreateMutex();"]
        return [f"{handle} = xSemaphoreCreateBinary();  // nobody inherits", f"xSemaphoreGive({handle});"]

    def notes(self) -> list[str]:
        """What the program cannot settle by itself."""
        found = ["Include your kernel's headers (kernel, task, queue, semaphore, timer) at the top of the file."]
        alike: dict[int, list[str]] = {self.bench.firmware.kernel.loop_priority: ["the loop"]}
        rows = [(one.priority, one.name) for one in self.between.bodies]
        for priority, name in [*rows, *((task.priority, task.name) for task in self.tasks)]:
            alike.setdefault(priority, []).append(name)
        for names in alike.values():
            if len(names) > 1:
                said = f"{', '.join(names[:-1])} and {names[-1]}"
                found.append(
                    f"{said[0].upper()}{said[1:]} have one priority: whose turn is first may differ from the strip."
                )
        if self.between.timers:
            found.append(
                f"Set configTIMER_TASK_PRIORITY to {self.between.timer_priority}: the timers' task is the kernel's."
            )
        for field, name in (("tick_hook", "TICK"), ("idle_hook", "IDLE")):
            if getattr(self.between, field):
                found.append(f"Set configUSE_{name}_HOOK to 1: what it does is done there.")
        return found
