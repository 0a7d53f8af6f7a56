"""How one contact bounces: the seeded model of a class of switch, or the replay of a capture.

A burst is the tuple of instants, in µs after the metal first moves, at which it parts or touches again; there is
an even number of them, and the last is when it has come to rest.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from functools import lru_cache
from random import Random

from ..document.parts import Capture
from ..seeds import stream
from ..switches import Bounces, SwitchClass

Burst = tuple[int, ...]

CLOSEST_US = 20  # metal parts or touches no faster than this


class Bouncer(ABC):
    """Answers the burst of the n-th press or release."""

    @abstractmethod
    def burst(self, pressed: bool, number: int) -> Burst:
        """The burst of the `number`-th move (from 0) of a run, towards pressed or released."""


def _burst(rng: Random, bounces: Bounces) -> Burst:
    # Called tens of thousands of times for a sweep, so what `between` does is written out.
    random = rng.random
    least, most = bounces.count
    count = least + int(random() * (most - least + 1))
    least, most = bounces.settle_us
    settle = least + int(random() * (most - least + 1))
    if not count or not settle:
        return ()
    # Denser at the beginning: the metal loses its energy as it goes.
    ordered = sorted(
        [1 + int(settle * (share + share * share) / 2) for share in [random() for _ in range(2 * count - 1)]]
    )
    ordered.append(settle)
    last = -CLOSEST_US
    for index, at in enumerate(ordered):
        last += CLOSEST_US
        if at > last:
            last = at
        ordered[index] = last
    return tuple(ordered)


@lru_cache(maxsize=8192)  # who plays by hand asks for the same ones with each answer
def _modelled(bounces: Bounces, seed: tuple[str | int, ...], number: int) -> Burst:
    return _burst(stream("bounce", *seed, number), bounces)


class ModelBouncer(Bouncer):
    """The seeded model: press and release differ, each move is drawn by itself."""

    def __init__(self, switch: SwitchClass, *seed: str | int) -> None:
        self.switch = switch
        self.seed = seed

    def burst(self, pressed: bool, number: int) -> Burst:
        """See `Bouncer.burst`."""
        return _modelled(self.switch.press if pressed else self.switch.release, self.seed, number)


class SampleBouncer(Bouncer):
    """The same model drawn from one stream, move after move: for large samples, where the order is fixed."""

    def __init__(self, switch: SwitchClass, *seed: str | int) -> None:
        self.switch = switch
        self.rng = stream("sample", *seed)

    def burst(self, pressed: bool, number: int) -> Burst:
        """See `Bouncer.burst`."""
        return _burst(self.rng, self.switch.press if pressed else self.switch.release)


@lru_cache(maxsize=64)
def capture_bursts(capture: Capture) -> tuple[tuple[Burst, ...], tuple[Burst, ...]]:
    """The presses and the releases in a capture, cut apart where the level stands for its `rest_us`.

    The level of the first row is taken for "released". A burst that ends where it began moved nothing and is left
    out. ValueError if the capture holds no press.
    """
    rest_us = capture.rest_us
    changes: list[tuple[int, int]] = []
    level = capture.edges[0].level
    for edge in capture.edges[1:]:
        if edge.level != level:
            level = edge.level
            changes.append((edge.at_us, level))
    presses: list[Burst] = []
    releases: list[Burst] = []
    start = 0
    accepted = capture.edges[0].level
    for index, (at_us, level) in enumerate(changes):
        if index + 1 < len(changes) and changes[index + 1][0] - at_us < rest_us:
            continue
        if level != accepted:
            first = changes[start][0]
            burst = tuple(when - first for when, _ in changes[start + 1 : index + 1])
            (presses if level != capture.edges[0].level else releases).append(burst)
            accepted = level
        start = index + 1
    if not presses:
        raise ValueError(
            f"“{capture.name}” holds no press: the level never changes and then rests for {rest_us // 1000} ms."
        )
    return tuple(presses), tuple(releases)


class CaptureBouncer(Bouncer):
    """Replays a capture's presses and releases in turn. Without a release in the capture, releases are clean."""

    def __init__(self, capture: Capture, first: int = 0) -> None:
        try:
            self.presses, self.releases = capture_bursts(capture)
        except ValueError:  # nothing in it rests for so long: it is taken to press cleanly
            self.presses, self.releases = ((),), ()
        self.first = first

    def burst(self, pressed: bool, number: int) -> Burst:
        """See `Bouncer.burst`."""
        bursts = self.presses if pressed else self.releases
        return bursts[(self.first + number // 2) % len(bursts)] if bursts else ()
