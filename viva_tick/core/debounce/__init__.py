"""Debounce methods. A new one is a new file here and a name in the row below; nothing else changes."""

from __future__ import annotations

from . import (
    act_ignore,
    count_samples,
    fixed_delay,
    history,
    interrupt,
    look_again,
    look_press,
    look_release,
    none,
    rest_first,
    shared_ignore,
    shared_interrupt,
    shared_rest,
)
from .base import FAR, NO_EDGE, PRESS, RELEASE, Method, PassClock, Rows, Stepper, Times

METHODS: dict[str, Method] = {
    module.METHOD.id: module.METHOD
    for module in (
        rest_first,
        act_ignore,
        count_samples,
        history,
        interrupt,
        look_again,
        look_press,
        look_release,
        fixed_delay,
        shared_ignore,
        shared_rest,
        shared_interrupt,
        none,
    )
}

__all__ = ["FAR", "METHODS", "NO_EDGE", "PRESS", "RELEASE", "Method", "PassClock", "Rows", "Stepper", "Times"]
