"""Many runs, over all processors."""

from __future__ import annotations

import signal
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from multiprocessing import get_context

from ..document import Bench, Scenario, bench_from_text, bench_text
from .counted import Tally, repeat

PIECE = 25  # runs


def _unheard() -> None:
    """Ctrl-C is for who asked: what is begun is finished."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def _piece(text: str, name: str, begin: int, end: int) -> Tally:
    """Numbers from `begin` to before `end`, in another process."""
    bench = bench_from_text(text)
    return repeat(bench, bench.scenario(name), range(begin, end))


def repeated_by_all(
    bench: Bench, scenario: Scenario, runs: int, hands: int, go_on: Callable[[int], bool] = lambda done: True
) -> Tally:
    """Numbers 0 to before `runs`, by so many processes; one does it by itself. `go_on` is told how many are done and
    says whether to; what is done by then stays counted."""
    done = Tally()
    pieces = [(begin, min(begin + PIECE, runs)) for begin in range(0, runs, PIECE)]
    if hands < 2:
        for begin, end in pieces:
            done.merge(repeat(bench, scenario, range(begin, end)))
            if not go_on(done.runs):
                break
        return done
    text = bench_text(bench)
    with ProcessPoolExecutor(hands, mp_context=get_context("spawn"), initializer=_unheard) as pool:
        left = iter(pieces)
        going: set[Future[Tally]] = set()
        more = True
        while True:
            while more and len(going) < 2 * hands:
                piece = next(left, None)
                if piece is None:
                    more = False
                    break
                going.add(pool.submit(_piece, text, scenario.name, *piece))
            if not going:
                return done
            ready, going = wait(going, return_when=FIRST_COMPLETED)
            for one in ready:
                done.merge(one.result())
            more = go_on(done.runs) and more
