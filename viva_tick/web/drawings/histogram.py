"""How long a contact takes to come to rest, over all its presses and releases, as a histogram."""

from __future__ import annotations

from functools import lru_cache

from ...core.contacts import Spread, distribution_of
from ...core.document import Capture
from ...core.units import ms
from .pen import Figure, Pen

LEFT, RIGHT, TOP, BOTTOM = 14, 318, 10, 70


def _one(spread: Spread, most: int, head: str, bounces: int) -> Figure:
    pen = Pen(f"{head}: {spread.number} moves", "is-histogram", 92)
    reach = spread.bins[-1][1]
    wide = (RIGHT - LEFT) / len(spread.bins)
    pen.path(f"M{LEFT} {BOTTOM} H{RIGHT}", "rail")
    for number, (_, _, many) in enumerate(spread.bins):
        if many:
            tall = max((BOTTOM - TOP) * many / most, 1.5)
            left, top = round(LEFT + wide * number + 0.6, 1), round(BOTTOM - tall, 1)
            pen.box(left, top, round(wide - 1.2, 1), round(tall, 1), "bar", 1)
    x = LEFT + (RIGHT - LEFT) * spread.percentiles[95] / reach if reach else LEFT
    pen.path(f"M{x:.1f} {TOP - 4} V{BOTTOM}", "mark-line").text(round(x + 4, 1), TOP + 4, "95 %", "rail-text")
    pen.text(LEFT, 85, "0").text(RIGHT, 85, ms(reach), "rail-text is-end")
    half, most_us = ms(spread.percentiles[50]), ms(spread.longest)
    caption = f"half by {half}, 95 % by {ms(spread.percentiles[95])}, all by {most_us}; {bounces} bounces at most"
    return Figure(pen.svg(), head, caption)


@lru_cache(maxsize=32)
def histograms(source: str | Capture) -> tuple[Figure, ...]:
    """Presses and releases of a class of switch, by id, or of a capture, on one scale; every edit shows them again."""
    spread = distribution_of(source)
    rows = (spread.press_settle, spread.release_settle)
    most = max((many for row in rows for _, _, many in row.bins), default=1) or 1
    heads = ("Pressed", "Let go")
    return tuple(_one(row, most, head, count) for row, head, count in zip(rows, heads, spread.bounces, strict=True))
