"""Where things sit on the panel, in millimetres, and the holes that they need.

Things without a place of the user's own are laid out by themselves: what is seen above, what is touched below, both
spread over the width. Holes are as such parts usually ask for (common practice; measure yours).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

from ..document import Bench
from ..document.panel import LEAST_MM, MOST_HIGH_MM, MOST_WIDE_MM
from ..document.parts import Display, Encoder, Float, KeyMatrix, LimitSwitch, PanelButton, Potentiometer, SignalIn
from .things import Thing, inputs_of, outputs_of

CELL_WIDE_MM, CELL_HIGH_MM = 32, 36  # what a thing and its label take
EDGE_MM = 5  # so near the edge there is the wall of the box, or a screw
WEB_MM = 3  # so much is left between two holes
TEXT_MM = 36  # of text that goes elsewhere
LABEL_MM = 8  # the label is below it
MOST_IN_A_ROW = 6
# mm across, by what it is drawn as; what is not here sits inside the box, or away from it.
HOLES: dict[str, float] = {"lamp": 5, "rgb": 5, "sounder": 12, "button": 12, "switch": 6, "dial": 7, "wire": 4}
LIT_BUTTON_MM, KNOB_MM = 16.0, 7.0
INSIDE = (Float, LimitSwitch, SignalIn)
KEY_MM = 18.0  # of a key pad, each way
CHARACTER_MM, LINE_MM = 4.0, 8.0  # of a display's window; its frame takes FRAME_MM more
FRAME_MM = 9.0


@dataclass(frozen=True)
class Placed:
    """A thing in its place: the middle of it, and its hole, all in mm: `across` for a round one, else `cut` (wide,
    high); neither for none. `own`: the user has put it there."""

    thing: Thing
    is_input: bool
    x_mm: float
    y_mm: float
    across_mm: float
    cut_mm: tuple[float, float] | None
    label: str
    own: bool


@dataclass(frozen=True)
class Laid:
    """The panel: its size in mm, and everything on it."""

    wide_mm: int
    high_mm: int
    things: tuple[Placed, ...]


def _rows(things: list[Thing]) -> list[list[Thing]]:
    """Rows of much the same length."""
    count = -(-len(things) // MOST_IN_A_ROW)
    return [things[len(things) * n // count : len(things) * (n + 1) // count] for n in range(count)]


def laid_out(bench: Bench) -> Laid:
    """Everything on the panel in its place."""
    above, below = _rows(outputs_of(bench)), _rows(inputs_of(bench))
    rows = [*above, *below]
    panel = bench.panel
    wides = [[_takes(bench, thing)[0] for thing in row] for row in rows]
    highs = [max(_takes(bench, thing)[1] for thing in row) for row in rows]
    wide_mm = panel.wide_mm or round(min(max([110, *map(sum, wides)]), MOST_WIDE_MM))
    high_mm = panel.high_mm or round(min(max(sum(highs) + 6, LEAST_MM), MOST_HIGH_MM))
    found = []
    for number, row in enumerate(rows):
        for place, thing in enumerate(row):
            spot = panel.spots.get(thing.id)
            own = spot is not None and spot.x_mm is not None and spot.y_mm is not None
            x_mm = _middle(wides[number], place, wide_mm)
            y_mm = max(_middle(highs, number, high_mm) - LABEL_MM / 2, 0)
            if spot is not None and spot.x_mm is not None and spot.y_mm is not None:
                x_mm, y_mm = min(spot.x_mm, wide_mm), min(spot.y_mm, high_mm)
            across_mm, cut_mm = _hole(bench, thing)
            label = (spot.label if spot else "") or thing.name
            found.append(
                Placed(thing, number >= len(above), round(x_mm, 1), round(y_mm, 1), across_mm, cut_mm, label, own)
            )
    return Laid(wide_mm, high_mm, tuple(found))


def _takes(bench: Bench, thing: Thing) -> tuple[float, float]:
    """How wide and high a thing is with its label, mm."""
    _, cut_mm = _hole(bench, thing)
    wide_mm, high_mm = cut_mm or (0.0, 0.0)
    if thing.shape == "text" and cut_mm is None:
        wide_mm = TEXT_MM
    return max(CELL_WIDE_MM, wide_mm + 2 * EDGE_MM + 2), max(CELL_HIGH_MM, high_mm + 16)


def _middle(sizes: list[float], place: int, length_mm: float) -> float:
    """The middle of one of several that stand side by side, what is left of the length shared out evenly."""
    spare_mm = (length_mm - sum(sizes)) / len(sizes)
    return sum(sizes[:place]) + sizes[place] / 2 + spare_mm * (place + 0.5)


def _hole(bench: Bench, thing: Thing) -> tuple[float, tuple[float, float] | None]:
    """(mm across, (mm wide, mm high)) of its hole: the user's own, or the usual one."""
    spot = bench.panel.spots.get(thing.id)
    if spot is not None and spot.hole_mm is not None:
        return spot.hole_mm, None
    part = next((part for part in bench.parts if part.id == thing.id.split(".")[0]), None)
    if isinstance(part, Display):
        return 0.0, (part.columns * CHARACTER_MM + FRAME_MM, part.lines * LINE_MM + FRAME_MM)
    if isinstance(part, KeyMatrix):
        return 0.0, (len(part.columns) * KEY_MM, len(part.rows) * KEY_MM)
    if isinstance(part, PanelButton):  # its lamp is in it
        return (LIT_BUTTON_MM if thing.shape == "button" else 0.0), None
    if isinstance(part, Potentiometer):
        return KNOB_MM, None
    if (isinstance(part, Encoder) and thing.shape == "button") or isinstance(part, INSIDE):
        return 0.0, None  # its knob is pushed; or it is nothing for a hand
    return HOLES.get(thing.shape, 0.0), None


