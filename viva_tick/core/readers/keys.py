"""Keys of a matrix: each accepted when its reading has rested for the wait; keys that are let pass make no event."""

from __future__ import annotations

from ..pieces import piece


class KeyCleaner:
    """What the firmware accepts of every key, by its place, row by row."""

    __slots__ = ("accepted", "raw", "since_ms", "wait_ms")

    def __init__(self, keys: int, wait_ms: int) -> None:
        self.wait_ms = wait_ms
        self.accepted = [False] * keys
        self.raw = [False] * keys
        self.since_ms = [0] * keys

    def scan(self, now_ms: int, closed: list[bool]) -> list[tuple[int, bool]]:
        """Take one scan; answer (place, pressed) of every key whose belief changes, in order."""
        changed = []
        for place, reading in enumerate(closed):
            if reading != self.raw[place]:
                self.raw[place] = reading
                self.since_ms[place] = now_ms
            if reading != self.accepted[place] and (now_ms - self.since_ms[place]) & 0xFFFF_FFFF >= self.wait_ms:
                self.accepted[place] = reading
                changed.append((place, reading))
        return changed


class CodeLock:
    """Keys held against a code: as many as it has are taken before it says which; a long rest begins anew."""

    __slots__ = ("code", "forget_ms", "last_ms", "right", "taken")

    def __init__(self, code: list[int], forget_ms: int) -> None:
        self.code = code
        self.forget_ms = forget_ms
        self.taken = 0
        self.right = True
        self.last_ms = 0

    def key(self, now_ms: int, place: int) -> str:
        """Take a key: "code" or "wrong" when there are enough of them, "" until then."""
        if not self.code:
            return ""
        if self.taken and (now_ms - self.last_ms) & 0xFFFF_FFFF > self.forget_ms:
            self.taken, self.right = 0, True
        self.last_ms = now_ms
        self.right = self.right and place == self.code[self.taken]
        self.taken += 1
        if self.taken < len(self.code):
            return ""
        right = self.right
        self.taken, self.right = 0, True
        return "code" if right else "wrong"


CODE_SKETCH = piece(__file__, "code")

KEYS_SKETCH = piece(__file__, "keys")
