"""Follow: the level of an input, or of a variable, as it is in each pass."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, ClassVar, Literal

from pydantic import StrictBool, StringConstraints

from .base import FULL, Course, DriveModel, PartRef, World
from .described import Drawn, Setting, Started


class Following(DriveModel):
    """What both have in common: the level of something else, or the other way round."""

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        return Drawn(follows=True, words="follows")

    def settings(self) -> tuple[Setting, ...]:
        """See `DriveModel.settings`."""
        ways = ((False, "the same way"), (True, "the other way round"))
        return (self.looks_at(), Setting("inverted", getattr(self, "inverted", False), "choice", "", ways))

    def looks_at(self) -> Setting:
        """What it follows."""
        raise NotImplementedError

    @property
    def word(self) -> str:
        """See `DriveModel.word`."""
        return f"{getattr(self, 'kind', '')} {self.looks_at().value}"

    @property
    def form(self) -> str:
        """See `DriveModel.form`."""
        return "follow"

    def started(self) -> Started:
        """See `DriveModel.started`."""
        return Started("follow", ("@followed",))

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return True


class Follow(Following):
    """On while a contact is accepted pressed; as bright as an analogue part stands on its scale. Or the other way
    round."""

    kind: Literal["follow"] = "follow"
    input: PartRef
    inverted: StrictBool = False

    def looks_at(self) -> Setting:
        """See `Following.looks_at`."""
        return Setting("input", self.input, "contact-or-sensor", "")

    @property
    def dims(self) -> bool:
        """See `DriveModel.dims`."""
        return True

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return FollowCourse(world.input_level, self.input, self.inverted)


class FollowVariable(Following):
    """As bright as a variable stands between its bounds."""

    kind: Literal["follow-variable"] = "follow-variable"
    variable: Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*$(?!\n)", max_length=40)]
    inverted: StrictBool = False
    needs_level: ClassVar[bool] = True

    def looks_at(self) -> Setting:
        """See `Following.looks_at`."""
        return Setting("variable", self.variable, "variable", "")

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return FollowCourse(world.variable_level, self.variable, self.inverted)


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
