"""Recorded contacts."""

from __future__ import annotations

import hashlib
import json
from functools import cached_property
from typing import Annotated, Any

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

    @cached_property
    def edges_text(self) -> str:
        """The edges as JSON without blanks: pairs of instant (µs) and level."""
        return json.dumps([(edge.at_us, edge.level) for edge in self.edges], separators=(",", ":"))

    @cached_property
    def digest(self) -> str:
        """A hash of the edges."""
        return hashlib.blake2b(self.edges_text.encode(), digest_size=16).hexdigest()

    @cached_property
    def text(self) -> str:
        """The capture as JSON without blanks."""
        return self.model_dump_json()

    @cached_property
    def late(self) -> int | None:
        """The first edge that comes before the one above it."""
        times = [edge.at_us for edge in self.edges]
        return next((number for number in range(1, len(times)) if times[number] < times[number - 1]), None)

    @cached_property
    def bare(self) -> dict[str, Any]:
        """All of it but the edges, and their digest."""
        return {**self.model_dump(mode="json", exclude={"edges"}), "digest": self.digest}
