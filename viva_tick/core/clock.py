"""The firmware's clock: a free-running 32-bit counter of milliseconds, as small boards have it.

It wraps after 2^32 ms = 49 d 17 h 2 min 47.296 s; elapsed time is taken by unsigned subtraction, which stays
right across the wrap.
"""

from typing import Final

MASK: Final = 0xFFFF_FFFF
US_PER_MS: Final = 1000
NEVER: Final = (1 << 62) - 1  # an instant that does not come; machine code has no larger number without an object
LONG_AGO: Final = 1 << 31  # what is further back is forgotten, before the counter comes round to it


def as_kept(wait_ms: int, narrow: bool, int_bits: int) -> int:
    """A wait as the firmware has it: worked out in an `int` of the board's width where it is `narrow`, which a 16-bit
    one overflows above 32.767 s, and then compared as unsigned (C: conversion from a negative `int16_t`)."""
    if not narrow or int_bits >= 32:
        return wait_ms
    low = wait_ms & ((1 << int_bits) - 1)
    return (low - (1 << int_bits)) & MASK if low >> (int_bits - 1) else low


def until_wait(since_ms: int, wait_ms: int) -> int:
    """A wait as it comes out where now ≥ since + wait is asked: none at all where that sum wraps."""
    return 0 if since_ms + wait_ms > MASK else wait_ms
