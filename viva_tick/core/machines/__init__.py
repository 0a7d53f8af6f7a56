"""Machines as tables of numbers, and the one way in which they run: under the engine, and while they are explored."""

from __future__ import annotations

from ..document import EventName
from .compiled import CompiledMachine, compile_machine, entry_actions, stays_inside
from .dice import DICE_SKETCH, DICE_TYPE_SKETCH, DICE_VALUE_SKETCH, Dice
from .keys import PRESS_KEY, RAISED, RELEASE_KEY, event_keys, event_names, heard_by, longest_wait_us, raised_names
from .running import SIGNS, Host, RunningMachine, holds

__all__ = [
    "DICE_SKETCH",
    "DICE_TYPE_SKETCH",
    "DICE_VALUE_SKETCH",
    "PRESS_KEY",
    "RAISED",
    "RELEASE_KEY",
    "SIGNS",
    "CompiledMachine",
    "Dice",
    "EventName",
    "Host",
    "RunningMachine",
    "compile_machine",
    "entry_actions",
    "event_keys",
    "event_names",
    "heard_by",
    "holds",
    "longest_wait_us",
    "raised_names",
    "stays_inside",
]
