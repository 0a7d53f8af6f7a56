"""How inputs that are more than a contact are read: encoders, analogue parts, key matrices, commands.

Each file holds what runs in the firmware model and the same in C++, so that they can be read against each other.
"""

from __future__ import annotations

from .commands import LISTENER_SKETCH, Listener
from .keys import KEYS_SKETCH, KeyCleaner
from .quadrature import GRAY, QUADRATURE_SKETCH, STEP, Quadrature, move
from .threshold import ABOVE, BELOW, THRESHOLD_SKETCH, Smoother, Threshold, smoother_sketch

__all__ = [
    "ABOVE",
    "BELOW",
    "GRAY",
    "KEYS_SKETCH",
    "LISTENER_SKETCH",
    "QUADRATURE_SKETCH",
    "STEP",
    "THRESHOLD_SKETCH",
    "KeyCleaner",
    "Listener",
    "Quadrature",
    "Smoother",
    "Threshold",
    "move",
    "smoother_sketch",
]
