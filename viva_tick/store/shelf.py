"""The shelf: boards of the user's own, and other things that any bench can use.

A bench keeps a copy of what it uses, so none changes behind its back.
"""

from __future__ import annotations

import json
import logging
from datetime import UTC, datetime

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from ..core.boards import Board
from ..core.document import DocumentError, board_from_text, board_text
from ..core.shelf import Kept, kept_from_data
from .models import ShelfBoardRow, ShelfThingRow

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

    def things(self, kind: str = "contact") -> list[Kept]:
        """All of a kind, by name."""
        with Session(self._engine) as session:
            rows = session.scalars(select(ShelfThingRow).where(ShelfThingRow.kind == kind).order_by(ShelfThingRow.name))
            return [one for one in map(_thing, rows) if one]

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
