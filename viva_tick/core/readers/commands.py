"""Numbers that arrive: which mean something, and which are the same one again."""

from __future__ import annotations

from collections.abc import Mapping

from ..pieces import piece


class Listener:
    """Takes numbers as they arrive; `names` is what each means."""

    __slots__ = ("last", "last_ms", "names", "repeat_ms")

    def __init__(self, names: Mapping[int, str], repeat_ms: int) -> None:
        self.names = names
        self.repeat_ms = repeat_ms
        self.last = -1
        self.last_ms = 0

    def rest(self, now_ms: int) -> None:
        """Each pass: a number so long ago is over, before the counter comes round to it."""
        if self.last >= 0 and (now_ms - self.last_ms) & 0xFFFF_FFFF >= self.repeat_ms:
            self.last = -1

    def is_new(self, now_ms: int, number: int) -> bool:
        """Whether a number that has just arrived is not let pass as the same one again."""
        self.rest(now_ms)
        again = number == self.last and (now_ms - self.last_ms) & 0xFFFF_FFFF < self.repeat_ms
        self.last, self.last_ms = number, now_ms
        return not again

    def meaning(self, number: int) -> str:
        """The name of a number; "" where it means nothing."""
        return self.names.get(number, "")


def listener_sketch(ends: bool) -> str:
    """The same in C++; `ends`: a rest ends what some source types."""
    return piece(__file__, "commands", {"USE_ENDS"} if ends else ())
