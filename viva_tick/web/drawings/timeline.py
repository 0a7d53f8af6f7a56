"""Tasks over time: when each job is due and how long it takes, to be dragged; under the kernel, who has the "
"processor."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.document import Bench
from ...core.kernel import kernel_tasks, simulate
from ...core.program import working_pass_us
from ...core.units import ms
from ..charts import Tick

WIDTH, LEFT, ROW, TOP = 700, 118, 25, 22
MOST_JOBS = 60
LEAST_PX = 4.0


@dataclass(frozen=True)
class TaskRow:
    """A task's row: its jobs as (x, width), what is dragged, and the words at its left."""

    id: str
    name: str
    place: int
    y: float
    jobs: list[tuple[float, float]]
    offset_ms: int
    period_ms: int
    run_us: int
    words: str
    slices: list[tuple[float, float]]


@dataclass(frozen=True)
class Timeline:
    """Everything the template draws; `span_ms` lies from `left` to `right`."""

    rows: list[TaskRow]
    ticks: list[Tick]
    span_ms: int
    width: int
    height: int
    left: int
    right: int
    top: int
    caption: str


def _span_ms(periods: list[int]) -> int:
    """Long enough for two of the longest, short enough that the jobs of the shortest can be told apart."""
    longest, shortest = max(periods), min(periods)
    return max(min(round(longest * 1.25), shortest * 40), round(shortest * 1.25), 10)


def _ticks(span_ms: int, x_of: float) -> list[Tick]:
    rough = span_ms / 7
    power = 10 ** (len(str(max(int(rough), 1))) - 1)
    step = next(power * part for part in (1, 2, 5, 10) if power * part >= rough)
    return [Tick(round(LEFT + at * x_of, 1), f"{at}" if at else "0") for at in range(0, span_ms + 1, max(int(step), 1))]


def timeline(bench: Bench) -> Timeline | None:
    """The bench's tasks; None where there are none."""
    tasks = bench.firmware.tasks
    if not tasks:
        return None
    kernel = bench.firmware.school == "kernel"
    span_ms = _span_ms([task.period_us // 1000 for task in tasks])
    right = WIDTH - 8
    scale = (right - LEFT) / span_ms
    slices: dict[int, list[tuple[float, float]]] = {}
    if kernel:
        rules = bench.firmware.kernel
        made = simulate(
            kernel_tasks(bench, working_pass_us(bench)),
            span_ms * 1000,
            rules.tick_us,
            rules.slice_ticks * rules.tick_us,
            rules.switch_us,
            rules.inherits,
        )
        for one in made.slices[:6000]:
            box = (LEFT + one.from_us / 1000 * scale, max((one.to_us - one.from_us) / 1000 * scale, 0.7))
            slices.setdefault(one.task, []).append((round(box[0], 1), round(box[1], 1)))
    rows: list[TaskRow] = []
    for place, task in enumerate(tasks):
        period_ms = task.period_us // 1000
        offset_ms = period_ms if task.offset_us is None else task.offset_us // 1000
        jobs: list[tuple[float, float]] = []
        at = offset_ms
        while at < span_ms and len(jobs) < MOST_JOBS:
            width = max(task.run_us / 1000 * scale, LEAST_PX)
            jobs.append((round(LEFT + at * scale, 1), round(min(width, right - LEFT - at * scale), 1)))
            at += period_ms
        cut = "" if task.blocking else ", in slices"
        rows.append(
            TaskRow(
                task.id,
                task.name,
                place,
                TOP + ROW * len(rows),
                jobs,
                offset_ms,
                period_ms,
                task.run_us,
                f"{ms(task.run_us)} every {ms(task.period_us)}{cut}",
                slices.get(place, []),
            )
        )
    height = TOP + ROW * len(rows) + 20
    if kernel:
        loop = TaskRow("", "The loop", -1, TOP + ROW * len(rows), [], 0, 0, 0, "", slices.get(len(tasks), []))
        rows.append(loop)
        height += ROW
    caption = "Drag a job to begin it at another time, its end to make it longer. Time runs from when set-up is done."
    return Timeline(rows, _ticks(span_ms, scale), span_ms, WIDTH, height, LEFT, right, TOP, caption)
