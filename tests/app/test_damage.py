"""What is damaged takes down itself alone; what cannot be written is said, and whether the edit was kept."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from contextlib import closing
from pathlib import Path
from typing import Any
from unittest.mock import patch

from click.testing import CliRunner
from sqlalchemy import event

from tests.app.client import AppCase
from viva_tick.cli import main
from viva_tick.core.boards import boards
from viva_tick.demo import ORDER
from viva_tick.store import Benches, backups, open_database
from viva_tick.web import edits, serve


class Damage(AppCase):
    def sql(self, text: str, *values: Any) -> None:
        with closing(sqlite3.connect(self.database)) as connection, connection:
            connection.execute(text, values)

    @property
    def database(self) -> Path:
        found: Path = self.app.extensions["database"]
        return found

    def rename(self, bench: int, name: str) -> Any:
        """An edit, as the page sends it."""
        body = {"base": self.head(bench)["revision"], "patch": [{"op": "replace", "path": "/name", "value": name}]}
        return self.post(f"/api/benches/{bench}/edit", json=body)

    def test_one_bench_that_cannot_be_read_goes_back_to_when_it_could(self) -> None:
        self.assertEqual(self.rename(1, "Renamed").status_code, 200)
        garbled = (b"", b"x\x9c garbled", b"x\x9c\xab\x56\x02\x00", sqlite3.Binary(b"\x00" * 300), "text", 12)
        for broken in garbled:
            with self.subTest(broken=str(broken)[:12]):
                self.sql("UPDATE revision SET document = ? WHERE words LIKE '%Renamed%'", broken)
                home = self.client.get("/")
                self.assertEqual(home.status_code, 200)
                self.assertIn("A damaged bench", home.text)
                self.assertIn("Rain barrel", home.text)
                for address in ("/benches/1/wire", "/benches/1/export.json", "/benches/1/card"):
                    page = self.client.get(address)
                    self.assertEqual(page.status_code, 410)
                    self.assertIn("Go back to it", page.text)
                self.assertEqual(self.client.get("/api/benches/1/view").status_code, 410)
                self.assertEqual(self.client.get("/benches/1/readable.txt").status_code, 200)
                self.assertEqual(self.client.get("/benches/2/wire").status_code, 200)
        self.assertEqual(self.post("/benches/1/back").status_code, 302)
        self.assertEqual(self.client.get("/benches/1/wire").status_code, 200)
        self.assertNotIn("A damaged bench", self.client.get("/").text)
        self.assertEqual(self.rename(1, "Again").status_code, 200)

    def test_half_a_document_is_handed_out_as_far_as_it_goes(self) -> None:
        store: Benches = self.app.extensions["benches"]
        with closing(sqlite3.connect(self.database)) as connection:
            (whole,) = connection.execute("SELECT document FROM revision WHERE bench_id = 1").fetchone()
        self.sql("UPDATE revision SET document = ? WHERE bench_id = 1", whole[: len(whole) // 2])
        found = store.readable(1)
        self.assertTrue(found.startswith(b'{"version":4,"name":"Print timer"'))
        self.assertGreater(len(found), 1000)
        self.assertIn("look among the backups", self.client.get("/").text)

    def test_a_run_that_was_kept_and_a_board_of_the_shelf(self) -> None:
        self.client.get("/benches/1/wire")
        self.app.extensions["runs"].settle()
        self.sql("UPDATE run SET run = ?", b"x\x9c no run")
        self.app.extensions["runs"]._recent.clear()
        page = self.client.get("/benches/1/wire")
        self.assertFalse("could not be worked out" in page.text)
        self.app.extensions["shelf"].put(next(iter(boards().values())).model_copy(update={"id": "mine"}))
        self.sql("UPDATE shelf_board SET document = '{'")
        page = self.client.get("/boards")
        self.assertIn("<b>mine</b> cannot be read any more", page.text)
        self.assertEqual(self.client.get("/benches/1/wire").status_code, 200)

    def test_a_file_that_is_garbled_is_one_page_with_the_way_back(self) -> None:
        names = [one.name for one in backups(self.database)]
        self.assertEqual(len(names), 1)
        engine = self.app.extensions["benches"].engine
        for from_byte, whole in ((4096, False), (0, True)):
            with self.subTest(whole=whole):
                self.app.extensions["runs"].settle()
                with closing(sqlite3.connect(self.database)) as connection:
                    connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
                engine.dispose()
                size = self.database.stat().st_size
                with self.database.open("r+b") as file:
                    file.seek(from_byte)
                    file.write(os.urandom(size - from_byte))
                page = self.client.get("/")
                self.assertEqual(page.status_code, 500)
                self.assertIn("The file of the benches is damaged", page.text)
                self.assertIn(f"viva-tick restore {names[0]}", page.text)
                answer = self.client.get("/api/benches/1/view")
                self.assertEqual((answer.status_code, "Our mistake" in answer.text), (500, False))
                self.assertEqual(self.post("/restore", data={"name": names[0]}).status_code, 302)
                self.assertIn("Rain barrel", self.client.get("/").text)

    def test_a_backup_from_before_a_migration_is_brought_up_as_it_is_put_back(self) -> None:
        self.app.extensions["runs"].settle()
        old = self.database.parent / "backups" / "before-migration-0002-2026-01-02-030405.sqlite"
        with closing(sqlite3.connect(self.database)) as connection:
            connection.execute("VACUUM INTO ?", (str(old),))
        with closing(sqlite3.connect(old)) as connection:
            connection.execute("ALTER TABLE revision DROP COLUMN author")
            connection.execute("UPDATE alembic_version SET version_num = '0002'")
            connection.commit()
        self.assertEqual(self.post("/restore", data={"name": old.name}).status_code, 302)
        self.assertIn("Rain barrel", self.client.get("/").text)
        self.assertEqual(self.rename(1, "After it").status_code, 200)

    def test_an_edit_that_cannot_be_written_is_said_not_to_be_kept(self) -> None:
        self.app.extensions["runs"].settle()
        for spoil, mend, words in (
            ("PRAGMA query_only = 1", "PRAGMA query_only = 0", "may be read, not written"),
            ("PRAGMA max_page_count = 1", "PRAGMA max_page_count = 1000000", "There is no room left"),
        ):
            with self.subTest(words):
                engine = self.app.extensions["benches"].engine
                base = self.head(1)["revision"]
                now = [spoil]
                event.listen(engine, "checkout", lambda connection, *_, now=now: connection.execute(now[0]))
                for _ in range(60):  # until no page is free
                    body = {"base": base, "patch": [{"op": "replace", "path": "/note", "value": os.urandom(900).hex()}]}
                    answer = self.post("/api/benches/1/edit", json=body)
                    said = answer.get_json()
                    if answer.status_code != 200:
                        break
                    base = said["revision"]
                now[0] = mend
                self.assertIn(answer.status_code, (503, 507))
                self.assertIn(words, said["error"])
                self.assertIn("This edit was not kept.", said["error"])
                self.assertIs(said["again"], True)
                self.assertEqual(self.head(1)["revision"], base)
                self.assertEqual(self.post("/api/benches/1/edit", json=body).status_code, 200)  # sent again

    def test_a_fault_after_the_edit_was_kept_does_not_say_otherwise(self) -> None:
        self.app.extensions["runs"].settle()
        base = self.head(1)["revision"]

        def fails(*_: Any, **__: Any) -> Any:
            raise sqlite3.OperationalError("database is locked")

        def wrapped(*arguments: Any, **_: Any) -> Any:
            try:
                fails()
            except sqlite3.OperationalError as error:
                raise edits_error(error) from None

        with patch.object(edits, "view", wrapped):
            answer = self.rename(1, "Kept all the same")
        self.assertIn("Your edit was kept.", answer.get_json()["error"])
        self.assertNotEqual(self.head(1)["revision"], base)


def edits_error(error: sqlite3.OperationalError) -> Exception:
    """As the driver's faults come through."""
    from sqlalchemy.exc import OperationalError

    return OperationalError("SELECT 1", {}, error)


