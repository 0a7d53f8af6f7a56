"""Edits are stored, refused, undone, redone, and never overwrite each other; a kill loses nothing acknowledged."""

from __future__ import annotations

import io
import json
import re
import sqlite3
import tempfile
import threading
import time
import unittest
import urllib.request
from pathlib import Path
from typing import Any

from tests.app.client import AppCase, interval
from tests.browser.server import Server
from viva_tick.core.document import bench_data, bench_from_data
from viva_tick.core.units import short
from viva_tick.demo import demo_bench
from viva_tick.web.typed import typed

CSV = "time (ms),level\n0,1\n10,0\n11,1\n12,0\n90,1\n"


class Edits(AppCase):
    def at(self) -> int:
        document = self.head()["document"]
        return int(document["firmware"]["debounce"]["foot-pedal"]["interval_us"])

    def test_two_presses_on_one_instant_are_refused_with_a_sentence_and_a_document_that_has_them_is_not(self) -> None:
        at = "/scenarios/0/stimuli"
        press = next(one for one in self.head(1)["document"]["scenarios"][0]["stimuli"] if one["kind"] == "press")
        answer = self.edit([{"op": "add", "path": f"{at}/-", "value": press}])
        self.assertEqual(answer.status_code, 422)
        self.assertIn("a hand cannot press twice at once", answer.get_json()["error"])
        later = {**press, "at_us": press["at_us"] + 400_000}
        self.assertEqual(self.edit([{"op": "add", "path": f"{at}/-", "value": later}]).status_code, 200)
        document = demo_bench("print-timer")
        stimuli = (*document.scenarios[0].stimuli, document.scenarios[0].stimuli[0])
        odd = document.scenarios[0].model_copy(update={"stimuli": stimuli})
        self.assertEqual(
            bench_from_data(bench_data(document.model_copy(update={"scenarios": (odd,)}))).scenarios, (odd,)
        )

    def test_an_edit_is_a_revision_and_answers_what_changed(self) -> None:
        answer = self.edit(interval(12_000)).get_json()
        self.assertEqual(self.at(), 12_000)
        self.assertGreater(answer["revision"], 1)
        self.assertTrue(answer["strip"]["difference"].startswith("−1 extra press, +10"))
        self.assertNotIn("Foot pedal: extra presses counted", answer["fragments"]["outs"])
        self.assertIn("now 12 ms", answer["fragments"]["editor"])
        self.assertIn("undo", answer["fragments"]["title"])
        said = self.client.get("/api/benches/1/history").get_json()["history"][0]["words"]
        self.assertEqual(said, "Foot pedal: interval 2 ms → 12 ms")

    def test_an_edit_that_changes_nothing_makes_no_revision(self) -> None:
        before = self.head()["revision"]
        self.assertEqual(self.edit(interval(2_000)).get_json()["revision"], before)

    def test_undo_and_redo_survive_a_restart(self) -> None:
        for us in (4_000, 8_000, 12_000):
            self.edit(interval(us))
        for direction, wanted in (
            ("undo", 8_000),
            ("undo", 4_000),
            ("redo", 8_000),
            ("redo", 12_000),
            ("redo", 12_000),
        ):
            self.open()
            self.post(f"/api/benches/1/{direction}", {"base": self.head()["revision"]})
            self.assertEqual(self.at(), wanted)
        for _ in range(5):
            answer = self.post("/api/benches/1/undo", {"base": self.head()["revision"]}).get_json()
        self.assertEqual(self.at(), 2_000)
        self.assertRegex(answer["fragments"]["title"], r'id="undo"[^>]*disabled')

    def test_after_an_undo_the_ghost_is_what_was_left(self) -> None:
        edited = self.edit(interval(12_000)).get_json()
        undone = self.post("/api/benches/1/undo", {"base": edited["revision"]}).get_json()
        self.assertEqual(undone["strip"]["ghost"], edited["strip"]["key"])
        self.assertTrue(undone["strip"]["difference"].startswith("+1 extra press, −10"))

    def test_a_new_edit_after_undo_is_what_redo_follows(self) -> None:
        self.edit(interval(4_000))
        self.post("/api/benches/1/undo", {"base": self.head()["revision"]})
        self.edit(interval(6_000))
        self.post("/api/benches/1/undo", {"base": self.head()["revision"]})
        self.post("/api/benches/1/redo", {"base": self.head()["revision"]})
        self.assertEqual(self.at(), 6_000)

    def test_a_stale_edit_is_a_conflict_that_shows_both_sides(self) -> None:
        base = self.head()["revision"]
        self.edit(interval(4_000))
        for url, body in (
            ("edit", {"patch": interval(9_000)}), ("undo", {}), ("redo", {}),
            ("recipe", {"recipe": "toggle", "given": {"input": "foot-pedal", "output": "beeper"}}),
        ):  # fmt: skip
            answer = self.post(f"/api/benches/1/{url}", {"base": base, **body})
            self.assertEqual(answer.status_code, 409, url)
            sides = answer.get_json()["conflict"]
            self.assertEqual(sides["theirs"], ["Foot pedal: interval 2 ms → 4 ms"])
            self.assertTrue(sides["yours"])
        self.assertEqual(self.at(), 4_000)
        mine = self.edit(interval(9_000), base=sides["revision"])
        self.assertEqual((mine.status_code, self.at()), (200, 9_000))

    def test_of_many_edits_at_once_against_one_revision_one_is_stored(self) -> None:
        base, codes = self.head()["revision"], []
        token = self.token()

        def send(us: int) -> None:
            body = {"base": base, "patch": interval(us), "place": {}}
            client = self.app.test_client()
            client.set_cookie("session", cookie, domain="localhost")
            codes.append(client.post("/api/benches/1/edit", json=body, headers={"X-CSRFToken": token}).status_code)

        cookie = str(self.client.get_cookie("session").value)  # type: ignore[union-attr]
        threads = [threading.Thread(target=send, args=(us,)) for us in range(3_000, 11_000, 1_000)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(codes), [200] + [409] * 7)

    def test_a_bad_edit_is_refused_with_pointer_and_sentence_and_changes_nothing(self) -> None:
        before = self.head()
        for patch, said in (
            (interval(1_500), "1500 µs is not a whole number of milliseconds."),
            (interval(5_000_000), "5000 ms is too long; 1000 ms is the most."),
            (None, "an edit is a list of operations (RFC 6902)."),
            ([{"op": "remove", "path": "/inputs/0"}], "there is no input"),
        ):
            answer = self.edit(patch)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.get_json()["error"])
        for body in (None, [], {"base": "1"}, {"patch": []}):
            self.assertEqual(self.post("/api/benches/1/edit", body).status_code, 422)
        self.assertEqual(self.head(), before)

    def test_a_preview_stores_nothing_and_leaves_the_editor_alone(self) -> None:
        before = self.head()
        answer = self.edit(interval(12_000), preview=True).get_json()
        self.assertEqual(self.head(), before)
        self.assertEqual(set(answer["fragments"]), {"path", "outs"})
        self.assertIn("−1 extra press", answer["strip"]["difference"])

    def test_a_recipe_becomes_a_machine(self) -> None:
        body = {
            "base": self.head()["revision"],
            "recipe": "toggle",
            "given": {"input": "foot-pedal", "output": "beeper"},
            "place": {"station": "behave"},
        }
        self.assertEqual(self.post("/api/benches/1/recipe", body).get_json()["fragments"]["editor"].count("<tr"), 3)
        self.assertEqual(len(self.head()["document"]["firmware"]["machines"]), 5)
        for given, said in (
            ({}, "place what is missing"),
            ({"input": "foot-pedal", "output": "nothing"}, "needs “when” contact"),
        ):
            answer = self.post("/api/benches/1/recipe", {**body, "base": self.head()["revision"], "given": given})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.get_json()["error"])

    def test_a_run_is_cached_by_what_it_depends_on(self) -> None:
        keys = []
        for us in (4_000, 8_000, 4_000):
            keys.append(self.edit(interval(us)).get_json()["strip"]["key"])
        self.assertEqual(keys[0], keys[2])
        self.assertNotEqual(keys[0], keys[1])
        self.open()
        self.assertEqual(self.client.get(f"/api/runs/{keys[1]}/window").status_code, 200)


