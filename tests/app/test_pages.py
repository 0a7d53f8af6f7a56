"""Pages show what they should, and the server keeps strangers and nonsense out."""

from __future__ import annotations

import io
import json
import re
import sqlite3
import tempfile
import unittest
import zipfile
from pathlib import Path
from unittest.mock import patch

from click.testing import CliRunner

from tests.app.client import AppCase
from viva_tick.cli import main
from viva_tick.core.document import bench_from_text
from viva_tick.core.emit import TARGETS
from viva_tick.core.findings import must_fix
from viva_tick.core.study import to_be_fixed
from viva_tick.demo import ORDER, demo_bench, demo_text
from viva_tick.store import open_database
from viva_tick.web.app import MOST_UPLOAD
from viva_tick.web.stations import STATIONS
from viva_tick.web.strip import changes, pass_runs

NASTY = "<script>alert(1)</script>\" onload='x'{{7*7}}"


class Pages(AppCase):
    def test_every_station_of_every_demo_and_every_part_is_shown(self) -> None:
        for number, name in enumerate(ORDER, 1):
            for station in STATIONS.values():
                for picked in (None, *station.items(demo_bench(name))):
                    # Every scenario once at each station; every part with the first of them.
                    for scenario in demo_bench(name).scenarios[: None if picked is None else 1]:
                        query = {"picked": picked, "scenario": scenario.name, "station": station.id}
                        page = self.client.get(f"/benches/{number}/{station.id}", query_string=query)
                        self.assertEqual(page.status_code, 200)
                        twin = self.client.get(f"/api/benches/{number}/view", query_string=query).get_json()
                        self.assertEqual((twin["station"], twin["scenario"]), (station.id, scenario.name))

    def test_all_benches_are_read_again_only_where_they_have_changed(self) -> None:
        first = self.client.get("/").text
        with patch("viva_tick.store.benches.unpack", side_effect=AssertionError("read again")):
            self.assertEqual(first, self.client.get("/").text)
        self.edit([{"op": "replace", "path": "/name", "value": "Another name"}])
        after = self.client.get("/").text
        self.assertIn("<h3>Another name</h3>", after)
        self.assertEqual(len(ORDER), after.count('class="card-bench"'))

    def test_what_is_in_a_closed_panel_of_a_scenario_is_not_sent_and_its_line_is_the_same(self) -> None:
        for station in ("clean", "try"):
            whole, closed = (
                self.client.get(f"/api/benches/1/view?station={station}{more}").get_json()["fragments"]
                for more in ("", "&closed=true")
            )
            others = {name for name in whole if whole[name] != closed[name]}
            self.assertEqual(others, {"scenarios"} if station == "clean" else set(), station)
        line = whole["scenarios"].split("<details")[0]
        self.assertIn("checks met", line)
        self.assertNotIn("add-expect", closed["scenarios"])

    def test_a_new_bench_says_at_each_station_what_to_do_next(self) -> None:
        self.post("/benches/new", data={"name": "  Mine  "})
        for station, words in (
            ("wire", "Add a button"), ("clean", "Place a button in"), ("behave", "Choose a recipe"),
            ("build", "No part, no wire"),
        ):  # fmt: skip
            self.assertIn(words, self.client.get(f"/benches/7/{station}").text)

    def test_a_bench_goes_out_as_a_file_and_comes_in_again(self) -> None:
        text = self.client.get("/benches/1/export.json").text
        self.assertEqual(bench_from_text(text), demo_bench("print-timer"))
        self.post("/benches/import", data={"file": (io.BytesIO(text.encode()), "x.json")})
        self.assertEqual(self.head(7)["document"], self.head(1)["document"])
        self.post("/benches/7/copy")
        self.assertEqual(self.head(8)["document"]["name"], "Print timer, copy")
        timer = demo_bench("print-timer")
        made = TARGETS["cpp"].emit(timer, must_fix(to_be_fixed(timer)))
        with zipfile.ZipFile(io.BytesIO(self.client.get("/benches/1/cpp.code").data)) as whole:
            self.assertEqual(whole.read("print-timer/print-timer.ino").decode(), made.text)
            self.assertEqual(bench_from_text(whole.read("print-timer/bench.json").decode()), timer)
            self.assertIn("1. Ground.", whole.read("print-timer/wiring.txt").decode())
        old = made.text.replace("here: top\n", "here: top\nint mine;\n", 1)
        kept = self.post("/benches/1/cpp.code", data={"file": (io.BytesIO(old.encode()), "old.ino")})
        with zipfile.ZipFile(io.BytesIO(kept.data)) as whole:
            self.assertEqual(whole.read("print-timer/print-timer.ino").decode(), old)
        self.assertEqual(self.client.get("/benches/1/micropython.code").status_code, 404)
        self.assertTrue(self.client.get("/benches/1/run.vcd?scenario=One print").text.startswith("$comment"))
        self.assertTrue(self.client.get("/benches/1/run.csv").text.startswith("time_us,kind,of,value"))

    def test_a_bad_bench_file_is_refused_with_every_fault(self) -> None:
        bad = json.loads(demo_text("print-timer"))
        bad["inputs"][0]["pin"], bad["name"] = "D99", "x"
        for raw, said in (
            (json.dumps(bad).encode(), "/inputs/0/pin"), (b"\xff\xfe", "not text in UTF-8"), (b"{", "not JSON"),
            (b'{"version": 5}', "this program reads versions 1 to 4"),
        ):  # fmt: skip
            page = self.post("/benches/import", data={"file": (io.BytesIO(raw), NASTY + ".json")})
            self.assertEqual(page.status_code, 422)
            self.assertIn(said, page.text)
            self.assertNotIn("<script>alert", page.text)
        self.assertEqual(self.post("/benches/import").status_code, 422)
        self.assertEqual(self.client.get("/benches/7/wire").status_code, 404)

    def test_nothing_typed_reaches_a_page_unescaped(self) -> None:
        data = json.loads(demo_text("print-timer"))
        for thing in (
            data,
            data["inputs"][0],
            data["outputs"][0],
            data["firmware"]["machines"][0],
            data["scenarios"][0],
        ):
            thing["name"] = NASTY
        data["firmware"]["machines"][0]["states"][0]["name"] = NASTY
        data["note"] = NASTY
        self.post("/benches/import", data={"file": (io.BytesIO(json.dumps(data).encode()), "x.json")})
        for station in STATIONS:
            text = self.client.get(f"/benches/7/{station}").text
            self.assertNotIn("<script>alert", text)
            self.assertNotIn("49", text.split("strip-lanes")[0].split("bench-name")[1][:400])
        self.assertNotIn("<script>alert", self.client.get("/").text)

    def test_nothing_that_is_not_there(self) -> None:
        for url in (
            "/benches/99/wire",
            "/benches/1/nowhere",
            "/benches/1/odd.code",
            "/benches/1/captures/x.csv",
            "/benches/1/run.odd",
            "/api/benches/99",
            "/api/runs/x/window",
            "/no",
        ):
            answer = self.client.get(url)
            self.assertEqual(answer.status_code, 404)
            self.assertNotIn("Traceback", answer.text)
        self.assertIn("error", self.client.get("/api/benches/99").get_json())


