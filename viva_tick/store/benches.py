"""Benches and their revisions: every edit a new revision, undo and redo moves along them."""

from __future__ import annotations

import logging
import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Connection, Engine, bindparam, delete, insert, select, update
from sqlalchemy.orm import Session

from ..core.document import Bench, DocumentError
from .documents import pack, packed_edges, readable, unpack
from .models import BenchRow, CaptureRow, DrillRow, RevisionRow

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


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


# What every edit asks is asked of the tables themselves: rows as objects cost it a fifth of its time.
_HEAD_ID = select(BenchRow.head_id).where(BenchRow.id == bindparam("bench"))
_REVISION = select(RevisionRow.__table__)
_HEAD = _REVISION.join(BenchRow, BenchRow.head_id == RevisionRow.id).where(BenchRow.id == bindparam("bench"))
_ONE = _REVISION.where(RevisionRow.id == bindparam("revision"), RevisionRow.bench_id == bindparam("bench"))
_CHILDREN = select(RevisionRow.id).where(RevisionRow.parent_id == bindparam("parent"))
_CHILD = _CHILDREN.order_by(RevisionRow.id.desc()).limit(1)
_EDGES = select(CaptureRow.edges).where(
    CaptureRow.bench_id == bindparam("bench"), CaptureRow.digest == bindparam("digest")
)
_DIGESTS = select(CaptureRow.digest).where(CaptureRow.bench_id == bindparam("bench"))
_ADD = insert(RevisionRow.__table__)  # type: ignore[arg-type]
_MOVE = (
    update(BenchRow.__table__)  # type: ignore[arg-type]
    .where(BenchRow.id == bindparam("bench"), BenchRow.head_id == bindparam("from"))
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


class Benches:
    """The benches in a database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def create(
        self, bench: Bench, words: str, demo: str | None = None, before: Sequence[tuple[Bench, str]] = ()
    ) -> Revision:
        """A new bench with its first revision, or with those that came `before` it, the oldest first."""
        with Session(self.engine) as session, session.begin():
            row = BenchRow(made_at=_now(), demo=demo)
            session.add(row)
            session.flush()
            for one, said in (*before, (bench, words)):
                made = RevisionRow(bench_id=row.id, parent_id=row.head_id, document=pack(one), words=said, at=_now())
                session.add(made)
                session.flush()
                row.head_id = made.id
                self._put_captures(session.connection(), row.id, one)
            head = session.get_one(RevisionRow, row.head_id)
            return _revision(head, session.connection())

    @staticmethod
    def _put_captures(connection: Connection, bench_id: int, bench: Bench) -> None:
        """The edges of those that are not there yet."""
        if not bench.captures:
            return
        there = set(connection.scalars(_DIGESTS, {"bench": bench_id}))
        for digest, capture in {one.digest: one for one in bench.captures}.items():
            if digest not in there:
                row = {"bench_id": bench_id, "digest": digest, "edges": packed_edges(capture)}
                connection.execute(insert(CaptureRow.__table__), row)  # type: ignore[arg-type]

    def demo_id(self, name: str) -> int | None:
        """The bench made from that demo file, if it is there."""
        with Session(self.engine) as session:
            return session.scalar(select(BenchRow.id).where(BenchRow.demo == name))

    def heads(self) -> list[Revision | Damaged]:
        """Every bench as it is now, without those of drills, in the order in which they were made; one that cannot be
        read is said to be so."""
        found: list[Revision | Damaged] = []
        with Session(self.engine) as session:
            rows = session.scalars(
                select(RevisionRow)
                .join(BenchRow, BenchRow.head_id == RevisionRow.id)
                .where(BenchRow.id.not_in(select(DrillRow.bench_id).where(DrillRow.bench_id.is_not(None))))
                .order_by(BenchRow.id)
            )
            for row in rows:
                try:
                    found.append(_revision(row, session.connection()))
                except DamagedBench:
                    found.append(self._damaged(session, row))
        return found

    @staticmethod
    def _damaged(session: Session, row: RevisionRow) -> Damaged:
        """What can be said of it."""
        good: Revision | None = None
        before = session.get(RevisionRow, row.parent_id) if row.parent_id else None
        while before is not None and good is None:
            try:
                good = _revision(before, session.connection())
            except DamagedBench:
                before = session.get(RevisionRow, before.parent_id) if before.parent_id else None
        good_id, good_at = (good.id, good.at) if good else (None, None)
        return Damaged(row.bench_id, row.id, row.words, row.at, good_id, good_at)

    def damaged(self, bench_id: int) -> Damaged | None:
        """What is wrong with a bench; None where it can be read. Raises `NoBench`."""
        with Session(self.engine) as session:
            row = self._head_row(session, bench_id)
            try:
                _revision(row, session.connection())
            except DamagedBench:
                return self._damaged(session, row)
        return None

    def step_back(self, bench_id: int) -> None:
        """Take a bench that cannot be read back to its newest state that can be. Raises `NoBench`."""
        found = self.damaged(bench_id)
        if found is not None and found.good_id is not None:
            with Session(self.engine) as session, session.begin():
                self._move(session.connection(), bench_id, found.id, found.good_id)

    def readable(self, bench_id: int) -> bytes:
        """As much of a bench's newest state as can be read, as text of the document. Raises `NoBench`."""
        with Session(self.engine) as session:
            return readable(self._head_row(session, bench_id).document)

    def head(self, bench_id: int) -> Revision:
        """The bench as it is now. Raises `NoBench`, `DamagedBench`."""
        with self.engine.connect() as connection:
            row = connection.execute(_HEAD, {"bench": bench_id}).first()
            if row is None:
                raise NoBench(bench_id)
            return _revision(row, connection)

    def _head_row(self, session: Session, bench_id: int) -> RevisionRow:
        row = session.scalar(
            select(RevisionRow).join(BenchRow, BenchRow.head_id == RevisionRow.id).where(BenchRow.id == bench_id)
        )
        if row is None:
            raise NoBench(bench_id)
        return row

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
        with Session(self.engine) as session:
            row: RevisionRow | None = self._head_row(session, bench_id)
            while row is not None and row.id != base_id:
                said.append(row.words)
                row = session.get(RevisionRow, row.parent_id) if row.parent_id else None
            return said[::-1] if row is not None else []

    def history(self, bench_id: int, most: int = 50) -> list[tuple[int, datetime, str]]:
        """(revision, instant, what changed) from the head back."""
        rows: list[tuple[int, datetime, str]] = []
        with Session(self.engine) as session:
            row: RevisionRow | None = self._head_row(session, bench_id)
            while row is not None and len(rows) < most:
                rows.append((row.id, row.at, row.words))
                row = session.get(RevisionRow, row.parent_id) if row.parent_id else None
        return rows

    def tree(self, bench_id: int, most: int = 1000) -> list[tuple[int, int | None, datetime, str]]:
        """(revision, the one before it, instant, what changed) of all revisions, those that were undone too, newest
        first."""
        table = RevisionRow.__table__
        columns = (table.c.id, table.c.parent_id, table.c.at, table.c.words)
        asked = select(*columns).where(table.c.bench_id == bench_id).order_by(table.c.id.desc()).limit(most)
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
        with Session(self.engine) as session, session.begin():
            row = session.get(BenchRow, bench_id)
            if row is None:
                raise NoBench(bench_id)
            row.head_id = None
            session.flush()
            # Parents refer to each other, so they are let go before they are deleted.
            session.execute(update(RevisionRow).where(RevisionRow.bench_id == bench_id).values(parent_id=None))
            session.execute(delete(RevisionRow).where(RevisionRow.bench_id == bench_id))
            session.delete(row)
