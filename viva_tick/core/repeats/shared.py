"""Many runs, over all processors or a cluster."""

from __future__ import annotations

from collections.abc import Callable

from ..document import Bench, Scenario, bench_from_text, bench_text
from ..spread import Hands, spread
from .counted import Tally, repeat

PIECE, MOST, PIECES = 25, 1_000, 2_000  # runs at least and at most in a piece; so many pieces, where these allow it


def _piece(text: str, name: str, begin: int, end: int) -> Tally:
    """Numbers from `begin` to before `end`."""
    bench = bench_from_text(text)
    return repeat(bench, bench.scenario(name), range(begin, end))


def repeated_by_all(
    bench: Bench, scenario: Scenario, runs: int, hands: Hands, go_on: Callable[[int], bool] = lambda done: True
) -> Tally:
    """Numbers 0 to before `runs`. `go_on` is told how many are done and says whether to; what is done by then stays
    counted. Raises `NoHands`."""
    done, text = Tally(), bench_text(bench)
    size = min(max(runs // PIECES, PIECE), MOST)
    pieces = ((text, scenario.name, begin, min(begin + size, runs)) for begin in range(0, runs, size))
    for _, piece in spread(hands, _piece, pieces, lambda: go_on(done.runs)):
        done.merge(piece)
    return done
