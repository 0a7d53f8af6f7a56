"""A pass as a bar: every block to scale, each bar to its own."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.pace import Anatomy
from ...core.units import fine

WIDTH = 700.0
WORDS = {
    "base": "the loop",
    "read": "inputs",
    "machine": "machines",
    "task": "tasks",
    "keep": "keeping",
    "drive": "outputs",
    "tail": "delay",
    "sleep": "asleep",
    "fault": "fault",
}


@dataclass(frozen=True)
class Segment:
    """One block of a bar: where it lies, what it is, what is written in it."""

    x: float
    width: float
    kind: str
    title: str
    label: str
    show_us: int | None = None


@dataclass(frozen=True)
class Bar:
    """A bar with its name, how long the pass is, its segments."""

    name: str
    length: str
    segments: list[Segment]
    show_us: int | None = None


def pass_bar(name: str, parts: Anatomy, longest: bool, show_us: int | None = None) -> Bar:
    """The usual pass, or the longest; blocks that take nothing are left out."""
    rows = [(block, block.longest_us if longest else block.usual_us) for block in parts.blocks]
    total = sum(us for _, us in rows) or 1
    x, spent_us, segments = 0.0, 0, []
    for block, us in rows:
        if not us:
            continue
        width = WIDTH * us / total
        why = f", {block.why}" if block.why and longest and block.longest_us > block.usual_us else ""
        at = None if show_us is None else show_us + spent_us
        shown = f"{block.name} {fine(us)}"
        label = shown if width > 7 * len(shown) else block.name if width > 7 * len(block.name) else ""
        segments.append(Segment(round(x, 1), round(width, 1), block.kind, f"{block.name}: {fine(us)}{why}", label, at))
        x += width
        spent_us += us
    return Bar(name, fine(total), segments, show_us)
