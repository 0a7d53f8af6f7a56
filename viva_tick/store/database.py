"""Opening the database: SQLite in WAL mode, foreign keys on, migrated to the newest version."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event, inspect, text

from .backups import back_up
from .tables import BENCH, METADATA, REVISION

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


VERSION_TABLE = (
    "CREATE TABLE alembic_version (version_num VARCHAR(32) NOT NULL, "
    "CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num))"
)


def open_database(path: Path) -> Engine:
    """The engine for the file, made and migrated as needed. All of that is one transaction, with the version in it: a
    kill or a full disk in the middle leaves the file as it was."""
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _prepare)
    with engine.connect() as connection:
        version = _version(connection)
    if version is not None and version in versions() - {max(versions())}:
        back_up(path, f"before-migration-{version}-{datetime.now():%Y-%m-%d-%H%M%S}.sqlite")  # noqa: DTZ005
    with engine.connect() as connection:
        driver = connection.connection.driver_connection
        assert driver is not None
        driver.isolation_level, before = None, driver.isolation_level  # else the driver commits every change of a table
        try:
            connection.exec_driver_sql("BEGIN IMMEDIATE")  # two that start at once: one after the other
            _bring_up(connection)
            connection.commit()
        finally:
            driver.isolation_level = before
    return engine


def _bring_up(connection: Connection) -> None:
    version = _version(connection)
    if version is not None and version not in versions():
        raise NewerDatabase(f"the database is version {version}, which this program does not know")
    if version is None and not inspect(connection).get_table_names():
        # A new file is what the migrations would come to; they, and what runs them, need not be loaded for it.
        METADATA.create_all(connection)
        connection.exec_driver_sql(VERSION_TABLE)
        connection.execute(text("INSERT INTO alembic_version VALUES (:head)"), {"head": max(versions())})
    elif version is None and inspect(connection).has_table(BENCH.name):
        # An earlier program was killed as it made the file: tables stand there, and the version does not.
        METADATA.create_all(connection)
        columns = {column["name"] for column in inspect(connection).get_columns(REVISION.name)}
        _alembic("stamp", connection, "head" if REVISION.c.author.name in columns else "0002")
        _alembic("upgrade", connection)
    elif version != max(versions()):
        _alembic("upgrade", connection)


def versions() -> set[str]:
    """The versions that the migrations leave."""
    return {path.name.split("_")[0] for path in (MIGRATIONS / "versions").glob("[0-9]*.py")}


def _version(connection: Connection) -> str | None:
    if not inspect(connection).has_table("alembic_version"):
        return None
    found = connection.scalar(text("SELECT version_num FROM alembic_version"))
    return None if found is None else str(found)


def _alembic(what: str, connection: Connection, to: str = "head") -> None:
    # Loaded only where there is something to migrate: it takes a tenth of a second.
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    config.attributes["connection"] = connection
    {"upgrade": command.upgrade, "stamp": command.stamp}[what](config, to)
