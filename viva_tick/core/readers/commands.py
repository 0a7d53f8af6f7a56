"""Numbers that arrive: which mean something, and which are the same one again."""

from __future__ import annotations

from ..pieces import piece


class Listener:
    """Takes numbers as they arrive; `meaning[n]` is the name of number `first` + n, "" for none."""

    __slots__ = ("first", "last", "last_ms", "meaning", "repeat_ms", "unknown")

    def __init__(self, first: int, meaning: tuple[str, ...], repeat_ms: int) -> None:
        self.first = first
        self.meaning = meaning
        self.repeat_ms = repeat_ms
        self.last = -1
        self.last_ms = 0
        self.unknown = 0

    def rest(self, now_ms: int) -> None:
        """Each pass: a number so long ago is over, before the counter comes round to it."""
        if self.last >= 0 and (now_ms - self.last_ms) & 0xFFFF_FFFF >= self.repeat_ms:
            self.last = -1

    def hear(self, now_ms: int, number: int) -> str:
        """The name of a number that has just arrived; "" for one that is let pass."""
        self.rest(now_ms)
        again = number == self.last and (now_ms - self.last_ms) & 0xFFFF_FFFF < self.repeat_ms
        self.last, self.last_ms = number, now_ms
        if again:
            return ""
        place = number - self.first
        name = self.meaning[place] if 0 <= place < len(self.meaning) else ""
        if not name:
            self.unknown += 1
        return name


LISTENER_SKETCH = piece(__file__, "commands")
