"""The shelf: boards of the user's own.

A bench keeps a copy of the board that it uses, so none changes behind its back.
"""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from ..core.boards import Board
from ..core.document import board_from_text, board_text
from .models import ShelfBoardRow


class Shelf:
    """Boards of the user's own, by id."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def boards(self) -> list[Board]:
        """All of them, by name."""
        with Session(self._engine) as session:
            rows = session.scalars(select(ShelfBoardRow))
            return sorted((board_from_text(row.document) for row in rows), key=lambda board: board.name)

    def get(self, board_id: str) -> Board | None:
        """The board of that id, or None."""
        with Session(self._engine) as session:
            row = session.get(ShelfBoardRow, board_id)
            return board_from_text(row.document) if row else None

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
