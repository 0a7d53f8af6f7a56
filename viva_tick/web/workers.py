"""Processes that do the work, beside the threads that talk to browsers.

The threads of the server read requests and send answers; what lies between runs in processes, one request at a time in
each. So a page that takes long holds up nobody else, the machine's processors are all used, and work without an end is
ended with its process. A browser comes to the same process again while that is free, for it has at hand what that
browser asked for last.

Processes are forked from one that was forked itself before there was any thread, with all that the program loads in it.
"""

from __future__ import annotations

import logging
import os
import pickle
import queue
import signal
import socket
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass, field
from enum import Enum
from io import BytesIO
from multiprocessing.connection import Connection
from typing import Any

Wsgi = Callable[[dict[str, Any], Callable[..., Any]], Iterable[bytes]]
log = logging.getLogger(__name__)

MOST_BASE = 4  # processes for work that is short, one for each processor; begun as they are needed
PREVIEW = "preview"  # what the address of a preview ends in: it can wait
BESIDE = "/sure"  # what that of work beside an edit ends in: it makes room for the next request of its browser
EXTRA = 6  # more than that, while every one of them is at something long
EACH = 3  # of them for one browser at a time
LONG_S = 0.7  # work that has gone on for so long is long, if it did not wait for a processor most of the time
PATIENCE_S = 0.05  # so long a browser waits for the process that knows it, before another will do
MOST_PATIENT_S = 1.0  # so long a preview lets edits of others go before it
LIMIT_S = 60.0  # then it is ended
GRACE_S = 5.0  # from when it was told that its browser has left
IDLE_S = 60.0  # those above the first are let go after so long
EXTRA_S = 5.0  # and after so long, what was there for long work alone
MOST_KNOWN = 2_000  # browsers
ELSEWHERE_S = 2.0  # so long those that are at work are waited for, where one of them may have what is asked for
MOST_KB = 600_000  # one that has grown by so much is let go after its answer


@dataclass(frozen=True)
class Job:
    """A request: what WSGI says of it, in words, and its body."""

    environ: dict[str, str]
    body: bytes


@dataclass(frozen=True)
class Answer:
    """What came of it. `last`: the process that made it is done."""

    status: str
    headers: list[tuple[str, str]]
    body: bytes
    last: bool = False


class Ended(Exception):
    """The work has no answer: it took too long, its browser has left, or its process has died."""


class TooLong(Ended):
    """It took over `LIMIT_S`."""


class Gone(Ended):
    """Its browser has left."""


def answer_of(app: Wsgi, job: Job, gone: Callable[[], bool]) -> Answer:
    """What an application says to a request."""
    said: list[Any] = []

    def start(status: str, headers: list[tuple[str, str]], _error: Any = None) -> Callable[[bytes], None]:
        said[:] = [status, headers]
        return written.append

    written: list[bytes] = []
    given = {
        "wsgi.version": (1, 0), "wsgi.input": BytesIO(job.body), "wsgi.errors": sys.stderr, "wsgi.multithread": False,
        "wsgi.multiprocess": True, "wsgi.run_once": False, "waitress.client_disconnected": gone,
    }  # fmt: skip
    parts = app({**job.environ, **given}, start)
    try:
        written += parts
    finally:
        if close := getattr(parts, "close", None):
            close()
    return Answer(said[0], said[1], b"".join(written))


def _work(connection: Connection, app: Wsgi) -> None:
    """Answer one request after another until nobody is there any more."""

    jobs: queue.SimpleQueue[tuple[int, Job]] = queue.SimpleQueue()
    stopped = 0  # the number of the request whose browser has left

    def listen() -> None:
        nonlocal stopped
        try:
            while True:
                number, job = connection.recv()
                if job is None:
                    stopped = number
                else:
                    jobs.put((number, job))
        except (EOFError, OSError, pickle.UnpicklingError):
            os._exit(0)

    connection.send(os.getpid())
    began_kb = _most_kb()
    threading.Thread(target=listen, daemon=True).start()
    while True:
        number, job = jobs.get()
        answer = answer_of(app, job, lambda number=number: stopped == number)  # type: ignore[misc]
        last = _most_kb() - began_kb > MOST_KB  # what it was forked with is not its own
        connection.send(Answer(answer.status, answer.headers, answer.body, last))
        if last:
            os._exit(0)


def _most_kb() -> int:
    """The most memory that this process has had so far."""
    import resource  # not everywhere, and neither are processes

    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // (1024 if sys.platform == "darwin" else 1)


def _processor_s(pid: int) -> tuple[float, bool]:
    """How long a process has had a processor, and whether it wants one now; where the machine does not say it, how long
    anything has gone on."""
    try:
        with open(f"/proc/{pid}/stat", "rb") as file:
            fields = file.read().rpartition(b")")[2].split()
        return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK"), fields[0] == b"R"
    except (OSError, ValueError, IndexError):
        return time.monotonic(), True


