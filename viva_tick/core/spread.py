"""Work in pieces, over all processors or a cluster. A piece is a pure function of what it is given, so that it can be
done anywhere, again, and in any order."""

from __future__ import annotations

import logging
import os
import signal
import socket
import sys
import threading
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import FIRST_COMPLETED, Executor, Future, ProcessPoolExecutor, wait
from contextlib import contextmanager
from dataclasses import dataclass, field
from multiprocessing import get_context
from multiprocessing.context import BaseContext
from typing import Any, TypeVar
from urllib.parse import urlsplit

from .version import core_version

Result = TypeVar("Result")

AHEAD = 2  # pieces that each hand has before it, so that none waits for the next
WAIT_S = 10  # for a cluster
RETRIES = 5  # of a piece whose worker was lost


class NoHands(Exception):
    """Those who were to do the work cannot, and why."""


def processors() -> int:
    """How many processes can run at once here."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


@dataclass(frozen=True)
class Hands:
    """Who does the work: so many processes of this machine (one: the one that asks), or a cluster by its address."""

    processes: int = field(default_factory=processors)
    address: str = ""

    @property
    def alone(self) -> bool:
        """Whether it is all done here, one after another."""
        return self.processes < 2 and not self.address


ALONE = Hands(1)


def _unheard() -> None:
    """Ctrl-C is for who asked: what is begun is finished."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def checked(version: str, work: Callable[..., Result], *piece: Any) -> Result:
    """A piece, in another process. Raises `NoHands` where the program there is another one than here: its results
    would be other ones, too."""
    if version != core_version():
        raise NoHands("A worker of that cluster has another version of Viva Tick: install this one there.")
    return work(*piece)


def _knock(address: str) -> None:
    """OSError where nobody listens, which the client itself would go on trying; ValueError for no address."""
    where = urlsplit(address if "://" in address else f"tcp://{address}")
    if not where.hostname or not where.port:
        raise ValueError("write it as tcp://192.168.0.2:8786")
    socket.create_connection((where.hostname, where.port), WAIT_S).close()


def _context() -> BaseContext:
    """How processes begin: forked where there is nothing but this thread, so that nothing is loaded anew; else from
    nothing, for one that is forked amid threads may wait for what another of them held."""
    forks = sys.platform == "linux" and threading.active_count() == 1
    return get_context("fork" if forks else "spawn")


@contextmanager
def _executor(hands: Hands) -> Iterator[tuple[Executor, int]]:
    """Who takes pieces, and how many at a time."""
    if not hands.address:
        with ProcessPoolExecutor(hands.processes, mp_context=_context(), initializer=_unheard) as pool:
            yield pool, hands.processes
        return
    try:
        from distributed import Client
    except ImportError:
        raise NoHands("A cluster needs one more package: pip install 'viva-tick[cluster]'.") from None
    try:
        _knock(hands.address)
        client: Any = Client(hands.address, timeout=WAIT_S, set_as_default=False)  # type: ignore[no-untyped-call]
    except (OSError, ValueError, TypeError) as error:
        raise NoHands(f"No cluster answers at {hands.address}: {error}") from None
    logging.getLogger("distributed").setLevel(logging.CRITICAL)  # what matters is said in a sentence
    with client:
        yield client.get_executor(retries=RETRIES, pure=False), max(sum(client.nthreads().values()), 1)


# What takes the place of a result, by its kind (the cluster's own are not known here), and what to say of it.
LOST = {
    "BrokenProcessPool": "A process of the work was ended from outside, perhaps for want of memory: try fewer --hands.",
    "KilledWorker": "Workers of the cluster die at it again and again; look at their logs.",
    "ModuleNotFoundError": "A worker of that cluster has no Viva Tick: install this version there.",
    "CancelledError": "The cluster has gone, with what it was at.",
    "FutureCancelledError": "The cluster has gone, with what it was at.",
}


def _result(done: Future[Result]) -> Result:
    try:
        return done.result()
    except Exception as error:
        if said := LOST.get(type(error).__name__):
            raise NoHands(said) from None
        raise


def spread(
    hands: Hands,
    work: Callable[..., Result],
    pieces: Iterable[tuple[Any, ...]],
    go_on: Callable[[], bool] = lambda: True,
) -> Iterator[tuple[int, Result]]:
    """(place, what came of it) of every piece, in the order in which they are done. `work` is a function of a module,
    and a piece what it is given. When `go_on` says no, no more are begun, and what is begun comes still."""
    left = enumerate(pieces)
    if hands.alone:
        for place, piece in left:
            yield place, work(*piece)
            if not go_on():
                return
        return
    version = core_version()
    with _executor(hands) as (executor, many):
        going: dict[Future[Result], int] = {}
        more = True
        try:
            while True:
                while more and len(going) < AHEAD * many:
                    place, piece = next(left, (-1, ()))
                    if place < 0:
                        more = False
                        break
                    going[executor.submit(checked, version, work, *piece)] = place
                if not going:
                    return
                for one in wait(going, return_when=FIRST_COMPLETED).done:
                    yield going.pop(one), _result(one)
                if more and not go_on():
                    more = False
                    for one in [one for one in going if one.cancel()]:
                        del going[one]
        finally:
            for one in going:
                one.cancel()
