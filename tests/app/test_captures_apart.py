"""Captures stand beside the revisions that have them: each once, however often the bench is edited, and whole again
wherever the bench is read."""

from __future__ import annotations

import json
import sqlite3
import unittest
import zlib
from contextlib import closing
from typing import Any

from tests.app.client import AppCase
from viva_tick.core.document import Bench, bench_data, bench_from_data, bench_text
from viva_tick.core.edits import apply_patch
from viva_tick.demo import demo_bench
from viva_tick.store import Benches, DamagedBench, documents, open_database

NOTE = [{"op": "replace", "path": "/note", "value": "changed"}]


def capture(number: int, edges: int = 20_000) -> dict[str, Any]:
    rows = [{"at_us": 100 * place + number, "level": place % 2} for place in range(edges)]
    return {"id": f"c{number}", "name": f"C{number}", "edges": rows}


def with_captures(*captures: dict[str, Any]) -> Bench:
    return bench_from_data(bench_data(demo_bench("print-timer")) | {"captures": list(captures)})


class CapturesApart(AppCase):
    def setUp(self) -> None:
        super().setUp()
        self.database = self.app.extensions["database"]
        self.bench = with_captures(capture(1), capture(2), capture(3, 2_000))
        self.ident = self.app.extensions["benches"].create(self.bench, "made").bench_id

    def rows(self, text: str, *values: Any) -> list[Any]:
        with closing(sqlite3.connect(self.database)) as connection, connection:
            return connection.execute(text, values).fetchall()

    def read_anew(self) -> Bench:
        """As another process reads it."""
        documents._RECENT._values.clear()
        documents._CAPTURES._values.clear()
        return Benches(open_database(self.database)).head(self.ident).bench

    def test_edits_do_not_write_them_again_and_every_reader_has_them_whole(self) -> None:
        for value in range(4):
            patch = [{"op": "replace", "path": "/note", "value": f"note {value}"}]
            self.assertEqual(self.edit(patch, bench=self.ident).status_code, 200)
        longest = self.rows("SELECT max(length(document)) FROM revision WHERE bench_id = ?", self.ident)[0][0]
        self.assertLess(longest, 20_000)
        self.assertEqual(len(self.rows("SELECT digest FROM capture WHERE bench_id = ?", self.ident)), 3)
        wanted = bench_text(self.bench.model_copy(update={"note": "note 3"}))
        self.assertEqual(bench_text(self.read_anew()), wanted)
        self.assertEqual(self.client.get(f"/benches/{self.ident}/export.json").text, wanted)
        # One goes, and comes back by undo; a cut at another rest is the same edges.
        gone = [
            {"op": "remove", "path": "/captures/1"},
            {"op": "replace", "path": "/captures/0/rest_us", "value": 5_000},
        ]
        self.assertEqual(self.edit(gone, bench=self.ident).status_code, 200)
        self.assertEqual([one.id for one in self.read_anew().captures], ["c1", "c3"])
        place = {"base": self.head(self.ident)["revision"], "place": {"station": "clean"}, "sure": True}
        self.assertEqual(self.post(f"/api/benches/{self.ident}/undo", json=place).status_code, 200)
        self.assertEqual(bench_text(self.read_anew()), wanted)
        self.assertEqual(len(self.rows("SELECT digest FROM capture WHERE bench_id = ?", self.ident)), 3)
        self.post(f"/benches/{self.ident}/copy")
        self.post(f"/benches/{self.ident}/remove")
        self.assertEqual(self.rows("SELECT count(*) FROM capture WHERE bench_id = ?", self.ident), [(0,)])
        self.ident += 1
        self.assertEqual(self.read_anew().captures, self.bench.captures)

    def test_a_revision_from_before_has_them_in_itself(self) -> None:
        packed = zlib.compress(json.dumps(bench_data(self.bench)).encode())
        self.rows("UPDATE revision SET document = ? WHERE bench_id = ?", packed, self.ident)
        self.rows("DELETE FROM capture WHERE bench_id = ?", self.ident)
        self.assertEqual(self.read_anew(), self.bench)
        self.assertEqual(self.edit(NOTE, bench=self.ident).status_code, 200)
        self.assertEqual(self.read_anew().captures, self.bench.captures)

    def test_edges_that_are_gone_or_garbled_make_the_bench_a_damaged_one(self) -> None:
        for text in ("UPDATE capture SET edges = x'00ff'", "DELETE FROM capture"):
            self.rows(text)
            with self.assertLogs("viva_tick.store.benches"), self.assertRaises(DamagedBench):
                self.read_anew()
        with self.assertLogs("viva_tick.store.benches"):
            self.assertEqual(self.client.get(f"/benches/{self.ident}/wire").status_code, 410)
            self.assertIn("A damaged bench", self.client.get("/").text)

    def test_an_edit_means_the_same_whether_it_goes_through_them_or_not(self) -> None:
        apart = apply_patch(self.bench, NOTE)
        through = apply_patch(self.bench, [*NOTE, {"op": "test", "path": "/captures/0/id", "value": "c1"}])
        self.assertEqual(bench_text(apart), bench_text(through))
        self.assertIs(apart.captures[0], self.bench.captures[0])


if __name__ == "__main__":
    unittest.main()
