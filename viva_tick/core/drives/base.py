"""What a drive is: what a machine makes an output do from the pass in which a state is entered."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StrictBool, StrictInt

WholeMs = Annotated[StrictInt, Field(ge=1000, le=86_400_000_000, multiple_of=1000)]


class DriveModel(BaseModel):
    """A drive in the document."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Course(ABC):
    """A running drive. `blocking_us` is how long it holds the pass when it begins (0: not at all)."""

    __slots__ = ()
    blocking_us = 0

    @abstractmethod
    def begin(self, now_ms: int) -> bool:
        """Start at counter value `now_ms`; answer on or off."""

    @abstractmethod
    def update(self, now_ms: int) -> bool:
        """On or off at `now_ms`."""

    def due(self) -> tuple[int, int] | None:
        """(counter value, wait in ms) of the next change, or None if there is none."""
        return None


__all__ = ["Course", "DriveModel", "StrictBool", "WholeMs"]
