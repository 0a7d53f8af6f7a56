"""Whether a pin suits a part, and how well."""

from __future__ import annotations

from ..boards import Board, Pin
from ..document import InputPart, Part

# What makes a pin a worse choice than another that also suits. Common practice: keep the serial pins for talking to
# the board, and those that the board reads as it starts for nothing that may hold them.
DISLIKE = {"serial": 8, "reset": 9, "boot-strapping": 6, "starts-analogue": 3, "bus": 2, "lamp": 1, "radio-shared": 1}


def unfit(part: Part, pin: Pin) -> str | None:
    """Why the part cannot work on the pin: "input-only" or "no-pull"; None where it can."""
    if not isinstance(part, InputPart):
        return "input-only" if "input-only" in pin.can else None
    return "no-pull" if part.wiring.pull.startswith("internal") and "no-pull" in pin.can else None


def dislike(pin: Pin) -> int:
    """How much one would rather not take the pin: 0 for a plain one."""
    return sum(DISLIKE.get(ability, 0) for ability in pin.can)


def best_free(part: Part, board: Board, taken: set[str]) -> str | None:
    """The best pin for the part among those that are not taken; None where none suits."""
    free = [pin for pin in board.pins if pin.id not in taken and unfit(part, pin) is None]
    return min(free, key=dislike).id if free else None
