"""The watchdog as a dial: the board's steps along an arc, the healthy passes and what hurts marked on it."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, log, radians, sin

from ...core.guard import Choice
from ...core.units import ms

WIDTH, HEIGHT = 430, 232
X, Y, R = 215.0, 200.0, 150.0
FROM, TO = 180.0, 0.0


@dataclass(frozen=True)
class DialStep:
    """A step on the rim: its mark, where its word stands, whether it fits, and the word."""

    us: int
    mark: str
    x: float
    y: float
    anchor: str
    words: str
    fits: bool
    now: bool
    best: bool
    why: str


@dataclass(frozen=True)
class Dial:
    """Everything the template draws: arcs as paths, and the needle."""

    steps: list[DialStep]
    healthy: str
    safe: str
    hazard: str
    rim: str
    band: str
    needle: str
    healthy_mark: tuple[float, float, str]
    hazard_mark: tuple[float, float, str] | None
    width: int = WIDTH
    height: int = HEIGHT


class _Arc:
    def __init__(self, least: float, most: float) -> None:
        self.least, self.most = least, most

    def angle(self, us: float) -> float:
        share = (log(max(us, 1)) - log(self.least)) / (log(self.most) - log(self.least))
        return FROM + (TO - FROM) * min(max(share, 0.0), 1.0)

    def at(self, us: float, radius: float) -> tuple[float, float]:
        angle = radians(self.angle(us))
        return round(X + radius * cos(angle), 1), round(Y - radius * sin(angle), 1)

    def arc(self, from_us: float, to_us: float, radius: float) -> str:
        if to_us <= from_us:
            return ""
        (x, y), (to_x, to_y) = self.at(from_us, radius), self.at(to_us, radius)
        return f"M{x} {y} A{radius} {radius} 0 0 1 {to_x} {to_y}"


def _box(x: float, y: float, words: str, anchor: str) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of words that stand at a point."""
    wide = 7.6 * len(words)
    left = x - {"start": 0.0, "middle": wide / 2, "end": wide}[anchor]
    return left, y - 8, left + wide, y + 8


def _meet(one: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]


def dial(choice: Choice, hazard_us: int, on: bool) -> Dial | None:
    """The dial of a choice; `hazard_us` is how long hazardous output may stay on. None for a board without steps."""
    if not choice.steps:
        return None
    steps = [one.step_us for one in choice.steps]
    least = min([steps[0] * 0.6, max(choice.healthy_us, 1000) * 0.8])
    most = max([steps[-1] * 1.5, choice.healthy_us * 1.3, hazard_us * 1.1 if choice.hazardous else 0])
    arc = _Arc(least, most)
    # What a step may be: its fast corner clears the longest pass, its slow one is not too late for what hurts.
    fast = choice.steps[0].soonest_us / steps[0]
    first_us = choice.needed_us / fast
    late = [one.step_us * hazard_us / one.hazard_us for one in choice.steps]
    last_us = max(late) if choice.hazardous else most
    rows: list[DialStep] = []
    boxes: list[tuple[float, float, float, float]] = []
    for one in choice.steps:
        (x, y), (to_x, to_y) = arc.at(one.step_us, R - 7), arc.at(one.step_us, R + 7)
        words = ms(one.step_us) if one.step_us < 1_000_000 else f"{one.step_us / 1e6:g} s"
        angle = radians(arc.angle(one.step_us))
        anchor = "middle" if abs(cos(angle)) < 0.3 else "start" if cos(angle) > 0 else "end"
        # Steps that lie close have their words further out, in a second row.
        spots = [arc.at(one.step_us, radius) for radius in (R + 21, R + 37, R + 53)]
        fits = (spot for spot in spots if not any(_meet(_box(*spot, words, anchor), other) for other in boxes))
        text_x, text_y = next(fits, spots[-1])
        boxes.append(_box(text_x, text_y, words, anchor))
        why = "fits"
        if not one.clears:
            why = f"a healthy pass can reach it: {ms(one.soonest_us)} at its fastest"
        elif not one.safe:
            why = f"hazardous output left on for {ms(one.hazard_us)}"
        rows.append(
            DialStep(
                one.step_us,
                f"M{x} {y} L{to_x} {to_y}",
                text_x,
                round(text_y + 4, 1),
                anchor,
                words,
                one.fits,
                one.step_us == choice.now.step_us,
                bool(choice.best and one.step_us == choice.best.step_us),
                why,
            )
        )
    needle_x, needle_y = arc.at(choice.now.step_us, R - 14)
    hx, hy = arc.at(choice.healthy_us, R - 30)
    hazard_mark = None
    if choice.hazardous:
        zx, zy = arc.at(last_us, R - 30)
        hazard_mark = (zx, zy, ms(hazard_us))
    return Dial(
        rows,
        arc.arc(least, choice.healthy_us, R - 22),
        arc.arc(first_us, last_us, R),
        arc.arc(last_us, most, R - 22) if choice.hazardous else "",
        arc.arc(least, most, R),
        arc.arc(choice.now.soonest_us, choice.now.latest_us, R - 11),
        f"M{X} {Y} L{needle_x} {needle_y}",
        (hx, hy, ms(choice.healthy_us)),
        hazard_mark,
    )
