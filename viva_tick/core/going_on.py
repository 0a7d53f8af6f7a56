"""Where those who play by hand have come to: checkpoints of their runs, so that an answer costs as much after ten
minutes as after one."""

from __future__ import annotations

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Sequence
from typing import Any

from .document import Bench, Scenario
from .engine import Checkpoint, Fault

MOST_BYTES = 24_000_000  # in one process, of all who play
MOST_EACH = 4


def same_until(scenario: Scenario, faults: Sequence[Fault], at_us: int) -> str:
    """What was done before an instant, in short. What was held, or out of order, at that instant still was: when it
    ended is not of then."""
    rows: list[Any] = []
    for one in scenario.stimuli:
        if one.at_us < at_us:
            data = one.model_dump(mode="json")
            if "hold_us" in data:
                data["hold_us"] = min(data["hold_us"], at_us - one.at_us)
            rows.append(data)
    rows += [one.model_dump(mode="json") for one in scenario.upsets if one.at_us < at_us]
    rows += [(one.kind, one.of, one.at_us, min(one.over_us, at_us)) for one in faults if one.at_us < at_us]
    return hashlib.blake2b(json.dumps(rows, sort_keys=True).encode(), digest_size=16).hexdigest()


class Sessions:
    """Checkpoints by session; whoever was not heard of longest goes first as they grow too large."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self.most_bytes = most_bytes
        self._kept: OrderedDict[str, list[tuple[str, Checkpoint]]] = OrderedDict()
        self._lock = threading.Lock()

    @staticmethod
    def key(bench: Bench, seed: int, session: str) -> str:
        """Under which a session is kept: another bench is another one."""
        said = "\n".join((bench.run_text, str(seed), session))
        return hashlib.blake2b(said.encode(), digest_size=16).hexdigest()

    def latest(self, key: str, scenario: Scenario, faults: Sequence[Fault], from_us: int) -> Checkpoint | None:
        """The latest checkpoint before which the same was done, and which knows what was from an instant on."""
        with self._lock:
            found = list(self._kept.get(key, ()))
        for prefix, one in reversed(found):
            if (
                one.since_us <= from_us
                and one.at_us < scenario.length_us
                and same_until(scenario, faults, one.at_us) == prefix
            ):
                return one
        return None

    def keep(self, key: str, scenario: Scenario, faults: Sequence[Fault], one: Checkpoint) -> None:
        """One more checkpoint of a session; those after it are of a way that was left."""
        prefix = same_until(scenario, faults, one.at_us)
        with self._lock:
            before = [row for row in self._kept.pop(key, []) if row[1].at_us < one.at_us]
            # The last few, and one from long ago for who goes back.
            self._kept[key] = [*before[:1], *before[1:][-(MOST_EACH - 2) :], (prefix, one)]
            while self.size > self.most_bytes and len(self._kept) > 1:
                self._kept.popitem(last=False)

    @property
    def size(self) -> int:
        """How many bytes are kept."""
        return sum(one.size for rows in self._kept.values() for _, one in rows)
