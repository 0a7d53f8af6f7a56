"""Keys at crossings: which ones a scan sees, ghosts included.

A scan drives one row low, the other rows are let go, the columns are pulled up. A column reads low when the pressed
keys join it to the driven row, which without diodes they may do through other rows and columns.
"""

from __future__ import annotations

from itertools import combinations, product

from ..boards import Board
from ..document.parts import KeyMatrix
from .circuit import pull_branch

Key = tuple[int, int]


def columns_float(part: KeyMatrix, board: Board) -> bool:
    """Whether nothing holds one of its columns while no key joins it to a row."""
    return any(pull_branch(part.pull, part.pull_ohm, pin, board) is None for pin in part.columns)


def joined(pressed: frozenset[Key], row: int) -> set[int]:
    """Columns that the pressed keys join to a row, however far round."""
    rows, columns = {row}, set[int]()
    while True:
        more = {c for r, c in pressed if r in rows} - columns
        if not more:
            return columns
        columns |= more
        rows |= {r for r, c in pressed if c in columns}


def keys_seen(rows: int, pressed: frozenset[Key], diodes: bool) -> frozenset[Key]:
    """The keys, as (row, column), that a whole scan takes for pressed."""
    if diodes:
        return pressed
    return frozenset((row, column) for row in range(rows) for column in joined(pressed, row))


def ghost_example(part: KeyMatrix) -> tuple[list[Key], Key] | None:
    """The fewest keys that show another, and that other; None where no such keys are."""
    rows, columns = len(part.rows), len(part.columns)
    if part.diodes or rows < 2 or columns < 2:
        return None
    corner = product(range(2), range(2))
    for three in combinations(corner, 3):
        pressed = frozenset(three)
        if more := keys_seen(rows, pressed, part.diodes) - pressed:
            return sorted(pressed), min(more)
    return None


def key_name(part: KeyMatrix, key: Key) -> str:
    """What a key is called: its own name, or its row and column."""
    place = key[0] * len(part.columns) + key[1]
    return f"“{part.keys[place]}”" if part.keys else f"row {key[0] + 1}, column {key[1] + 1}"
