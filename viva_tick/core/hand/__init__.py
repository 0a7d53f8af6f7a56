"""A modelled hand: people who play the panel (`people`), what they do (`doing`), what came of it (`judging`)."""

from __future__ import annotations

from .doing import ACTIONS, Meant, a_round
from .judging import WRONG, Example, Played, judged, play_round, play_rounds
from .people import PEOPLE, Figure, Person

__all__ = [
    "ACTIONS",
    "PEOPLE",
    "WRONG",
    "Example",
    "Figure",
    "Meant",
    "Person",
    "Played",
    "a_round",
    "judged",
    "play_round",
    "play_rounds",
]
