"""The shelf of boards: copied, changed, refused with what was typed kept, out as a file and in again, used by a bench."""

from __future__ import annotations

import io
import json
import re
import unittest
from html import unescape
from typing import Any

from tests.app.client import AppCase
from viva_tick.core.boards import boards

MINE = "my-mid-8bit-5v"


class Shelf(AppCase):
    def form(self, board: str = MINE) -> dict[str, str]:
        """The page's form as a browser would send it back untouched."""
        text = self.client.get(f"/boards/{board}").text
        sent: dict[str, str] = {}
        for tag in re.findall(r"<input [^>]*>", text):
            said = dict(re.findall(r'([\w-]+)="([^"]*)"', tag))
            if said.get("type") == "checkbox" and " checked" not in tag:
                continue
            if "name" in said:
                sent[said["name"]] = unescape(said.get("value", "on" if said.get("type") == "checkbox" else ""))
        for name, options in re.findall(r'<select name="(\w+)">(.*?)</select>', text):
            chosen = re.search(r"<option(?: value=\"(\w+)\")? selected>(\w+)", options)
            assert chosen is not None
            sent[name] = chosen[1] or chosen[2]
        return sent

    def document(self, board: str = MINE) -> Any:
        return self.client.get(f"/boards/{board}.json").get_json()

    def copy(self) -> None:
        self.assertEqual(self.post("/boards/mid-8bit-5v/copy").status_code, 302)

    def test_every_board_is_shown_and_comes_back_from_its_form_unchanged(self) -> None:
        for board in boards():
            self.assertEqual(self.client.get(f"/boards/{board}").status_code, 200)
            self.post(f"/boards/{board}/copy")
            mine = f"my-{board}"
            before = self.document(mine)
            self.assertEqual(self.post(f"/boards/{mine}", data=self.form(mine)).status_code, 302, board)
            self.assertEqual(self.document(mine), before)
            self.assertEqual(self.post(f"/boards/{board}", data={}).status_code, 404, "what ships stays as it is")

    def test_figures_pins_and_words_are_changed_or_refused_whole(self) -> None:
        self.copy()
        sent = self.form()
        change = {"name": "Mine", "pin_ua.design": "12.5", "analogue.bits": "12", "pull_enable": "low", "int_bits": "32",
                  "watchdog_steps": "10, 20 40", "pin.2.dimmable": "on", "pin.3.gone": "on", "pin.new": "X1"}  # fmt: skip
        self.post(f"/boards/{MINE}", data=sent | change)
        after = self.document()
        self.assertEqual((after["name"], after["pin_ua"]["design"], after["int_bits"]), ("Mine", 12_500, 32))
        self.assertEqual((after["analogue"]["bits"], after["pull_enable"]["active"]), (12, "low"))
        self.assertEqual(
            (after["watchdog_steps_us"], after["program"]["watchdog_steps"]), ([10_000, 20_000, 40_000], [])
        )
        pins = {pin["id"]: pin["can"] for pin in after["pins"]}
        self.assertIn("dimmable", pins["D2"])
        self.assertNotIn("D3", pins)
        self.assertEqual(pins["X1"], ["digital"])
        for name, value, said in (
            ("supply_ua", "lots", "is not a number"), ("logic_mv", "", "will not do"), ("pin.0.id", "D1", "there twice"),
            ("low_below_share", "0.9", "low must end below"), ("watchdog_steps", "a b", "list of milliseconds"),
            ("watchdog_steps", "40 20", "steps rise"), ("clock_hz", "1e999", "not a number"), ("pin.0.id", "<b>", "will not do"),
        ):  # fmt: skip
            answer = self.post(f"/boards/{MINE}", data=self.form() | {name: value})
            self.assertEqual(answer.status_code, 422, name)
            self.assertIn(said, unescape(answer.text))
            self.assertEqual(self.document(), after, name)
            if not name.startswith(("pin", "watchdog")):
                self.assertIn(f'value="{value}"', answer.text, "what was typed is kept")

    def test_a_bench_keeps_its_board_and_the_board_travels_as_a_file(self) -> None:
        self.copy()
        body = {"base": self.head()["revision"], "board": MINE, "place": {}}
        self.assertEqual(self.post("/api/benches/1/pins", json=body).status_code, 200)
        self.assertEqual(self.head()["document"]["own_board"], self.document())
        text = self.client.get(f"/boards/{MINE}.json").text
        self.post(f"/boards/{MINE}/remove")
        self.assertEqual(self.client.get(f"/boards/{MINE}").status_code, 404)
        page = self.client.get("/benches/1/wire").text
        self.assertIn("8-bit 5 V board, 20 pins, my own", page, "the bench's copy stands")
        again = {"base": self.head()["revision"], "place": {}}
        self.assertEqual(self.post("/api/benches/1/pins", json=again).status_code, 200, "pins are found on it still")
        for raw, said in (
            (text.encode(), ""), (b"\xff", "not text"), (b"{", "not JSON"), (b"[]", "a JSON object"),
            (json.dumps({**json.loads(text), "id": "mid-8bit-5v"}).encode(), "a board that ships"),
            (json.dumps({**json.loads(text), "pins": []}).encode(), "too few entries"),
        ):  # fmt: skip
            answer = self.post("/boards/import", data={"file": (io.BytesIO(raw), "board.json")})
            self.assertEqual(answer.status_code, 422 if said else 302, said)
            self.assertIn(said, answer.text)
        back = {"base": self.head()["revision"], "board": "two-core-32bit-3v3", "place": {}}
        self.post("/api/benches/1/pins", json=back)
        self.assertEqual(
            (self.head()["document"]["own_board"], self.head()["document"]["board"]), (None, back["board"])
        )


if __name__ == "__main__":
    unittest.main()
