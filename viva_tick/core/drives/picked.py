"""What is asked of several outputs at once: those of a row that a number picks, the colour of a lamp of three."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import StringConstraints

from .base import FULL, OFF, Course, DriveModel, Percent, World
from .described import Drawn, Offer, Setting, Started
from .steady import Dimmed, Steady

Shows = Literal["one", "bar", "bits"]
SHOWS = {"one": "only that one", "bar": "so many", "bits": "its bits"}
VariableRef = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*$(?!\n)", max_length=40)]


def is_lit(shows: str, value: int, place: int) -> bool:
    """Whether the output at a place (from 0) is on for a number: `one` where it is the place's own, `bar` where it is
    more, `bits` where it has the place's bit."""
    if shows == "one":
        return value == place
    if shows == "bar":
        return value > place
    return bool(value >> place & 1)


class PickedPlace(DriveModel):
    """One output of a row, as a number has it. `place` is what the number is for it."""

    kind: Literal["picked"] = "picked"
    variable: VariableRef
    shows: Shows
    place: int

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

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        return PickedCourse(world, self)

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        return Drawn(follows=True, words="picked")


class PickedCourse(Course):
    """Looks in each pass; nothing changes between the passes in which something happens."""

    __slots__ = ("of", "place", "shows", "world")

    def __init__(self, world: World, drive: PickedPlace) -> None:
        self.world, self.of, self.place, self.shows = world, drive.variable, drive.place, drive.shows

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        return self.update(now_ms)

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        return FULL if is_lit(self.shows, self.world.variable_value(self.of), self.place) else OFF


SHOWN = {"one": 0b000100, "bar": 0b001111, "bits": 0b011010}  # as an example of each is drawn


class Picked(DriveModel):
    """Of a row of outputs, those that a variable picks. `first` is the number of the row's first output where only one
    is on."""

    kind: Literal["picked"] = "picked"
    variable: VariableRef
    shows: Shows = "one"
    first: Literal[0, 1] = 0
    for_group: ClassVar[str] = "row"

    def at_place(self, place: int) -> DriveModel:
        """See `DriveModel.at_place`."""
        number = place + self.first if self.shows == "one" else place
        return PickedPlace(variable=self.variable, shows=self.shows, place=number)

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        return Drawn(follows=True, picked=tuple(bool(SHOWN[self.shows] >> place & 1) for place in range(6)))

    @property
    def word(self) -> str:
        """See `DriveModel.word`."""
        return f"picked {self.variable}"

    def settings(self) -> tuple[Setting, ...]:
        """See `DriveModel.settings`."""
        found = [
            Setting("variable", self.variable, "variable", ""),
            Setting("shows", self.shows, "choice", "lights", tuple(SHOWS.items())),
        ]
        if self.shows == "one":
            found.append(Setting("first", self.first, "choice", "the first is", ((0, "0"), (1, "1"))))
        return tuple(found)

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return True


class Colour(DriveModel):
    """The colour of a lamp of three, in percent of each."""

    kind: Literal["colour"] = "colour"
    red: Percent = 0
    green: Percent = 0
    blue: Percent = 0
    for_group: ClassVar[str] = "rgb"

    def at_place(self, place: int) -> DriveModel:
        """See `DriveModel.at_place`."""
        level = (self.red, self.green, self.blue)[place]
        return Steady(on=level == FULL) if level in (OFF, FULL) else Dimmed(percent=level)

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        return Drawn(rest=max(self.red, self.green, self.blue), words=f"{self.red} · {self.green} · {self.blue} %")

    def settings(self) -> tuple[Setting, ...]:
        """See `DriveModel.settings`."""
        return tuple(Setting(one, getattr(self, one), "percent", one) for one in ("red", "green", "blue"))

    @property
    def ever_on(self) -> bool:
        """See `DriveModel.ever_on`."""
        return max(self.red, self.green, self.blue) > OFF

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return self.ever_on


COLOUR_OFFERS = (
    Offer("colour", "colour", {"kind": "colour", "red": 100, "green": 40, "blue": 0}),
    Offer("off", "off", {"kind": "colour", "red": 0, "green": 0, "blue": 0}),
)
