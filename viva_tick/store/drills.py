"""Drills: the benches in which faults are hidden, and what came of looking for them."""

from __future__ import annotations

import json
import zlib
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import Connection, Engine, bindparam, insert, select, update

from ..core.document import Bench, bench_from_text, bench_text
from .tables import DRILL


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


# Asked at every edit, so that they are made once.
_OF = select(DRILL).where(DRILL.c.bench_id == bindparam("bench"))
_GOING = select(DRILL.c.id).where(DRILL.c.bench_id == bindparam("bench"), DRILL.c.ended.is_(None))


@dataclass(frozen=True)
class Drill:
    """A drill: its bench, the one that it was made from, what is hidden, what was asked, what was found."""

    id: int
    bench_id: int | None
    name: str
    seed: int
    level: int
    sound: Bench
    faults: list[dict[str, str]]
    asked: list[dict[str, Any]]
    found: list[str]
    gave_up: bool
    began: datetime
    ended: datetime | None

    @property
    def cost(self) -> int:
        """What all that was asked has cost."""
        return sum(one["cost"] for one in self.asked)

    def last(self, what: str) -> dict[str, Any] | None:
        """What was asked last of a sort."""
        return next((one for one in reversed(self.asked) if one["what"] == what), None)


def _drill(row: Any) -> Drill:
    sound = bench_from_text(zlib.decompress(row.sound).decode())
    return Drill(
        row.id, row.bench_id, row.name, row.seed, row.level, sound, json.loads(row.faults), json.loads(row.asked),
        json.loads(row.found), row.gave_up, row.began, row.ended,
    )  # fmt: skip


class Drills:
    """The drills in a database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def begin(self, bench_id: int, sound: Bench, seed: int, level: int, faults: list[dict[str, str]]) -> int:
        """A new one; its number."""
        row = {
            "bench_id": bench_id, "name": sound.name, "seed": seed, "level": level, "gave_up": False, "began": _now(),
            "ended": None, "sound": zlib.compress(bench_text(sound).encode()), "faults": json.dumps(faults),
            "asked": "[]", "found": "[]",
        }  # fmt: skip
        with self.engine.begin() as connection:
            return int(connection.execute(insert(DRILL), row).inserted_primary_key[0])  # type: ignore[index]

    def of(self, bench_id: int) -> Drill | None:
        """The drill of a bench, if it is one."""
        with self.engine.connect() as connection:
            row = connection.execute(_OF, {"bench": bench_id}).first()
        return _drill(row) if row else None

    def is_one(self, bench_id: int) -> bool:
        """Whether a bench is a drill's that is not over."""
        if bench_id >= 1 << 63:  # beyond that there is none
            return False
        with self.engine.connect() as connection:
            return connection.scalar(_GOING, {"bench": bench_id}) is not None

    def all(self) -> list[Drill]:
        """All of them, newest first."""
        with self.engine.connect() as connection:
            return [_drill(row) for row in connection.execute(select(DRILL).order_by(DRILL.c.id.desc()).limit(500))]

    @staticmethod
    def _one(connection: Connection, number: int) -> Any:
        """The row of one, that another one at it waits for: what it says is written after it was read."""
        connection.execute(update(DRILL).where(DRILL.c.id == number).values(id=number))
        return connection.execute(select(DRILL).where(DRILL.c.id == number)).one()

    @staticmethod
    def _change(connection: Connection, number: int, **said: Any) -> None:
        connection.execute(update(DRILL).where(DRILL.c.id == number).values(**said))

    def ask(self, number: int, what: str, of: str, said: str, cost: int) -> None:
        """Something was asked, and answered."""
        with self.engine.begin() as connection:
            before = json.loads(self._one(connection, number).asked)
            asked = [*before, {"what": what, "of": of, "said": said, "cost": cost}]
            self._change(connection, number, asked=json.dumps(asked))

    def find(self, number: int, ident: str) -> None:
        """A fault was named; with the last of them it is over."""
        with self.engine.begin() as connection:
            row = self._one(connection, number)
            found = [*json.loads(row.found), ident]
            ended = _now() if len(set(found)) >= len(json.loads(row.faults)) else row.ended
            self._change(connection, number, found=json.dumps(found), ended=ended)

    def give_up(self, number: int) -> None:
        """It is over."""
        with self.engine.begin() as connection:
            self._change(connection, number, gave_up=True, ended=self._one(connection, number).ended or _now())
