"""Drives. A new one is a file here, its piece of C++ beside it, and a name in the union below."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from .base import FULL, OFF, Blockable, Course, DriveModel, WholeMs, World
from .blink import Blink, Burst
from .described import Drawn, Offer, Setting, Started
from .follow import Follow, FollowVariable
from .pulse import Pulse
from .ramp import Ramp, ramp_level
from .sequence import Sequence, Step
from .steady import Dimmed, Steady
from .tone import Tone

DRIVES = (Steady, Dimmed, Blink, Pulse, Burst, Ramp, Sequence, Tone, Follow, FollowVariable)
Drive = Annotated[
    Steady | Dimmed | Blink | Pulse | Burst | Ramp | Sequence | Tone | Follow | FollowVariable,
    Field(discriminator="kind"),
]

OFFERED = tuple(offer for drive in DRIVES for offer in drive.offered)

__all__ = [
    "DRIVES",
    "FULL",
    "OFF",
    "OFFERED",
    "Blink",
    "Blockable",
    "Burst",
    "Course",
    "Dimmed",
    "Drawn",
    "Drive",
    "DriveModel",
    "Follow",
    "FollowVariable",
    "Offer",
    "Pulse",
    "Ramp",
    "Sequence",
    "Setting",
    "Started",
    "Steady",
    "Step",
    "Tone",
    "WholeMs",
    "World",
    "ramp_level",
]
