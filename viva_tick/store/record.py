"""The log of a bench: entries beside its revisions, kept one by one."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Engine, delete, insert, select, update

from .tables import ENTRY

_SAID = (ENTRY.c.id, ENTRY.c.revision_id, ENTRY.c.kind, ENTRY.c.words, ENTRY.c.data, ENTRY.c.at)


class NoEntry(LookupError):
    """There is no such entry on that bench."""


@dataclass(frozen=True)
class Entry:
    """One entry: at which revision of the bench, when (UTC), of which kind, in words, and what its kind has."""

    id: int
    revision_id: int
    kind: str
    words: str
    data: dict[str, Any]
    at: datetime


def _entry(row: Any) -> Entry:
    return Entry(row.id, row.revision_id, row.kind, row.words, json.loads(row.data), row.at)


class Record:
    """The log entries in a database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def add(
        self, bench_id: int, revision_id: int, kind: str, words: str, data: dict[str, Any], picture: bytes | None = None
    ) -> int:
        """A new entry, now; its number."""
        row = {
            "bench_id": bench_id, "revision_id": revision_id, "kind": kind, "words": words, "data": json.dumps(data),
            "at": datetime.now(UTC).replace(tzinfo=None), "picture": picture,
        }  # fmt: skip
        with self.engine.begin() as connection:
            return int(connection.execute(insert(ENTRY), row).inserted_primary_key[0])  # type: ignore[index]

    def entries(self, bench_id: int, most: int = 2000) -> list[Entry]:
        """Those of a bench, newest first."""
        asked = select(*_SAID).where(ENTRY.c.bench_id == bench_id).order_by(ENTRY.c.id.desc()).limit(most)
        with self.engine.connect() as connection:
            return [_entry(row) for row in connection.execute(asked)]

    def entry(self, bench_id: int, number: int) -> Entry:
        """One of them. Raises `NoEntry`."""
        asked = select(*_SAID).where(ENTRY.c.bench_id == bench_id, ENTRY.c.id == number)
        with self.engine.connect() as connection:
            row = connection.execute(asked).first()
        if row is None:
            raise NoEntry(number)
        return _entry(row)

    def picture(self, bench_id: int, number: int) -> bytes | None:
        """The picture of an entry, if it has one."""
        asked = select(ENTRY.c.picture).where(ENTRY.c.bench_id == bench_id, ENTRY.c.id == number)
        with self.engine.connect() as connection:
            found: bytes | None = connection.scalar(asked)
        return found

    def amend(self, bench_id: int, number: int, change: Callable[[dict[str, Any]], dict[str, Any]]) -> Entry:
        """Other data, made of what is there: two who do it at once both have their say. Raises `NoEntry`."""
        mine = (ENTRY.c.bench_id == bench_id, ENTRY.c.id == number)
        while True:
            with self.engine.begin() as connection:
                before = connection.scalar(select(ENTRY.c.data).where(*mine))
                if before is None:
                    raise NoEntry(number)
                after = json.dumps(change(json.loads(before)))
                done = connection.execute(update(ENTRY).where(*mine, ENTRY.c.data == before).values(data=after))
            if done.rowcount == 1:
                return self.entry(bench_id, number)

    def remove(self, bench_id: int, number: int) -> None:
        """Take an entry out. Raises `NoEntry`."""
        where = (ENTRY.c.bench_id == bench_id, ENTRY.c.id == number)
        with self.engine.begin() as connection:
            if connection.execute(delete(ENTRY).where(*where)).rowcount != 1:
                raise NoEntry(number)
