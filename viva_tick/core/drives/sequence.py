"""Sequence: a list of levels, each for a time."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..clock import MASK
from .base import Blockable, Course, Percent, Times, Waiting, WholeMs, World
from .described import Drawn, Offer, Setting, Started


class Step(BaseModel):
    """A level, and for how long."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True, regex_engine="python-re")
    percent: Percent
    us: WholeMs


class Sequence(Blockable):
    """Its steps, `rounds` times (0: over and over); at the end it stays at the last."""

    kind: Literal["sequence"] = "sequence"
    steps: Annotated[tuple[Step, ...], Field(min_length=1, max_length=32)]
    rounds: Times = 1
    offered: ClassVar = (
        Offer(
            "sequence",
            "sequence",
            {
                "kind": "sequence",
                "rounds": 0,
                "steps": [
                    {"percent": 100, "us": 300_000},
                    {"percent": 30, "us": 300_000},
                    {"percent": 0, "us": 400_000},
                ],
            },
        ),
    )

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        rows = tuple((step.percent, step.us, f"steps/{n}/us", f"Step {n + 1}") for n, step in enumerate(self.steps))
        return Drawn(rows, self.rounds != 1, self.rest)

    def figures(self) -> tuple[Setting, ...]:
        """See `Blockable.figures`."""
        found: list[Setting] = []
        for n, step in enumerate(self.steps):
            found += [
                Setting(f"steps/{n}/percent", step.percent, "percent", f"{n + 1}:"),
                Setting(f"steps/{n}/us", step.us, "time", "for"),
            ]
        return (*found, Setting("rounds", self.rounds, "number", "rounds (0: on and on)"))

    @property
    def form(self) -> str:
        """See `DriveModel.form`."""
        return "sequence"

    @property
    def table(self) -> tuple[tuple[int, int], ...]:
        """See `DriveModel.table`."""
        return tuple((step.percent, step.us // 1000) for step in self.steps)

    def started(self) -> Started:
        """See `DriveModel.started`."""
        return Started("sequence", ("@table", str(len(self.steps)), str(self.rounds)))

    def course(self, world: World) -> Course:
        """See `DriveModel.course`."""
        if self.blocking:
            return Waiting(self.spans(), self.rest, again=self.endless)
        return SequenceCourse([(step.percent, step.us // 1000) for step in self.steps], self.rounds)

    def spans(self) -> list[tuple[int, int]]:
        """See `Blockable.spans`."""
        return [(step.percent, step.us) for step in self.steps] * (self.rounds or 1)

    @property
    def endless(self) -> bool:
        """See `Blockable.endless`."""
        return not self.rounds

    @property
    def rest(self) -> int:
        """See `Blockable.rest`."""
        return self.steps[-1].percent

    @property
    def dims(self) -> bool:
        """See `DriveModel.dims`."""
        return any(0 < step.percent < 100 for step in self.steps)

    @property
    def ever_on(self) -> bool:
        """See `DriveModel.ever_on`."""
        return any(step.percent for step in self.steps)

    @property
    def lasting(self) -> bool:
        """See `DriveModel.lasting`."""
        return self.ever_on if not self.rounds else self.rest > 0

    @property
    def fault(self) -> str:
        """See `DriveModel.fault`."""
        if self.blocking and not self.rounds:
            return "a sequence that holds the loop needs a number of rounds."
        return "a sequence goes over at most 2,000 steps in all." if len(self.steps) * self.rounds > 2_000 else ""


class SequenceCourse(Course):
    """At most one step a pass; keeps its beat."""

    __slots__ = ("left", "over", "place", "since_ms", "steps")

    def __init__(self, steps: list[tuple[int, int]], rounds: int) -> None:
        self.steps = steps
        self.left = rounds
        self.place = 0
        self.over = False
        self.since_ms = 0

    @property
    def ended(self) -> bool:
        """See `Course.ended`."""
        return self.over

    def begin(self, now_ms: int) -> int:
        """See `Course.begin`."""
        self.since_ms = now_ms
        return self.steps[0][0]

    def update(self, now_ms: int) -> int:
        """See `Course.update`."""
        level, wait = self.steps[self.place]
        if not self.over and (now_ms - self.since_ms) & MASK >= wait:
            self.since_ms = (self.since_ms + wait) & MASK
            last = self.place + 1 == len(self.steps)
            if last and self.left == 1:
                self.over = True
                return level
            self.left -= last and self.left > 0
            self.place = 0 if last else self.place + 1
        return self.steps[self.place][0]

    def due(self) -> tuple[int, int] | None:
        """See `Course.due`."""
        return None if self.over else (self.since_ms, self.steps[self.place][1])
