"""Chance that a small board can make too: a 32-bit xorshift (13, 17, 5: Marsaglia, Journal of Statistical Software 8,
2003, from memory). The same seed, the same row of numbers, here and in the sketch."""

from __future__ import annotations

from ..pieces import piece

FIRST = 2_463_534_242


class Dice:
    """A row of numbers."""

    __slots__ = ("x",)

    def __init__(self, seed: int) -> None:
        self.x = (FIRST ^ seed) & 0xFFFF_FFFF or FIRST

    def roll(self, least: int, most: int) -> int:
        """The next, from `least` to `most`, both included."""
        x = self.x
        x ^= x << 13 & 0xFFFF_FFFF
        x ^= x >> 17
        x ^= x << 5 & 0xFFFF_FFFF
        self.x = x
        return least + x % (most - least + 1)


DICE_TYPE_SKETCH = piece(__file__, wanted=["AT_TYPES"])
DICE_VALUE_SKETCH = piece(__file__, wanted=["AT_VALUES"])
DICE_SKETCH = piece(__file__, wanted=["AT_FUNCTIONS"])
