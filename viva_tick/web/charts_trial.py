"""A trial, plotted: rates with their intervals over the condition."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..core.record import Said, Trial
from ..core.units import short

WIDTH, HEIGHT = 520, 220
LEFT, RIGHT, TOP, BOTTOM = 44, 504, 12, 184


@dataclass(frozen=True)
class Point:
    """One condition on the sheet: x, y of its rate, of both ends of its interval, and what is said of it."""

    x: float
    y: float
    low: float
    high: float
    label: str
    verdict: str


def trial_chart(trial: Trial, said: list[Said]) -> dict[str, Any]:
    """Points, ticks and the line of the aim, in the sheet's units."""
    tried = [one for one in said if one.rate is not None]
    values = [one.row.at for one in said]
    least, most = (min(values), max(values)) if values else (0.0, 1.0)
    span = (most - least) or 1.0

    def x(value: float) -> float:
        return (
            round(LEFT + 24 + (value - least) / span * (RIGHT - LEFT - 48), 1) if most > least else (LEFT + RIGHT) / 2
        )

    def y(rate: float) -> float:
        return round(BOTTOM - rate * (BOTTOM - TOP), 1)

    points = [
        Point(x(one.row.at), y(one.rate or 0), y(one.low), y(one.high), f"{one.row.so} of {one.row.of}", one.verdict)
        for one in tried
    ]
    return {
        "width": WIDTH, "height": HEIGHT, "left": LEFT, "right": RIGHT, "top": TOP, "bottom": BOTTOM, "points": points,
        "line": " ".join(f"{one.x},{one.y}" for one in points), "aim": y(trial.aim / 100),
        "x_ticks": [(x(value), short(value)) for value in sorted(set(values))],
        "y_ticks": [(y(percent / 100), percent) for percent in (0, 25, 50, 75, 100)],
    }  # fmt: skip
