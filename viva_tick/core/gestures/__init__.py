"""What a hand does with a button: click, double and triple click, hold, repeat, let go after a hold, two at once.

Told apart in the standard way: while a double click is listened for, a single one waits for its window to close; a hold
is no click. What nobody listens for is not waited for.
"""

from __future__ import annotations

from .recogniser import CHORD_SKETCH, CLICKS, GESTURES, GESTURES_SKETCH, HELD, Recogniser, Wanted
from .wanted import chords_wanted, wanted_by

__all__ = [
    "CHORD_SKETCH",
    "CLICKS",
    "GESTURES",
    "GESTURES_SKETCH",
    "HELD",
    "Recogniser",
    "Wanted",
    "chords_wanted",
    "wanted_by",
]
