"""The sweep as a drawing: curves, window, handles, in the chart's own units."""

from __future__ import annotations

import json
from dataclasses import dataclass

from ..core.document import Bench, TapTiming
from ..core.program import idle_pass_us
from ..core.sweep import Advice, Swept, advise, sweep_input
from ..core.units import plain

WIDTH, HEIGHT = 700, 126
LEFT, RIGHT, TOP, BOTTOM = 40, 22, 6, 24


@dataclass(frozen=True)
class Tick:
    """A line of the chart's grid and its label."""

    at: float
    label: str


@dataclass(frozen=True)
class SweepChart:
    """Everything the template draws. `data` is what the browser needs to follow a drag, as JSON."""

    width: int
    height: int
    left: int
    right: float
    top: int
    bottom: int
    doubled: str
    missed: str
    x_ticks: list[Tick]
    y_ticks: list[Tick]
    window: tuple[float, float] | None
    advice: Advice | None
    now_x: float
    now_ms: int
    most_ms: int
    presses: int
    data: str


def _path(points: list[tuple[float, float]]) -> str:
    return "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def _step_ms(reach_ms: float) -> int:
    return next(step for step in (5, 10, 20, 50, 100, 200, 500, 1000) if reach_ms / step <= 8)


def sweep_chart(bench: Bench, input_id: str) -> SweepChart:
    """The chart of the method that an input has."""
    debounce = bench.debounce(input_id)
    swept = sweep_input(bench, input_id, debounce.method, idle_pass_us(bench))
    return curves_chart(swept, debounce.interval_us, advise(swept, bench.taps.get(input_id, TapTiming()).per_thousand))


def curves_chart(swept: Swept, now_us: int, advice: Advice | None) -> SweepChart:
    """The chart of a sweep, with the interval of now."""
    right, bottom = WIDTH - RIGHT, HEIGHT - BOTTOM
    most_ms = int(swept.interval_us[-1]) // 1000

    def x(interval_ms: float) -> float:
        return round(LEFT + (right - LEFT) * interval_ms / most_ms, 1)

    def y(share: float) -> float:
        return round(bottom - (bottom - TOP) * share, 1)

    ms = (swept.interval_us // 1000).tolist()
    rates = {name: (getattr(swept, name) / swept.presses).tolist() for name in ("doubled", "missed")}
    curves = {name: _path([(x(i), y(r)) for i, r in zip(ms, row, strict=True)]) for name, row in rates.items()}
    step = _step_ms(most_ms)
    data = {
        "interval_ms": ms,
        "doubled": swept.doubled.tolist(),
        "missed": swept.missed.tolist(),
        "wait_us": swept.wait_us.tolist(),
        "presses": swept.presses,
    }
    return SweepChart(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=right,
        top=TOP,
        bottom=bottom,
        doubled=curves["doubled"],
        missed=curves["missed"],
        x_ticks=[Tick(x(at), plain(at / 1000) if most_ms >= 1000 else str(at)) for at in range(0, most_ms + 1, step)],
        y_ticks=[Tick(y(share), f"{share:.0%}".replace("%", " %")) for share in (0, 0.5, 1)],
        window=(x(advice.low_us / 1000), x(advice.high_us / 1000)) if advice else None,
        advice=advice,
        now_x=x(min(now_us / 1000, most_ms)),
        now_ms=now_us // 1000,
        most_ms=most_ms,
        presses=swept.presses,
        data=json.dumps(data),
    )
