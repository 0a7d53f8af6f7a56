"""One class for each stage of `program.STAGES`."""

from __future__ import annotations

from .base import Due, StageRunner
from .beginning import BaseStage
from .chords import ChordStage
from .driving import DriveStage
from .guarding import FeedStage, GuardStage, RestartStage
from .keeping import KeepStage
from .machines import MachineStage, StandStage
from .reading import ReadStage
from .showing import ShowStage
from .signalling import SignalStage
from .sleeping import SleepStage, YieldStage
from .tasks import TaskStage
from .tracing import TraceStage
from .turning import TurnStage
from .waiting import TailStage, WaitStage

__all__ = [
    "BaseStage",
    "ChordStage",
    "DriveStage",
    "Due",
    "FeedStage",
    "GuardStage",
    "KeepStage",
    "MachineStage",
    "ReadStage",
    "RestartStage",
    "ShowStage",
    "SignalStage",
    "SleepStage",
    "StageRunner",
    "StandStage",
    "TailStage",
    "TaskStage",
    "TraceStage",
    "TurnStage",
    "WaitStage",
    "YieldStage",
]