class AtTheStart(unittest.TestCase):
    def test_a_damaged_or_an_empty_file_is_not_begun_anew_in_silence(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            database = folder / "viva-tick.sqlite"
            database.touch()
            command = [sys.executable, "-m", "viva_tick.cli", "demo", "--port", "0", "--data", name]
            first = subprocess.Popen(
                command, stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONUNBUFFERED": "1"}
            )
            assert first.stdout is not None
            self.assertIn("was empty: it is begun anew", first.stdout.readline())
            first.stdout.readline()
            first.kill()
            first.wait()
            first.stdout.close()
            (copied,) = backups(database)
            for end in ("-wal", "-shm"):
                Path(f"{database}{end}").unlink(missing_ok=True)
            for text, said in (
                (b"", "is empty, though benches were in it"),
                (b"not a database, " * 300, "cannot be used"),
            ):
                database.write_bytes(text)
                with self.assertRaises(serve.ServeError) as caught:
                    serve.serve("127.0.0.1", 0, folder, None, (), demo=False)
                self.assertIn(said, str(caught.exception))
                self.assertIn(f"viva-tick restore {copied.name}", str(caught.exception))
                done = CliRunner().invoke(main, ["restore", copied.name, "--data", name])
                self.assertEqual(done.exit_code, 0, done.output)
                engine = open_database(database)
                self.assertEqual(len(Benches(engine).heads()), len(ORDER))
                engine.dispose()


if __name__ == "__main__":
    unittest.main()
