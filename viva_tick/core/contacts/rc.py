"""A resistor and a capacitor between the contact and the pin: the pin's voltage follows slowly.

v(t) = target + (v0 − target) · e^(−t/RC), a time constant for the contact open and one for it closed. A Schmitt input
turns over at one threshold going up and at the other going down; a plain one is undecided between them, and noise
decides. Voltages are shares of the logic voltage.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from random import Random

from ..laws import charge_s
from ..seeds import between

CHATTER_US = (100, 1_000)  # how long noise holds an undecided input one way (common practice: hum and ripple)


@dataclass(frozen=True)
class Filter:
    """Targets and time constants with the contact closed and open, the thresholds, the kind of input."""

    closed_share: float
    open_share: float
    closed_us: float
    open_us: float
    low_share: float
    high_share: float
    schmitt: bool

    def course(self, touching: bool) -> tuple[float, float]:
        """(target, time constant in µs)."""
        return (self.closed_share, self.closed_us) if touching else (self.open_share, self.open_us)


def reaches_us(start: float, target: float, tau_us: float, share: float) -> float:
    """How long from `start` on the way to `target` until `share` is passed; infinite where it never is."""
    return charge_s(tau_us, 1.0, start, target, share)


def pin_levels(
    changes: Iterable[tuple[int, bool]], rc: Filter, end_us: int, noise: Random
) -> Iterator[tuple[int, int]]:
    """(instant, 0 or 1) at the pin, beginning with the first change, at rest until then."""
    steps = list(changes)
    volts = rc.course(steps[0][1])[0]
    level = 1 if volts >= (rc.low_share + rc.high_share) / 2 else 0
    yield steps[0][0], level
    for number, (at_us, touching) in enumerate(steps):
        until_us = steps[number + 1][0] if number + 1 < len(steps) else end_us
        target, tau_us = rc.course(touching)
        for when, heard in _segment(rc, volts, target, tau_us, at_us, until_us, level, noise):
            if heard != level:
                level = heard
                yield when, level
        volts = target + (volts - target) * math.exp(-(until_us - at_us) / tau_us)


def _segment(
    rc: Filter, start: float, target: float, tau_us: float, at_us: int, until_us: int, level: int, noise: Random
) -> Iterator[tuple[int, int]]:
    """What the input makes of one stretch of the curve."""
    rising = target > start
    leaves, arrives = (rc.low_share, rc.high_share) if rising else (rc.high_share, rc.low_share)
    sure = 1 if rising else 0
    done_us = at_us + reaches_us(start, target, tau_us, arrives)
    inside = rc.low_share < start < rc.high_share
    if not rc.schmitt:
        begin_us = float(at_us) if inside else at_us + reaches_us(start, target, tau_us, leaves)
        end_us = min(done_us, until_us)
        when = begin_us
        while when < end_us:
            yield math.ceil(when), 1 if noise.random() < 0.5 else 0
            when += between(noise, *CHATTER_US)
    if done_us < until_us:
        yield math.ceil(done_us), sure
