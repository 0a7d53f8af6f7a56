"""Benches and their revisions: every edit a new revision, undo and redo moves along them."""

from __future__ import annotations

import logging
import zlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import blake2b
from typing import Any, TypeVar

from sqlalchemy import Connection, Engine, Table, bindparam, delete, insert, select, update

from ..core.at_hand import AtHand
from ..core.document import Bench, DocumentError
from .documents import forget, pack, packed_edges, readable, unpack
from .tables import BENCH, CAPTURE, DRILL, REVISION

log = logging.getLogger(__name__)


class NoBench(LookupError):
    """There is no such bench."""


class Stale(Exception):
    """The bench has moved on since the revision an edit was made against; `head` is where it is now."""

    def __init__(self, head: Revision) -> None:
        self.head = head


@dataclass(frozen=True)
class Damaged:
    """A bench whose newest state cannot be read, and the newest one before it that can, if there is one: its number
    and when it was saved (UTC). `words` is what had been changed last."""

    bench_id: int
    id: int
    words: str
    at: datetime
    good_id: int | None
    good_at: datetime | None


class DamagedBench(Exception):
    """What is asked for cannot be read any more."""

    def __init__(self, bench_id: int) -> None:
        self.bench_id = bench_id


@dataclass(frozen=True)
class Revision:
    """A bench as it was saved at an instant (UTC), and how it came to be so."""

    bench_id: int
    id: int
    parent_id: int | None
    bench: Bench
    words: str
    at: datetime
    author: str | None = None


Found = TypeVar("Found")


@dataclass(frozen=True)
class Glance:
    """What was seen of a bench as it is now."""

    bench_id: int
    id: int
    seen: Any


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


_HEAD_ID = select(BENCH.c.head_id).where(BENCH.c.id == bindparam("bench"))
_REVISION = select(REVISION)
_HEADS = _REVISION.join(BENCH, BENCH.c.head_id == REVISION.c.id)
_HEAD = _HEADS.where(BENCH.c.id == bindparam("bench"))
_ONE = _REVISION.where(REVISION.c.id == bindparam("revision"), REVISION.c.bench_id == bindparam("bench"))
_CHILDREN = select(REVISION.c.id).where(REVISION.c.parent_id == bindparam("parent"))
_CHILD = _CHILDREN.order_by(REVISION.c.id.desc()).limit(1)
_EDGES = select(CAPTURE.c.edges).where(
    CAPTURE.c.bench_id == bindparam("bench"), CAPTURE.c.digest == bindparam("digest")
)
_DIGESTS = select(CAPTURE.c.digest).where(CAPTURE.c.bench_id == bindparam("bench"))
_ADD = insert(REVISION)
_MOVE = (
    update(BENCH)
    .where(BENCH.c.id == bindparam("bench"), BENCH.c.head_id == bindparam("from"))
    .values(head_id=bindparam("to"))
)


def _revision(row: Any, connection: Connection) -> Revision:
    """The revision of a row. Raises `DamagedBench`."""
    try:
        bench = unpack(
            row.document, lambda digest: connection.scalar(_EDGES, {"bench": row.bench_id, "digest": digest})
        )
    except (zlib.error, ValueError, TypeError, DocumentError) as error:  # what is not JSON, not text, not a bench
        log.warning("Revision %s of bench %s cannot be read: %s", row.id, row.bench_id, error)
        raise DamagedBench(row.bench_id) from None
    return Revision(row.bench_id, row.id, row.parent_id, bench, row.words, row.at, row.author)


def _head_row(connection: Connection, bench_id: int) -> Any:
    """The row of the revision that is on the screen. Raises `NoBench`."""
    row = connection.execute(_HEAD, {"bench": bench_id}).first()
    if row is None:
        raise NoBench(bench_id)
    return row


def _before(connection: Connection, row: Any) -> Any:
    """The row of the revision before one, or None."""
    return connection.execute(_REVISION.where(REVISION.c.id == row.parent_id)).first() if row.parent_id else None


def _made(connection: Connection, table: Table, row: dict[str, Any]) -> int:
    """Put a row in; its number."""
    return int(connection.execute(insert(table), row).inserted_primary_key[0])  # type: ignore[index]


