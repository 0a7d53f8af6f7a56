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
