"""The shelf: boards of the user's own, and other things that any bench can use.

A bench keeps a copy of what it uses, so none changes behind its back.
"""

from __future__ import annotations

import json
import logging
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import Engine, delete, select
from sqlalchemy.orm import Session

from ..core.boards import Board
from ..core.document import DocumentError, board_from_text, board_text
from ..core.shelf import Kept, KeptContact, kept_from_data
from .models import ShelfBoardRow, ShelfThingRow, ShelfUseRow

log = logging.getLogger(__name__)


def _read(row: ShelfBoardRow) -> Board | None:
    """The board of a row; None where it cannot be read."""
    try:
        return board_from_text(row.document)
    except (DocumentError, TypeError) as error:
        log.warning("The board %s of the shelf cannot be read: %s", row.id, error)
        return None


def _thing(row: ShelfThingRow) -> Kept | None:
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
        with Session(self._engine) as session:
            rows = [(row.id, _read(row)) for row in session.scalars(select(ShelfBoardRow))]
        return sorted((board for _, board in rows if board), key=lambda board: board.name)

    def damaged(self) -> list[str]:
        """The ids of those that cannot be read any more."""
        with Session(self._engine) as session:
            return sorted(row.id for row in session.scalars(select(ShelfBoardRow)) if _read(row) is None)

    def get(self, board_id: str) -> Board | None:
        """The board of that id, or None."""
        with Session(self._engine) as session:
            row = session.get(ShelfBoardRow, board_id)
            return _read(row) if row else None

    def put(self, board: Board) -> None:
        """Keep a board, in place of the one of its id if there is one."""
        row = ShelfBoardRow(id=board.id, document=board_text(board), at=datetime.now(UTC).replace(tzinfo=None))
        with Session(self._engine) as session, session.begin():
            session.merge(row)

    def remove(self, board_id: str) -> None:
        """Take a board off the shelf; benches that use it keep theirs."""
        with Session(self._engine) as session, session.begin():
            if row := session.get(ShelfBoardRow, board_id):
                session.delete(row)

    def things(self, kind: str | None = None) -> list[Kept]:
        """All of a kind, or of all kinds, by name."""
        asked = select(ShelfThingRow).order_by(ShelfThingRow.name)
        with Session(self._engine) as session:
            rows = session.scalars(asked.where(ShelfThingRow.kind == kind) if kind else asked)
            return [one for one in map(_thing, rows) if one]

    def contacts(self) -> list[KeptContact]:
        """The contacts among them."""
        return [one for one in self.things("contact") if isinstance(one, KeptContact)]

    def thing(self, kind: str, ident: str) -> Kept | None:
        """One of them, or None."""
        with Session(self._engine) as session:
            row = session.get(ShelfThingRow, (kind, ident))
            return _thing(row) if row else None

    def put_thing(self, one: Kept) -> None:
        """Keep it, in place of the one of its kind and id if there is one."""
        at = datetime.now(UTC).replace(tzinfo=None)
        row = ShelfThingRow(kind=one.kind, id=one.id, name=one.name, document=one.model_dump_json(), at=at)
        with Session(self._engine) as session, session.begin():
            session.merge(row)

    def drop_thing(self, kind: str, ident: str) -> None:
        """Take it off the shelf; benches that use it keep theirs."""
        with Session(self._engine) as session, session.begin():
            if row := session.get(ShelfThingRow, (kind, ident)):
                session.delete(row)

    def used(self, kept: Kept, bench_id: int, local: str, given: dict[str, str]) -> None:
        """A bench has taken it, anew or again."""
        at = datetime.now(UTC).replace(tzinfo=None)
        mine = (ShelfUseRow.bench_id == bench_id, ShelfUseRow.kind == kept.kind, ShelfUseRow.local == local)
        row = ShelfUseRow(
            kind=kept.kind,
            thing_id=kept.id,
            bench_id=bench_id,
            local=local,
            given=json.dumps(given),
            digest=kept.digest,
            at=at,
        )
        with Session(self._engine) as session, session.begin():
            session.execute(delete(ShelfUseRow).where(*mine))
            session.add(row)

    def uses(self) -> list[Use]:
        """What benches have taken."""
        with Session(self._engine) as session:
            return [
                Use(row.kind, row.thing_id, row.bench_id, row.local, json.loads(row.given), row.digest)
                for row in session.scalars(select(ShelfUseRow).order_by(ShelfUseRow.id))
            ]
