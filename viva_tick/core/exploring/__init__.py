"""What a program's machines can do, before it runs: every combination of states by the fewest events, and what can be
said of a machine for that. It reads the program that the engine runs and the targets write down."""

from __future__ import annotations

from .abstract import Abstract, Cause, Explored
from .analysis import explored, produced_events
from .explore import explore, related
from .playing import play

__all__ = ["Abstract", "Cause", "Explored", "explore", "explored", "play", "produced_events", "related"]
