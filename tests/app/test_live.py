"""The panel: all of a bench is on it, what is done is run and answered, refused with a sentence, kept."""

from __future__ import annotations

from typing import Any
from unittest.mock import patch
from xml.etree import ElementTree

import segno

from tests.app.client import AppCase
from viva_tick.core.panel import inputs_of, outputs_of
from viva_tick.demo import ORDER, demo_bench
from viva_tick.web.gallery import exhibits


class Panel(AppCase):
    def play(self, bench: int = 1, **more: Any) -> tuple[int, dict[str, Any]]:
        body = {
            "revision": self.head(bench)["revision"],
            "stimuli": [],
            "now_us": 0,
            "ahead_us": 0,
            "since_us": -1,
            "seed": 0,
        }
        answer = self.post(f"/api/benches/{bench}/live", {**body, **more})
        return answer.status_code, answer.get_json()

    def test_everything_that_a_bench_has_is_on_it(self) -> None:
        for bench in (*map(demo_bench, ORDER), *exhibits().values()):
            with self.subTest(bench.name):
                inputs, outputs = inputs_of(bench), outputs_of(bench)
                wanted = {line.id for line in bench.contacts} | {part.id for _, part in bench.sensed}
                self.assertEqual({one.id for one in inputs}, wanted)
                shown = {ident for one in outputs for ident in one.of}
                wanted = {one.id for one in bench.channels} | {one.id for one in bench.servos}
                self.assertEqual(shown, wanted | {line.id for line in bench.text_lines})
                keys = [one.key for one in inputs if one.key]
                self.assertEqual(len(keys), len(set(keys)))

    def test_a_press_is_answered_from_where_it_was_done(self) -> None:
        press = {"kind": "set", "input": "foot-pedal", "at_us": 500_000, "pressed": True}
        status, first = self.play(now_us=400_000)
        self.assertEqual((status, first["until_us"], first["stopped"]), (200, 2_400_000, None))
        self.assertNotIn("focus-lamp", str(first["happened"]))
        status, then = self.play(now_us=510_000, stimuli=[press], since_us=499_999)
        self.assertEqual(status, 200)
        self.assertIn("Lamp mode: Dark → Focus", [one["words"] for one in then["happened"]])
        self.assertEqual([value for _, value in then["changes"]["output"]["focus-lamp"]][:1], [1])
        self.assertGreaterEqual(min(at for at, _ in then["changes"]["state"]["lamp-mode"]), 500_000)

    def test_a_fault_is_put_in_by_hand(self) -> None:
        _, sound = self.play(now_us=900_000)
        status, faulty = self.play(now_us=900_000, faults=["closed:foot-pedal:500000"])
        self.assertEqual(status, 200)
        words = "Foot pedal: pressed, and nobody pressed it"
        self.assertIn(words, [one["words"] for one in faulty["happened"] if one["at_us"] > 500_000])
        self.assertNotIn("Foot pedal", str(sound["happened"]))
        status, said = self.play(faults=["closed:nobody:5"])
        self.assertEqual((status, "no such fault" in said["error"]), (422, True), said)

    def test_who_plays_goes_on_while_the_panel_is_arranged(self) -> None:
        before = self.head()["revision"]
        self.edit([{"op": "add", "path": "/panel/spots/foot-pedal", "value": {"label": "Pedal"}}])
        self.assertEqual(self.play(revision=before)[0], 200)
        self.edit([{"op": "replace", "path": "/firmware/debounce/foot-pedal/interval_us", "value": 9_000}])
        self.assertEqual(self.play(revision=before)[0], 409)

    def test_it_is_refused_with_a_sentence(self) -> None:
        status, said = self.play(revision=999)
        self.assertEqual(status, 409)
        self.assertIn("has changed", said["error"])
        for more in (
            {"now_us": -1},
            {"now_us": "soon"},
            {"stimuli": [{"kind": "set"}]},
            {"stimuli": None},
            {"seed": 1.5},
        ):
            status, said = self.play(**more)
            self.assertEqual(status, 422, more)
            self.assertTrue(said["error"].endswith("."), said)

    def test_the_next_pass_and_what_the_strip_shows(self) -> None:
        strip = {"lanes": ["output focus-lamp", "state lamp-mode", "nothing"], "from_us": 0, "columns": 900}
        status, said = self.play(now_us=500_000, strip=strip)
        self.assertEqual(status, 200)
        self.assertTrue(500_000 < said["next_pass_us"] < 501_000)
        self.assertEqual(set(said["window"]["lanes"]), {"output focus-lamp", "state lamp-mode"})
        self.assertEqual(said["window"]["to_us"], said["until_us"])
        self.assertIn("tenths", str(said["window"]["scales"]))
        self.assertEqual(self.play(strip={**strip, "from_us": -3})[0], 422)
        self.assertIsNone(self.play(strip="all")[1]["window"])

    def test_another_hand_plays(self) -> None:
        status, said = self.hand(who="hurried", upto=5)
        self.assertEqual((status, said["rounds"], said["batch"]), (200, 40, 5))
        self.assertIn("Foot pedal", said["html"])
        self.assertRegex(said["html"], "counted more than once")
        status, one = self.hand(who="hurried", round=2)
        self.assertEqual((status, one["name"], one["seed"]), (200, "Somebody in a hurry, round 3", 2))
        self.assertEqual(self.play(stimuli=one["stimuli"], now_us=1_000_000)[0], 200)
        for more in ({"who": "nobody"}, {"who": "child"}, {"who": "child", "upto": 41}, {"who": "child", "upto": True}):
            status, said = self.hand(**more)
            self.assertEqual((status, said["error"][-1]), (422, "."), more)

    def hand(self, **body: Any) -> tuple[int, dict[str, Any]]:
        answer = self.post("/api/benches/1/hand", body)
        return answer.status_code, answer.get_json()

    def test_the_template_is_at_its_true_size(self) -> None:
        spots = {"foot-pedal": {"x_mm": 40, "y_mm": 30, "hole_mm": 24}}
        patch = [{"op": "add", "path": "/panel/spots/foot-pedal", "value": spots["foot-pedal"]}]
        self.assertEqual(
            self.edit([*patch, {"op": "replace", "path": "/panel/wide_mm", "value": 200}]).status_code, 200
        )
        page = self.client.get("/benches/1/drill").text
        sheet = ElementTree.fromstring(
            page[page.index('<svg class="drill-sheet') : page.index("</svg>", page.index("drill-sheet")) + 6]
        )
        wide, high = map(float, sheet.attrib["viewBox"].split()[2:])
        self.assertEqual((sheet.attrib["width"], sheet.attrib["height"]), (f"{wide:g}mm", f"{high:g}mm"))
        holes = {one.attrib["data-thing"]: one.find("circle") for one in sheet.iter("g") if "data-thing" in one.attrib}
        pedal = holes["foot-pedal"]
        assert pedal is not None
        self.assertEqual([float(pedal.attrib[name]) for name in ("cx", "cy", "r")], [40, 30, 12])
        edge = next(one for one in sheet.iter("rect") if one.attrib["class"] == "drill-edge")
        self.assertEqual(edge.attrib["width"], "200")
        self.assertIn("is-landscape", page)
        self.assertIn("No hole for: Focus lamp", page)

    def test_its_address_as_a_code_where_others_reach_the_server(self) -> None:
        here = self.client.get("/api/benches/1/phone").get_json()["html"]
        self.assertIn("--passphrase-file", here)
        with (
            patch.dict(self.app.config, LISTENS="0.0.0.0"),
            patch("viva_tick.web.phone.network_address", lambda: "192.0.2.7"),
        ):
            said = self.client.get("/api/benches/1/phone", base_url="http://localhost:8765").get_json()["html"]
        address = "http://192.0.2.7:8765/benches/1/try?alone=1"
        self.assertIn(f'href="{address}"', said)
        drawn = segno.make(address, error="m").svg_inline(scale=5, border=3, dark="#000", light="#fff")
        self.assertIn(drawn, said)

    def test_what_was_done_is_kept_as_a_scenario(self) -> None:
        down = {"kind": "set", "input": "foot-pedal", "at_us": 500_000, "pressed": True}
        up = {**down, "at_us": 620_000, "pressed": False}
        status, said = self.play(now_us=3_000_000, stimuli=[down, up], keep=True)
        self.assertEqual((status, said["name"]), (200, "By hand"))
        self.assertEqual(self.edit(said["patch"]).status_code, 200)
        made = self.head()["document"]["scenarios"][-1]
        self.assertEqual((made["name"], made["length_us"]), ("By hand", 3_000_000))
        done = [(one["kind"], one["input"], one["at_us"], one["hold_us"]) for one in made["stimuli"]]
        self.assertEqual(done, [("press", "foot-pedal", 500_000, 120_000)])
        self.assertEqual(self.play(stimuli=[], keep=True)[1]["name"], "By hand 2")
