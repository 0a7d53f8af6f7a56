"""What an engine is: a bench, a scenario and a seed go in, a run comes out. The machinery is elsewhere."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

from ..contacts import Move
from ..document import Bench, Scenario
from .faults import Faults
from .trace import Trace


@dataclass(frozen=True)
class Budget:
    """Where a run stops of itself: passes run one by one, and changes recorded (looked at every thousand passes)."""

    passes: int = 300_000
    changes: int = 300_000


@dataclass(frozen=True)
class Run:
    """One simulation: its trace, how the parts were moved, and why it stopped early, if it did. `boots` are (from, to
    when set-up was done) of each boot.

    `seed` is the one used: the scenario's own unless another was asked for.
    """

    scenario: str
    seed: int
    trace: Trace
    moves: dict[str, tuple[Move, ...]]
    idle_pass_us: int
    stopped: str | None = None
    boots: tuple[tuple[int, int], ...] = ()


class Engine(ABC):
    """Runs benches. Engines differ in speed only: the same run, byte for byte, whichever is asked."""

    @abstractmethod
    def run(
        self,
        bench: Bench,
        scenario: Scenario,
        seed: int | None = None,
        budget: Budget | None = None,
        fault: Faults = None,
    ) -> Run:
        """Simulate `scenario` on `bench`, with a fault, or several, if there are any. Same of all these → the same
        run on any machine."""
