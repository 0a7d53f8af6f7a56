"""What was worked out lately, kept at hand: the server answers in several threads."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Generic, TypeVar

K = TypeVar("K")
V = TypeVar("V")


class AtHand(Generic[K, V]):
    """As many values as `most`, by key; the one that nobody asked for longest goes first. Safe in several threads: a
    value may be made twice, never half."""

    def __init__(self, most: int) -> None:
        self.most = most
        self._values: OrderedDict[K, V] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: K) -> V | None:
        """The value under that key; None where there is none (any more)."""
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
            return self._values.get(key)

    def put(self, key: K, value: V) -> V:
        """Keep a value; answers it."""
        with self._lock:
            self._values[key] = value
            self._values.move_to_end(key)
            while len(self._values) > self.most:
                self._values.popitem(last=False)
        return value

    def drop(self, key: K) -> None:
        """The value under that key will not be asked for again."""
        with self._lock:
            self._values.pop(key, None)

    def made(self, key: K, make: Callable[[], V]) -> V:
        """The value under that key, made and kept where it is not there."""
        found = self.get(key)
        return self.put(key, make()) if found is None else found
