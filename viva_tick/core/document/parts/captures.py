"""Recorded contacts."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ..base import Doc, Id, Micros, Name


class Edge(Doc):
    """The level from an instant on, in a capture's own time."""

    at_us: Micros
    level: Annotated[int, Field(ge=0, le=1)]


class Capture(Doc):
    """Edges recorded from a real contact: the level before the first press is the one at rest. Presses are cut apart
    where the level stands for `rest_us`."""

    id: Id
    name: Name
    rest_us: Annotated[int, Field(ge=1000, le=10_000_000, multiple_of=1000)] = 30_000
    edges: Annotated[tuple[Edge, ...], Field(min_length=2, max_length=20_000)]
