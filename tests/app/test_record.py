"""The log over the wire: notes, pictures without what their files tell, cards, trials, states gone back to, a file."""

from __future__ import annotations

import io
import threading
import zipfile
from typing import Any

from PIL import Image

from tests.app.client import AppCase


def picture(kind: str, size: tuple[int, int] = (60, 40), turned: bool = False) -> bytes:
    """A picture that carries where it was taken, by which camera, and (as it may) which way up it is."""
    image = Image.new("RGB", size, "red")
    image.paste("blue", (0, 0, size[0] // 2, size[1]))
    tags = Image.Exif()
    tags[0x010F], tags[0x0110] = "Secret maker", "Secret model"
    tags.get_ifd(0x8825)[2] = (48.0, 12.0, 30.0)
    if turned:
        tags[0x0112] = 6
    out = io.BytesIO()
    image.save(out, kind, exif=tags)
    return out.getvalue()


class Record(AppCase):
    def log(self, what: str, body: Any) -> tuple[int, dict[str, Any]]:
        answer = self.post(f"/api/benches/1/log/{what}", body)
        return answer.status_code, answer.get_json()

    def send(self, raw: bytes, words: str = "") -> tuple[int, dict[str, Any]]:
        data = {"file": (io.BytesIO(raw), "a.jpg"), "words": words, "csrf_token": self.token()}
        answer = self.client.post("/api/benches/1/log/picture", data=data, headers={"Accept": "application/json"})
        return answer.status_code, answer.get_json()

    def page(self, picked: str = "") -> str:
        return self.client.get(f"/benches/1/log?picked={picked}").text

    def test_a_note_is_kept_and_removed(self) -> None:
        status, made = self.log("note", {"words": "  <b>frosty</b> pedal\nbounces "})
        self.assertEqual(status, 200)
        self.assertIn("&lt;b&gt;frosty&lt;/b&gt; pedal", self.page())
        for body in ({"words": "  "}, {"words": 5}, {"words": "x" * 5000}, [], None):
            status, said = self.log("note", body)
            self.assertEqual((status, said["error"][-1]), (422, "."))
        self.assertEqual(self.log(f"{made['id']}/remove", {})[0], 200)
        self.assertNotIn("frosty", self.page())
        self.assertEqual(self.log(f"{made['id']}/remove", {})[0], 404)

    def test_a_picture_tells_neither_place_nor_camera(self) -> None:
        for kind, turned, size in (("JPEG", True, (40, 60)), ("PNG", False, (60, 40)), ("JPEG", False, (1600, 800))):
            raw = picture(kind, (3200, 1600) if size[0] > 1000 else (60, 40), turned)
            with Image.open(io.BytesIO(raw)) as sent:
                self.assertIn("Secret", str(dict(sent.getexif())))
            status, made = self.send(raw, "the back")
            self.assertEqual(status, 200, made)
            answer = self.client.get(f"/benches/1/log/{made['id']}.picture")
            self.assertEqual(answer.mimetype, f"image/{kind.lower()}")
            self.assertNotIn(b"Secret", answer.data)
            with Image.open(io.BytesIO(answer.data)) as kept:
                self.assertEqual((dict(kept.getexif()), kept.size, kept.format), ({}, size, kind))
        self.assertIn('alt="the back"', self.page())
        for raw in (b"", b"GIF89a", b"\xff\xd8\xff\xe0 nothing", picture("PNG")[:60], b"<svg/>"):
            status, said = self.send(raw)
            self.assertEqual((status, said["error"][-1]), (422, "."), raw)
        self.assertEqual(self.client.get("/benches/1/log/999.picture").status_code, 404)

    def test_a_card_is_ticked_judged_and_goes_on_later(self) -> None:
        status, made = self.log("card", {})
        card = made["id"]
        self.assertEqual((status, made["picked"]), (200, f"card-{card}"))
        _, said = self.log(f"{card}/tick", {"line": "power rails", "state": "pass", "who": "Ada"})
        line = next(one for one in said["data"]["lines"] if one["id"] == "power rails")
        self.assertEqual((line["state"], line["who"], line["value"]), ("pass", "Ada", None))
        _, said = self.log(f"{card}/tick", {"line": "power supply", "state": "", "value": 4.1})
        line = next(one for one in said["data"]["lines"] if one["id"] == "power supply")
        self.assertEqual((line["state"], line["value"]), ("fail", 4.1))
        self.assertIn("pulls the supply down", line["wrong"])
        self.assertIn("2 of 37 done, 1 failed", self.page(f"card-{card}"))
        _, said = self.log(f"{card}/tick", {"line": "power rails", "state": ""})
        self.assertEqual(next(one for one in said["data"]["lines"] if one["id"] == "power rails")["state"], "")
        for body in ({"line": "nothing", "state": "pass"}, {"line": "power rails", "state": "maybe"}, {}):
            self.assertEqual(self.log(f"{card}/tick", body)[0], 422)
        self.assertEqual(self.log("999/tick", {"line": "power rails", "state": "pass"})[0], 404)
        # The bench changes: the card says what since, and which lines no longer hold.
        self.edit([{"op": "replace", "path": "/scenarios/0/expects/0/at_us", "value": 2_400_000}])
        page = self.page(f"card-{card}")
        self.assertIn("1 changes since it was made", page)
        self.assertIn("this no longer holds", page)
        other = self.log("card", {})[1]["id"]
        self.assertIn("2 lines came out differently", self.page(f"cards-{card}-{other}"))

    def test_two_who_tick_at_once_both_have_their_say(self) -> None:
        card = self.log("card", {})[1]["id"]
        lines = [one["id"] for one in self.app.extensions["record"].entry(1, card).data["lines"]][:12]
        record = self.app.extensions["record"]

        def mark(ident: str) -> None:
            record.amend(1, card, lambda data: {**data, "lines": [
                {**one, "state": "pass"} if one["id"] == ident else one for one in data["lines"]
            ]})  # fmt: skip

        threads = [threading.Thread(target=mark, args=(ident,)) for ident in lines]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sum(one.get("state") == "pass" for one in record.entry(1, card).data["lines"]), 12)

    def test_a_trial_from_taps_to_an_edit(self) -> None:
        told = {"title": "Twice", "of": "foot-pedal", "outcome": "doubled", "condition": "wait", "unit": "ms", "aim": 5}
        status, made = self.log("trial", told)
        trial = made["id"]
        self.assertEqual(status, 200)
        for _ in range(80):
            status, said = self.log(f"{trial}/try", {"at": 20, "so": False})
        self.log(f"{trial}/try", {"at": 5, "so": True})
        _, said = self.log(f"{trial}/try", {"at": 5, "so": True, "by": -1})
        self.assertEqual(said["data"]["rows"], [{"at": 5, "so": 0, "of": 0}, {"at": 20, "so": 0, "of": 80}])
        page = self.page(f"trial-{trial}")
        self.assertIn("sure: it is as aimed", page)
        self.assertIn("wait 20 ms, the shortest that is sure", page)
        for body in (
            {"at": "far", "so": True},
            {"at": 5, "so": True, "by": -1},
            {"at": 5, "so": 1},
            {"at": 5, "so": True, "by": 7},
        ):
            self.assertEqual(self.log(f"{trial}/try", body)[0], 422, body)
        for body in ({"title": ""}, {**told, "outcome": "liked"}, {**told, "aim": 400}, []):
            self.assertEqual(self.log("trial", body)[0], 422, body)

    def test_back_to_any_state_and_two_of_them_side_by_side(self) -> None:
        first = self.head()["revision"]
        path = "/firmware/debounce/foot-pedal/interval_us"
        for value in (9_000, 25_000):
            self.edit([{"op": "replace", "path": path, "value": value}])
        last = self.head()["revision"]
        page = self.page(f"compare-{first}-{last}")
        self.assertIn("Foot pedal: interval 2 ms → 25 ms", page)
        self.assertIn("as it was before", page)
        answer = self.post("/api/benches/1/back_to", {"base": last, "revision": first, "place": {"station": "log"}})
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.head()["document"]["firmware"]["debounce"]["foot-pedal"]["interval_us"], 2_000)
        self.assertEqual(self.page().count("on a way that was left"), 2)
        back = self.post("/api/benches/1/back_to", {"base": first, "revision": last})
        self.assertEqual(back.status_code, 200)
        self.assertNotIn("on a way that was left", self.page())
        for body, status in (
            ({"base": first, "revision": last}, 409),
            ({"base": last, "revision": 999}, 422),
            ({"base": last}, 422),
        ):
            self.assertEqual(self.post("/api/benches/1/back_to", body).status_code, status, body)

    def test_a_capture_is_kept_beside_the_document_and_read_again(self) -> None:
        text = "time (ms),D4\n" + "\n".join(f"{n},{n % 2}" for n in range(5000))
        status, made = self.log(
            "capture", {"text": text, "name": "cold morning.csv", "channels": {"D4": "cleaned foot-pedal"}}
        )
        self.assertEqual(status, 200)
        self.assertIn("cold morning</button>", self.page())
        said = self.client.get(f"/api/benches/1/log/{made['id']}/text").get_json()
        self.assertEqual((said["text"], said["channels"]), (text, {"D4": "cleaned foot-pedal"}))
        self.assertLess(len(self.app.extensions["record"].picture(1, made["id"])), len(text) / 2)
        note = self.log("note", {"words": "no capture"})[1]["id"]
        for number in (note, 999):
            self.assertEqual(self.client.get(f"/api/benches/1/log/{number}/text").status_code, 404)
        with zipfile.ZipFile(io.BytesIO(self.client.get("/benches/1/log.md.zip").data)) as archive:
            self.assertEqual(archive.read(f"captures/{made['id']}.txt").decode(), text)

    def test_findings_that_came_and_went(self) -> None:
        path = "/firmware/debounce/foot-pedal/interval_us"
        self.edit([{"op": "replace", "path": path, "value": 25_000}])
        self.assertRegex(self.page(), r"log-went\">mended: [^<]*[Pp]edal")
        self.edit([{"op": "replace", "path": path, "value": 2_000}])
        page = self.page()
        self.assertRegex(page, r"log-came\">now wrong: [^<]*[Pp]edal")
        self.assertGreaterEqual(page.count("log-went"), 1)

    def test_it_is_saved_whole_with_its_pictures(self) -> None:
        self.log("note", {"words": "cold & wet"})
        number = self.send(picture("JPEG"), "the back")[1]["id"]
        card = self.log("card", {})[1]["id"]
        self.log(f"{card}/tick", {"line": "power rails", "state": "pass", "who": "Ada"})
        self.client.get("/benches/1/cpp.code")
        for kind, note in (("html", "cold &amp; wet"), ("md", "cold & wet")):
            answer = self.client.get(f"/benches/1/log.{kind}.zip")
            self.assertEqual(answer.mimetype, "application/zip")
            with zipfile.ZipFile(io.BytesIO(answer.data)) as archive:
                self.assertEqual(
                    {name for name in archive.namelist() if "captures" not in name},
                    {f"log.{kind}", f"pictures/{number}.jpeg"},
                )
                captured = [name for name in archive.namelist() if "captures" in name]
                self.assertIn(b"$enddefinitions", archive.read(captured[0]))
                text = archive.read(f"log.{kind}").decode()
            for said in (
                note,
                "1 of 37 done",
                "pass, Ada",
                f"pictures/{number}.jpeg",
                "program made",
                "demo bench added",
            ):
                self.assertIn(said, text)
