"""What the pin sees: levels from contacts and wiring.

Levels are 0 (low), 1 (high) and FLOATING where nothing holds the pin; a reading of a floating pin is noise, which
the model makes from a seed: it turns over every 1 to 19 ms, as mains hum does to an open wire (common practice).
"""

from __future__ import annotations

from collections.abc import Iterator

from ..boards import Board
from ..contacts import ContactCourse
from ..document import InputPart, Wiring
from ..seeds import between, stream

LOW, HIGH, FLOATING = 0, 1, -1


def effective(part: InputPart, board: Board) -> Wiring:
    """The wiring as the pin has it: an internal pull that the pin or the board does not have holds nothing."""
    pin = board.pin(part.pin)
    asked = part.wiring.pull
    lacking = (pin is not None and "no-pull" in pin.can) or (asked == "internal-down" and board.pull_down_ohm is None)
    return part.wiring.model_copy(update={"pull": "none"}) if asked.startswith("internal") and lacking else part.wiring


def level_of(wiring: Wiring, touching: bool) -> int:
    """LOW, HIGH or FLOATING for a contact that touches or not, once set-up has run."""
    if touching:
        return LOW if wiring.contact_to == "ground" else HIGH
    return {"none": FLOATING, "down": LOW, "internal-down": LOW}.get(wiring.pull, HIGH)


def touching_at_rest(wiring: Wiring) -> bool:
    """Whether the metal touches while nobody presses."""
    return wiring.normally == "closed"


def resting_level(wiring: Wiring) -> int:
    """The level while nobody presses."""
    return level_of(wiring, touching_at_rest(wiring))


def pressed_level(wiring: Wiring) -> int:
    """The level while pressed."""
    return level_of(wiring, not touching_at_rest(wiring))


def floats(wiring: Wiring) -> bool:
    """Whether the pin floats with the contact open."""
    return level_of(wiring, touching=False) == FLOATING


def level_changes(
    part: InputPart, board: Board, course: ContactCourse, length_us: int, seed: int
) -> Iterator[tuple[int, int]]:
    """(instant, LOW or HIGH) at the pin, noise included, beginning with instant 0."""
    wiring = effective(part, board)
    noise = stream("noise", seed, part.id)
    last = None
    changes = course.changes
    for index, (at_us, touching) in enumerate(changes):
        end_us = changes[index + 1][0] if index + 1 < len(changes) else length_us
        level = level_of(wiring, touching)
        if level != FLOATING:
            if level != last:
                yield at_us, level
                last = level
            continue
        when = at_us
        while when < end_us:
            heard = HIGH if noise.random() < 0.5 else LOW
            if heard != last:
                yield when, heard
                last = heard
            when += between(noise, 1_000, 19_000)
