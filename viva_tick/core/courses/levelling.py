"""What an analogue part measures in a scenario, and the counts that its samples give, noise included."""

from __future__ import annotations

from dataclasses import dataclass
from random import Random

from ..boards import Board
from ..document import Level, Scenario
from ..document.parts import Analogue
from ..electrics import pin_mv, range_of


def rest_value(part: Analogue) -> float:
    """Where it stands while nothing is done to it: where it usually does, or in the middle of its range."""
    low, high = range_of(part)
    if part.stands_at is None:
        return (low + high) / 2
    return min(max(part.stands_at, min(low, high)), max(low, high))


def noise_mv(rng: Random, peak_mv: float) -> float:
    """One draw of the noise at the pin, at most `peak_mv` from end to end: three even draws together, which lie in a
    bell around nothing."""
    return (rng.random() + rng.random() + rng.random() - 1.5) * peak_mv / 3


@dataclass(frozen=True)
class LevelCourse:
    """`points` are (instant, value); between two of them the value runs straight."""

    part: Analogue
    points: tuple[tuple[int, float], ...]

    def value(self, at_us: int) -> float:
        """What it measures at an instant."""
        before = self.points[0]
        for point in self.points:
            if point[0] > at_us:
                share = (at_us - before[0]) / (point[0] - before[0])
                return before[1] + share * (point[1] - before[1])
            before = point
        return before[1]

    def clean_mv(self, value: float, board: Board) -> float:
        """The voltage at the pin for a value, without noise; rounded to a microvolt, so that the last digit of a
        logarithm never decides."""
        return round(pin_mv(self.part, board, value), 3)


def level_course(part: Analogue, scenario: Scenario) -> LevelCourse:
    """How what it measures moves in a scenario; values past the ends of its range are taken for the ends."""
    low, high = sorted(range_of(part))
    points = [(0, rest_value(part))]
    levels = [one for one in scenario.stimuli if isinstance(one, Level) and one.input == part.id]
    for level in sorted(levels, key=lambda level: level.at_us):
        course = LevelCourse(part, tuple(points))
        begin = course.value(level.at_us)
        points = [point for point in points if point[0] < level.at_us]
        points += [(level.at_us, begin), (level.at_us + max(level.over_us, 1), min(max(level.value, low), high))]
    return LevelCourse(part, tuple(points))
