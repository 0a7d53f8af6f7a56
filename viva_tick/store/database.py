"""Opening the database: SQLite in WAL mode, foreign keys on, migrated to the newest version."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event, inspect, text

MIGRATIONS = Path(__file__).parent / "migrations"


class NewerDatabase(Exception):
    """The file was written by a newer program; it is left as it is."""


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
    with engine.begin() as connection:
        version = _version(connection)
        if version is not None and version not in versions():
            raise NewerDatabase(f"the database is version {version}, which this program does not know")
        if version != max(versions()):
            _migrate(connection)
    return engine


def versions() -> set[str]:
    """The versions that the migrations leave."""
    return {path.name.split("_")[0] for path in (MIGRATIONS / "versions").glob("[0-9]*.py")}


def _version(connection: Connection) -> str | None:
    if not inspect(connection).has_table("alembic_version"):
        return None
    return str(connection.scalar(text("SELECT version_num FROM alembic_version")))


def _migrate(connection: Connection) -> None:
    # Loaded only where there is something to migrate: it takes a tenth of a second.
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    config.attributes["connection"] = connection
    command.upgrade(config, "head")
