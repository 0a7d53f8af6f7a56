"""Angle: where a servo goes, at once or over a time, or where a variable says."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field, StrictInt, StringConstraints

from ..units import ms
from .base import DriveModel
from .described import Drawn, Offer, Setting

MOST = 180  # degrees
Degrees = Annotated[StrictInt, Field(ge=0, le=MOST)]
TurnTime = Annotated[StrictInt, Field(ge=0, le=60_000_000, multiple_of=1000)]


def angle_at(start: int, end: int, passed_ms: int, time_ms: int) -> int:
    """Degrees when so much of the time has passed, in whole numbers as a small board computes them."""
    if passed_ms >= time_ms:
        return end
    way = abs(end - start) * passed_ms // time_ms
    return start + way if end > start else start - way


class Angle(DriveModel):
    """To so many degrees, over `time_us` (0: at once); or always to as many as a variable holds."""

    kind: Literal["angle"] = "angle"
    degrees: Degrees = 90
    time_us: TurnTime = 0
    variable: Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*$(?!\n)", max_length=40)] | None = None
    turns: ClassVar[bool] = True
    offered_for_servos: ClassVar[tuple[Offer, ...]] = (
        Offer("0°", "0°", {"kind": "angle", "degrees": 0}),
        Offer("90°", "90°", {"kind": "angle", "degrees": 90}),
        Offer("180°", "180°", {"kind": "angle", "degrees": 180}),
        Offer("slow", "slowly to", {"kind": "angle", "degrees": 120, "time_us": 1_000_000}),
    )

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        if self.variable:
            return Drawn(follows=True, words="follows")
        over = f" over {ms(self.time_us)}" if self.time_us else ""
        return Drawn(rest=100 * self.degrees // MOST, words=f"{self.degrees}°{over}")

    def settings(self) -> tuple[Setting, ...]:
        """See `DriveModel.settings`."""
        if self.variable:
            return (Setting("variable", self.variable, "variable", "as many degrees as"),)
        return (
            Setting("degrees", self.degrees, "number", "to, in degrees"),
            Setting("time_us", self.time_us, "time", "over (0: at once)"),
        )

    @property
    def word(self) -> str:
        """See `DriveModel.word`."""
        if self.variable:
            return f"angle {self.variable}"
        return "slow" if self.time_us else f"{self.degrees}°"

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return True
