"""Runs cached by the hash of document, scenario, seed and core; the newest also in memory."""

from __future__ import annotations

import logging
import threading
import zlib
from collections import OrderedDict
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict
from datetime import UTC, datetime

from pydantic_core import from_json, to_json
from sqlalchemy import Engine, bindparam, delete, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.exc import SQLAlchemyError

from ..core.contacts import Move
from ..core.engine import Run, Trace
from .tables import RUN

log = logging.getLogger(__name__)
IN_MEMORY = 32
CHANGES_IN_MEMORY = 15_000  # of more than `FEW`; and of those
FEW = 3
CHANGES_OF_FEW = 300_000
ON_DISK = 400

# Asked at every edit, so that they are made once. Keys go by their order, so that an index finds those that begin so.
_ONE = select(RUN.c.run).where(RUN.c.key == bindparam("key"))
_BEGINNING = select(RUN.c.key, RUN.c.run).where(RUN.c.key.between(bindparam("beginning"), bindparam("end")))


def pack_run(run: Run) -> bytes:
    """A run as bytes."""
    moves = {part: [asdict(move) for move in moves] for part, moves in run.moves.items()}
    head = [run.scenario, run.seed, run.idle_pass_us, run.stopped, moves, run.boots, run.trace.data()]
    return zlib.compress(to_json(head, inf_nan_mode="constants"), 1)


def unpack_run(raw: bytes) -> Run:
    """The run that `pack_run` packed."""
    scenario, seed, idle_pass_us, stopped, moves, boots, trace = from_json(zlib.decompress(raw))
    return Run(
        scenario=scenario,
        seed=seed,
        trace=Trace.from_data(trace),
        moves={part: tuple(Move(**move) for move in rows) for part, rows in moves.items()},
        idle_pass_us=idle_pass_us,
        stopped=stopped,
        boots=tuple((began, ready) for began, ready in boots),
    )


class Runs:
    """The cache. Safe to use from several threads."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._recent: OrderedDict[str, Run] = OrderedDict()
        self._lock = threading.Lock()
        self._later = ThreadPoolExecutor(1, "runs")

    def get(self, key: str) -> Run | None:
        """The run under that key, or None."""
        with self._lock:
            if key in self._recent:
                self._recent.move_to_end(key)
                return self._recent[key]
        with self.engine.connect() as connection:
            raw = connection.scalar(_ONE, {"key": key})
        if raw is None:
            return None
        try:
            run = unpack_run(raw)
        except (zlib.error, ValueError, TypeError, KeyError) as error:
            log.warning("A run that was kept cannot be read (%s): it is run again.", error)
            with self.engine.begin() as connection:
                connection.execute(delete(RUN).where(RUN.c.key == key))
            return None
        self.remember(key, run)
        return run

    def remember(self, key: str, run: Run) -> None:
        """Keep a run in memory only: for previews, which are many and short-lived."""
        with self._lock:
            self._recent[key] = run
            self._recent.move_to_end(key)
            while len(self._recent) > 1 and self._too_much():
                self._recent.popitem(last=False)

    def _too_much(self) -> bool:
        changes = sum(run.trace.changes for run in self._recent.values())
        most = CHANGES_OF_FEW if len(self._recent) <= FEW else CHANGES_IN_MEMORY
        return len(self._recent) > IN_MEMORY or changes > most

    def put(self, key: str, run: Run) -> None:
        """Keep a run on disk, too, a moment later: nobody waits for that, and a run that is lost is run again."""
        self.remember(key, run)
        self._later.submit(self._put, key, run)

    def settle(self) -> None:
        """Wait until all that was put is on disk."""
        self._later.submit(lambda: None).result()

    def close(self) -> None:
        """Put what is left on disk, and have no thread until something is put again."""
        later, self._later = self._later, ThreadPoolExecutor(1, "runs")
        later.shutdown()

    def note(self, key: str, said: bytes, instead_of: Iterable[str] = ()) -> None:
        """Keep what was found out of a run, under a key that begins with the run's; it takes the place of others."""
        self._put_row(key, said, instead_of)

    def notes(self, beginning: str) -> dict[str, bytes]:
        """What was kept under the keys that begin so, by the rest of the key."""
        with self.engine.connect() as connection:
            rows = connection.execute(_BEGINNING, {"beginning": beginning, "end": f"{beginning}\uffff"})
            return {key.removeprefix(beginning): said for key, said in rows}

    def _put(self, key: str, run: Run) -> None:
        self._put_row(key, pack_run(run))

    def _put_row(self, key: str, raw: bytes, instead_of: Iterable[str] = ()) -> None:
        """The oldest beyond `ON_DISK` are dropped. What cannot be kept is not."""
        now = datetime.now(UTC).replace(tzinfo=None)
        try:
            with self.engine.begin() as connection:
                connection.execute(insert(RUN).values(key=key, run=raw, at=now).on_conflict_do_nothing())
                if others := [one for one in instead_of if one != key]:
                    connection.execute(delete(RUN).where(RUN.c.key.in_(others)))
                keep = select(RUN.c.key).order_by(RUN.c.at.desc()).limit(ON_DISK)
                connection.execute(delete(RUN).where(RUN.c.key.not_in(keep)))
        except SQLAlchemyError as error:
            log.warning("A run could not be kept: %s", error)
