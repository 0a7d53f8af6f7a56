"""The panel of a bench: where its inputs and outputs sit on the front of the box."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints

from .base import Doc, Ref

KEYS = "wetuioxcvn"  # the letters that do nothing else
LEAST_MM, MOST_WIDE_MM, MOST_HIGH_MM = 40, 260, 180  # the largest goes on a sheet of A4


class Spot(Doc):
    """One thing on the panel, whatever of it is the user's own: its middle, mm from the left and the upper edge; the
    label; the letter that plays it; the diameter of its hole, mm, 0 for none."""

    x_mm: Annotated[float, Field(ge=0, le=MOST_WIDE_MM)] | None = None
    y_mm: Annotated[float, Field(ge=0, le=MOST_HIGH_MM)] | None = None
    label: Annotated[str, StringConstraints(max_length=40, pattern=r"^[^\x00-\x1f]*$(?!\n)")] = ""
    key: Annotated[str, StringConstraints(pattern=rf"^[{KEYS}]?$(?!\n)")] = ""
    hole_mm: Annotated[float, Field(ge=0, le=60)] | None = None


class Panel(Doc):
    """The front of the box: its size, mm, where it is the user's own, and what of the things on it is, by id."""

    wide_mm: Annotated[int, Field(ge=LEAST_MM, le=MOST_WIDE_MM)] | None = None
    high_mm: Annotated[int, Field(ge=LEAST_MM, le=MOST_HIGH_MM)] | None = None
    spots: Annotated[dict[Ref, Spot], Field(max_length=200)] = Field(default_factory=dict)