class Readings(AppCase):
    def test_what_cannot_be_is_refused_with_its_place_and_nothing_is_kept(self) -> None:
        before = self.head()["revision"]
        probe, dial = "/firmware/readings/bath-probe", "/firmware/readings/time-dial"
        for path, value, said in (
            (f"{probe}/below", 30.0, "over the upper threshold"),
            (f"{probe}/sample_us", 1500, "not a whole number of milliseconds"),
            (probe, {"kind": "measure", "unit": "counts", "above": 1500.0, "below": 3.0}, "goes from 0 to 1024"),
            (probe, {"kind": "measure", "unit": "percent", "above": 101.0, "below": 3.0}, "goes from 0 to 100"),
            (dial, {"kind": "scan"}, "“turns” would do"),
            (f"{dial}/counts_a_step", 3, "1, 2 or 4"),
            ("/firmware/readings/foot-pedal", {"kind": "turns"}, "no encoder, sensor, key matrix"),
            (
                "/scenarios/0/stimuli/0",
                {"kind": "turn", "input": "foot-pedal", "at_us": 0, "clicks": 1, "over_us": 9000},
                "given a “turn”",
            ),
            (
                "/scenarios/0/stimuli/0",
                {"kind": "press", "input": "time-dial", "at_us": 0, "hold_us": 9000},
                "not a contact",
            ),
        ):
            answer = self.edit([{"op": "add", "path": path, "value": value}])
            self.assertEqual(answer.status_code, 422, path)
            self.assertIn(said, answer.get_json()["error"], path)
        self.assertEqual(self.head()["revision"], before)

    def test_a_machine_listens_to_what_an_input_gives_and_to_nothing_else(self) -> None:
        transition = {"source": "off", "on": {"kind": "step", "input": "time-dial"}, "target": "on"}
        path = "/firmware/machines/1/transitions/-"
        self.assertEqual(self.edit([{"op": "add", "path": path, "value": transition}]).status_code, 200)
        for event, said in (
            ({"kind": "above", "input": "time-dial"}, "gives step, back"),
            ({"kind": "key", "input": "keys", "of": "1"}, "no input “keys”"),
        ):
            answer = self.edit([{"op": "add", "path": path, "value": {**transition, "on": event}}])
            self.assertIn(said, answer.get_json()["error"])
        page = self.client.get("/benches/1/behave?picked=safelight-follows").text
        self.assertIn("Time dial step", page)


