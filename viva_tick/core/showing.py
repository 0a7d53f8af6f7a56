"""What it takes to show text: how a character display is set up and written, and for how long that holds the bus.

The display is the usual kind behind an expander with eight outputs: four data lines, a line that tells characters from
commands, and one that takes a half of a byte over as it falls. So a character is six bytes on the bus: each half with
that line down, up and down again. Times to wait are those of such displays' data sheets: 50 ms after power-on, 4.5 ms
and twice 150 µs while the width is being set, 2 ms for clearing (common practice to wait a little longer; not checked
against a source here).
"""

from __future__ import annotations

from .document.parts import Display

POWER_ON_MS = 50
WIDTH_MS = 5  # each of three times
CLEAR_MS = 2
COMMANDS = (0x28, 0x0C, 0x06, 0x01)  # four lines wide with two rows, on, to the right, clear
HALVES = (0x30, 0x30, 0x30, 0x20)
ROWS = (0x00, 0x40)  # where the first two lines begin; the others follow them


def row_start(row: int, columns: int) -> int:
    """Where a line begins in the display's memory."""
    return ROWS[row % 2] + (columns if row > 1 else 0)


def half_us(display: Display) -> int:
    """How long the bus takes for half a byte: the address and three bytes, nine bits each, a start and a stop."""
    return -(-(4 * 9 + 2) * 1_000_000 // display.bus_hz)


def set_up_us(display: Display) -> int:
    """How long set-up takes with a display."""
    waits_ms = POWER_ON_MS + WIDTH_MS * len(HALVES) + CLEAR_MS
    return waits_ms * 1000 + len(HALVES) * half_us(display) + len(COMMANDS) * display.character_us


def changed_span(before: str, after: str) -> tuple[int, int]:
    """(first, how many) of the characters that differ, with all between them; both texts are as long."""
    places = [n for n, (one, other) in enumerate(zip(before, after, strict=True)) if one != other]
    return (places[0], places[-1] - places[0] + 1) if places else (0, 0)


def write_us(display: Display, characters: int) -> int:
    """How long the bus takes for going to a place and writing so many characters."""
    return (1 + characters) * display.character_us if characters else 0
