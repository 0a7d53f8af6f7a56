"""Opening the database: SQLite in WAL mode, foreign keys on, migrated to the newest version."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event


def _prepare(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA foreign_keys=ON")
    # An answer "saved" must outlive a kill and a power cut, so each commit reaches the disk.
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA busy_timeout=10000")
    cursor.close()


def open_database(path: Path) -> Engine:
    """The engine for the file, made and migrated as needed."""
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _prepare)
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations").replace("%", "%%"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
    return engine
