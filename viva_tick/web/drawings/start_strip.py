"""A start as a strip: each output through start-up and set-up to the first pass. The phases are not to scale."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.guard import Phase, Start
from ...core.units import ms

WIDTH, LANE, TOP = 226, 22, 30
SHARES = (0.0, 0.5, 0.7, 1.0)


@dataclass(frozen=True)
class StartLane:
    """An output's lane: the path of its level, its wave where it floats, the box where it is on."""

    name: str
    y: float
    line: str
    waves: list[str]
    on: list[tuple[float, float]]
    unsafe: bool
    words: str


@dataclass(frozen=True)
class StartStrip:
    """Everything the template draws for one cause."""

    words: str
    lanes: list[StartLane]
    marks: list[tuple[float, str, str]]
    height: int
    width: int = WIDTH
    top: int = TOP


def _wave(from_x: float, to_x: float, y: float) -> str:
    points = " ".join(f"q3 {'-5' if n % 2 else '5'} 6 0" for n in range(int((to_x - from_x) / 6)))
    return f"M{from_x:.1f} {y:.1f} {points}"


def start_strip(words: str, rows: list[Start], phases: tuple[Phase, ...]) -> StartStrip:
    """The strip of one start."""
    edges = [round(share * WIDTH, 1) for share in SHARES]
    lanes = []
    for number, row in enumerate(rows):
        y = TOP + number * LANE
        bottom, middle = y + LANE - 5, y + LANE / 2
        line, waves, on = "", [], []
        for level, from_x, to_x in zip(row.levels, edges, edges[1:], strict=False):
            if level == "floats":
                waves.append(_wave(from_x, to_x, middle))
            elif level == "on":
                on.append((from_x, round(to_x - from_x, 1)))
            else:
                line += f"M{from_x} {bottom} H{to_x} "
        says = "; ".join(f"{phase.name} {level}" for phase, level in zip(phases, row.levels, strict=True))
        lanes.append(StartLane(row.name, y, line.strip(), waves, on, row.unsafe, f"{row.name}: {says}"))
    marks = [(edges[n], phase.name, ms(phase.from_us)) for n, phase in enumerate(phases)]
    return StartStrip(words, lanes, marks, TOP + LANE * len(rows) + 4)
