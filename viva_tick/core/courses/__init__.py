"""What a scenario does to inputs that are more than a contact: turns, levels, keys, numbers that arrive."""

from __future__ import annotations

from .keying import KeyCourse, key_course
from .levelling import LevelCourse, level_course, noise_mv, rest_value
from .sending import BITS_A_CHARACTER, Arrival, active_words, sent, words_after
from .trying import tried_out
from .turning import TurnCourse, flips, turn_course

__all__ = [
    "BITS_A_CHARACTER",
    "Arrival",
    "KeyCourse",
    "LevelCourse",
    "TurnCourse",
    "active_words",
    "flips",
    "key_course",
    "level_course",
    "noise_mv",
    "rest_value",
    "sent",
    "tried_out",
    "turn_course",
    "words_after",
]
