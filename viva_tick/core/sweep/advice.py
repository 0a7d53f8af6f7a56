"""The safe window of a method's interval, and the interval to take."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..at_hand import AtHand
from ..contacts import bounce_figures, contact_source
from ..debounce import METHODS, Method
from ..document import Bench, ContactLine, Press, TapTiming
from ..electrics import circuit_of, filter_of
from .evaluate import Swept, evaluate
from .trials import Filtered, Source, TapStyle, make_trials

POINTS = 61
SCREEN_TRIALS = 750
DEFAULT_TAP = TapStyle()

_SHOWN: AtHand[tuple[Source, str, int, TapStyle, int], Swept] = AtHand(64)  # curves


@dataclass(frozen=True)
class Advice:
    """Where no more presses of the sample are doubled or missed than may be, and what to take in it.

    In µs. The advised interval is twice the window's lower end, but no further than its middle (common practice:
    bounce grows with wear).
    """

    low_us: int
    high_us: int
    advised_us: int


def pin_source(bench: Bench, line: ContactLine) -> Source:
    """What the sweep draws from: how the contact bounces, behind its resistor and capacitor if it has them."""
    source = contact_source(bench, line)
    rc = filter_of(line, bench.the_board)
    return Filtered(source, rc, circuit_of(line, bench.the_board).closed_at_rest) if rc else source


def tap_style(bench: Bench, input_id: str) -> TapStyle:
    """The shortest tap and pause that an input is asked to follow: by its `taps`, or by a scenario that is quicker."""
    asked = bench.taps.get(input_id, TapTiming())
    hold_us, rest_us = asked.hold_us, asked.rest_us
    for scenario in bench.scenarios:
        presses = sorted(
            (stimulus.at_us, stimulus.hold_us)
            for stimulus in scenario.stimuli
            if isinstance(stimulus, Press) and stimulus.input == input_id
        )
        for number, (at_us, held_us) in enumerate(presses):
            hold_us = min(hold_us, held_us)
            if number + 1 < len(presses) and (gap_us := presses[number + 1][0] - at_us - held_us) > 0:
                rest_us = min(rest_us, gap_us)
    return TapStyle(hold_us, rest_us)


def shortest_tap_us(bench: Bench, input_id: str | None = None) -> tuple[int, str, str] | None:
    """(µs, input, scenario) of the shortest press in the scenarios, of one input or of any; None without presses."""
    taps = bench.shortest_taps
    return min(taps.values(), default=None) if input_id is None else taps.get(input_id)


@lru_cache(maxsize=256)
def swept_for(
    source: Source,
    method: str,
    period_us: int,
    style: TapStyle,
    step_us: int,
    points: int,
    trials: int,
    sample_us: int,
) -> Swept:
    """The sweep of a method over `trials` trials of a source, at `points` intervals `step_us` apart."""
    intervals = [number * step_us for number in range(points)]
    return evaluate(METHODS[method], make_trials(source, period_us, style, trials), intervals, sample_us)


QUICK_TRIALS, QUICK_POINTS, QUICK_PERIOD_US = 150, 31, 25


def quick_sweeps(bench: Bench, input_id: str, methods: Iterable[Method], period_us: int) -> Iterator[Swept]:
    """A coarser sweep for setting methods side by side: fewer taps, and a pass length that small edits leave alone."""
    line = bench.contact(input_id)
    source, style = pin_source(bench, line), tap_style(bench, input_id)
    reach_us = max(bounce_figures(bench, line).longest_settle_us * 3 // 2, style.hold_us * 5 // 4)
    period_us = max(round(period_us / QUICK_PERIOD_US), 1) * QUICK_PERIOD_US
    for method in methods:
        step_us = max(-(-min(reach_us, method.limits_us[1]) // (QUICK_POINTS - 1) // 1000) * 1000, 1000)
        yield swept_for(source, method.id, period_us, style, step_us, QUICK_POINTS, QUICK_TRIALS, 1000)


def sweep_input(bench: Bench, input_id: str, method: str, period_us: int) -> Swept:
    """The curves for one input and method: `POINTS` intervals from 0, far enough to show the bounce and the taps."""
    part = bench.contact(input_id)
    style = tap_style(bench, input_id)
    now = bench.debounce(input_id)
    own = now.method == method
    reach_us = max(
        bounce_figures(bench, part).longest_settle_us * 3 // 2,
        style.hold_us * 5 // 4,
        now.interval_us * 5 // 4 if own else 0,
    )
    sample_us = now.sample_us if own else 1000
    limit_us = METHODS[method].limits_us[1] or 60_000
    step_us = -(-min(reach_us, limit_us) // (POINTS - 1) // 1000) * 1000
    source, step_us = pin_source(bench, part), max(step_us, 1000)
    swept = swept_for(source, method, period_us, style, step_us, POINTS, SCREEN_TRIALS, sample_us)
    return _SHOWN.put((source, method, period_us, style, sample_us), swept)


def doubled_rate(bench: Bench, input_id: str, period_us: int) -> tuple[int, int]:
    """(presses counted more than once, presses) of the sample at the interval that the bench has now."""
    debounce = bench.debounce(input_id)
    source, style = pin_source(bench, bench.contact(input_id)), tap_style(bench, input_id)
    at_hand = _SHOWN.get((source, debounce.method, period_us, style, debounce.sample_us))
    if at_hand and (here := np.flatnonzero(at_hand.interval_us == debounce.interval_us)).size:
        return int(at_hand.doubled[here[0]]), at_hand.presses
    swept = _single(source, debounce.method, period_us, style, debounce.interval_us, debounce.sample_us)
    return int(swept.doubled[0]), swept.presses


@lru_cache(maxsize=256)
def _single(source: Source, method: str, period_us: int, style: TapStyle, interval_us: int, sample_us: int) -> Swept:
    return evaluate(METHODS[method], make_trials(source, period_us, style, SCREEN_TRIALS), [interval_us], sample_us)


def advise(swept: Swept, per_thousand: int = 0) -> Advice | None:
    """The widest run of intervals in which no more presses in a thousand are doubled or missed, and the one to take."""
    most = swept.presses * per_thousand // 1000
    clean = [int(d) + int(m) <= most for d, m in zip(swept.doubled, swept.missed, strict=True)]
    best: tuple[int, int] | None = None
    start = None
    for index, good in enumerate([*clean, False]):
        if good and start is None:
            start = index
        elif not good and start is not None:
            if best is None or index - start > best[1] - best[0] + 1:
                best = (start, index - 1)
            start = None
    if best is None:
        return None
    low, high = (int(swept.interval_us[index]) for index in best)
    advised = min(2 * low, (low + high) // 2) // 1000 * 1000
    return Advice(low, high, max(advised, low))
