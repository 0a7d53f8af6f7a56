"""Text with numbers in it: what stands between braces is a variable, or a machine's state.

`{score}` is a number, `{score:4}` the same at the right of four places, `{score:bar 8}` a bar of eight places over the
variable's range, `{game}` the name of the state that a machine is in. Displays and terminals know ASCII alone:
everything else is shown as a question mark.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

FIELD = re.compile(r"\{([^{}]*)\}")
INSIDE = re.compile(r"([a-z][a-z0-9-]*)(?::(?:(\d{1,2})|bar (\d{1,2})))?")
FULL_PLACE, EMPTY_PLACE = "#", " "


@dataclass(frozen=True, slots=True)
class Place:
    """A place for a variable or a machine's state: `width` places at least, or a `bar` of so many."""

    of: str
    width: int = 0
    bar: int = 0


Piece = str | Place


def plain(text: str) -> str:
    """The text as such a display shows it."""
    return "".join(letter if " " <= letter <= "~" else "?" for letter in text)


@lru_cache(maxsize=512)
def pieces(text: str) -> tuple[Piece, ...]:
    """The text taken apart; ValueError with a sentence where a brace has no partner or holds what means nothing."""
    found: list[Piece] = []
    at = 0
    for match in FIELD.finditer(text):
        if match.start() > at:
            found.append(_letters(text[at : match.start()]))
        inside = INSIDE.fullmatch(match[1])
        if inside is None:
            raise ValueError(f"“{match[0]}” is no place for a number: write {{score}}, {{score:4}} or {{score:bar 8}}.")
        found.append(Place(inside[1], int(inside[2] or 0), int(inside[3] or 0)))
        at = match.end()
    if at < len(text):
        found.append(_letters(text[at:]))
    return tuple(found)


def _letters(text: str) -> str:
    if "{" in text or "}" in text:
        raise ValueError("a brace has no partner: what is between { and } is a variable or a machine.")
    return plain(text)


def named(text: str) -> tuple[str, ...]:
    """The variables and machines that a text names, each once; none where it cannot be taken apart."""
    try:
        return tuple(dict.fromkeys(piece.of for piece in pieces(text) if isinstance(piece, Place)))
    except ValueError:
        return ()


def bar_places(value: int, least: int, most: int, width: int) -> int:
    """How many places of a bar are full: whole ones, rounded down."""
    return width * (value - least) // (most - least) if most > least else width


def written(
    text: tuple[Piece, ...], value: Callable[[str], int | str], bounds: Callable[[str], tuple[int, int]], columns: int
) -> str:
    """The text with its numbers, cut to so many columns. `value` gives a variable's number or the name of a machine's
    state, `bounds` the least and the most of a variable."""
    found = []
    for piece in text:
        if isinstance(piece, str):
            found.append(piece)
            continue
        now = value(piece.of)
        if isinstance(now, str):
            found.append(plain(now).ljust(piece.width))
        elif piece.bar:
            full = bar_places(now, *bounds(piece.of), piece.bar)
            found.append(FULL_PLACE * full + EMPTY_PLACE * (piece.bar - full))
        else:
            found.append(str(now).rjust(piece.width))
    return "".join(found)[:columns]


def longest(text: tuple[Piece, ...], widest: Callable[[str], int]) -> int:
    """How many columns a text can take; `widest` says how many a variable's number or a state's name can."""
    return sum(
        len(piece) if isinstance(piece, str) else piece.bar or max(piece.width, widest(piece.of)) for piece in text
    )
