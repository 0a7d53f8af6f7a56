"""What the pin sees (`circuit`, `pin`, `levels`), lamps and resistors, analogue parts, currents and their sums."""

from __future__ import annotations

from .analogue import Reading, counts_of, most_mv, mv_of, pin_mv, range_of, scale, sensor_ohm, value_at
from .circuit import OTHER, Branch, Circuit, circuit_of, filter_of, pull_branch
from .currents import BARE_UA, BOARD_UA, Draw, Sum, draws, sums
from .lamp import (
    DIM_UA,
    DROPS_MV,
    GAIN_AT_LEAST,
    WANTED_UA,
    LampLeg,
    base_ohm_for,
    base_ua,
    lamp_legs,
    legs_of,
)
from .levels import FLOATING, HIGH, LOW, floats, level_changes, level_of
from .matrix import ghost_example, key_name, keys_seen
from .pin import (
    NOISY_OHM,
    SHORT_WIRE_CM,
    WASTE_UA,
    PinState,
    PullWindow,
    both_states,
    pin_state,
    pull_window,
    settle_us,
    verdict,
)
from .series import E12, E24, at_least, at_most

__all__ = [
    "BARE_UA",
    "BOARD_UA",
    "DIM_UA",
    "DROPS_MV",
    "E12",
    "E24",
    "FLOATING",
    "GAIN_AT_LEAST",
    "HIGH",
    "LOW",
    "NOISY_OHM",
    "OTHER",
    "SHORT_WIRE_CM",
    "WANTED_UA",
    "WASTE_UA",
    "Branch",
    "Circuit",
    "Draw",
    "LampLeg",
    "PinState",
    "PullWindow",
    "Reading",
    "Sum",
    "at_least",
    "at_most",
    "base_ohm_for",
    "base_ua",
    "both_states",
    "circuit_of",
    "counts_of",
    "draws",
    "filter_of",
    "floats",
    "ghost_example",
    "key_name",
    "keys_seen",
    "lamp_legs",
    "legs_of",
    "level_changes",
    "level_of",
    "most_mv",
    "mv_of",
    "pin_mv",
    "pin_state",
    "pull_branch",
    "pull_window",
    "range_of",
    "scale",
    "sensor_ohm",
    "settle_us",
    "sums",
    "value_at",
    "verdict",
]
