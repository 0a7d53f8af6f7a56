"""Debounce methods. A new one is a new file here and a name in the row below; nothing else changes."""

from __future__ import annotations

from . import act_ignore, fixed_delay, none, rest_first
from .base import NO_EDGE, PRESS, RELEASE, Method, PassClock, Stepper, Times

METHODS: dict[str, Method] = {module.METHOD.id: module.METHOD for module in (rest_first, act_ignore, fixed_delay, none)}

__all__ = ["METHODS", "NO_EDGE", "PRESS", "RELEASE", "Method", "PassClock", "Stepper", "Times"]
