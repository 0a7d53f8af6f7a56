"""Learn over the wire: programs that are read, sums that go on a bench."""

from __future__ import annotations

import io
import json
import re
import xml.etree.ElementTree as ET
import zipfile
from typing import Any

from tests.app.client import AppCase
from tests.core.brought_cases import CLEAN, PLANTED, program
from tests.core.test_given import planted
from viva_tick.core.arithmetic import SUMS
from viva_tick.core.document import bench_from_data
from viva_tick.web.typeset import typeset


class Reading(AppCase):
    def read(self, text: Any, name: str = "a.ino") -> tuple[int, dict[str, Any]]:
        answer = self.post("/api/read", {"text": text, "name": name})
        return answer.status_code, answer.get_json()

    def test_a_program_is_read_and_a_bench_drafted(self) -> None:
        self.assertIn("Paste your program here", self.client.get("/read").text)
        code, name, old, new = next(row for row in PLANTED if row[0] == "no-pull")
        status, said = self.read(planted(code, name, old, new), name)
        self.assertEqual(status, 200)
        self.assertIn("1 thing is wrong", said["html"])
        edits = json.loads(re.search(r'data-read-mend="([^"]+)"', said["html"])[1].replace("&#34;", '"'))  # type: ignore[index]
        text = said["text"]
        for start, stop, put in edits:
            text = text[:start] + put + text[stop:]
        self.assertIn("Nothing that is looked for is wrong", self.read(text, name)[1]["html"])
        data = {"csrf_token": self.token("/read"), "text": program("clean_parted.cpp"), "name": "Watering.ino"}
        answer = self.client.post("/read/draft", data=data)
        self.assertRegex(answer.headers["Location"], r"/benches/7/wire$")
        bench = bench_from_data(json.loads(self.client.get("/benches/7/export.json").data))
        self.assertEqual((bench.name, [one.id for one in bench.inputs]), ("Watering", ["flow", "start", "stop"]))
        self.assertIn("line 26: pulses++;", self.client.get("/benches/7/log").text)

    def test_files_and_zips(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("a/main.py", program("clean_flat.py"))
        for raw, name, status in (
            (program(CLEAN[0]).encode(), "lamp.ino", 200),
            (out.getvalue(), "a.zip", 200),
            (b"PK\x03\x04 nothing", "a.zip", 422),
            (b"\xff\xd8 no program", "a.jpg", 422),
            (b"x" * 4_100_000, "a.cpp", 422),
        ):
            data = {"csrf_token": self.token("/read"), "file": (io.BytesIO(raw), name)}
            answer = self.client.post("/api/read", data=data, headers={"Accept": "application/json"})
            with self.subTest(name, status=status):
                self.assertEqual(answer.status_code, status, answer.text[:200])
                if status == 422:
                    self.assertEqual(answer.get_json()["error"][-1], ".")
        for text in ("", 5, None, "Dear all"):
            status, said = self.read(text, "")
            self.assertEqual((status, said["error"][-1]), (422, "."))
        data = {"csrf_token": self.token("/read"), "text": " ", "name": ""}
        self.assertEqual(self.client.post("/read/draft", data=data).status_code, 422)


class Sums(AppCase):
    def test_every_sum_has_its_page_and_its_drawing(self) -> None:
        for ident, one in SUMS.items():
            page = self.client.get(f"/sums/{ident}")
            with self.subTest(ident):
                self.assertEqual(page.status_code, 200)
                drawing = re.search(r'<div id="sum-drawing">(<svg.*?</svg>)', page.text, re.DOTALL)
                assert drawing is not None
                self.assertGreater(len(list(ET.fromstring(drawing[1]).iter())), 2)
                self.assertNotIn("nan", drawing[1])
                for formula in one.formulas:
                    ET.fromstring(str(typeset(formula)))
        self.assertEqual(self.client.get("/sums/nobody").status_code, 404)

    def test_it_is_worked_out_as_it_is_typed(self) -> None:
        said = self.client.get("/api/sums/led?U_s=12V&U_f=2,1&I=10+mA").get_json()
        gives = {row["id"]: row["text"] for row in said["gives"]}
        self.assertEqual((gives["R"], gives["R_E"]), ("990 Ω", "1 kΩ"))
        said = self.client.get("/api/sums/led?U_s=ten&I=900+A").get_json()
        faults = {row["id"]: row["fault"] for row in said["asks"]}
        self.assertEqual(faults["U_s"], "“ten” is not a number.")
        self.assertEqual(faults["I"], "From 10 µA to 5 A.")
        self.assertEqual({row["id"]: row["text"] for row in said["gives"]}["R"], "375 Ω")

    def test_what_comes_out_goes_on_a_bench(self) -> None:
        page = self.client.get("/sums/led?I=2+mA").text
        place = next(row for row in re.findall(r'<option value="([^"]+)">([^<]+)', page) if "Rain barrel" in row[1])
        data = {"csrf_token": self.token("/sums"), "I": "2 mA", "place": place[0]}
        answer = self.client.post("/sums/led/use", data=data)
        self.assertEqual(answer.status_code, 302)
        self.assertIn("resistor", self.client.get(answer.headers["Location"]).text)
        self.assertIn(
            1500, [getattr(one, "resistor_ohm", 0) for one in bench_from_data(self.head(2)["document"]).outputs]
        )
        for place_ in ("", "9 x", "2 99", "99 0"):
            answer = self.client.post("/sums/led/use", data={**data, "place": place_})
            self.assertEqual(answer.status_code, 404, place_)
        answer = self.client.post("/sums/led/use", data={**data, "I": "nothing"})
        self.assertIn("nothing", answer.headers["Location"])


class Typeset(AppCase):
    def test_formulas(self) -> None:
        for formula, said in (
            ("a = (b - c) * d", "<mo>(</mo>"),
            ("a = b - (c - d)", "<mo>(</mo>"),
            ("a = b / c", "<mfrac>"),
            ("a_x = tau**2", "<msub><mi>a</mi><mi>x</mi></msub>"),
            ("a = sqrt(b)", "<msqrt>"),
            ("a = exp(-x)", "<msup><mi>e</mi>"),
        ):
            self.assertIn(said, str(typeset(formula)), formula)
        self.assertNotIn("<mo>(</mo>", str(typeset("a = b - c - d * e")))


class Drilled(AppCase):
    def ask(self, what: str, of: str = "", bench: int = 7) -> tuple[int, dict[str, Any]]:
        answer = self.post(f"/api/benches/{bench}/ask", {"what": what, "of": of, "place": {"station": "try"}})
        return answer.status_code, answer.get_json()

    def begin(self, **fields: Any) -> str:
        data = {"csrf_token": self.token("/drills"), "bench": "bench 1", "level": 2, "many": 1, "seed": 11, **fields}
        return str(self.client.post("/drills", data=data).headers["Location"])

    def test_a_drill_from_start_to_solved(self) -> None:
        self.assertIn("/benches/7/try", self.begin())
        page = self.client.get("/benches/7/try").text
        self.assertIn("Find the fault", page)
        self.assertNotIn("What stands out</h2>", page)
        self.assertNotIn("Drill: Print timer", self.client.get("/").text)
        lanes = {
            lane["kind"] for lane in self.client.get("/api/benches/7/view?station=try").get_json()["strip"]["lanes"]
        }
        self.assertEqual(lanes, {"output"})
        # Nothing of it is told or changed meanwhile.
        self.assertEqual(self.client.get("/benches/7/clean").status_code, 302)
        self.assertEqual(self.edit([{"op": "replace", "path": "/name", "value": "x"}], bench=7).status_code, 422)
        fault = self.app.extensions["drills"].of(7).faults[0]["id"]
        _, said = self.ask("probe", "foot-pedal")
        self.assertIn("level foot-pedal", [lane["id"] for lane in said["strip"]["lanes"]])
        _, said = self.ask("meter", "pin foot-pedal")
        self.assertIn("Foot pedal, D4: let go ", said["fragments"]["outs"])
        self.assertIn("GND", self.ask("wires")[1]["fragments"]["side"])
        self.assertIn("void loop", self.ask("program")[1]["fragments"]["editor"])
        self.assertRegex(self.ask("ask", "guard")[1]["fragments"]["outs"], r"Is it its watchdog\? (Yes|No)\.")
        self.ask("hint")
        _, said = self.ask("state", "pulls-off" if fault != "pulls-off" else "clash")
        self.assertIn("it is not that.", said["fragments"]["outs"])
        cost = self.app.extensions["drills"].of(7).cost
        self.assertEqual(cost, 2 + 1 + 1 + 3 + 3 + 5 + 5)
        for what, of in (
            ("meter", "nowhere"),
            ("probe", "x"),
            ("swap", "x"),
            ("state", "x"),
            ("ask", "x"),
            ("dance", ""),
        ):
            self.assertEqual(self.ask(what, of)[0], 422, what)
        _, said = self.ask("state", fault)
        self.assertIn("The fault is found", said["fragments"]["path"])
        self.assertIn("The finding that names it", said["fragments"]["outs"])
        self.assertIn('class="finding', said["fragments"]["outs"])
        self.assertEqual(said["strip"]["beside"], "without the faults")
        record = self.client.get("/drills").text
        self.assertIn("What comes up weakest", record)
        self.assertIn("1 of 1", record)
        self.assertEqual(self.client.get("/benches/7/clean").status_code, 200)
        self.assertEqual(self.ask("meter", "x", bench=1)[0], 404)

    def test_a_part_is_swapped_and_a_drill_given_up(self) -> None:
        self.begin(seed=3, level=3, many=2)
        drill = self.app.extensions["drills"].of(7)
        self.assertEqual(len(drill.faults), 2)
        for part in drill.sound.parts:
            self.assertEqual(self.ask("swap", part.id)[0], 200)
        _, said = self.ask("give-up")
        self.assertIn("Given up", said["fragments"]["path"])
        self.assertIn("They were", said["fragments"]["outs"])
        self.assertIn("given up", self.client.get("/drills").text)
        self.assertIn(
            "problem=",
            self.client.post("/benches/new", data={"csrf_token": self.token(), "name": "Empty"}).headers["Location"]
            and self.begin(bench="bench 8"),
        )
        self.assertEqual(self.client.post("/drills", data={"csrf_token": self.token(), "bench": "x"}).status_code, 404)
