"""Malformed input ends in a sentence that says where, never in a traceback: what a fuzzer found first, one by one."""

from __future__ import annotations

import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from click.testing import CliRunner

from tests.app.client import AppCase
from viva_tick.cli import main
from viva_tick.core.boards import boards
from viva_tick.core.document import DocumentError, bench_text, board_from_text, board_text
from viva_tick.core.formats.captures import Asked, read_capture
from viva_tick.core.formats.edges_csv import EdgesError
from viva_tick.core.formats.scxml.words import OURS
from viva_tick.demo import demo_bench

STATE = "<state id='a'/>"
LONG = "9" * 4_301


def machine(inside: str, head: str = "") -> str:
    return f'{head}<scxml xmlns="http://www.w3.org/2005/07/scxml" xmlns:vt="{OURS}" version="1.0">{inside}</scxml>'


def acting(action: str) -> str:
    return machine(f"<datamodel><data id='n' expr='0'/></datamodel><state id='a'><onentry>{action}</onentry></state>")


MACHINES = {
    "an initial that is empty": machine("<initial/>" + STATE),
    "one in a state": machine("<state id='a'><initial/><state id='c'/></state>"),
    "a delay of 310 digits": acting(f"<send event='t' id='t' delay='{'9' * 310}s'/>"),
    "an expression of 4,301 digits": acting(f"<assign location='n' expr='{LONG}'/>"),
    "a number of 4,301 digits": machine(f"<datamodel><data id='n' expr='{LONG}'/></datamodel>" + STATE),
    "brackets in a drive": acting(f"<send type='drive' target='#focus-lamp' event='drive'><content>{'[' * 20_000}</content></send>"),
    "brackets in what passes": machine(f"<state id='a' vt:passes='{'[' * 20_000}'/>"),
    "places that are none": machine("<state id='a' vt:place='1 é'/>"),
}  # fmt: skip
DUMP = "$timescale {} $end $var wire 1 a x $end $enddefinitions $end #0 0a #{} 1a "
CAPTURES = {
    "a time of 1e303": ("time_ms,level\n0,0\n1e303,1\n", Asked()),
    "a time that is no number": ("time_ms,level\n0,0\nnan,1\n", Asked()),
    "a dump's time of 310 digits": (DUMP.format("1us", "9" * 310), Asked()),
    "a dump's unit of ages": (DUMP.format("1000000000000000000000s", 5), Asked()),
    "a rate of 1e-300": ("0\n1\n0\n1\n", Asked(None, 1e-300, None, None)),
}


