"""Chance that a small board can make too: a 32-bit xorshift (13, 17, 5: Marsaglia, Journal of Statistical Software 8,
2003, from memory). The same seed, the same row of numbers, here and in the sketch."""

from __future__ import annotations

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


DICE_TYPE_SKETCH = """\
// Chance: a 32-bit xorshift. Without a hand's timing mixed in, the row is the same after each power-on.
#ifndef DICE_SEED
#define DICE_SEED 1UL
#define MIX_DICE() (dice ^= micros() | 1UL)
#else
#define MIX_DICE() (void)0
#endif
"""
DICE_VALUE_SKETCH = "uint32_t dice = (2463534242UL ^ DICE_SEED) ? (2463534242UL ^ DICE_SEED) : 2463534242UL;\n"
DICE_SKETCH = """\
uint32_t roll(uint32_t span) {
  dice ^= dice << 13;
  dice ^= dice >> 17;
  dice ^= dice << 5;
  return dice % span;
}
"""
