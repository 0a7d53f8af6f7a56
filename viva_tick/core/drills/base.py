"""What a hidden fault is: what it does to a bench, which finding names it, how a learner comes to it."""

from __future__ import annotations

import copy
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

Data = dict[str, Any]
Change = tuple[str, Data]  # (what it is of, the whole document with the fault in it)


@dataclass(frozen=True)
class Hidden:
    """A kind of fault. `plants` gives every way to put it into a document; `code` is the finding that names it; `words`
    say what it is, with “{of}”; `hints` lead to it, the dearest last; `faster` is what would have found it sooner.
    `level` is how hard it is to find: 1 in sight of a meter or of the panel, 2 by looking at a signal, 3 by thinking
    about times."""

    id: str
    group: str
    title: str
    words: str
    code: str
    level: int
    plants: Callable[[Data], Iterator[Change]]
    hints: tuple[str, ...]
    faster: str


GROUPS = {
    "wiring": "the wiring", "cleaning": "how it is cleaned", "machine": "what it does", "timing": "its times",
    "guard": "its watchdog", "program": "how it was made",
}  # fmt: skip


def changed(data: Data, *changes: tuple[str, Any]) -> Data:
    """A document with other values at JSON Pointers; tables on the way are made where there are none."""
    found = copy.deepcopy(data)
    for path, value in changes:
        *steps, last = path.strip("/").split("/")
        here: Any = found
        for step in steps:
            here = here[int(step)] if isinstance(here, list) else here.setdefault(step, {})
        if isinstance(here, list):
            here[int(last)] = value
        else:
            here[last] = value
    return found


def contacts(data: Data) -> Iterator[tuple[str, str, Data]]:
    """(where, id, data) of every contact of its own."""
    for place, part in enumerate(data["inputs"]):
        if "contact" in part and "wiring" in part and "pull" in part["wiring"]:
            yield f"/inputs/{place}", part["id"], part


def outputs(data: Data, field: str) -> Iterator[tuple[str, Data]]:
    """(where, data) of every output that has a field."""
    for place, part in enumerate(data["outputs"]):
        if field in part:
            yield f"/outputs/{place}", part


def machines(data: Data) -> Iterator[tuple[int, Data]]:
    """Every machine with its place."""
    yield from enumerate(data["firmware"]["machines"])