class Captures(AppCase):
    def send(self, text: str, **more: Any) -> Any:
        form = {
            "base": str(self.head()["revision"]),
            "input": "foot-pedal",
            "station": "clean",
            "picked": "foot-pedal",
            **more,
        }
        return self.post("/api/benches/1/capture", data={**form, "file": (io.BytesIO(text.encode()), "my pedal.csv")})

    def test_the_part_bounces_as_captured(self) -> None:
        answer = self.send(CSV).get_json()
        document = self.head()["document"]
        self.assertEqual(document["inputs"][0]["contact"], {"kind": "capture", "capture": "my-pedal"})
        self.assertIn("captured: my pedal", answer["fragments"]["editor"])
        key = answer["strip"]["key"]
        lane = "contact foot-pedal"
        shown = self.client.get(f"/api/runs/{key}/window", query_string={"lane": lane}).get_json()["lanes"][lane]
        self.assertEqual(shown["t"][1:4], [260_000, 261_000, 262_000])
        saved = self.client.get("/benches/1/captures/my-pedal.csv").text
        self.assertEqual(saved.splitlines(), ["time_us,level", "0,1", "10000,0", "11000,1", "12000,0", "90000,1"])
        self.assertEqual(self.send(CSV).status_code, 200)
        self.assertEqual([c["id"] for c in self.head()["document"]["captures"]], ["my-pedal", "my-pedal-2"])

    def test_a_bad_file_is_refused_whole(self) -> None:
        before = self.head()
        for text, more, said in (
            ("0,1\n0.001,x\n", {}, "1 line is wrong, and nothing was imported."),
            ("0,1\n1,0\n1.001,1\n", {"unit": "ms"}, "holds no press"),
            ("0,1\n1,0\n", {"input": "beeper"}, "choose the input part"),
            ("0,1\n1,0\n", {"unit": "hours"}, "No file was chosen"),
        ):
            answer = self.send(text, **more)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.get_json()["error"])
        self.assertEqual(self.head(), before)


