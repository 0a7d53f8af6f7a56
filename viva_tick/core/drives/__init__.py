"""Drives. A new one is a new file here and a name in the union below."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from .base import Course, WholeMs
from .blink import Blink
from .pulse import Pulse
from .steady import Steady

Drive = Annotated[Steady | Blink | Pulse, Field(discriminator="kind")]

__all__ = ["Blink", "Course", "Drive", "Pulse", "Steady", "WholeMs"]
