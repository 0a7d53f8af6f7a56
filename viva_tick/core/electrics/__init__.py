"""What the pin sees: levels over time (`levels`), voltages and currents (`pin`), lamps and resistor values."""

from __future__ import annotations

from .lamp import DIM_UA, WANTED_UA, fed_by_pin, lamp_ua, resistor_for
from .levels import (
    FLOATING,
    HIGH,
    LOW,
    effective,
    floats,
    level_changes,
    level_of,
    pressed_level,
    resting_level,
    touching_at_rest,
)
from .pin import PinState, both_states, pin_state, pull_rail, pull_range_ohm, verdict
from .series import E12, E24, at_least

__all__ = [
    "DIM_UA",
    "E12",
    "E24",
    "FLOATING",
    "HIGH",
    "LOW",
    "WANTED_UA",
    "PinState",
    "at_least",
    "both_states",
    "effective",
    "fed_by_pin",
    "floats",
    "lamp_ua",
    "level_changes",
    "level_of",
    "pin_state",
    "pressed_level",
    "pull_rail",
    "pull_range_ohm",
    "resistor_for",
    "resting_level",
    "touching_at_rest",
    "verdict",
]
