"""Encoders, keys, dividers, sensors and what arrives as numbers."""

from __future__ import annotations

from collections.abc import Callable

from markupsafe import Markup

from ...core.boards import Board
from ...core.document.parts import (
    Analogue,
    Commands,
    Encoder,
    KeyMatrix,
    Potentiometer,
    ResistiveSensor,
    VoltageSource,
)
from ...core.electrics import ghost_example, key_name, keys_seen, pin_mv, pull_branch, range_of, scale
from ...core.readers import A_BIT, B_BIT, GRAY
from ...core.units import ohms, short, span, volts
from .pen import GROUND_Y, NODE_Y, SUPPLY_Y, Figure, Pen, Value


def encoder_figures(part: Encoder, at: str, board: Board) -> list[Figure]:
    """Its two contacts with what holds them, and what they do as it is turned."""
    pen = Pen("Two contacts to ground", "is-high").rails(f"{board.logic_mv / 1000:g} V", 20, 312)
    for name, x, y in (("a", 70, 68), ("b", 170, 108)):
        pin = getattr(part, name)
        branch = pull_branch(part.pull, part.pull_ohm, pin, board)
        pen.path(f"M{x} {y} H262 M{x} {y} V124", "wire node").contact(x, 124, touching=name == "b")
        pen.text(x - 12, y + 4, name.upper(), "part-text").pin(pin, 262, y - 14)
        if branch:
            to_y = SUPPLY_Y if branch.rail == "supply" else GROUND_Y
            pen.path(f"M{x + 44} {y} V{to_y + 44 if to_y == SUPPLY_Y else 116} M{x + 44} {to_y + 10} V{to_y}", "wire")
            pen.box(x + 39, 30, 10, 34, "hold-resistor", 1)
    branch = pull_branch(part.pull, part.pull_ohm, part.a, board)
    if branch:
        value = None if branch.inside else Value(f"{at}/pull_ohm", "ohm", part.pull_ohm, "Pull resistors")
        pen.value(226, 46, span(*branch.ohm, ohms), value)
    held = (
        "held by the board's pulls"
        if branch and branch.inside
        else "held by resistors"
        if branch
        else "held by nothing"
    )
    return [Figure(pen.svg(), "At rest", f"{held}, common leg to ground"), _turning(part, at)]


def _turning(part: Encoder, at: str) -> Figure:
    """The Gray code of one detent to the right: A leads B (`core.readers.GRAY`)."""
    pen = Pen("What the pins of A and B read, one detent to the right", "is-plain")
    steps = part.counts_a_click
    quarter = 44
    for row, (name, bit) in enumerate((("A", A_BIT), ("B", B_BIT))):
        base = 70 + 56 * row
        # A closed contact pulls its pin low.
        high = [not GRAY[(-number if part.swapped else number) % 4] & bit for number in range(7)]
        d = f"M40 {base - (26 if high[0] else 0)}"
        for number, is_high in enumerate(high):
            d += f" V{base - (26 if is_high else 0)} H{min(40 + quarter * (number + 1), 318)}"
        pen.path(d, "thing-lines is-heavy").text(26, base - 8, name, "part-text")
    for number in range(steps + 1):
        x = 40 + 4 * quarter * number / 4
        pen.path(f"M{x} 30 V140", "tick-line")
    pen.text(44, 24, f"{steps} count{'s' if steps > 1 else ''} a detent", "rail-text")
    turn = Value(f"{at}/clicks_a_turn", "int", part.clicks_a_turn, "Clicks in a turn")
    pen.value(44, 160, f"{part.clicks_a_turn} detents a turn", turn)
    order = "B before A" if part.swapped else "A before B"
    return Figure(pen.svg(), "Turned right", f"{order}; turned left it runs backwards")


def matrix_figures(part: KeyMatrix, at: str) -> list[Figure]:
    """The keys at their crossings, and what three at once show."""
    ghost = ghost_example(part)
    pressed = frozenset(ghost[0]) if ghost else frozenset({(0, 0)})
    seen = keys_seen(len(part.rows), pressed, part.diodes)
    if ghost:
        names = ", ".join(key_name(part, key) for key in sorted(pressed))
        caption = f"{names} held show {key_name(part, ghost[1])} as well"
    else:
        caption = "each key has a diode, so only what is held is seen" if part.diodes else "a single row has no ghosts"
    return [
        Figure(
            _keys(part, frozenset(), frozenset()),
            "Keys",
            f"{len(part.rows) + len(part.columns)} wires for {len(part.rows) * len(part.columns)} keys",
        ),
        Figure(
            _keys(part, pressed, seen),
            "Three at once" if ghost else "Held",
            caption,
            "!" if ghost and part.keys_at_once >= 3 else "",
        ),
    ]