class Strip(AppCase):
    def window(self, **query: object) -> dict[str, object]:
        strip = self.client.get("/api/benches/1/view?station=wire").get_json()["strip"]
        answer = self.client.get(f"/api/runs/{strip['key']}/window", query_string=query)
        self.assertEqual(answer.status_code, 200)
        return dict(answer.get_json())

    def test_lanes_of_every_role_have_their_windows(self) -> None:
        strip = self.client.get("/api/benches/1/view?station=wire").get_json()["strip"]
        names = [lane["id"] for lane in strip["lanes"]]
        kinds = {lane["kind"] for lane in strip["lanes"]}
        self.assertEqual(
            kinds,
            {
                "contact",
                "level",
                "reading",
                "cleaned",
                "state",
                "output",
                "loop",
                "watchdog",
                "value",
                "count",
                "measure",
                "crossing",
            },
        )
        self.assertEqual(set(self.window(lane=names)["lanes"]), set(names))  # type: ignore[call-overload]
        self.assertEqual(self.window(lane=["contact nobody", "odd", "loop x"])["lanes"], {})

    def test_odd_windows_do_no_harm(self) -> None:
        for query in (
            {"from": -5, "to": 10**12},
            {"from": 5, "to": 1},
            {"columns": 10**9},
            {"columns": -1},
            {"from": "x"},
        ):
            self.window(lane="loop", **query)

    def test_events_step_forward_and_back(self) -> None:
        key = self.client.get("/api/benches/1/view?station=wire").get_json()["strip"]["key"]
        at, seen = 0, []
        while (found := self.client.get(f"/api/runs/{key}/event?at={at}").get_json())["at_us"] is not None:
            at = found["at_us"]
            seen.append(found["what"])
        self.assertEqual(seen.count("press"), 4)
        back = self.client.get(f"/api/runs/{key}/event?at={at}&forward=0").get_json()
        self.assertLess(back["at_us"], at)


