"""The firmware's clock: a free-running 32-bit counter of milliseconds, as small boards have it.

It wraps after 2^32 ms = 49 d 17 h 2 min 47.296 s; elapsed time is taken by unsigned subtraction, which stays
right across the wrap.
"""

MASK = 0xFFFF_FFFF
US_PER_MS = 1000


def elapsed_ms(now_ms: int, since_ms: int) -> int:
    """Milliseconds from `since_ms` to `now_ms`, both counter readings, across a wrap if need be."""
    return (now_ms - since_ms) & MASK