class Malformed(AppCase):
    def assert_said(self, answer: Any, status: int = 422) -> None:
        self.assertEqual(answer.status_code, status, answer.text[:300])
        said = answer.get_json()["error"] if answer.is_json else answer.text
        self.assertGreater(len(said), 10)

    def send_machine(self, raw: bytes) -> Any:
        data = {"file": (io.BytesIO(raw), "m.scxml"), "base": self.head()["revision"], "station": "behave"}
        return self.post("/api/benches/1/machine", data=data)

    def test_machines(self) -> None:
        for name, text in MACHINES.items():
            with self.subTest(name):
                self.assert_said(self.send_machine(text.encode()))
        self.assert_said(self.send_machine(machine(STATE).encode("utf-16")))
        for encoding in ("klingon", "shift_jis", "base64", "utf-16"):  # what it says of itself does not count
            with self.subTest(encoding):
                head = f'<?xml version="1.0" encoding="{encoding}"?>'
                self.assertEqual(self.send_machine(machine(STATE, head).encode()).status_code, 200)

    def test_machines_on_the_command_line(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            bench, file = Path(name) / "bench.json", Path(name) / "m.scxml"
            bench.write_text(bench_text(demo_bench("print-timer")))
            for raw in (*(text.encode() for text in MACHINES.values()), machine(STATE).encode("utf-16"), b"\x00"):
                file.write_bytes(raw)
                done = CliRunner().invoke(main, ["bring-in", str(bench), str(file)])
                self.assertNotEqual(done.exit_code, 0)
                self.assertIsInstance(done.exception, SystemExit, done.exception)

    def test_captures(self) -> None:
        for name, (text, asked) in CAPTURES.items():
            with self.subTest(name), self.assertRaises(EdgesError):
                read_capture(text, asked)

    def test_boards(self) -> None:
        for calls in (1, 0.5, True, "x", [1], {"power_bit": 1}):
            data = json.loads(board_text(boards()["small-8bit-5v"]))
            data["program"]["watchdog"] = calls
            with self.subTest(calls=calls), self.assertRaises(DocumentError):
                board_from_text(json.dumps(data))

    def test_programs(self) -> None:
        text = "import machine\nguard = machine.WDT(timeout=0)\nwhile True:\n    guard.feed()\n"
        self.assertEqual(self.post("/api/read", json={"text": text, "name": "a.py"}).status_code, 200)

    def test_addresses_and_bodies(self) -> None:
        for number in (1 << 63, 1 << 64, 10**40):
            for address in (f"/benches/{number}/wire", f"/api/benches/{number}", f"/api/benches/{number}/view"):
                self.assertEqual(self.client.get(address).status_code, 404)
            for recording in (number, -number):
                self.assert_said(self.post("/api/benches/1/told", json={"recording": recording}), 404)
        headers = {"X-CSRFToken": self.token()}
        for body in ("[" * 100_000, '{"base": 1, "patch": ' + "[" * 2_000 + "]" * 2_000 + "}"):
            raw = {"data": body, "content_type": "application/json", "headers": headers}
            self.assert_said(self.client.post("/api/benches/1/edit", **raw))
        base = self.head()["revision"]
        for windows in ("[1e999]", "[[0, 1e999]]", '[["a"]]'):
            place = f'{{"station": "clean", "windows": {windows}}}'
            body = f'{{"base": {base}, "patch": [], "preview": true, "place": {place}}}'
            raw = {"data": body, "content_type": "application/json", "headers": headers}
            self.assertEqual(self.client.post("/api/benches/1/edit", **raw).status_code, 200)
        many = {f"f{n}": "x" for n in range(5_000)}
        raw = {"data": many, "content_type": "multipart/form-data", "headers": headers}
        self.assert_said(self.client.post("/api/benches/1/capture", **raw), 413)

    def test_valid_extremes_are_refused_or_work(self) -> None:
        timer, barrel = demo_bench("print-timer"), demo_bench("rain-barrel")
        dial = next(n for n, part in enumerate(timer.inputs) if part.kind == "encoder")
        probe = next(n for n, part in enumerate(timer.inputs) if part.kind == "temperature-sensor")
        gauge = next(n for n, part in enumerate(barrel.inputs) if part.kind == "level-sensor")
        for bench, path in (
            (1, f"/inputs/{dial}/turns_a_second"), (1, f"/inputs/{probe}/low/value"), (1, f"/inputs/{probe}/low/ohm"),
            (2, f"/inputs/{gauge}/most"), (2, f"/inputs/{gauge}/least"),
        ):  # fmt: skip
            for value in (1e-300, 1e-5, 1e300, -1e300):
                with self.subTest(path, value=value):
                    head = self.head(bench)["revision"]
                    patch = json.loads(json.dumps([{"op": "replace", "path": path, "value": value}]))
                    answer = self.edit(patch, bench=bench)
                    self.assertIn(answer.status_code, (200, 422))
                    if answer.status_code == 200:
                        view = answer.get_json()
                        self.assertNotIn("could not be worked out", " ".join(view["fragments"].values()))
                        self.assertNotEqual(view["revision"], head)
                        back = {"base": view["revision"], "place": {"station": "wire"}}
                        self.assertEqual(self.post(f"/api/benches/{bench}/undo", back).status_code, 200)


if __name__ == "__main__":
    unittest.main()