def box(one: Placed) -> tuple[float, float, float, float]:
    """(left, top, right, bottom) of its hole, mm; a point where it has none."""
    wide, high = one.cut_mm or (one.across_mm, one.across_mm)
    return one.x_mm - wide / 2, one.y_mm - high / 2, one.x_mm + wide / 2, one.y_mm + high / 2


def gap_mm(one: Placed, other: Placed) -> float:
    """What is left between two holes; less than nothing where they meet. Two round ones by their middles."""
    if one.cut_mm is None and other.cut_mm is None:
        apart = ((one.x_mm - other.x_mm) ** 2 + (one.y_mm - other.y_mm) ** 2) ** 0.5
        return float(apart - (one.across_mm + other.across_mm) / 2)
    left, top, right, bottom = box(one)
    left2, top2, right2, bottom2 = box(other)
    beside = max(left2 - right, left - right2)
    under = max(top2 - bottom, top - bottom2)
    return (beside**2 + under**2) ** 0.5 if beside > 0 and under > 0 else max(beside, under)


def cautions(laid: Laid) -> list[str]:
    """What would not fit when it is drilled, in words."""
    drilled = [one for one in laid.things if one.across_mm or one.cut_mm]
    said = []
    for one in drilled:
        left, top, right, bottom = box(one)
        edge_mm = min(left, top, laid.wide_mm - right, laid.high_mm - bottom)
        if edge_mm < 0:
            said.append(f"The hole of {one.label} goes over the edge.")
        elif edge_mm < EDGE_MM:
            said.append(f"The hole of {one.label} is {edge_mm:.1f} mm from the edge: leave {EDGE_MM}.")
    for one, other in combinations(drilled, 2):
        gap = gap_mm(one, other)
        if gap < 0:
            said.append(f"The holes of {one.label} and {other.label} meet.")
        elif gap < WEB_MM:
            said.append(f"Between {one.label} and {other.label} {gap:.1f} mm are left: {WEB_MM} at least.")
    return said