class Benches:
    """The benches in a database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._newest: AtHand[int, tuple[bytes, ...]] = AtHand(64)  # by bench, the last two that were saved
        self._seen: AtHand[tuple[Any, int, bytes], Any] = AtHand(1_000)  # by who looked, and at what

    def create(
        self, bench: Bench, words: str, demo: str | None = None, before: Sequence[tuple[Bench, str]] = ()
    ) -> Revision:
        """A new bench with its first revision, or with those that came `before` it, the oldest first."""
        with self.engine.begin() as connection:
            bench_id, head_id = _made(connection, BENCH, {"made_at": _now(), "demo": demo}), None
            for one, said in (*before, (bench, words)):
                row = {"bench_id": bench_id, "parent_id": head_id, "document": pack(one), "words": said, "at": _now()}
                head_id = _made(connection, REVISION, row)
                self._put_captures(connection, bench_id, one)
            connection.execute(update(BENCH).where(BENCH.c.id == bench_id).values(head_id=head_id))
            return _revision(connection.execute(_HEAD, {"bench": bench_id}).one(), connection)

    @staticmethod
    def _put_captures(connection: Connection, bench_id: int, bench: Bench) -> None:
        """The edges of those that are not there yet."""
        if not bench.captures:
            return
        there = set(connection.scalars(_DIGESTS, {"bench": bench_id}))
        for digest, capture in {one.digest: one for one in bench.captures}.items():
            if digest not in there:
                row = {"bench_id": bench_id, "digest": digest, "edges": packed_edges(capture)}
                connection.execute(insert(CAPTURE), row)

    def demo_id(self, name: str) -> int | None:
        """The bench made from that demo file, if it is there."""
        with self.engine.connect() as connection:
            return connection.scalar(select(BENCH.c.id).where(BENCH.c.demo == name))

    def heads(self) -> list[Revision | Damaged]:
        """Every bench as it is now, without those of drills, in the order in which they were made; one that cannot be
        read is said to be so."""
        return self._each(_revision)

    def glances(self, look: Callable[[Bench], Any]) -> list[Glance | Damaged]:
        """The same, but of each only what a look at it sees: a function that keeps nothing of it. A bench that stands
        as it stood is not read again."""

        def glance(row: Any, connection: Connection) -> Glance:
            if not isinstance(row.document, bytes):  # put there by another: damaged, and said to be so
                return Glance(row.bench_id, row.id, look(_revision(row, connection).bench))
            key = look, row.bench_id, blake2b(row.document, digest_size=16).digest()
            seen = self._seen.made(key, lambda: look(_revision(row, connection).bench))
            return Glance(row.bench_id, row.id, seen)

        return self._each(glance)

    def _each(self, of: Callable[[Any, Connection], Found]) -> list[Found | Damaged]:
        found: list[Found | Damaged] = []
        drills = select(DRILL.c.bench_id).where(DRILL.c.bench_id.is_not(None))
        with self.engine.connect() as connection:
            for row in connection.execute(_HEADS.where(BENCH.c.id.not_in(drills)).order_by(BENCH.c.id)).all():
                try:
                    found.append(of(row, connection))
                except DamagedBench:
                    found.append(self._damaged(connection, row))
        return found

    @staticmethod
    def _damaged(connection: Connection, row: Any) -> Damaged:
        """What can be said of it."""
        good: Revision | None = None
        before = _before(connection, row)
        while before is not None and good is None:
            try:
                good = _revision(before, connection)
            except DamagedBench:
                before = _before(connection, before)
        good_id, good_at = (good.id, good.at) if good else (None, None)
        return Damaged(row.bench_id, row.id, row.words, row.at, good_id, good_at)

    def damaged(self, bench_id: int) -> Damaged | None:
        """What is wrong with a bench; None where it can be read. Raises `NoBench`."""
        with self.engine.connect() as connection:
            row = _head_row(connection, bench_id)
            try:
                _revision(row, connection)
            except DamagedBench:
                return self._damaged(connection, row)
        return None

    def step_back(self, bench_id: int) -> None:
        """Take a bench that cannot be read back to its newest state that can be. Raises `NoBench`."""
        found = self.damaged(bench_id)
        if found is not None and found.good_id is not None:
            with self.engine.begin() as connection:
                self._move(connection, bench_id, found.id, found.good_id)

    def readable(self, bench_id: int) -> bytes:
        """As much of a bench's newest state as can be read, as text of the document. Raises `NoBench`."""
        with self.engine.connect() as connection:
            return readable(_head_row(connection, bench_id).document)

    def head(self, bench_id: int) -> Revision:
        """The bench as it is now. Raises `NoBench`, `DamagedBench`."""
        with self.engine.connect() as connection:
            return _revision(_head_row(connection, bench_id), connection)

    def revision(self, bench_id: int, revision_id: int) -> Revision | None:
        """One revision of a bench, or None."""
        if not 0 < revision_id < 1 << 63:  # beyond that there is none
            return None
        with self.engine.connect() as connection:
            row = connection.execute(_ONE, {"revision": revision_id, "bench": bench_id}).first()
            return _revision(row, connection) if row is not None else None

    def save(self, bench_id: int, base_id: int, bench: Bench, words: str, author: str | None = None) -> Revision:
        """A new revision on top of `base_id`, by somebody. Raises `Stale` if that is not the head, `NoBench`."""
        row = {"bench_id": bench_id, "parent_id": base_id, "words": words, "at": _now(), "author": author}
        packed = pack(bench)
        with self.engine.connect() as connection:
            head_id = connection.scalar(_HEAD_ID, {"bench": bench_id})
            if head_id != base_id:
                raise Stale(self.head(bench_id))
            added = connection.execute(_ADD, {**row, "document": packed})
            new_id = int(added.inserted_primary_key[0])  # type: ignore[index]
            self._put_captures(connection, bench_id, bench)
            self._move(connection, bench_id, base_id, new_id)
            connection.commit()
        before = self._newest.get(bench_id) or ()
        for old in before[:-1]:
            forget(old)
        self._newest.put(bench_id, (*before[-1:], packed))
        return Revision(bench_id, new_id, base_id, bench, words, row["at"], author)  # type: ignore[arg-type]

    def _move(self, connection: Connection, bench_id: int, from_id: int, to_id: int) -> None:
        """Move the head, unless someone else has moved it first."""
        moved = connection.execute(_MOVE, {"bench": bench_id, "from": from_id, "to": to_id})
        if moved.rowcount != 1:
            connection.rollback()
            raise Stale(self.head(bench_id))

    def undo(self, bench_id: int, base_id: int) -> Revision:
        """Back to the parent of the head; the head itself where there is none. Raises `Stale`, `NoBench`."""
        return self._step(bench_id, base_id, back=True)

    def redo(self, bench_id: int, base_id: int) -> Revision:
        """Forward to the newest child of the head; the head itself where there is none. Raises as `undo`."""
        return self._step(bench_id, base_id, back=False)

    def _step(self, bench_id: int, base_id: int, back: bool) -> Revision:
        head = self.head(bench_id)
        if head.id != base_id:
            raise Stale(head)
        with self.engine.connect() as connection:
            to_id = head.parent_id if back else connection.scalar(_CHILD, {"parent": head.id})
            if to_id is None:
                return head
            self._move(connection, bench_id, base_id, to_id)
            connection.commit()
        target = self.revision(bench_id, to_id)
        assert target is not None
        return target

    def can_redo(self, revision: Revision) -> bool:
        """Whether something was undone that can be done again."""
        with self.engine.connect() as connection:
            return connection.scalar(_CHILD, {"parent": revision.id}) is not None

    def words_since(self, bench_id: int, base_id: int) -> list[str]:
        """What changed from a revision to the head, newest last; empty if the head does not descend from it."""
        said: list[str] = []
        with self.engine.connect() as connection:
            row = _head_row(connection, bench_id)
            while row is not None and row.id != base_id:
                said.append(row.words)
                row = _before(connection, row)
            return said[::-1] if row is not None else []

    def history(self, bench_id: int, most: int = 50) -> list[tuple[int, datetime, str]]:
        """(revision, instant, what changed) from the head back."""
        rows: list[tuple[int, datetime, str]] = []
        with self.engine.connect() as connection:
            row = _head_row(connection, bench_id)
            while row is not None and len(rows) < most:
                rows.append((row.id, row.at, row.words))
                row = _before(connection, row)
        return rows

    def tree(self, bench_id: int, most: int = 1000) -> list[tuple[int, int | None, datetime, str]]:
        """(revision, the one before it, instant, what changed) of all revisions, those that were undone too, newest
        first."""
        columns = (REVISION.c.id, REVISION.c.parent_id, REVISION.c.at, REVISION.c.words)
        asked = select(*columns).where(REVISION.c.bench_id == bench_id).order_by(REVISION.c.id.desc()).limit(most)
        with self.engine.connect() as connection:
            return [(row.id, row.parent_id, row.at, row.words) for row in connection.execute(asked)]

    def go_to(self, bench_id: int, base_id: int, target_id: int) -> Revision:
        """The bench as it was at any of its revisions; what came after stays in its log. Raises `Stale`, `NoBench`,
        `LookupError` where there is no such revision."""
        head = self.head(bench_id)
        if head.id != base_id:
            raise Stale(head)
        target = self.revision(bench_id, target_id)
        if target is None:
            raise LookupError(target_id)
        with self.engine.connect() as connection:
            self._move(connection, bench_id, base_id, target_id)
            connection.commit()
        return target

    def remove(self, bench_id: int) -> None:
        """Take a bench and its revisions away. Raises `NoBench`."""
        with self.engine.begin() as connection:
            if connection.execute(update(BENCH).where(BENCH.c.id == bench_id).values(head_id=None)).rowcount != 1:
                raise NoBench(bench_id)
            # Parents refer to each other, so they are let go before they are deleted.
            connection.execute(update(REVISION).where(REVISION.c.bench_id == bench_id).values(parent_id=None))
            connection.execute(delete(REVISION).where(REVISION.c.bench_id == bench_id))
            connection.execute(delete(BENCH).where(BENCH.c.id == bench_id))
