"""The shelf: boards of the user's own, and other things that any bench can use.

A bench keeps a copy of what it uses, so none changes behind its back.
"""

from __future__ import annotations

import json
import logging
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Engine, bindparam, delete, insert, select
from sqlalchemy.dialects.sqlite import insert as put

from ..core.boards import Board
from ..core.document import DocumentError, board_from_text, board_text
from ..core.shelf import Kept, KeptContact, kept_from_data
from .tables import BOARD, THING, USE

log = logging.getLogger(__name__)


_ALL = select(THING).order_by(THING.c.name)
_OF_A_KIND = _ALL.where(THING.c.kind == bindparam("kind"))  # asked at every edit in Clean


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


def _read(row: Any) -> Board | None:
    """The board of a row; None where it cannot be read."""
    try:
        return board_from_text(row.document)
    except (DocumentError, TypeError) as error:
        log.warning("The board %s of the shelf cannot be read: %s", row.id, error)
        return None


def _thing(row: Any) -> Kept | None:
    """The thing of a row; None where it cannot be read."""
    try:
        return kept_from_data(json.loads(row.document))
    except (DocumentError, ValueError, TypeError) as error:
        log.warning("The %s %s of the shelf cannot be read: %s", row.kind, row.id, error)
        return None


@dataclass(frozen=True)
class Use:
    """A thing of the shelf on a bench."""

    kind: str
    thing_id: str
    bench_id: int
    local: str
    given: dict[str, str]
    digest: str


class Shelf:
    """Things of the user's own, by id."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def boards(self) -> list[Board]:
        """All of them, by name."""
        with self._engine.connect() as connection:
            found = [_read(row) for row in connection.execute(select(BOARD))]
        return sorted((board for board in found if board), key=lambda board: board.name)

    def damaged(self) -> list[str]:
        """The ids of those that cannot be read any more."""
        with self._engine.connect() as connection:
            return sorted(row.id for row in connection.execute(select(BOARD)) if _read(row) is None)

    def get(self, board_id: str) -> Board | None:
        """The board of that id, or None."""
        with self._engine.connect() as connection:
            row = connection.execute(select(BOARD).where(BOARD.c.id == board_id)).first()
        return _read(row) if row else None

    def put(self, board: Board) -> None:
        """Keep a board, in place of the one of its id if there is one."""
        said = {"document": board_text(board), "at": _now()}
        with self._engine.begin() as connection:
            connection.execute(put(BOARD).values(id=board.id, **said).on_conflict_do_update(set_=said))

    def remove(self, board_id: str) -> None:
        """Take a board off the shelf; benches that use it keep theirs."""
        with self._engine.begin() as connection:
            connection.execute(delete(BOARD).where(BOARD.c.id == board_id))

    def things(self, kind: str | None = None) -> list[Kept]:
        """All of a kind, or of all kinds, by name."""
        with self._engine.connect() as connection:
            rows = connection.execute(_OF_A_KIND, {"kind": kind}) if kind else connection.execute(_ALL)
            return [one for one in map(_thing, rows) if one]

    def contacts(self) -> list[KeptContact]:
        """The contacts among them."""
        return [one for one in self.things("contact") if isinstance(one, KeptContact)]

    def thing(self, kind: str, ident: str) -> Kept | None:
        """One of them, or None."""
        with self._engine.connect() as connection:
            row = connection.execute(select(THING).where(THING.c.kind == kind, THING.c.id == ident)).first()
        return _thing(row) if row else None

    def put_thing(self, one: Kept) -> None:
        """Keep it, in place of the one of its kind and id if there is one."""
        said = {"name": one.name, "document": one.model_dump_json(), "at": _now()}
        with self._engine.begin() as connection:
            connection.execute(put(THING).values(kind=one.kind, id=one.id, **said).on_conflict_do_update(set_=said))

    def drop_thing(self, kind: str, ident: str) -> None:
        """Take it off the shelf; benches that use it keep theirs."""
        with self._engine.begin() as connection:
            connection.execute(delete(THING).where(THING.c.kind == kind, THING.c.id == ident))

    def used(self, kept: Kept, bench_id: int, local: str, given: dict[str, str]) -> None:
        """A bench has taken it, anew or again."""
        mine = (USE.c.bench_id == bench_id, USE.c.kind == kept.kind, USE.c.local == local)
        row = {
            "kind": kept.kind, "thing_id": kept.id, "bench_id": bench_id, "local": local, "given": json.dumps(given),
            "digest": kept.digest, "at": _now(),
        }  # fmt: skip
        with self._engine.begin() as connection:
            connection.execute(delete(USE).where(*mine))
            connection.execute(insert(USE), row)

    def uses(self) -> list[Use]:
        """What benches have taken."""
        with self._engine.connect() as connection:
            return [
                Use(row.kind, row.thing_id, row.bench_id, row.local, json.loads(row.given), row.digest)
                for row in connection.execute(select(USE).order_by(USE.c.id))
            ]
