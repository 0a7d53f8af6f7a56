"""Follow: the level of an input, or of a variable, as it is in each pass."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, ClassVar, Literal

from pydantic import StrictBool, StringConstraints

from .base import FULL, Course, DriveModel, PartRef, World


class Follow(DriveModel):
    """On while a contact is believed pressed; as bright as an analogue part stands on its scale. Or the other way
    round."""

    kind: Literal["follow"] = "follow"
    input: PartRef
    inverted: StrictBool = False

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return FollowCourse(world.input_level, self.input, self.inverted)

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return True


class FollowVariable(DriveModel):
    """As bright as a variable stands between its bounds."""

    kind: Literal["follow-variable"] = "follow-variable"
    variable: Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*$", max_length=40)]
    inverted: StrictBool = False
    needs_level: ClassVar[bool] = True

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return FollowCourse(world.variable_level, self.variable, self.inverted)

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return True


class FollowCourse(Course):
    """Looks in each pass; nothing changes between the passes in which something happens."""

    __slots__ = ("inverted", "look", "of")

    def __init__(self, look: Callable[[str], int], of: str, inverted: bool) -> None:
        self.look, self.of, self.inverted = look, of, inverted

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        return self.update(now_ms)

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        level = self.look(self.of)
        return FULL - level if self.inverted else level
