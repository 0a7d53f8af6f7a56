"""A step of the wiring card: the board as its pin map has it, and from its pins the wires of the step, numbered as in
the list beside it."""

from __future__ import annotations

from collections.abc import Collection

from markupsafe import Markup

from ...core.boards import Board
from ...core.emit import Wire
from .pen import Pen

PITCH, PAD_WIDE, PAD_HIGH, GAP = 28.0, 25.0, 17.0, 10.0
LANE, ROW, EDGE, END = 7.0, 21.0, 9.0, 96.0
RAILS = {"GND": "GND", "+ supply": "+"}


def pads_of(wire: Wire) -> list[str]:
    """What of the board a wire is joined to: a pin's name, or a rail's."""
    ends = [end.removeprefix("Board ") for end in (wire.from_end, wire.to_end) if end.startswith("Board ")]
    return [RAILS.get(end, end) for end in ends]


def step_drawing(board: Board, title: str, wires: Collection[Wire], laid: Collection[str]) -> Markup:
    """The drawing; `laid` are the pads that have a wire already."""
    pins = [pin.id for pin in board.pins]
    half = (len(pins) + 1) // 2
    rows = [[*pins[:half], "GND"], [*pins[half:], *([""] * (2 * half - len(pins))), "+"]]
    used = list(dict.fromkeys(pad for wire in wires for pad in pads_of(wire)))
    above = [pad for pad in reversed(rows[0]) if pad in used]
    below = [pad for pad in reversed(rows[1]) if pad in used]
    wide = (half + 1) * PITCH + 2 * EDGE
    deep = 2 * PAD_HIGH + GAP + 2 * EDGE
    needed = max(len(above) * LANE + deep + len(below) * LANE + 8, len(wires) * ROW + 6)
    top = (needed - deep - (len(above) + len(below)) * LANE) / 2 + len(above) * LANE
    pen = Pen(_said(title, wires), "is-wiring", height=round(needed), width=round(wide + END))
    pen.box(0.75, top, wide, deep, "board-plate", 9)
    centre: dict[str, tuple[float, float]] = {}
    for place, row in enumerate(rows):
        for column, pad in enumerate(row):
            if not pad:
                continue
            x, y = EDGE + column * PITCH + (PITCH - PAD_WIDE) / 2 + 0.75, top + EDGE + place * (PAD_HIGH + GAP)
            centre[pad] = (x + PAD_WIDE / 2, y if place == 0 else y + PAD_HIGH)
            how = "is-used" if pad in used else "is-laid" if pad in laid else ""
            pen.box(x, y, PAD_WIDE, PAD_HIGH, f"pad {how}", 3)
            pen.text(x + PAD_WIDE / 2, y + 12.5, pad, f"pad-text {how}")
    lane = {pad: top - 4 - LANE * n for n, pad in enumerate(above)}
    lane |= {pad: top + deep + 4 + LANE * n for n, pad in enumerate(below)}
    first = (needed - len(wires) * ROW) / 2 + ROW / 2
    ends = []
    for number, wire in enumerate(wires, 1):
        y, right = first + ROW * (number - 1), wide + END - 20
        colour = f"is-wire-{wire.colour or 'grey'}"
        ways = []
        for pad in pads_of(wire):  # two where it goes from the board back to it
            (x, at), out = centre[pad], lane[pad]
            curve = f"C{wide + 40:g} {out:g} {wide + 34:g} {y:g} {right:g} {y:g}"
            ways.append(f"M{x:g} {at:g} V{out:g} H{wide + 8:g} {curve}")
        along = " ".join(ways) or f"M{right - 26:g} {y:g} H{right:g}"
        pen.path(along, "lay-edge").path(along, f"lay-line {colour}")
        ends.append((right, y, number))
    for x, y, number in ends:
        pen.circle(x + 10, y, 8.5, "wire-end").text(x + 10, y + 4, number, "wire-end-text")
    return pen.svg()


def _said(title: str, wires: Collection[Wire]) -> str:
    rows = [f"{n} {wire.from_end} to {wire.to_end}" for n, wire in enumerate(wires, 1)]
    return f"{title}: {'; '.join(rows)}"
