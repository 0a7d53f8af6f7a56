"""Long captures over the wire, piece by piece; contacts that go to the shelf and come back."""

from __future__ import annotations

import io
import json
import re
from typing import Any

from tests.app.client import AppCase
from tests.core.test_captured import NAMED, as_vcd, pins
from viva_tick.core.document import bench_from_data
from viva_tick.demo import demo_bench


def long_vcd() -> str:
    """The scenario's pins, and a channel that changes 60,000 times besides."""
    bench = demo_bench("print-timer")
    begins, rows = pins(bench, bench.scenario("One print"), NAMED)
    rows += [(100 + n * 40, "clock", n & 1) for n in range(60_000)]
    return as_vcd({**begins, "clock": 1}, sorted(rows))


class Long(AppCase):
    def begin(self) -> int:
        made = self.post("/api/benches/1/recordings", {"name": "Saturday.vcd"}).get_json()
        return int(made["id"])

    def send(self, number: int, at: int, data: bytes, last: bool = False) -> Any:
        return self.client.post(
            f"/api/benches/1/recordings/{number}/more?at={at}&last={int(last)}",
            data=data,
            headers={"X-CSRFToken": self.token(), "Content-Type": "application/octet-stream"},
        )

    def whole(self, text: str, piece: int = 100_000) -> tuple[int, dict[str, Any]]:
        raw, number, said = text.encode(), self.begin(), {}
        for at in range(0, len(raw), piece):
            said = self.send(number, at, raw[at : at + piece], at + piece >= len(raw)).get_json()
        return number, said

    def window(self, number: int, from_us: int, to_us: int, columns: int, *lanes: str) -> Any:
        query = "&".join(f"lane=level {one}" for one in lanes)
        url = f"/api/runs/capture-{number}/window?from={from_us}&to={to_us}&columns={columns}&{query}"
        return self.client.get(url).get_json()

    def test_it_comes_in_pieces_is_looked_at_and_a_part_is_compared(self) -> None:
        number, said = self.whole(long_vcd())
        self.assertGreater(said["changes"], 60_000)
        self.assertIn(f'data-log-recording="{number}"', self.client.get("/benches/1/log").text)
        shown = self.client.get(f"/api/benches/1/recordings/{number}").get_json()["shown"]
        self.assertEqual((shown["key"], shown["name"]), (f"capture-{number}", "Saturday"))
        lane = self.window(number, 0, shown["length_us"], 300, "analyser.clock")["lanes"]["level analyser.clock"]
        self.assertIn("*", lane["v"])
        lane = self.window(number, 1_000, 1_500, 1000, "analyser.clock", "nobody")["lanes"]["level analyser.clock"]
        self.assertEqual((len(lane["t"]), set(lane["v"])), (14, {0, 1}))
        told = {"recording": number, "from_us": 0, "to_us": shown["length_us"], "channels": {}}
        answer = self.post("/api/benches/1/told", told)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("20,000 are compared at a time", answer.get_json()["error"])
        answer = self.post("/api/benches/1/told", {**told, "to_us": 700_000}).get_json()
        self.assertIn("Compare what is in sight", answer["html"])
        self.assertIn("output focus-lamp", answer["laid"]["board"]["lanes"])
        entry = said["entry"]
        self.assertEqual(self.post(f"/api/benches/1/log/{entry}/remove", {}).status_code, 200)
        self.assertEqual(self.client.get(f"/api/benches/1/recordings/{number}").status_code, 404)
        self.assertEqual(self.window(number, 0, 1, 1, "a")["error"][-1], ".")

    def test_a_piece_that_was_lost_or_came_twice_does_no_harm(self) -> None:
        raw = long_vcd().encode()
        _, said = self.whole(raw.decode())
        number = self.begin()
        half = len(raw) // 2
        self.send(number, 0, raw[:half])
        again = self.send(number, 0, raw[:half]).get_json()  # the answer was lost
        self.assertEqual(again["taken"], half)
        ahead = self.send(number, half + 5, raw[half + 5 :], last=True).get_json()
        self.assertEqual((ahead["taken"], "entry" in ahead), (half, False))
        self.open()  # another process goes on
        done = self.send(number, half, raw[half:], last=True).get_json()
        self.assertEqual(done["changes"], said["changes"])
        once_more = self.send(number, half, raw[half:], last=True).get_json()
        self.assertNotIn("entry", once_more)

    def test_what_is_no_good_or_is_stopped_leaves_nothing(self) -> None:
        number = self.begin()
        self.send(number, 0, b"t,a\n0,0\n" * 1)
        self.assertEqual(self.post(f"/api/benches/1/recordings/{number}/stop", {}).get_json(), {"stopped": number})
        self.assertEqual(self.send(number, 8, b"1,1\n").status_code, 404)
        rows = b"".join(b"%d,%d\n" % (n, n & 1) for n in range(100))
        for raw, said in (
            (b"t,a\n" + rows + b"100,x\n", "Line 102, column 2"),
            (b"hello, bench\n" * 20, "neither a value change dump nor a table"),
            (b"t,a\n" + b"0,0\n" * 80, "No channel of this file ever changes"),
            (b"\xff\xfe\x00" * 50, "neither"),
        ):
            with self.subTest(said):
                number = self.begin()
                answer = self.send(number, 0, raw, last=True)
                self.assertEqual(answer.status_code, 422)
                self.assertIn(said, answer.get_json()["error"])
                self.assertEqual(self.client.get(f"/api/benches/1/recordings/{number}").status_code, 404)
        self.assertEqual(self.client.get("/api/benches/2/recordings/1").status_code, 404)