class Windows(unittest.TestCase):
    def test_a_window_is_exact_when_it_can_be_and_busy_when_it_cannot(self) -> None:
        from viva_tick.core.engine import Kind, Signal

        times = list(range(0, 200_000, 10))
        signal = Signal(Kind.CONTACT, "x", times, [n % 2 for n in range(len(times))])
        exact = changes("k", signal, 1_005, 1_095, 100)
        self.assertEqual(exact["t"], [1000, *range(1010, 1100, 10)])
        coarse = changes("k", signal, 0, 200_000, 100)
        self.assertLessEqual(len(coarse["t"]), 2 * 101)
        self.assertEqual(list(zip(coarse["t"], coarse["v"], strict=True)), [(0, 0), (0, "*"), (200_000, 1)])
        quiet = Signal(Kind.CONTACT, "y", [*range(1000), 150_000, 150_001], [n % 2 for n in range(1002)])
        sparse = changes("q", quiet, 0, 200_000, 100)
        self.assertEqual(
            [(t, v) for t, v in zip(sparse["t"], sparse["v"], strict=True) if t >= 150_000],
            [(150_000, 0), (150_001, 1)],
        )

    def test_the_longest_pass_of_a_column_is_never_lost(self) -> None:
        from viva_tick.core.engine import Kind, Signal

        starts = list(range(0, 100_000, 10))
        lengths = [[10, 1] for _ in starts]
        lengths[777] = [9_999, 1]
        rows = pass_runs("p", Signal(Kind.PASS, "", starts, lengths), 0, 100_000, 50)
        self.assertLessEqual(len(rows), 52)
        self.assertIn([7770, 9_999, 1], rows)


class Strangers(AppCase):
    def test_headers_on_every_kind_of_answer(self) -> None:
        for url in ("/", "/help", "/benches/1/clean", "/api/benches/1", "/static/js/main.js", "/nowhere"):
            headers = self.client.get(url).headers
            policy = headers["Content-Security-Policy"]
            self.assertIn("default-src 'none'", policy)
            self.assertIn("script-src 'self';", policy)
            self.assertNotIn("unsafe", policy)
            self.assertEqual(headers["X-Content-Type-Options"], "nosniff")
            self.assertEqual(headers["X-Frame-Options"], "DENY")

    def test_another_host_name_is_refused(self) -> None:
        for host, code in (
            ("localhost", 200),
            ("localhost:8765", 200),
            ("evil.example", 400),
            ("localhost.evil.example", 400),
        ):
            self.assertEqual(self.client.get("/", headers={"Host": host}).status_code, code, host)

    def test_every_write_needs_the_token(self) -> None:
        rules = [rule for rule in self.app.url_map.iter_rules() if "POST" in (rule.methods or ())]
        self.assertGreaterEqual(len(rules), 8)
        before = self.head()
        for rule in rules:
            url = re.sub(r"<any\((\w+)[^>]*>", r"\1", re.sub(r"<int:\w+>", "1", rule.rule))
            answer = self.client.post(url, json={"base": before["revision"]})
            self.assertEqual(answer.status_code, 400, url)
            self.assertIn("out of date or was not ours", answer.text)
        self.assertEqual(self.head(), before)

    def test_an_upload_that_is_too_large_is_refused(self) -> None:
        answer = self.post("/benches/import", data={"file": (io.BytesIO(b"x" * (MOST_UPLOAD + 1)), "x.json")})
        self.assertEqual(answer.status_code, 413)
        self.assertIn("nothing was kept of it", answer.text)


