"""The two contacts of an encoder over a turn to the right, and where the firmware counts a step."""

from __future__ import annotations

from ...core.document import Turns
from ...core.document.parts import Encoder
from ...core.readers import A_BIT, B_BIT, GRAY
from .pen import Figure, Pen

LEFT, RIGHT = 34, 322
ROWS = {"A": (16, 36), "B": (48, 68)}
QUARTERS = 8


def phase_figure(part: Encoder, reading: Turns) -> Figure:
    """Eight changes of the contacts: detents as thick ticks, steps as flags."""
    pen = Pen(f"{part.name}: its two contacts over {QUARTERS} changes", "is-phases", 96)
    wide = (RIGHT - LEFT) / QUARTERS
    for name, bit in (("A", A_BIT), ("B", B_BIT)):
        high, low = ROWS[name]
        pen.text(8, low - 4, name, "value-text")
        path, last = f"M{LEFT} {high}", 0
        for quarter in range(QUARTERS + 1):
            # A closed contact pulls its pin low.
            closed = GRAY[(-quarter if part.swapped else quarter) % 4] & bit
            x = round(LEFT + wide * quarter, 1)
            if closed != last:
                path += f" H{x} V{low if closed else high}"
                last = closed
        pen.path(f"{path} H{RIGHT}", "phase")
    for quarter in range(QUARTERS + 1):
        x = round(LEFT + wide * quarter, 1)
        detent = quarter % part.counts_a_click == 0
        pen.path(f"M{x} {74} V{84 if detent else 78}", "detent" if detent else "tick-line")
        if quarter and quarter % reading.counts_a_step == 0:
            pen.path(f"M{x} 8 V74", "step-line").path(f"M{x} 8 l9 3 l-9 3", "step-flag")
    pen.text(LEFT, 94, "clicks", "rail-text").text(RIGHT, 94, "steps fly a flag", "rail-text is-end")
    clicks, steps = QUARTERS // part.counts_a_click, QUARTERS // reading.counts_a_step
    odd = "" if clicks == steps else f"!{clicks} detent{'s' if clicks > 1 else ''} would count {steps}"
    return Figure(pen.svg(), "Turned to the right:", f"{clicks} detents, {steps} steps. ", odd)
