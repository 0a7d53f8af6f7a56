"""Whether a pin suits what is claimed of it, and how well."""

from __future__ import annotations

from ..boards import Board, Pin
from ..document import Claim

# What makes a pin a worse choice than another that also suits. Common practice: keep the serial pins for talking to
# the board, and those that the board reads as it starts for nothing that may hold them.
DISLIKE = {
    "serial-in": 8,
    "serial-out": 8,
    "reset": 9,
    "boot-strapping": 6,
    "radio-shared": 4,
    "starts-analogue": 3,
    "bus-data": 2,
    "bus-clock": 2,
    "lamp": 1,
    "dimmable": 1,
    "analogue": 1,
    "interrupt": 1,
}


def unfit(claim: Claim, pin: Pin) -> str | None:
    """Why the pin cannot do what is claimed: "input-only", "no-pull", or what it lacks; None where it can."""
    for need in claim.needs:
        if need == "output":
            if "input-only" in pin.can:
                return "input-only"
        elif need not in pin.can:
            return need
    return "no-pull" if claim.pull.startswith("internal") and "no-pull" in pin.can else None


def dislike(claim: Claim, pin: Pin) -> int:
    """How much one would rather not take the pin: 0 for a plain one. Abilities that are needed are no fault; those
    that are not are better kept for something else."""
    minded = sum(DISLIKE.get(ability, 0) for ability in pin.can if ability not in claim.needs)
    return minded + (20 if "analogue" in claim.needs and "radio-shared" in pin.can else 0)


def best_free(claim: Claim, board: Board, taken: set[str]) -> str | None:
    """The best pin for a claim among those that are not taken; None where none suits. A bus line is shared."""
    free = [pin for pin in board.pins if (pin.id not in taken or claim.bus) and unfit(claim, pin) is None]
    return min(free, key=lambda pin: dislike(claim, pin)).id if free else None
