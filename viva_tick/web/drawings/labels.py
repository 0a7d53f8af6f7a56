"""Where the words of a map's arrows stand: beside their own arrow, on no other arrow, box or word.

What is taken is a raster of `CELL` points; a label goes to the free place that is nearest to the middle of its arrow.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

CELL = 4
MARGIN = 480  # around everything, in points: there is always room for one label more
LETTER, LINE = 6.4, 13.0  # how wide a letter is at most on the average, how high a line
FAR = 24.0  # from its arrow: a thin line leads there

Point = tuple[float, float]
Rect = tuple[float, float, float, float]  # left, top, width, height


@dataclass(frozen=True)
class Label:
    """Lines of words: the middle of the first one's foot, the distance of lines, and the point of the arrow that a thin
    line leads to, if it is far from it."""

    x: float
    y: float
    rect: Rect
    leads_to: Point | None = None


class Raster:
    """What is taken of the paper."""

    def __init__(self, width: float, height: float) -> None:
        self._taken = np.zeros((int(height + 2 * MARGIN) // CELL + 1, int(width + 2 * MARGIN) // CELL + 1), dtype=bool)

    def _cells(self, rect: Rect) -> tuple[slice, slice]:
        x, y, w, h = rect
        first_x, first_y = int((x + MARGIN) // CELL), int((y + MARGIN) // CELL)
        last_x, last_y = int(-(-(x + w + MARGIN) // CELL)), int(-(-(y + h + MARGIN) // CELL))
        return slice(first_y, last_y), slice(first_x, last_x)

    def take(self, rect: Rect) -> None:
        """A box is taken."""
        self._taken[self._cells(rect)] = True

    def draw(self, points: Iterable[Point]) -> None:
        """A line through points that lie close together is taken."""
        for x, y in points:
            column, row = int((x + MARGIN) // CELL), int((y + MARGIN) // CELL)
            if 0 <= row < self._taken.shape[0] and 0 <= column < self._taken.shape[1]:
                self._taken[row, column] = True

    def free(self, rect: Rect) -> bool:
        """Whether nothing is in a box, all of it on the paper."""
        rows, columns = self._cells(rect)
        inside = rows.start >= 0 and columns.start >= 0
        inside = inside and rows.stop <= self._taken.shape[0] and columns.stop <= self._taken.shape[1]
        return inside and not bool(self._taken[rows, columns].any())


def size(lines: list[str]) -> tuple[float, float]:
    """How wide and high some lines of words are."""
    return max(map(len, lines)) * LETTER + 4, len(lines) * LINE + 2


def _tried(line: list[Point]) -> list[tuple[float, Point, Point]]:
    """(cost, middle of the label, point of the arrow), the cheapest first: near the middle, to either side."""
    found = []
    for share in (0.5, 0.42, 0.58, 0.34, 0.66, 0.25, 0.75, 0.16, 0.84):
        at = min(max(int(share * (len(line) - 1)), 1), len(line) - 2)
        (x0, y0), (x, y), (x1, y1) = line[at - 1], line[at], line[at + 1]
        long = ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5
        nx, ny = ((y1 - y0) / long, -(x1 - x0) / long) if long else (0.0, -1.0)
        for away in range(6, 460, 6):
            for side in (1, -1):
                cost = away + 60 * abs(share - 0.5) + (2 if side < 0 else 0)
                found.append((cost, (x + side * nx * away, y + side * ny * away), (x, y)))
    return sorted(found, key=lambda one: one[0])


def place(raster: Raster, line: list[Point], lines: list[str]) -> Label:
    """The label of one arrow, whose line is given point by point; its place is taken after it."""
    width, height = size(lines)
    tried = [((x - width / 2, y - height / 2, width, height), near) for _, (x, y), near in _tried(line)]
    rect, near = next(((rect, near) for rect, near in tried if raster.free(rect)), tried[-1])
    raster.take(rect)
    x, y = rect[0] + width / 2, rect[1] + height / 2
    gap = max(abs(near[0] - x) - width / 2, abs(near[1] - y) - height / 2)
    return Label(x, y - height / 2 + LINE - 2, rect, near if gap > FAR else None)
