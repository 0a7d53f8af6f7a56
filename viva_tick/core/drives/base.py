"""What a drive is: what a machine makes an output do from the pass in which a state is entered.

Levels are whole percent: 0 is off, 100 full on; what lies between is dimmed.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import Annotated, ClassVar, Protocol

from pydantic import BaseModel, ConfigDict, Field, StrictBool, StrictInt, StringConstraints

from .described import Drawn, Offer, Setting, Started

WholeMs = Annotated[StrictInt, Field(ge=1000, le=86_400_000_000, multiple_of=1000)]
NoneOrMs = Annotated[StrictInt, Field(ge=0, le=86_400_000_000, multiple_of=1000)]
Percent = Annotated[StrictInt, Field(ge=0, le=100)]
Times = Annotated[StrictInt, Field(ge=0, le=10_000)]
PartRef = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*(\.[a-z0-9-]+)?$(?!\n)", max_length=80)]
OFF, FULL = 0, 100


class World(Protocol):
    """What a drive that follows something can look at."""

    def variable_value(self, variable_id: str) -> int:
        """What a variable holds."""

    def input_level(self, input_id: str) -> int:
        """Percent: 0 or 100 for a contact as it is accepted, the share of the scale for an analogue part."""

    def variable_level(self, variable_id: str) -> int:
        """Percent: the variable's place between its bounds."""


class Course(ABC):
    """A running drive. `waits` are (level, µs) that it holds the pass for, one after another, as it begins; `again`:
    it begins anew in each pass; `hz` is what it plays, 0 for the part's own tone; `still`: once begun its level stays
    as it is."""

    __slots__ = ()
    waits: Sequence[tuple[int, int]] = ()
    again = False
    hz = 0
    still = False

    def stand(self, level: int) -> None:  # noqa: B027  (most need not know)
        """Told the level on the pin before it begins."""

    @property
    def ended(self) -> bool:
        """Whether it has come to an end of its own."""
        return False

    @abstractmethod
    def begin(self, now_ms: int) -> int:
        """Start at counter value `now_ms`; answer the level."""

    @abstractmethod
    def update(self, now_ms: int) -> int:
        """The level at `now_ms`."""

    def due(self) -> tuple[int, int] | None:
        """(counter value, wait in ms) of the next change, or None if there is none."""
        return None


class DriveModel(BaseModel):
    """A drive in the document."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True, regex_engine="python-re")
    needs_level: ClassVar[bool] = False  # a pin that can dim
    plays: ClassVar[bool] = False  # a note
    for_group: ClassVar[str] = ""  # the kind of group that it is for alone: a row of outputs, a lamp of three
    turns: ClassVar[bool] = False  # a servo
    writes: ClassVar[bool] = False  # text, on a line of a display or over the serial line
    offered: ClassVar[tuple[Offer, ...]] = ()  # as it is offered for any output; not what follows something

    def course(self, world: World) -> Course:
        """The drive, ready to run."""
        raise NotImplementedError

    def at_place(self, place: int) -> DriveModel:
        """What it asks of the output at a place of a group, from 0: of each the same."""
        return self

    def drawn(self) -> Drawn:
        """How its course is drawn."""
        raise NotImplementedError

    def settings(self) -> tuple[Setting, ...]:
        """What can be set of it."""
        return ()

    @property
    def word(self) -> str:
        """Which of the offers it is, or one of a kind of its own."""
        return str(getattr(self, "kind", ""))

    @property
    def form(self) -> str:
        """The form of an output that it needs in C++, whose piece stands beside it; empty where a level does."""
        return ""

    def started(self) -> Started:
        """How a C++ program starts it."""
        raise NotImplementedError

    @property
    def table(self) -> tuple[tuple[int, int], ...]:
        """(percent, ms) of each of its steps, where it is given a table of them."""
        return ()

    @property
    def dims(self) -> bool:
        """Whether it can bring a level between off and full to a pin."""
        return self.needs_level

    @property
    def ever_on(self) -> bool:
        """Whether it can have the output on at all."""
        return True

    @property
    def lasting(self) -> bool:
        """Whether the output is on, or comes on again and again, for as long as nothing ends it."""
        return False

    @property
    def blocks_us(self) -> int:
        """How long it holds the pass; 0: not at all."""
        return 0

    @property
    def fault(self) -> str:
        """What is wrong with its figures, taken together; empty where nothing is."""
        return ""


class Blockable(DriveModel):
    """A drive that ends by itself, and can hold the pass until then. `spans` are (level, µs) one after another; of
    one that is `endless`, and holds the pass all the same, one round: each pass goes through another."""

    blocking: StrictBool = False

    def figures(self) -> tuple[Setting, ...]:
        """What can be set of it besides whether the loop waits for it."""
        return ()

    def settings(self) -> tuple[Setting, ...]:
        """See `DriveModel.settings`."""
        waits = ((False, "beside the loop"), (True, "the loop waits"))
        return (*self.figures(), Setting("blocking", self.blocking, "choice", "", waits))

    def spans(self) -> list[tuple[int, int]]:
        """All of it, from the beginning to its end."""
        raise NotImplementedError

    @property
    def rest(self) -> int:
        """The level that it leaves behind."""
        return OFF

    @property
    def endless(self) -> bool:
        """Whether it has no end of its own."""
        return False

    @property
    def blocks_us(self) -> int:
        """See `DriveModel.blocks_us`."""
        return sum(us for _, us in self.spans()) if self.blocking else 0


class Waiting(Course):
    """Holds the pass through its spans; then stays at its rest, or begins again in the next pass."""

    __slots__ = ("again", "hz", "rest", "waits")

    def __init__(self, spans: Sequence[tuple[int, int]], rest: int, hz: int = 0, again: bool = False) -> None:
        self.waits = spans
        self.rest = rest
        self.again = again
        self.hz = hz

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        return self.waits[0][0] if self.waits else self.rest

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        return self.rest


__all__ = [
    "FULL",
    "OFF",
    "Blockable",
    "Course",
    "DriveModel",
    "NoneOrMs",
    "PartRef",
    "Percent",
    "StrictBool",
    "Times",
    "Waiting",
    "WholeMs",
    "World",
]
