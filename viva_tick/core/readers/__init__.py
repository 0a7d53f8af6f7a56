"""How inputs that are more than a contact are read: encoders, analogue parts, key matrices, commands.

Each file holds what runs in the firmware model and the same in C++, so that they can be read against each other.
"""

from __future__ import annotations

from .commands import Listener, listener_sketch
from .keys import CODE_SKETCH, KEYS_SKETCH, CodeLock, KeyCleaner
from .quadrature import A_BIT, B_BIT, GRAY, MOST_STEPS, PACE_SKETCH, STEP, Pace, Quadrature, move, quadrature_sketch
from .threshold import ABOVE, BAND_SKETCH, BELOW, THRESHOLD_SKETCH, Band, Smoother, Threshold, smoother_sketch

__all__ = [
    "ABOVE",
    "A_BIT",
    "BAND_SKETCH",
    "BELOW",
    "B_BIT",
    "CODE_SKETCH",
    "GRAY",
    "KEYS_SKETCH",
    "MOST_STEPS",
    "PACE_SKETCH",
    "STEP",
    "THRESHOLD_SKETCH",
    "Band",
    "CodeLock",
    "KeyCleaner",
    "Listener",
    "Pace",
    "Quadrature",
    "Smoother",
    "Threshold",
    "listener_sketch",
    "move",
    "quadrature_sketch",
    "smoother_sketch",
]
