"""What many runs cost: points measured, the line through them, and what it says of more. Writes docs/scale.md."""

from __future__ import annotations

import platform
import time
from collections.abc import Callable
from pathlib import Path

import distributed
import numpy as np

from scripts.speed.benches import pressed
from scripts.speed.table import yardstick_s
from viva_tick.core.document import Bench, Scenario
from viva_tick.core.engine import SkippingEngine
from viva_tick.core.guard import faults_of, hang_tests
from viva_tick.core.repeats import repeated_by_all
from viva_tick.core.spread import Hands
from viva_tick.core.sweep import full_sweep
from viva_tick.demo import demo_bench

OUT = Path(__file__).parents[1] / "docs" / "scale.md"
POINTS = (300, 1_000, 3_000, 10_000)
AHEAD = (10**6, 10**8)


def timed(job: Callable[[], object]) -> float:
    """Seconds of a job."""
    began = time.perf_counter()
    job()
    return time.perf_counter() - began


def line(points: list[tuple[int, float]]) -> tuple[float, float]:
    """(seconds to begin with, seconds a run) of the straight line through the points, each weighted by its size."""
    many, seconds = np.array(points).T
    slope, begin = np.polyfit(many, seconds, 1, w=1 / seconds)
    return max(float(begin), 0.0), float(slope)


def long(seconds: float) -> str:
    """A time in words."""
    for size, name in ((86_400, "days"), (3_600, "hours"), (60, "minutes")):
        if seconds >= 2 * size:
            return f"{seconds / size:,.1f} {name}"
    return f"{seconds:,.1f} s"


def measured(bench: Bench, scenario: Scenario, hands: Hands) -> list[tuple[int, float]]:
    """Seconds of so many repeats, the start of processes included."""
    found = []
    for many in POINTS:
        found.append((many, timed(lambda many=many: repeated_by_all(bench, scenario, many, hands))))  # type: ignore[misc]
        print(f"{hands}: {many:,} runs in {found[-1][1]:.2f} s", flush=True)
    return found


def main() -> None:
    """Measure, and write it down."""
    bench = demo_bench("print-timer")
    scenario = bench.scenario("One print")
    single = min(timed(lambda: SkippingEngine().run(bench, scenario)) for _ in range(20))
    rows: list[tuple[str, list[tuple[int, float]]]] = []
    repeated_by_all(bench, scenario, 50, Hands(1))
    rows.append(("one process", measured(bench, scenario, Hands(1))))
    rows.append(("two processes", measured(bench, scenario, Hands(2))))
    with distributed.LocalCluster(
        n_workers=2, threads_per_worker=1, dashboard_address=None, silence_logs=50
    ) as cluster:  # type: ignore[no-untyped-call]
        rows.append(
            ("a cluster of two workers here", measured(bench, scenario, Hands(address=cluster.scheduler_address)))
        )
    sweeps = [
        (many, timed(lambda many=many: list(full_sweep(bench, "foot-pedal", many, hands=Hands(2)))))
        for many in (50_000, 200_000)
    ]  # type: ignore[misc]
    minute = pressed(60, 1_500_000)
    many_faults = len(faults_of(minute))
    faults = [
        (many * many_faults, timed(lambda many=many: hang_tests(minute, minute.scenarios[0], many, Hands(2))))
        for many in (20, 60)
    ]  # type: ignore[misc]

    text = [
        "# Many runs", "",
        f"As measured by `make scale` on {time.strftime('%Y-%m-%d')}: {platform.machine()}, Python {platform.python_version()}, two cores of a "
        f"shared machine; a yardstick (docs/speed.md) took {1000 * yardstick_s():.1f} ms. One print of the print timer, 2.6 s long, by "
        f"`viva-tick repeat`: a run alone takes {1000 * single:.1f} ms, and with what is drawn for it, its answers and its checks what the "
        "table says. The start of the processes is in it.", "",
        "| Runs | " + " | ".join(name for name, _ in rows) + " |", "|---|" + "---|" * len(rows),
        *(f"| {many:,} | " + " | ".join(f"{dict(points)[many]:.2f} s" for _, points in rows) + " |" for many in POINTS), "",
        "The line through each (least squares of the relative errors), how far the points lie from it, and what it says of more:", "",
        "| By | to begin | a run | farthest point | " + " | ".join(f"10^{len(str(many)) - 1} runs" for many in AHEAD) + " |",
        "|---|---|---|---|" + "---|" * len(AHEAD),
    ]  # fmt: skip
    for name, points in rows:
        begin, slope = line(points)
        off = max(abs(seconds / (begin + slope * many) - 1) for many, seconds in points)
        ahead = " | ".join(long(begin + slope * many) for many in AHEAD)
        text.append(f"| {name} | {begin:.1f} s | {1000 * slope:.2f} ms | {100 * off:.0f} % | {ahead} |")
    _, slope = line(rows[1][1])
    cores = 2 * slope * AHEAD[-1] / 3_600
    text += [
        "",
        f"So 10^8 runs take {cores:,.0f} hours of a core: on 256 cores {long(cores / 256 * 3_600)}, if each is as fast as one of these and has "
        "its pieces in time. A piece is 25 runs, of a million 500, and never more "
        "than 1,000 (3 s): the bench as text goes out with it (about 10 kB), a few numbers come back. A scheduler hands out about a "
        "thousand pieces a second (not measured here), so that it is the limit from some thousands of cores on. What is "
        "counted does not grow with the runs: a row for each check and contact.", "",
        "The rest of what is spread over processes, on two:", "",
        "| What | Measured | Each |", "|---|---|---|",
        *(f"| `viva-tick sweep`, {many:,} presses × 61 intervals × the methods with one | {seconds:.1f} s | {1e6 * seconds / many:.1f} µs a press |" for many, seconds in sweeps),
        *(f"| `viva-tick hang`, {many} runs of a minute | {seconds:.1f} s | {1000 * seconds / many:.1f} ms a run |" for many, seconds in faults), "",
        "## Over a cluster", "",
        "`pip install 'viva-tick[cluster]'` here and on every machine, the same version of both; then, on one of them, `dask scheduler`, and "
        "on each `dask worker tcp://SCHEDULER:8786 --nworkers -1 --nthreads 1`. `viva-tick repeat bench.json --runs 1000000 --on "
        "tcp://SCHEDULER:8786` cuts the work into the same pieces, and comes to the same bytes in whatever order they are done. A worker "
        "that is lost costs its pieces' time: the scheduler gives them to others, up to five times. A worker with another version of Viva "
        "Tick ends it with a sentence, since it would count other runs. Ctrl-C takes back what is not begun, and says what was counted. "
        "The scheduler lets anyone in who can reach it: keep it on a network of your own.", "",
    ]  # fmt: skip
    OUT.write_text("\n".join(text), encoding="utf-8")
    print(f"wrote {OUT.name}")


if __name__ == "__main__":
    main()
