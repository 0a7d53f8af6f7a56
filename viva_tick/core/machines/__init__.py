"""Machines: compiled for the run, and made from recipes."""

from __future__ import annotations

from ..document import EventName
from .compiled import CompiledMachine, compile_machine, entry_actions, stays_inside
from .dice import DICE_SKETCH, DICE_TYPE_SKETCH, DICE_VALUE_SKETCH, Dice
from .explore import Cause, Explored, explore, related
from .keys import PRESS_KEY, RAISED, RELEASE_KEY, event_keys, event_names, heard_by, longest_wait_us, raised_names
from .playing import play
from .running import Host, RunningMachine

__all__ = [
    "DICE_SKETCH",
    "DICE_TYPE_SKETCH",
    "DICE_VALUE_SKETCH",
    "PRESS_KEY",
    "RAISED",
    "RELEASE_KEY",
    "Cause",
    "CompiledMachine",
    "Dice",
    "EventName",
    "Explored",
    "Host",
    "RunningMachine",
    "compile_machine",
    "entry_actions",
    "event_keys",
    "event_names",
    "explore",
    "heard_by",
    "longest_wait_us",
    "play",
    "raised_names",
    "related",
    "stays_inside",
]