class Shelf(AppCase):
    def keep(self, **body: Any) -> Any:
        return self.post("/api/benches/1/shelf/contact", body)

    def test_a_bounce_goes_to_the_shelf_and_to_another_bench(self) -> None:
        bench = demo_bench("print-timer")
        text = as_vcd(*pins(bench, bench.scenario("One print"), NAMED))
        made = self.keep(text=text, of="foot-pedal", name="Old pedal").get_json()
        self.assertRegex(made["said"], "Old pedal, 2 presses and 2 releases")
        page = self.client.get("/boards").text
        self.assertIn("Rests on 2 presses and 2 releases", page)
        self.assertIn("is-histogram", page)
        self.assertIn("Not used on a bench", page)
        # Once more it is the same thing, whatever it is called.
        self.assertEqual(self.keep(text=text, of="foot-pedal", name="Pedal").get_json()["id"], made["id"])
        self.assertIn("from the shelf: Pedal, 2 presses", self.client.get("/benches/4/clean").text)
        other = demo_bench("quiz-table").contacts[0].id
        place = {"station": "clean", "picked": other}
        used = {"base": self.head(4)["revision"], "part": other, "kept": made["id"], "place": place}
        self.assertEqual(self.post("/api/benches/4/contact", used).status_code, 200)
        now = bench_from_data(json.loads(self.client.get("/benches/4/export.json").data))
        self.assertEqual((now.captures[0].name, now.contact(other).contact.kind), ("Pedal", "capture"))
        self.assertIn("Used: ", self.client.get("/boards").text)
        self.assertNotIn("from the shelf: Pedal", self.client.get(f"/benches/4/clean?picked={other}").text)
        # What is used stays as it was when the shelf changes.
        token = {"csrf_token": self.token("/boards")}
        self.client.post(f"/shelf/contact/{made['id']}/name", data={**token, "name": "Another"})
        file = self.client.get(f"/shelf/contact/{made['id']}.json").data
        self.client.post(f"/shelf/contact/{made['id']}/remove", data=token)
        self.assertIn("Nothing yet. In Wire", self.client.get("/boards").text)
        self.assertEqual(bench_from_data(json.loads(self.client.get("/benches/4/export.json").data)), now)
        back = {**token, "file": (io.BytesIO(file), "a.json")}
        self.assertEqual(self.client.post("/boards/import", data=back).status_code, 302)
        self.assertIn("Another", self.client.get("/boards").text)

    def test_what_is_no_contact_is_refused_with_where(self) -> None:
        bench = demo_bench("print-timer")
        text = as_vcd(*pins(bench, bench.scenario("One print"), NAMED))
        for body in ({}, {"capture": "x"}, {"text": text, "of": "beeper"}, {"text": "t", "of": "foot-pedal"}):
            answer = self.keep(**body)
            self.assertEqual((answer.status_code, answer.get_json()["error"][-1]), (422, "."), body)
        used = {"base": self.head(1)["revision"], "part": "foot-pedal", "kept": "nobody", "place": {}}
        self.assertEqual(self.post("/api/benches/1/contact", used).status_code, 422)
        self.keep(text=text, of="foot-pedal", name="Old pedal")
        good = json.loads(self.client.get("/shelf/contact/old-pedal.json").data)
        for spoiled, where in (
            ({**good, "things": [{**good["things"][0], "name": ""}]}, "/things/0/name"),
            ({**good, "things": [{**good["things"][0], "kind": "board"}]}, "/things/0"),
            ({"viva_tick_shelf": 2, "things": []}, "no file of a shelf"),
        ):
            raw = json.dumps(spoiled).encode()
            data = {"csrf_token": self.token("/boards"), "file": (io.BytesIO(raw), "a.json")}
            answer = self.client.post("/boards/import", data=data)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(where, answer.text)

    def test_a_machine_is_kept_used_elsewhere_and_updated_on_purpose(self) -> None:
        machine = demo_bench("bicycle-lamp").firmware.machines[0].id
        made = self.post("/api/benches/3/shelf/machine", {"of": machine, "name": "Steps"}).get_json()
        self.assertEqual(made["said"], "On the shelf: Steps.")
        page = self.client.get(f"/shelf/machine/{made['id']}?bench=4").text
        asks = re.findall(r'<label>([^<]+) is <select name="([^"]+)">', page)
        self.assertTrue(asks)
        token = {"csrf_token": self.token("/boards")}
        given = {}
        for _, ref in asks:
            options = re.findall(rf'name="{ref}">(.*?)</select>', page, re.DOTALL)[0]
            given[ref] = re.findall(r'value="([^"]+)"', options)[0]
        before = len(self.head(4)["document"]["firmware"]["machines"])
        answer = self.client.post(f"/shelf/machine/{made['id']}/use", data={**token, "bench": 4, **given})
        self.assertTrue(answer.headers["Location"].endswith("/benches/4/behave"), answer.headers["Location"])
        machines = self.head(4)["document"]["firmware"]["machines"]
        self.assertEqual((len(machines), machines[-1]["name"]), (before + 1, "Steps"))
        answer = self.client.post(f"/shelf/machine/{made['id']}/use", data={**token, "bench": 4})
        self.assertIn("problem=", answer.headers["Location"])
        # It changes at home; the other bench keeps what it has until it is told.
        self.assertNotIn("take it anew", self.client.get("/boards").text)
        rows = self.head(3)["document"]["firmware"]["machines"]
        name = rows[0]["states"][0]["name"] + " anew"
        self.edit([{"op": "replace", "path": "/firmware/machines/0/states/0/name", "value": name}], bench=3)
        said = self.post("/api/benches/3/shelf/machine", {"of": machine, "name": "Steps"}).get_json()["said"]
        self.assertEqual(said, "On the shelf: Steps, anew.")
        self.assertIn("take it anew", self.client.get("/boards").text)
        self.assertNotEqual(self.head(4)["document"]["firmware"]["machines"][-1]["states"][0]["name"], name)
        data = {**token, "bench": 4, "local": machines[-1]["id"]}
        self.assertEqual(self.client.post(f"/shelf/machine/{made['id']}/update", data=data).status_code, 302)
        self.assertEqual(self.head(4)["document"]["firmware"]["machines"][-1]["states"][0]["name"], name)
        self.assertNotIn("take it anew", self.client.get("/boards").text)
        self.assertEqual(
            self.client.post(f"/shelf/machine/{made['id']}/update", data={**data, "local": "x"}).status_code, 404
        )

    def test_parts_and_panels_go_the_same_way(self) -> None:
        for kind, of in (("part", "ann-lamp"), ("panel", "")):
            made = self.post(f"/api/benches/4/shelf/{kind}", {"of": of}).get_json()
            token = {"csrf_token": self.token("/boards"), "bench": 2}
            answer = self.client.post(f"/shelf/{kind}/{made['id']}/use", data=token)
            self.assertRegex(answer.headers["Location"], r"/benches/2/(wire|try)$")
        self.assertEqual(self.head(2)["document"]["outputs"][-1]["name"], "Ann's lamp")
        self.assertEqual(self.post("/api/benches/4/shelf/part", {"of": "nobody"}).status_code, 422)
        self.assertEqual(len(json.loads(self.client.get("/shelf.json").data)["things"]), 2)
