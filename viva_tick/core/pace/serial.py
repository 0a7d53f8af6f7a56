"""The serial line: what a line takes, what the divider makes of a baud, whether both ends understand each other.

Source: data sheet DS40002061B, USART chapter (from memory): baud = f / 16(D + 1), or f / 8(D + 1) with double speed; a
receiver stands about 2 % in all at ten bits (1.5 % with double speed).
"""

from __future__ import annotations

from dataclasses import dataclass

from ..boards import Board
from ..document import Bench, Serial

MOST_PERCENT, MOST_DOUBLE_PERCENT = 2.0, 1.5


@dataclass(frozen=True)
class Divider:
    """One way to a baud: the divider, whether at double speed, the baud that comes out, and how far off it is."""

    divider: int
    double: bool
    baud: float
    error_percent: float


def divider(clock_hz: int, baud: int, double: bool) -> Divider:
    """The nearest divider."""
    share = 8 if double else 16
    number = min(max(round(clock_hz / (share * baud)) - 1, 0), 4095)
    made = clock_hz / (share * (number + 1))
    return Divider(number, double, made, (made / baud - 1) * 100)


def best_divider(board: Board, baud: int) -> Divider | None:
    """The one that is nearer, at plain speed where both are as near; None for a board that has no divider."""
    if board.uart != "divider":
        return None
    return min(
        (divider(board.clock_hz, baud, double) for double in (False, True)), key=lambda one: abs(one.error_percent)
    )


@dataclass(frozen=True)
class LineStudy:
    """`made_baud` is what the board makes of what was asked; `apart_percent` how far the two ends are from each other,
    `most_percent` what is understood; `characters_a_second` what goes through."""

    serial: Serial
    divider: Divider | None
    made_baud: float
    apart_percent: float
    most_percent: float
    character_us: float

    @property
    def understood(self) -> bool:
        """Whether the two ends understand each other."""
        return abs(self.apart_percent) <= self.most_percent

    def line_us(self, characters: int) -> int:
        """How long so many characters take on the wire: ten bits each."""
        return round(characters * self.character_us)


def line_study(bench: Bench) -> LineStudy:
    """The bench's serial line."""
    serial, board = bench.firmware.serial, bench.the_board
    found = best_divider(board, serial.baud)
    made = found.baud if found else float(serial.baud)
    theirs = serial.theirs or serial.baud
    most = MOST_DOUBLE_PERCENT if found and found.double else MOST_PERCENT
    return LineStudy(serial, found, made, (made / theirs - 1) * 100, most, 10_000_000 / made)
