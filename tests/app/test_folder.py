"""The folder opens, whatever stopped what made it: after every statement of a start and of each migration."""

from __future__ import annotations

import re
import sqlite3
import tempfile
import unittest
from contextlib import closing
from pathlib import Path
from typing import Any

from click.testing import CliRunner
from sqlalchemy import Engine, create_engine, event, inspect, text

from tests.app.client import AppCase
from viva_tick.cli import main
from viva_tick.core.document import Bench
from viva_tick.store import Benches, NoBackup, Shelf, back_up_today, backups, open_database, restore
from viva_tick.store.database import _alembic
from viva_tick.web.security import secret_key


class Killed(Exception):
    """Instead of a kill: what was not committed is not there."""


def stopped_at(path: Path, number: int) -> bool:
    """Open the folder's database, stopped as statement `number` is about to run; False where it was done before."""
    count = 0

    def each(*_: object) -> None:
        nonlocal count
        count += 1
        if count == number:
            raise Killed

    event.listen(Engine, "before_cursor_execute", each)
    try:
        open_database(path).dispose()
        return False
    except Killed:
        return True
    finally:
        event.remove(Engine, "before_cursor_execute", each)


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path = self.folder / "viva-tick.sqlite"

    def tables(self) -> set[str]:
        with closing(sqlite3.connect(self.path)) as connection:
            return {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}

    def assert_it_opens(self) -> None:
        engine = open_database(self.path)
        head = Benches(engine).create(Bench(name="Kept"), "made")
        self.assertEqual(Benches(engine).head(head.bench_id).bench.name, "Kept")
        self.assertEqual(Shelf(engine).boards(), [])
        engine.dispose()

    def test_a_first_start_stopped_at_every_statement(self) -> None:
        for number in range(1, 100):
            self.path.unlink(missing_ok=True)
            with self.subTest(statement=number):
                if not stopped_at(self.path, number):
                    break
                self.assertEqual(self.tables(), set())  # all or nothing
                self.assert_it_opens()
        self.assertGreater(number, 8)

    def old(self) -> None:
        """A database of the first version, with a bench in it."""
        self.path.unlink(missing_ok=True)
        engine = open_database(self.path)
        Benches(engine).create(Bench(name="Old"), "made")
        engine.dispose()
        with closing(sqlite3.connect(self.path)) as connection:
            connection.execute("DROP TABLE shelf_board")
            connection.execute("ALTER TABLE revision DROP COLUMN author")
            connection.execute("UPDATE alembic_version SET version_num = '0001'")
            connection.commit()

    def test_a_migration_stopped_at_every_statement_keeps_what_was_there(self) -> None:
        for number in range(1, 100):
            self.old()
            with self.subTest(statement=number):
                going_on = stopped_at(self.path, number)
                engine = open_database(self.path)
                self.assertEqual(Benches(engine).head(1).bench.name, "Old")
                self.assertEqual(Shelf(engine).boards(), [])
                engine.dispose()
                if not going_on:
                    break
        self.assertGreater(number, 4)

    def test_what_an_earlier_program_left_half_made_is_mended(self) -> None:
        # Its statements committed one by one: the version came last.
        open_database(self.path).dispose()
        every = sorted(self.tables() - {"alembic_version"})
        for missing in range(len(every)):
            for versioned in (False, True):
                self.path.unlink()
                open_database(self.path).dispose()
                with closing(sqlite3.connect(self.path)) as connection, self.subTest(missing=missing):
                    connection.execute("DELETE FROM alembic_version" if versioned else "DROP TABLE alembic_version")
                    connection.execute("PRAGMA foreign_keys=OFF")
                    connection.execute("ALTER TABLE revision DROP COLUMN author")
                    for name in reversed(every[len(every) - missing :]):
                        connection.execute(f"DROP TABLE {name}")
                    connection.commit()
                self.assert_it_opens()

    def test_a_new_file_is_what_the_migrations_come_to(self) -> None:
        def described(engine: Engine) -> dict[str, Any]:
            found = inspect(engine)
            kinds = ("columns", "indexes", "foreign_keys", "pk_constraint", "unique_constraints", "check_constraints")
            tables = sorted(found.get_table_names())
            return {f"{table} {kind}": str(getattr(found, f"get_{kind}")(table)) for table in tables for kind in kinds}

        new, migrated = open_database(self.path), create_engine(f"sqlite:///{self.folder / 'other.sqlite'}")
        with migrated.begin() as connection:
            _alembic("upgrade", connection)
        self.assertEqual(described(new), described(migrated))
        with new.connect() as one, migrated.connect() as other:
            said = [each.execute(text("SELECT * FROM alembic_version")).all() for each in (one, other)]
        self.assertEqual(said[0], said[1])
        new.dispose()
        migrated.dispose()

    def test_a_migration_keeps_a_copy_of_what_was_there(self) -> None:
        self.old()
        open_database(self.path).dispose()
        (kept,) = backups(self.path)
        self.assertEqual((kept.benches, kept.name.partition("-0001-")[0]), (1, "before-migration"))
        with closing(sqlite3.connect(self.folder / "backups" / kept.name)) as connection:
            self.assertEqual(connection.execute("SELECT version_num FROM alembic_version").fetchall(), [("0001",)])
        open_database(self.path).dispose()
        self.assertEqual(len(backups(self.path)), 1)

    def test_one_a_day_seven_kept_each_whole_and_put_back_with_what_was_there_kept(self) -> None:
        engine = open_database(self.path)
        for day in range(1, 12):
            Benches(engine).create(Bench(name=f"Bench {day}"), "made")
            self.assertIsNotNone(back_up_today(self.path, f"2026-11-{day:02}"))
            self.assertIsNone(back_up_today(self.path, f"2026-11-{day:02}"))
        found = {one.name: one.benches for one in backups(self.path)}
        self.assertEqual(found, {f"day-2026-11-{day:02}.sqlite": day for day in range(5, 12)})
        restore(self.path, "day-2026-11-06.sqlite", "2026-11-28-120000")  # into the file that is open
        self.assertEqual(len(Benches(engine).heads()), 6)
        Benches(engine).create(Bench(name="After"), "made")
        self.assertEqual(
            {one.name: one.benches for one in backups(self.path)}["before-restore-2026-11-28-120000.sqlite"], 11
        )
        (self.folder / "backups" / "day-2026-11-07.sqlite").write_bytes(b"no database")
        for name in ("day-2026-11-01.sqlite", "../secret", "day-2026-11-07.sqlite", ""):
            with self.assertRaises(NoBackup):
                restore(self.path, name, "2026-11-28-120001")
        self.assertEqual(len(Benches(engine).heads()), 7)
        engine.dispose()

    def test_an_empty_or_broken_secret_is_made_anew(self) -> None:
        key = secret_key(self.folder)
        self.assertEqual(secret_key(self.folder), key)
        self.assertEqual((self.folder / "secret").stat().st_mode & 0o777, 0o600)
        for broken in (b"", b"\n", key[:20].encode(), b"\xff\xfe\x00", b"x" * 64):
            (self.folder / "secret").write_bytes(broken)
            with self.assertLogs("viva_tick.web.security", "WARNING"):
                made = secret_key(self.folder)
            self.assertEqual((len(made), secret_key(self.folder)), (64, made))
        self.assertEqual({path.name for path in self.folder.iterdir()}, {"secret"})


