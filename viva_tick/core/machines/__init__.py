"""Machines: compiled for the run, and made from recipes."""

from __future__ import annotations

from .compiled import PRESS_KEY, RELEASE_KEY, CompiledMachine, compile_machine
from .reach import together

__all__ = ["PRESS_KEY", "RELEASE_KEY", "CompiledMachine", "compile_machine", "together"]