class Database(AppCase):
    def test_it_is_in_wal_mode_with_foreign_keys_and_a_removed_bench_leaves_nothing(self) -> None:
        self.edit(interval(4_000))
        self.post("/api/benches/1/log/note", {"words": "gone with it"})
        self.post("/benches/1/remove")
        self.assertEqual(self.client.get("/benches/1/wire").status_code, 404)
        with sqlite3.connect(Path(self.folder.name) / "viva-tick.sqlite") as connection:
            self.assertEqual(connection.execute("PRAGMA journal_mode").fetchone()[0], "wal")
            self.assertEqual(connection.execute("SELECT count(*) FROM revision WHERE bench_id = 1").fetchone()[0], 0)
            self.assertEqual(connection.execute("SELECT count(*) FROM log_entry").fetchone()[0], 0)
            self.assertEqual(connection.execute("SELECT version_num FROM alembic_version").fetchone()[0], "0006")
            self.assertEqual(connection.execute("PRAGMA foreign_key_check").fetchall(), [])


class Killed(unittest.TestCase):
    def test_every_acknowledged_edit_is_found_after_sigkill(self) -> None:
        folder = Path(tempfile.mkdtemp())
        server = Server(folder)
        page = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        token = re.search(r'csrf-token" content="([^"]+)"', page.open(server.url).read().decode())
        assert token is not None
        acknowledged: list[int] = []

        def stream() -> None:
            revision = json.loads(page.open(server.url + "api/benches/1").read())["revision"]
            for number in range(10_000):
                us = 1000 * (1 + number % 900)
                body = json.dumps({"base": revision, "patch": interval(us), "place": {"station": "build"}}).encode()
                headers = {"Content-Type": "application/json", "X-CSRFToken": token[1]}
                try:
                    answer = page.open(urllib.request.Request(server.url + "api/benches/1/edit", body, headers))
                    revision = json.loads(answer.read())["revision"]
                except OSError:
                    return
                acknowledged.append(us)

        thread = threading.Thread(target=stream)
        thread.start()
        until = time.monotonic() + 30
        while len(acknowledged) < 25 and time.monotonic() < until:
            time.sleep(0.02)
        server.kill()
        thread.join()
        self.assertGreaterEqual(len(acknowledged), 25)
        again = Server(folder)
        self.addCleanup(again.kill)
        with sqlite3.connect(folder / "viva-tick.sqlite") as connection:
            query = "SELECT words FROM revision WHERE bench_id = 1 AND parent_id IS NOT NULL ORDER BY id"
            found = [re.search(r"→ (\d+) ms", words) for (words,) in connection.execute(query)]
        kept = [1000 * int(match[1]) for match in found if match]
        self.assertEqual(kept[: len(acknowledged)], acknowledged)
        # One more may have been stored whose answer did not arrive.
        self.assertLessEqual(len(kept) - len(acknowledged), 1)
        document = json.loads(urllib.request.urlopen(again.url + "api/benches/1").read())["document"]
        self.assertEqual(document["firmware"]["debounce"]["foot-pedal"]["interval_us"], kept[-1])


class Typed(unittest.TestCase):
    def test_a_value_is_shown_as_it_can_be_typed_again(self) -> None:
        table = [
            (1_234_567_000, "ms", "1234567"), (1_234_567, "ms", "1234.567"), (40, "ms", "0.04"), (4700, "ohm", "4.7k"),
            (1_234_567, "ohm", "1.234567M"), (3300, "volt", "3.3"), (75_000, "amp", "75"), (100, "int", "100"),
            (1_234_567.0, "float", "1234567"), (1e-7, "float", "0.0000001"), (-0.5, "float", "-0.5"),
        ]  # fmt: skip
        self.assertEqual([typed(value, reads) for value, reads, _ in table], [shown for *_, shown in table])
        self.assertEqual(
            [short(1_234_567.0), short(0.30000000000000004), short(12.3456, 3)], ["1234570", "0.3", "12.3"]
        )


if __name__ == "__main__":
    unittest.main()
