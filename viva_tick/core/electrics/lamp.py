"""A lamp (LED) that a pin feeds through a resistor: its current, and the resistor to take.

Common practice: 1 to 5 mA is enough to see; forward drop red 1.8 to 2.2 V, green 2.0 to 3.2 V, blue and white
3.0 to 3.4 V.
"""

from __future__ import annotations

from ..boards import Board
from ..document import OutputPart
from .series import at_least

WANTED_UA = 5_000
DIM_UA = 1_000


def fed_by_pin(part: OutputPart) -> bool:
    """Whether the pin itself carries the lamp's current."""
    return part.kind == "lamp" and part.load == "none"


def lamp_ua(part: OutputPart, board: Board) -> float | None:
    """The lamp's current in µA; None without a resistor, where nothing bounds it."""
    if not part.resistor_ohm:
        return None
    return max(board.logic_mv - part.drop_mv, 0) / part.resistor_ohm * 1000


def resistor_for(part: OutputPart, board: Board, wanted_ua: int = WANTED_UA) -> int | None:
    """The E12 value that gives no more than the wanted current; None where the supply is below the drop."""
    left_mv = board.logic_mv - part.drop_mv
    return at_least(left_mv / wanted_ua * 1000) if left_mv > 0 else None