def _fork_when_told(told: socket.socket, app: Wsgi) -> None:
    """Fork a process for each end of a line that comes; until nobody is there any more."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a key press is for the server
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    while True:
        try:
            _, ends, _, _ = socket.recv_fds(told, 1, 1)
        except OSError:
            ends = []
        if not ends:
            os._exit(0)
        if not os.fork():
            try:
                told.close()
                signal.signal(signal.SIGCHLD, signal.SIG_DFL)
                _work(Connection(ends[0]), app)
            finally:
                os._exit(1)
        os.close(ends[0])


@dataclass(eq=False)
class Worker:
    """One process: its line, whether it is there for a while alone, whose work it does (empty: nobody's) and since when
    (s), how many it has done."""

    line: Connection
    pid: int
    extra: bool = False
    busy: str = ""
    since_s: float = 0.0
    number: int = 0
    processor_s: float = 0.0  # when it began with it
    yields: bool = False  # what it is at makes room for another request of the same browser
    _sending: threading.Lock = field(default_factory=threading.Lock)

    def tell(self, job: Job | None) -> None:
        """Send it its work, or that nobody waits for that any more; from one thread or another."""
        with self._sending:
            self.line.send((self.number, job))

    def begin(self, who: str, now_s: float, yields: bool = False) -> None:
        """It has work now."""
        self.busy, self.since_s, self.processor_s = who, now_s, _processor_s(self.pid)[0]
        self.yields = yields

    def make_room(self) -> None:
        """It is told that nobody waits for what it is at."""
        self.yields = False
        with suppress(OSError):  # it has just died; who asked it will see
            self.tell(None)

    def is_long(self, now_s: float) -> bool:
        """Whether what it is at takes long by itself, not for want of a processor: one more would make that worse."""
        had_s, wants = _processor_s(self.pid)
        return now_s - self.since_s >= LONG_S and (not wants or had_s - self.processor_s >= LONG_S / 2)


class _Then(Enum):
    """What becomes of a process after its answer."""

    KEEP = "it is kept for the next"
    LET_GO = "it ends by itself, or has"
    KILL = "it is ended"


@dataclass(eq=False)
class _Waiting:
    who: str
    since_s: float
    patient: bool = False
    yields: bool = False
    given: threading.Event = field(default_factory=threading.Event)
    worker: Worker | None = None

    def turn(self, now_s: float) -> tuple[bool, float]:
        """What it stands in line by."""
        return self.patient and now_s - self.since_s < MOST_PATIENT_S, self.since_s


class Pool:
    """The processes that do an application's work. To be made before there is any thread. `before`: what is done first
    in the process that they are forked from. OSError where the machine gives no process."""

    def __init__(
        self,
        app: Wsgi,
        base: int | None = None,
        limit_s: float = LIMIT_S,
        before: Callable[[], None] = lambda: None,
    ) -> None:
        self.base = base or min(os.cpu_count() or 1, MOST_BASE)
        self.limit_s = limit_s
        self.workers: list[Worker] = []
        self._waiting: list[_Waiting] = []
        self._home: dict[str, Worker] = {}  # by browser, the process that knows it; the newest last
        self._barren = False  # no more processes are to be had
        self._lock = threading.Lock()
        self._tell, told = socket.socketpair()
        if not os.fork():
            try:
                self._tell.close()
                before()
                _fork_when_told(told, app)
            finally:
                os._exit(1)
        told.close()

    @staticmethod
    def possible() -> bool:
        """Whether this machine can fork."""
        return hasattr(os, "fork") and hasattr(socket, "recv_fds")

    def answer(self, job: Job, who: str, gone: Callable[[], bool] = lambda: False) -> Answer:
        """The answer to a browser's request, when a process has it. Raises `Ended`; OSError where there is no process
        any more."""
        yields = job.environ.get("PATH_INFO", "").endswith(BESIDE)
        worker = self._take(who, gone, job.environ.get("QUERY_STRING") == PREVIEW, yields)
        return self._asked(worker, job, gone)

    def elsewhere(self, job: Job, who: str, told: Answer) -> Answer:
        """The same asked of all, each when it is free, until one does not say “404”: what one has only in memory, or
        has yet to put on disk. Those that stay busy are not waited for longer than `ELSEWHERE_S`."""
        asked: list[Worker] = []
        until_s = time.monotonic() + ELSEWHERE_S
        while True:
            with self._lock:
                others = [worker for worker in self.workers if worker not in asked]
                free = next((worker for worker in others if not worker.busy), None)
                if free is not None:
                    free.begin(who, time.monotonic())
            if free is not None:
                asked.append(free)
                try:
                    told = self._asked(free, job, lambda: False)
                except Ended:
                    continue
                if not told.status.startswith("404"):
                    return told
            elif not others or time.monotonic() > until_s:
                return told
            else:
                time.sleep(0.02)

    def renew(self) -> None:
        """Let all processes go, each after what it is at: what they have at hand is true no more."""
        with self._lock:
            for worker in list(self.workers):
                self._let_go(worker)

    def _take(self, who: str, gone: Callable[[], bool], patient: bool, yields: bool) -> Worker:
        mine = _Waiting(who, time.monotonic(), patient, yields)
        with self._lock:
            self._waiting.append(mine)
        try:
            while True:
                with self._lock:
                    self._deal()
                    if self._barren and not self.workers:
                        raise OSError("no process could be begun")
                if mine.given.wait(0.05):
                    assert mine.worker is not None
                    return mine.worker
                if gone():
                    raise Gone
                if time.monotonic() - mine.since_s > self.limit_s:
                    raise TooLong
        except BaseException:
            with self._lock:
                if mine in self._waiting:
                    self._waiting.remove(mine)
                elif mine.worker:
                    mine.worker.busy = ""
            raise

    def _deal(self) -> None:
        """Give those that wait, the longest first, the processes that will do; a preview when no edit waits, unless it
        has waited for long itself."""
        now_s = time.monotonic()
        for one in sorted(self._waiting, key=lambda one: one.turn(now_s)):
            worker = self._for(one, now_s)
            if worker is not None:
                worker.begin(one.who, now_s, one.yields)
                one.worker = worker
                self._waiting.remove(one)
                one.given.set()

    def _for(self, one: _Waiting, now_s: float) -> Worker | None:
        if sum(worker.busy == one.who for worker in self.workers) >= EACH:
            return None
        home = self._home.get(one.who)
        if home is not None and not home.busy:
            return home
        if home is not None and home.yields and home.busy == one.who:
            home.make_room()
        if home is not None and now_s - max(one.since_s, home.since_s) < PATIENCE_S:
            return None
        free = [worker for worker in self.workers if not worker.busy]
        if not free and len(self.workers) < self.base + EXTRA:
            all_long = all(worker.is_long(now_s) for worker in self.workers)
            if len(self.workers) < self.base or all_long:
                free = self._made(extra=len(self.workers) >= self.base)
        if not free:
            return None
        known = Counter(map(id, self._home.values()))
        chosen = min(free, key=lambda worker: (worker.extra, known[id(worker)]))
        if chosen.extra:
            return chosen  # for this once: it is let go when the long work is done
        if home is None or known[id(chosen)] + 1 < known[id(home)]:  # it moves to where there is more room
            self._home[one.who] = chosen
            if len(self._home) > MOST_KNOWN:
                del self._home[next(iter(self._home))]
        return chosen

    def _made(self, extra: bool) -> list[Worker]:
        """One more; none where the machine gives none."""
        ours, theirs = socket.socketpair()
        line = Connection(ours.detach())
        try:
            socket.send_fds(self._tell, [b"1"], [theirs.fileno()])
            theirs.close()
            if not line.poll(10):
                raise OSError("no process was begun")
            worker = Worker(line, line.recv(), extra)
        except (OSError, EOFError) as error:
            log.warning("no process could be begun: %s", error)
            self._barren = True
            return []
        self.workers.append(worker)
        return [worker]

    def _asked(self, worker: Worker, job: Job, gone: Callable[[], bool]) -> Answer:
        """Its answer. The process is given back, or let go, whatever comes of it."""
        worker.number += 1
        told_s: float | None = None
        after = _Then.KILL
        try:
            worker.tell(job)
            while not worker.line.poll(0.2):
                now_s = time.monotonic()
                if told_s is None and gone():
                    worker.tell(None)
                    told_s = now_s
                if told_s is not None and now_s - told_s > GRACE_S:
                    raise Gone
                if now_s - worker.since_s > self.limit_s:
                    log.warning("work of over %g s was ended: %s", self.limit_s, job.environ.get("PATH_INFO"))
                    raise TooLong
            answer = worker.line.recv()
            assert isinstance(answer, Answer)
            after = _Then.LET_GO if answer.last else _Then.KEEP
            return answer
        except (EOFError, BrokenPipeError, ConnectionResetError):
            after = _Then.LET_GO
            log.warning("a process died at %s", job.environ.get("PATH_INFO"))
            raise Ended from None
        finally:
            self._give_back(worker, after)

    def _give_back(self, worker: Worker, after: _Then) -> None:
        with self._lock:
            worker.busy = ""
            worker.since_s = now_s = time.monotonic()
            if after is _Then.KILL:
                with suppress(ProcessLookupError):  # it has ended in this very moment
                    os.kill(worker.pid, signal.SIGKILL)  # it may be at something without an end
            if after is not _Then.KEEP or worker not in self.workers:
                self._let_go(worker)
            for one in [one for one in self.workers[1:] if not one.busy]:
                if now_s - one.since_s > (EXTRA_S if one.extra else IDLE_S):
                    self._let_go(one)
            self._deal()

    def _let_go(self, worker: Worker) -> None:
        """It ends as its line does."""
        if worker in self.workers:
            self.workers.remove(worker)
        self._home = {who: one for who, one in self._home.items() if one is not worker}
        if not worker.busy:
            worker.line.close()
