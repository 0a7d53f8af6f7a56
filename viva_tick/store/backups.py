"""Copies of the whole database by SQLite's own backup: one a day, one before each migration, one before each restore.

They stand in `backups` beside the database. A copy is made beside its place and moved there whole, so that a kill
leaves none that is half; one is put back by the same backup into the file that is open, in one transaction.
"""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import sqlite3
import tempfile
from contextlib import closing
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

KEPT_DAYS = 7
KEPT_OTHERS = 7
DAY = re.compile(r"day-(\d{4}-\d{2}-\d{2})\.sqlite")
NAMED = re.compile(r"(day|before-migration|before-restore)-[\w-]+\.sqlite")
WORDS = {
    "day": "of the day",
    "before-migration": "before a newer program changed it",
    "before-restore": "before a restore",
}


class NoBackup(LookupError):
    """There is no such backup, or nothing can be read from it."""


@dataclass(frozen=True)
class Backup:
    """One of them: its file's name, when it was made (local time), how many benches are in it, why it was made."""

    name: str
    at: datetime
    benches: int
    why: str


def _folder(database: Path) -> Path:
    return database.parent / "backups"


def back_up(database: Path, name: str) -> Path:
    """A copy of the database as it is now, under that name. OSError or sqlite3.Error where it cannot be made."""
    folder = _folder(database)
    folder.mkdir(mode=0o700, exist_ok=True)
    descriptor, beside = tempfile.mkstemp(dir=folder, prefix=".half-")
    os.close(descriptor)
    try:
        with closing(sqlite3.connect(database)) as source, closing(sqlite3.connect(beside)) as copy:
            source.backup(copy)
            copy.execute("PRAGMA journal_mode=DELETE")  # in one file, whatever is done with it
        os.replace(beside, folder / name)
    except BaseException:
        with contextlib.suppress(OSError):
            os.unlink(beside)
        raise
    _let_go(folder)
    return folder / name


def back_up_today(database: Path, today: str) -> Path | None:
    """The copy of the day (`today`: 2026-11-28), if there is none yet and there is anything to copy."""
    name = f"day-{today}.sqlite"
    if (_folder(database) / name).exists() or not database.exists() or not database.stat().st_size:
        return None
    return back_up(database, name)


def _let_go(folder: Path) -> None:
    """The newest days and the newest of the others are kept."""
    names = sorted(path.name for path in folder.glob("*.sqlite") if NAMED.fullmatch(path.name))
    days = [name for name in names if DAY.fullmatch(name)]
    others = sorted((name for name in names if name not in days), key=lambda name: (folder / name).stat().st_mtime)
    for name in days[:-KEPT_DAYS] + others[:-KEPT_OTHERS]:
        (folder / name).unlink(missing_ok=True)


def _benches_in(path: Path) -> int | None:
    """How many benches a file holds; None where it is no database of ours."""
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as connection:
            if connection.execute("PRAGMA quick_check").fetchone() != ("ok",):
                return None
            return int(connection.execute("SELECT count(*) FROM bench").fetchone()[0])
    except sqlite3.Error:
        return None


def backups(database: Path) -> list[Backup]:
    """Those that can be read, the newest first."""
    found = []
    for path in _folder(database).glob("*.sqlite"):
        kind = NAMED.fullmatch(path.name)
        count = _benches_in(path) if kind else None
        if kind and count is not None:
            at = datetime.fromtimestamp(path.stat().st_mtime)  # noqa: DTZ006  (as the person's clock has it)
            found.append(Backup(path.name, at, count, WORDS[kind[1]]))
    return sorted(found, key=lambda one: one.at, reverse=True)


def restore(database: Path, name: str, now: str) -> None:
    """Put a backup back; what is there now is backed up first (`now`: 2026-11-28-225500). Raises `NoBackup`."""
    path = _folder(database) / name
    if not NAMED.fullmatch(name) or _benches_in(path) is None:
        raise NoBackup(name)
    if _benches_in(database) is not None:  # one that cannot be read is no loss
        back_up(database, f"before-restore-{now}.sqlite")
    try:
        with closing(sqlite3.connect(path)) as source, closing(sqlite3.connect(database)) as target:
            target.execute("PRAGMA busy_timeout=10000")
            source.backup(target)
    except sqlite3.DatabaseError as error:
        if isinstance(error, sqlite3.OperationalError):  # held, full: it is as it was
            raise
        _put_aside(database, now)
        shutil.copy(path, database)


def _put_aside(database: Path, now: str) -> None:
    """What is no database at all makes room; it is kept beside the backups."""
    for end in ("-wal", "-shm"):
        Path(f"{database}{end}").unlink(missing_ok=True)
    os.replace(database, _folder(database) / f"damaged-{now}.sqlite")