def _keys(part: KeyMatrix, pressed: frozenset[tuple[int, int]], seen: frozenset[tuple[int, int]]) -> Markup:
    rows, columns = len(part.rows), len(part.columns)
    dy, dx = min(34, 140 // rows), min(58, 240 // columns)
    height = max(150, 44 + dy * rows)
    pen = Pen(f"{part.name}: rows and columns", "is-keys", height)
    for number, pin in enumerate(part.columns):
        x = 82 + dx * number + dx / 2
        pen.path(f"M{x} 26 V{height - 8}", "wire").box(x - 20, 4, 40, 20, "pin-box", 4).text(
            x, 19, pin, "pin-text is-small"
        )
    for number, pin in enumerate(part.rows):
        y = 38 + dy * number + dy / 2
        pen.path(f"M52 {y} H{82 + dx * columns}", "wire").box(8, y - 10, 44, 20, "pin-box", 4)
        pen.text(30, y + 5, pin, "pin-text is-small")
    for row in range(rows):
        for column in range(columns):
            x, y = 82 + dx * column + dx / 2, 38 + dy * row + dy / 2
            css = "is-held" if (row, column) in pressed else "is-ghost" if (row, column) in seen else ""
            wide, tall = min(30, dx - 8), min(20, dy - 6)
            pen.box(x - wide / 2, y - tall / 2, wide, tall, f"key {css}", 4)
            place = row * columns + column
            pen.text(x, y + 4, part.keys[place] if part.keys else "", "pin-text is-small")
            if part.diodes:
                pen.path(f"M{x + wide / 2 + 2} {y + 4} v6 l5 -3 Z", "diode")
    return pen.svg()


def analogue_figures(part: Analogue, at: str, board: Board) -> list[Figure]:
    """The divider or the source, and the scale from what it measures to counts."""
    pen = Pen("What the pin sees", "is-analogue").rails(f"{board.logic_mv / 1000:g} V")
    pen.pin(part.pin)
    low, high = range_of(part)
    pen.text(290, 122, _between(pin_mv(part, board, low), pin_mv(part, board, high), volts), "value-text is-middle")
    if isinstance(part, ResistiveSensor):
        _divider(pen, part, at)
    elif isinstance(part, Potentiometer):
        pen.path(
            f"M110 {SUPPLY_Y} V62 M110 116 V{GROUND_Y} M122 {NODE_Y} H262 M122 {NODE_Y} l6 -4 m-6 4 l6 4", "wire node"
        )
        pen.resistor(110, 62)
        track = Value(f"{at}/track_ohm", "ohm", part.track_ohm, "Track of the potentiometer")
        pen.value(40, 94, ohms(part.track_ohm), track).text(104, 138, part.name, "part-text")
    elif isinstance(part, VoltageSource):
        _source(pen, part, at)
    unit = getattr(part, "unit", "")
    caption = f"{short(low)} to {short(high)} {unit}".strip()
    return [Figure(pen.svg(), "At the pin", caption), _scale(part, board)]


def _between(one: float, other: float, words: Callable[[float], str]) -> str:
    return span(min(one, other), max(one, other), words)


def _divider(pen: Pen, part: ResistiveSensor, at: str) -> None:
    pen.path(f"M120 {NODE_Y} H262", "wire node")
    sensor_top = part.sensor_to == "supply"
    for top, is_sensor in ((28, sensor_top), (98, not sensor_top)):
        rail = SUPPLY_Y if top == 28 else GROUND_Y
        near, far = (top + 54, top) if rail == SUPPLY_Y else (top, top + 54)
        pen.path(f"M120 {NODE_Y} V{near} M120 {far} V{rail}", "wire").resistor(120, top)
        if is_sensor:
            pen.path(f"M102 {top + 46} l36 -38", "thing-lines").text(98, top + 14, part.name, "part-text")
            pen.text(98, top + 32, _between(part.low.ohm, part.high.ohm, ohms), "value-text is-end")
        else:
            value = Value(f"{at}/fixed_ohm", "ohm", part.fixed_ohm, "The fixed resistor")
            pen.value(136, top + 26, ohms(part.fixed_ohm), value)
            slack = Value(f"{at}/tolerance_percent", "float", part.tolerance_percent, "Tolerance, percent")
            pen.value(136, top + 42, f"± {part.tolerance_percent:g} %", slack, "value-text is-small")


def _source(pen: Pen, part: VoltageSource, at: str) -> None:
    pen.box(24, 64, 78, 52).text(32, 84, part.name, "part-text is-thing")
    pen.text(32, 104, _between(part.least_mv, part.most_mv, volts), "value-text is-small")
    pen.path(f"M60 116 V{GROUND_Y}", "wire")
    if part.upper_ohm:
        pen.path(f"M102 {NODE_Y} H118 M163 {NODE_Y} H262 M190 {NODE_Y} V98 M190 152 V{GROUND_Y}", "wire node")
        pen.lying_resistor(118, NODE_Y).resistor(190, 98)
        upper = Value(f"{at}/upper_ohm", "ohm", part.upper_ohm, "The divider's upper resistor")
        lower = Value(f"{at}/lower_ohm", "ohm", part.lower_ohm, "The divider's lower resistor")
        pen.value(120, 74, ohms(part.upper_ohm), upper).value(204, 128, ohms(part.lower_ohm), lower)
    else:
        pen.path(f"M102 {NODE_Y} H262", "wire node")


def _scale(part: Analogue, board: Board) -> Figure:
    """Volts over what is measured, on graph paper, counts at the right."""
    pen = Pen("From what it measures to counts", "is-scale")
    low, high = range_of(part)
    full = board.analogue.reference_mv if board.analogue else board.logic_mv
    left, right, top, bottom = 44, 270, 16, 142

    def y(mv: float) -> float:
        return round(bottom - (bottom - top) * min(max(mv / full, -0.02), 1.06), 1)

    rows = scale(part, board, 5)
    for number, row in enumerate(rows):
        x = left + (right - left) * number / 4
        pen.path(f"M{x} {top} V{bottom}", "tick-line").text(x, 158, f"{short(row.value, 4)}", "rail-text is-middle")
    for share in (0.0, 0.5, 1.0):
        pen.path(f"M{left} {y(full * share)} H{right}", "tick-line")
        pen.text(left - 4, y(full * share) + 4, volts(full * share), "rail-text is-end")
        if board.analogue:
            pen.text(
                right + 6, y(full * share) + 4, round(((1 << board.analogue.bits) - 1) * share), "value-text is-small"
            )
    points = [(low + (high - low) * step / 40) for step in range(41)]
    d = " ".join(
        f"{'M' if n == 0 else 'L'}{left + (right - left) * n / 40:.1f} {y(pin_mv(part, board, value))}"
        for n, value in enumerate(points)
    )
    pen.path(d, "thing-lines is-heavy")
    for row in rows:
        x = left + (right - left) * (row.value - low) / (high - low)
        pen.circle(round(x, 1), y(row.pin_mv), 3, "knot")
    middle = rows[2]
    caption = f"at {short(middle.value, 4)} {getattr(part, 'unit', '')}: {volts(middle.pin_mv)}"
    if middle.counts is not None and middle.per_count is not None:
        caption += f", {middle.counts} counts, {middle.per_count:.2g} a count"
    if middle.error_mv >= 1:
        caption += f", ± {volts(middle.error_mv)} of tolerance"
    return Figure(pen.svg(), "Scale", caption)


def command_figures(part: Commands, at: str) -> list[Figure]:
    """Where the numbers come from, and which number is which name."""
    pen = Pen("Numbers over the serial line", "is-driven")
    words = {
        "typed": "your computer",
        "speech": "speech module",
        "radio": "radio module",
        "infra-red": "infra-red module",
    }
    pen.box(16, 56, 108, 68).text(24, 76, part.name, "part-text is-thing").text(24, 94, words[part.source])
    baud = Value(f"{at}/baud", "int", part.baud, "Baud")
    pen.value(24, 114, f"{part.baud} baud", baud, "value-text is-small")
    pen.path(f"M124 {NODE_Y} H262", "wire node").path(
        "M150 76 v-12 h8 v12 h8 v-12 h14 v12 h8 v-12 h6 v12 h8", "thing-lines"
    )
    pen.pin(part.pin)
    if part.hit_percent < 100:
        pen.text(140, 112, f"{part.hit_percent} in 100 are heard", "rail-text")
    table = Pen("Numbers and names", "is-plain")
    for place, name in enumerate(part.names[:12]):
        x, y = (20, 34 + 22 * place) if place < 6 else (176, 34 + 22 * (place - 6))
        table.text(x + 18, y, part.number(place), "value-text is-end").text(x + 28, y, name, "part-text is-thing")
    if not part.names:
        table.text(20, 60, "No names yet: type them below.", "rail-text")
    more = f", {len(part.names) - 12} more" if len(part.names) > 12 else ""
    caption = (
        f"{len(part.names)} names{more}" if part.numbers else f"{len(part.names)} names, from {part.first_number}{more}"
    )
    if part.active_most:
        caption += f"; {part.active_most} at once can be active"
    return [Figure(pen.svg(), "Arrives", f"on {part.pin}"), Figure(table.svg(), "Means", caption)]
