"""Charts with handles to drag along their scale, in their own units: an encoder's speed, a sensor's thresholds."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass, field
from typing import Any

from ..core.boards import Board
from ..core.document import Measure
from ..core.document.parts import Analogue, Encoder
from ..core.sweep import NoiseStudy, TurnSweep, digits_of
from .charts import Tick

WIDTH, HEIGHT = 700, 146
LEFT, RIGHT, TOP, BOTTOM = 40, 22, 22, 30


@dataclass(frozen=True)
class Handle:
    """What is dragged: a value of the document. `side` is where its words stand, "start" or "end" of them at it."""

    id: str
    path: str
    value: float
    x: float
    words: str
    side: str


@dataclass(frozen=True)
class Slide:
    """Everything the template draws. `data` is what the browser needs to follow a drag, as JSON."""

    kind: str
    label: str
    unit: str
    least: float
    most: float
    step: float
    digits: int
    handles: list[Handle]
    x_ticks: list[Tick]
    y_ticks: list[Tick] = field(default_factory=list)
    curves: list[tuple[str, str]] = field(default_factory=list)
    legend: list[tuple[str, str]] = field(default_factory=list)
    bars: list[tuple[float, float, float, float]] = field(default_factory=list)
    zone: tuple[float, float] | None = None
    zone_words: str = ""
    mark: tuple[float, str] | None = None
    caption: str = ""
    data: str = "{}"
    width: int = WIDTH
    height: int = HEIGHT
    left: int = LEFT
    right: int = WIDTH - RIGHT
    top: int = TOP
    bottom: int = HEIGHT - BOTTOM


def _ticks(least: float, most: float, many: int = 8) -> list[float]:
    rough = (most - least) / many
    power = 10 ** math.floor(math.log10(rough))
    step = next(power * part for part in (1, 2, 5, 10) if power * part >= rough)
    first = math.ceil(least / step - 1e-9)
    return [round(n * step, 9) for n in range(first, math.floor(most / step + 1e-9) + 1)]


class _Scale:
    def __init__(self, least: float, most: float) -> None:
        self.least, self.most = least, most

    def x(self, value: float) -> float:
        share = (value - self.least) / (self.most - self.least)
        return round(LEFT + (WIDTH - RIGHT - LEFT) * min(max(share, 0.0), 1.0), 1)

    def ticks(self) -> list[Tick]:
        return [Tick(self.x(value), f"{value:g}") for value in _ticks(self.least, self.most)]


def _y(share: float) -> float:
    bottom = HEIGHT - BOTTOM
    return round(bottom - (bottom - TOP) * share, 1)


def _line(points: list[tuple[float, float]]) -> str:
    return "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def turn_slide(part: Encoder, at: str, swept: TurnSweep) -> Slide:
    """Turns a second against steps that are lost, or go backwards; the fastest safe turn."""
    scale = _Scale(0.0, swept.turns_a_second[-1])

    def curve(row: tuple[int, ...]) -> str:
        points = zip(swept.turns_a_second, row, strict=True)
        return _line([(LEFT, _y(0)), *((scale.x(speed), _y(min(many / swept.steps, 1))) for speed, many in points)])

    curves = [("is-missed", curve(swept.lost)), ("is-doubled", curve(swept.backwards))]
    fastest = f"{swept.fastest:.2g}"
    data: dict[str, Any] = {
        "places": swept.turns_a_second,
        "lost": swept.lost,
        "backwards": swept.backwards,
        "errors": swept.errors,
        "steps": swept.steps,
    }
    now = part.turns_a_second
    return Slide(
        kind="turns",
        label=f"How fast {part.name} is turned",
        unit="turns a second",
        least=0.1,
        most=round(scale.most, 1),
        step=0.1,
        digits=1,
        handles=[Handle("turned", f"{at}/turns_a_second", now, scale.x(now), f"turned at {now:g}", "start")],
        x_ticks=scale.ticks(),
        y_ticks=[Tick(_y(share), f"{share * 100:.0f} %") for share in (0, 0.5, 1)],
        curves=curves,
        legend=[("is-missed", "steps missed"), ("is-doubled", "steps backwards")],
        zone=(LEFT, scale.x(swept.fastest)) if swept.fastest else None,
        zone_words=f"safe up to {fastest}" + (" and over" if swept.open_ended else "") if swept.fastest else "",
        caption="Drag the handle to how fast it is turned; a hand does 1 to 2 turns a second.",
        data=json.dumps(data),
    )


def noise_slide(part: Analogue, at: str, reading: Measure, board: Board, study: NoiseStudy, unit: str) -> Slide:
    """The noise where it stands, and the two thresholds to drag over it."""
    least, most = study.places[0], study.places[-1]
    scale = _Scale(least, most)
    tallest = max(many for _, _, many in study.bins)
    bars = []
    for left, right, many in study.bins:
        if many and right >= least and left <= most:
            x, end = scale.x(left), scale.x(right)
            bars.append((x + 0.4, _y(0.86 * many / tallest), max(end - x - 0.8, 1.2), 0.86 * many / tallest))
    digits = digits_of(study.per_count)
    handles = [
        Handle(field, f"{at}/{field}", value, scale.x(value), f"{words} {value:g}", side)
        for field, words, side, value in (
            ("below", "below under", "end", reading.below),
            ("above", "above from", "start", reading.above),
        )
    ]
    data: dict[str, Any] = {"places": study.places, "chatter": study.chatter, "advised": study.advised}
    data |= {"stands": round(study.stands_at, 6), "now": study.now_an_hour}
    return Slide(
        kind="noise",
        label=f"Thresholds of {part.name}",
        unit=unit,
        least=least,
        most=most,
        step=10.0**-digits,
        digits=digits,
        handles=handles,
        x_ticks=scale.ticks(),
        bars=[(x, y, w, round(HEIGHT - BOTTOM - y, 1)) for x, y, w, _ in bars],
        zone=(handles[0].x, handles[1].x),
        mark=(scale.x(study.stands_at), f"stands at {study.stands_at:.4g} {unit}"),
        caption=f"Drag a threshold over the noise. Standing there it crosses {study.now_an_hour:,} times an hour.",
        data=json.dumps(data),
    )
