"""The serial line: what a line takes, what the divider makes of a baud, whether both ends understand each other.

Source: data sheet DS40002061B, USART chapter (from memory): baud = f / 16(D + 1), or f / 8(D + 1) with double speed; at
ten bits a receiver is recommended to be no further off than 2 % and stands about 4.5 % (1.5 % and 3.7 % with double
speed).
"""

from __future__ import annotations

from dataclasses import dataclass

from ..boards import Board
from ..document import Bench, Serial
from ..document.parts import Commands

GOOD_PERCENT, MOST_PERCENT = 2.0, 4.5
GOOD_DOUBLE_PERCENT, MOST_DOUBLE_PERCENT = 1.5, 3.7


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
    """`theirs` is the baud of the other end; `made_baud` is what the board makes of what was asked; `apart_percent`
    how far the two ends are from each other; up to `good_percent` all is well, beyond `most_percent` nothing is
    understood."""

    serial: Serial
    theirs: int
    divider: Divider | None
    made_baud: float
    apart_percent: float
    good_percent: float
    most_percent: float
    character_us: float

    @property
    def understood(self) -> bool:
        """Whether the two ends understand each other at all."""
        return abs(self.apart_percent) <= self.most_percent

    @property
    def good(self) -> bool:
        """Whether there is room for what else is off."""
        return abs(self.apart_percent) <= self.good_percent

    def line_us(self, characters: int) -> int:
        """How long so many characters take on the wire: ten bits each."""
        return round(characters * self.character_us)


def _module_baud(bench: Bench) -> int | None:
    """The baud of a module that the firmware listens to."""
    read = bench.firmware.readings
    return next((part.baud for _, part in bench.sensed if isinstance(part, Commands) and part.id in read), None)


def line_study(bench: Bench) -> LineStudy:
    """The bench's serial line."""
    serial, board = bench.firmware.serial, bench.the_board
    baud = bench.line_baud
    found = best_divider(board, baud)
    made = found.baud if found else float(baud)
    theirs = serial.theirs or _module_baud(bench) or baud
    double = bool(found and found.double)
    good, most = (GOOD_DOUBLE_PERCENT, MOST_DOUBLE_PERCENT) if double else (GOOD_PERCENT, MOST_PERCENT)
    return LineStudy(serial, theirs, found, made, (made / theirs - 1) * 100, good, most, 10_000_000 / made)
