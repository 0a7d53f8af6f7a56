"""Hands that play a panel: how long they press, how soon they act again, what slips.

Published figures, quoted from memory: keys are held for 116 ms (SD 24) and follow each other after 239 ms (SD 112):
V. Dhakal, A. M. Feit, P. O. Kristensson, A. Oulasvirta, Observations on Typing from 136 Million Keystrokes, CHI 2018.
A simple reaction takes 231 ms (SD 27): D. L. Woods et al., Factors influencing the latency of simple reaction time,
Frontiers in Human Neuroscience 9:131, 2015. A child of n years takes 1 + 5.16 e^(-0.21 n) times as long as an adult:
R. Kail, Developmental Psychology 27:490, 1991; 2.46 times at six. What is said to be assumed is our guess.
"""

from __future__ import annotations

import random
from dataclasses import dataclass

TYPED, REACTED, KAIL, ASSUMED = "Dhakal et al. 2018", "Woods et al. 2015", "Kail 1991", "assumed"
SIX_YEARS = 2.46  # times as long as an adult


@dataclass(frozen=True)
class Figure:
    """How long something takes: its mean and standard deviation, ms, never less than `least_ms`, and who says so."""

    mean_ms: float
    sd_ms: float
    source: str
    least_ms: float = 20.0

    def draw_us(self, rng: random.Random) -> int:
        """One of them, µs: the sum of twelve even chances is as good as normal, and the same on any machine."""
        normal = sum(rng.random() for _ in range(12)) - 6
        return int(max(self.mean_ms + self.sd_ms * normal, self.least_ms) * 1000)


@dataclass(frozen=True)
class Person:
    """A hand: how long it presses, how soon it acts after what it saw, how often (percent) it slips off for a moment
    while it presses, taps twice in haste, and presses a neighbour along with what it meant."""

    id: str
    title: str
    sentence: str
    press: Figure
    pause: Figure
    slips: float = 0.0
    twice: float = 0.0
    both: float = 0.0


PEOPLE: dict[str, Person] = {
    one.id: one
    for one in (
        Person(
            "practised",
            "a practised hand",
            "Presses as people type who do it every day.",
            Figure(116, 24, TYPED),
            Figure(239, 112, TYPED, 80),
        ),
        Person(
            "beginner",
            "a beginner",
            "Presses long and hard, and looks what came of it; now and then the finger slides.",
            Figure(290, 110, ASSUMED, 80),
            Figure(231 + 900, 27 + 400, f"{REACTED}, and 0.9 s to look ({ASSUMED})", 300),
            slips=3,
            twice=2,
        ),
        Person(
            "hurried",
            "somebody in a hurry",
            "Five to seven taps a second, as short as they come; taps again before anything can have happened.",
            Figure(70, 15, f"{ASSUMED}, the shorter half of taps", 35),
            Figure(105, 25, f"{ASSUMED}, five to seven taps a second", 50),
            slips=1,
            twice=8,
        ),
        Person(
            "child",
            "a child of six",
            "As slow as children are, and as clumsy: slips off, taps twice, presses two at once.",
            Figure(116 * SIX_YEARS, 24 * SIX_YEARS, f"{TYPED} × {SIX_YEARS}, {KAIL}", 60),
            Figure(239 * SIX_YEARS, 112 * SIX_YEARS, f"{TYPED} × {SIX_YEARS}, {KAIL}", 120),
            slips=10,
            twice=10,
            both=8,
        ),
    )
}
SLIP = Figure(14, 6, ASSUMED, 3)  # so long the finger is off
AGAIN = Figure(90, 25, ASSUMED, 40)  # so soon it taps once more in haste
