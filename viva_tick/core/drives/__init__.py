"""Drives. A new one is a file here, its piece of C++ beside it, and a name in the union below."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from .angle import Angle, angle_at
from .base import FULL, OFF, Blockable, Course, DriveModel, WholeMs, World
from .blink import Blink, Burst
from .described import Drawn, Offer, Setting, Started
from .follow import Follow, FollowVariable
from .picked import COLOUR_OFFERS, Colour, Picked, PickedPlace, is_lit
from .pulse import Pulse
from .ramp import Ramp, ramp_level
from .rate import BlinkRate
from .sequence import Sequence, Step
from .steady import Dimmed, Steady
from .text import Text
from .tone import Tone

DRIVES = (
    Steady,
    Dimmed,
    Blink,
    BlinkRate,
    Pulse,
    Burst,
    Ramp,
    Sequence,
    Tone,
    Follow,
    FollowVariable,
    Text,
    Picked,
    Colour,
    Angle,
)
Drive = Annotated[
    Steady
    | Dimmed
    | Blink
    | BlinkRate
    | Pulse
    | Burst
    | Ramp
    | Sequence
    | Tone
    | Follow
    | FollowVariable
    | Text
    | Picked
    | Colour
    | Angle,
    Field(discriminator="kind"),
]

OFFERED = tuple(offer for drive in DRIVES for offer in drive.offered)

__all__ = [
    "COLOUR_OFFERS",
    "DRIVES",
    "FULL",
    "OFF",
    "OFFERED",
    "Angle",
    "Blink",
    "BlinkRate",
    "Blockable",
    "Burst",
    "Colour",
    "Course",
    "Dimmed",
    "Drawn",
    "Drive",
    "DriveModel",
    "Follow",
    "FollowVariable",
    "Offer",
    "Picked",
    "PickedPlace",
    "Pulse",
    "Ramp",
    "Sequence",
    "Setting",
    "Started",
    "Steady",
    "Step",
    "Text",
    "Tone",
    "WholeMs",
    "World",
    "angle_at",
    "is_lit",
    "ramp_level",
]