class Passphrase(AppCase):
    passphrase = "a red lamp and a tray"

    def test_it_is_asked_for_and_lets_in(self) -> None:
        self.assertEqual(self.client.get("/").status_code, 302)
        self.assertEqual(self.client.get("/api/benches/1").status_code, 401)
        self.assertEqual(self.client.get("/static/css/base.css").status_code, 200)
        token = self.token("/enter")
        wrong = self.client.post("/enter", data={"passphrase": "guess", "csrf_token": token})
        self.assertEqual(wrong.status_code, 403)
        self.assertEqual(self.client.get("/").status_code, 302)
        self.client.post("/enter", data={"passphrase": self.passphrase, "csrf_token": token})
        self.assertEqual(self.client.get("/").status_code, 200)
        cookie = self.client.get_cookie("session")
        assert cookie is not None
        for passphrase, code in ((self.passphrase, 200), ("another lamp, another tray", 302)):
            self.passphrase = passphrase
            self.open()
            self.client.set_cookie("session", cookie.value, domain="localhost")
            self.assertEqual(self.client.get("/").status_code, code)

    def test_another_host_name_is_refused_before_anything_is_asked(self) -> None:
        for url in ("/", "/api/benches/1", "/enter"):
            answer = self.client.get(url, headers={"Host": "evil.example"})
            self.assertEqual(answer.status_code, 400, url)
            self.assertIn("does not answer to that host name", answer.text)

    def test_serving_to_others_without_one_is_refused(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            short = Path(folder) / "short"
            short.write_text("abc")
            for arguments, said in (
                (["--host", "0.0.0.0"], "a passphrase is needed"),
                (["--host", "0.0.0.0", "--passphrase-file", str(short)], "too short"),
                (["--host", "192.0.2.1", "--port", "1"], "a passphrase is needed"),
            ):
                result = CliRunner().invoke(main, ["serve", "--data", folder, *arguments])
                self.assertEqual(result.exit_code, 1)
                self.assertIn(said, result.output)

    def test_a_folder_that_cannot_be_used_is_said_and_left_as_it_is(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            odd, newer, taken = Path(folder) / "odd", Path(folder) / "newer", Path(folder) / "file"
            odd.mkdir()
            newer.mkdir()
            (odd / "viva-tick.sqlite").write_bytes(b"not a database" * 100)
            open_database(newer / "viva-tick.sqlite").dispose()
            with sqlite3.connect(newer / "viva-tick.sqlite") as connection:
                connection.execute("UPDATE alembic_version SET version_num = '9999'")
            taken.write_text("x")
            for data, said in ((odd, "not a database"), (newer, "version 9999"), (taken / "x", "Not a directory")):
                result = CliRunner().invoke(main, ["serve", "--data", str(data)])
                self.assertEqual(result.exit_code, 1)
                self.assertIn("cannot be used", result.output)
                self.assertIn(said, result.output)
            self.assertEqual((odd / "viva-tick.sqlite").read_bytes()[:14], b"not a database")


if __name__ == "__main__":
    unittest.main()
