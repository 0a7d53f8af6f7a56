"""Before there are threads and processes: who comes early is answered between two pages that are looked at beforehand.

The server listens as soon as there is an application, and says so. Until the others are there, one thread reads what
comes and answers what takes little: the benches, a station, what belongs to a page. All else stands in the server's
line until it can be sent to a process, for nothing may be begun that would be lost, or halved, as processes are forked.
"""

from __future__ import annotations

import logging
import re
import threading
import time
from collections.abc import Callable, Iterable
from typing import Any

from waitress import wasyncore
from waitress.server import create_server
from waitress.task import ThreadedTaskDispatcher

from .stations import STATIONS
from .workers import Wsgi

EARLY = re.compile(rf"/|/static/.+|/benches/\d+/({'|'.join(STATIONS)})")
MOST_S = 0.3  # so long visitors are answered, before more is made ready

# Nearly all of them wait for a process; where there are none, a page that takes long leaves room for others.
MOST_THREADS = 64
SERVER = {
    "connection_limit": 1000,  # those that say nothing, too
    "channel_timeout": 30,  # s; then they are let go
    "cleanup_interval": 10,
    "asyncore_use_poll": True,
    "channel_request_lookahead": 1,  # so that it is seen when a visitor leaves
}


class _Line(ThreadedTaskDispatcher):  # type: ignore[misc]
    """Requests in line, and the threads that answer them: none before it is opened, then as many as were ever needed at
    a time, for each takes memory and a moment."""

    def __init__(self) -> None:
        super().__init__()
        self.opened = False
        self._growing = threading.Lock()

    def add_task(self, task: Any) -> None:
        """One more in line."""
        super().add_task(task)
        if self.opened:
            self.open()

    def open(self) -> None:
        """There is a thread for each in line from now on, `MOST_THREADS` at most."""
        self.opened = True
        with self._growing:
            wanted = min(self.active_count + len(self.queue), MOST_THREADS)
            if wanted > len(self.threads):
                self.set_thread_count(wanted)


class Opening:
    """A server that listens. OSError where it cannot."""

    def __init__(self, app: Wsgi, host: str, port: int) -> None:
        logging.getLogger("waitress").setLevel(logging.WARNING)
        logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # that somebody waits for a thread is no news
        self._answers = app
        self._sockets: dict[int, Any] = {}
        self._line = _Line()
        self._server = create_server(
            self, map=self._sockets, _dispatcher=self._line, host=host, port=port, ident=None, **SERVER
        )

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        return self._answers(environ, start)

    @property
    def port(self) -> int:
        """Where it listens."""
        several = getattr(self._server, "effective_listen", None)  # of a name that stands for several addresses
        return int(several[0][1] if several else self._server.effective_port)

    def answer_early(self, wait_s: float = 0.0) -> None:
        """Answer those who have come, or come within `wait_s`, if it takes little; for `MOST_S` more at most."""
        wait_until_s = time.monotonic() + wait_s
        there = -1  # so many are connected
        while (now_s := time.monotonic()) < wait_until_s + MOST_S:
            wasyncore.loop(timeout=max(0.0, wait_until_s - now_s), use_poll=True, map=self._sockets, count=1)
            served = self._answer_line()
            if not served and len(self._sockets) == there and now_s >= wait_until_s:
                return
            there = len(self._sockets)

    def _answer_line(self) -> bool:
        """Whether anybody was answered of those in line."""
        served = False
        for _ in range(len(self._line.queue)):
            visit = self._line.queue.popleft()
            request = visit.requests[0]
            if request.error or (request.command in ("GET", "HEAD") and EARLY.fullmatch(request.path)):
                visit.service()
                served = True
            else:
                self._line.queue.append(visit)
        return served

    def leave(self) -> None:
        """In a process that was forked: nobody is talked to from here."""
        wasyncore.close_all(self._sockets, ignore_all=True)

    def run(self, app: Wsgi) -> None:
        """From now on threads call this application, for all who come; until interrupted."""
        self._answers = app
        self._line.open()
        self._server.run()

    def close(self) -> None:
        """Listen no more."""
        self._server.close()
