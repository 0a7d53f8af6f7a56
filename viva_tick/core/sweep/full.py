"""Every method on one contact, over as many presses as are asked for: what the screen does with a smaller sample."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache

from ..contacts import bounce_figures
from ..debounce import METHODS
from ..document import Bench, TapTiming, bench_from_text, bench_text
from ..program import idle_pass_us
from ..spread import ALONE, Hands, spread
from .advice import Advice, advise, pin_source, tap_style
from .evaluate import Swept, evaluate
from .trials import make_trials

INTERVALS = 60


@dataclass(frozen=True)
class FullSweep:
    """One method's sweep, and the safe window in it, if there is one."""

    method: str
    swept: Swept
    advice: Advice | None


def full_sweep(
    bench: Bench,
    input_id: str,
    presses: int,
    longest_pass_us: int | None = None,
    hands: Hands = ALONE,
    go_on: Callable[[], bool] = lambda: True,
) -> Iterator[FullSweep]:
    """The sweeps of all methods as they are done; the passes as long as those of an idle loop, or as long as is said.
    Two taps make a trial, so an odd number is rounded up. `go_on` is asked
    after each. Raises `NoHands`."""
    text = bench_text(bench)
    pieces = [(text, input_id, presses, longest_pass_us, one.id) for one in METHODS.values() if one.has_interval]
    for _, done in spread(hands, _piece, pieces, go_on):
        yield done


@lru_cache(maxsize=4)
def _bench(text: str) -> Bench:
    return bench_from_text(text)


def _piece(text: str, input_id: str, presses: int, longest_pass_us: int | None, method: str) -> FullSweep:
    """One method's sweep."""
    bench = _bench(text)
    line = bench.contact(input_id)
    style = tap_style(bench, input_id)
    period_us = longest_pass_us or idle_pass_us(bench)
    trials = make_trials(pin_source(bench, line), period_us, style, -(-presses // 2))
    reach_us = max(bounce_figures(bench, line).longest_settle_us * 3 // 2, style.hold_us * 5 // 4)
    step_us = max(-(-reach_us // INTERVALS // 1000) * 1000, 1000)
    tolerated = bench.taps.get(input_id, TapTiming()).per_thousand
    swept = evaluate(METHODS[method], trials, [n * step_us for n in range(INTERVALS + 1)])
    return FullSweep(method, swept, advise(swept, tolerated))