class Restored(AppCase):
    def test_the_home_page_lists_backups_and_puts_one_back(self) -> None:
        names = re.findall(r'id="restore-([\w.-]+)"', self.client.get("/").text)
        self.assertTrue(names)
        self.post("/benches/1/remove", data={"csrf_token": self.token()})
        self.assertEqual(self.client.get("/api/benches/1").status_code, 404)
        self.assertEqual(self.post("/restore", data={"name": "day-1999-01-01.sqlite"}).status_code, 404)
        self.assertEqual(self.post("/restore", data={"name": names[0]}).status_code, 302)
        self.assertEqual(self.client.get("/api/benches/1").status_code, 200)
        self.assertGreater(len(re.findall(r'id="restore-', self.client.get("/").text)), len(names))

    def test_the_command_lists_them_and_puts_one_back(self) -> None:
        run = CliRunner().invoke
        listed = run(main, ["restore", "--data", self.folder.name])
        name = listed.output.split()[0]
        self.post("/benches/2/remove")
        self.assertEqual(run(main, ["restore", name, "--data", self.folder.name]).exit_code, 0)
        self.assertEqual(self.client.get("/api/benches/2").status_code, 200)
        refused = run(main, ["restore", "day-1999-01-01.sqlite", "--data", self.folder.name])
        self.assertEqual(refused.exit_code, 1)
        self.assertNotIn("Traceback", refused.output)


if __name__ == "__main__":
    unittest.main()
