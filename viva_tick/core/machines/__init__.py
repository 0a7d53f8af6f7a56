"""Machines: compiled for the run, and made from recipes."""

from __future__ import annotations

from .compiled import CompiledMachine, compile_machine
from .keys import PRESS_KEY, RELEASE_KEY, EventName, event_keys, event_names
from .reach import together

__all__ = [
    "PRESS_KEY",
    "RELEASE_KEY",
    "CompiledMachine",
    "EventName",
    "compile_machine",
    "event_keys",
    "event_names",
    "together",
]
