"""What a contact's bounces amount to, over many presses and releases."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from ..document import Bench, ContactLine
from ..document.parts import Capture
from ..switches import SWITCH_CLASSES
from .bounce import Bouncer, Burst, CaptureBouncer, SampleBouncer

SAMPLE = 1000


@dataclass(frozen=True)
class BounceFigures:
    """Largest values over `sample` moves each way, in µs; `modelled` says that no real contact was measured."""

    sample: int
    modelled: bool
    longest_gap_us: int
    longest_settle_us: int
    press_settle_us: int
    release_settle_us: int
    most_bounces: int

    @property
    def bounces(self) -> bool:
        """Whether it bounces at all."""
        return self.longest_settle_us > 0


def _gap(burst: Burst) -> int:
    return max((later - earlier for earlier, later in zip((0, *burst), burst, strict=False)), default=0)


def _figures(presses: list[Burst], releases: list[Burst], modelled: bool) -> BounceFigures:
    press_settle = max((burst[-1] for burst in presses if burst), default=0)
    release_settle = max((burst[-1] for burst in releases if burst), default=0)
    every = presses + releases
    return BounceFigures(
        sample=len(presses),
        modelled=modelled,
        longest_gap_us=max(map(_gap, every), default=0),
        longest_settle_us=max(press_settle, release_settle),
        press_settle_us=press_settle,
        release_settle_us=release_settle,
        most_bounces=max((len(burst) // 2 for burst in every), default=0),
    )


@lru_cache(maxsize=64)
def _modelled(switch: str) -> BounceFigures:
    source = source_bouncer(switch)
    presses = [source.burst(True, number) for number in range(SAMPLE)]
    releases = [source.burst(False, SAMPLE + number) for number in range(SAMPLE)]
    return _figures(presses, releases, modelled=True)


def source_bouncer(source: str | Capture) -> Bouncer:
    """A fresh bouncer for a class of switch, by id, or a capture, to draw a sample from; the same for every bench."""
    return SampleBouncer(SWITCH_CLASSES[source], source) if isinstance(source, str) else CaptureBouncer(source)


def contact_source(bench: Bench, part: ContactLine) -> str | Capture:
    """What decides how a part bounces: a class of switch, by id, or a capture."""
    return part.contact.switch if part.contact.kind == "model" else bench.capture(part.contact.capture)


def bounce_figures(bench: Bench, part: ContactLine) -> BounceFigures:
    """The part's bounces in numbers."""
    source = contact_source(bench, part)
    if isinstance(source, str):
        return _modelled(source)
    replay = CaptureBouncer(source)
    return _figures(list(replay.presses), list(replay.releases), modelled=False)


PERCENTILES = (50, 90, 95, 99)
SURE = 0.95


@dataclass(frozen=True)
class Spread:
    """How one figure is spread over `number` moves, in µs: percentiles by nearest rank, the longest, and a histogram
    as (from µs, to µs, how many)."""

    number: int
    percentiles: dict[int, int]
    longest: int
    bins: tuple[tuple[int, int, int], ...]


@dataclass(frozen=True)
class Distribution:
    """A contact's bounces over all presses and all releases. `unseen` is the share of moves that may be longer than
    the longest seen, with 95 % confidence: with n moves, 1 − 0.05^(1/n), about 3/n (the rule of three)."""

    modelled: bool
    press_settle: Spread
    release_settle: Spread
    press_gap: Spread
    release_gap: Spread
    bounces: tuple[int, int]
    unseen: float


def _spread(values: list[int], reach_us: int, bins: int = 24) -> Spread:
    ranked = sorted(values)
    count = len(ranked)
    percentiles = {p: ranked[max(0, -(-count * p // 100) - 1)] if ranked else 0 for p in PERCENTILES}
    width = max(-(-max(reach_us, 1) // bins), 1)
    counted = [0] * bins
    for value in ranked:
        counted[min(value // width, bins - 1)] += 1
    rows = tuple((n * width, (n + 1) * width, many) for n, many in enumerate(counted))
    return Spread(count, percentiles, ranked[-1] if ranked else 0, rows)


def distribution(bench: Bench, part: ContactLine) -> Distribution:
    """Settle times, longest gaps and bounces of every press and release, of the capture or of the model's sample."""
    return distribution_of(contact_source(bench, part))


@lru_cache(maxsize=64)
def distribution_of(source: str | Capture) -> Distribution:
    """The same of a class of switch, by id, or of a capture."""
    bouncer = source_bouncer(source)
    if isinstance(bouncer, CaptureBouncer):
        presses, releases = list(bouncer.presses), list(bouncer.releases)
    else:
        presses = [bouncer.burst(True, number) for number in range(SAMPLE)]
        releases = [bouncer.burst(False, SAMPLE + number) for number in range(SAMPLE)]
    settles = [[burst[-1] if burst else 0 for burst in moves] for moves in (presses, releases)]
    gaps = [[_gap(burst) for burst in moves] for moves in (presses, releases)]
    reach_us = max((value for row in settles for value in row), default=1)
    return Distribution(
        modelled=isinstance(source, str),
        press_settle=_spread(settles[0], reach_us),
        release_settle=_spread(settles[1], reach_us),
        press_gap=_spread(gaps[0], reach_us),
        release_gap=_spread(gaps[1], reach_us),
        bounces=(
            max((len(burst) // 2 for burst in presses), default=0),
            max((len(burst) // 2 for burst in releases), default=0),
        ),
        unseen=1 - (1 - SURE) ** (1 / max(len(presses) + len(releases), 1)),
    )
