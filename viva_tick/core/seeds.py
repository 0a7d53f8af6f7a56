"""Seeded randomness that is the same on every machine.

Only `random.Random.random` and exact arithmetic are used on top of it, never a function that a C library may
round differently.
"""

from __future__ import annotations

import hashlib
import random


def stream(*names: str | int) -> random.Random:
    """A generator of its own for what the names say, so that one more press changes no other press."""
    text = "/".join(str(name) for name in names)
    return random.Random(int.from_bytes(hashlib.blake2b(text.encode(), digest_size=8).digest(), "big"))  # noqa: S311


def between(rng: random.Random, least: int, most: int) -> int:
    """A whole number from `least` to `most`, both included."""
    return least + int(rng.random() * (most - least + 1))
