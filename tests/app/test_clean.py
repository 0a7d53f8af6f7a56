"""Clean for every kind of input: its page says what the core says, and its offers keep what they should."""

from __future__ import annotations

import html
import json
import re
import unittest
from typing import Any

from tests.app.client import AppCase
from viva_tick.core.document import Mark, Measure
from viva_tick.core.document.parts import Analogue
from viva_tick.core.electrics import threshold_counts
from viva_tick.demo import ORDER, demo_bench


def offers(page: str, ident: str) -> list[dict[str, Any]]:
    """The patch of the control with that id."""
    found = re.search(rf'id="{ident}"[^>]*data-patch="([^"]*)"', page, re.DOTALL)
    assert found is not None, ident
    return list(json.loads(html.unescape(found[1])))


class EveryKind(AppCase):
    def page(self, bench: int, picked: str, **more: str) -> str:
        query = {"picked": picked, **more}
        return self.client.get(f"/benches/{bench}/clean", query_string=query).text

    def test_every_input_of_every_bench_has_its_editor(self) -> None:
        marks = {"encoder": "handle-turned", "matrix": "keypad", "commands": "slots", "contact": 'class="methods"'}
        for number, name in enumerate(ORDER, 1):
            bench = demo_bench(name)
            for line in bench.contacts:
                self.assertIn(marks["contact"], self.page(number, line.id), line.id)
            for _, part in bench.sensed:
                kind = "measure" if isinstance(part, Analogue) else str(getattr(part, "kind", ""))
                self.assertIn(marks.get(kind, "handle-above"), self.page(number, part.id), part.id)

    def test_another_unit_says_the_same_thresholds(self) -> None:
        board = demo_bench("rain-barrel").the_board
        for bench, ident in ((2, "level"), (1, "bath-probe")):
            before = self.head(bench)["document"]
            first = offers(self.page(bench, ident), "another-pair")  # a second one, which goes along
            self.assertEqual(self.edit(first, bench=bench).status_code, 200)
            second = Mark.model_validate(self.head(bench)["document"]["firmware"]["readings"][ident]["marks"][0])
            for unit in (1, 2, 3, 0):
                patch = offers(self.page(bench, ident), f"unit-{unit}")
                self.assertEqual(self.edit(patch, bench=bench).status_code, 200)
                now = demo_bench(ORDER[bench - 1])
                part, was = now.part(ident), now.firmware.readings[ident]
                assert isinstance(part, Analogue)
                assert isinstance(was, Measure)
                text = json.dumps(self.head(bench)["document"]["firmware"]["readings"][ident])
                reading, was = Measure.model_validate_json(text), was.model_copy(update={"marks": (second,)})
                for of in ("", second.id):
                    got = sorted(threshold_counts(part, reading.at(of), board)[:2])
                    wanted = sorted(threshold_counts(part, was.at(of), board)[:2])
                    self.assertTrue(
                        all(abs(a - b) <= 1 for a, b in zip(got, wanted, strict=True)), (ident, unit, got, wanted)
                    )
            self.assertEqual(self.head(bench)["document"]["firmware"]["readings"][ident]["unit"], "own")
            self.assertEqual(before["inputs"], self.head(bench)["document"]["inputs"])

    def test_a_part_that_is_no_longer_read_is_read_again_as_it_came(self) -> None:
        for bench, ident in ((1, "time-dial"), (5, "keys"), (4, "handset"), (2, "level")):
            self.assertEqual(self.edit(offers(self.page(bench, ident), "stop-reading"), bench=bench).status_code, 200)
            page = self.page(bench, ident)
            self.assertIn("does not read it yet", page)
            self.assertIn("is not read", page)
            answer = self.edit(offers(page, "begin-reading"), bench=bench).get_json()
            self.assertIn(
                "how it is read", self.client.get(f"/api/benches/{bench}/history").get_json()["history"][0]["words"]
            )
            self.assertNotIn(f"{ident} is not read", json.dumps(answer["fragments"]))

    def test_the_band_that_is_advised_ends_what_was_said_of_it(self) -> None:
        page = self.page(2, "level", scenario="Rain")
        self.assertIn("one threshold for both ways", page)
        self.edit(offers(page, "take-band"), bench=2)
        after = self.page(2, "level", scenario="Rain")
        self.assertNotIn("one threshold for both ways", after)
        self.assertNotIn("take-band", after)
        self.assertIn("1 → 1", after)

    def test_a_card_says_what_stands_out_and_leads_there(self) -> None:
        for number, name in enumerate(ORDER, 1):
            card = self.client.get(f"/benches/{number}/card").text
            self.assertIn("to fix", card, name)
            self.assertIn("<path", card)
        self.assertIn('data-station="wire"', self.client.get("/benches/1/card").text)
        self.assertEqual(self.client.get("/benches/99/card").status_code, 404)

    def test_another_method_is_laid_beside_and_an_unknown_one_is_not(self) -> None:
        for method, there in (("count-samples", True), ("rest-first", False), ("nonsense", False)):
            place = {"station": "clean", "picked": "foot-pedal", "beside": method}
            view = self.client.get("/api/benches/1/view", query_string=place).get_json()
            self.assertEqual(any(lane["kind"] == "beside" for lane in view["strip"]["lanes"]), there, method)
            self.assertEqual(view["beside"] == method, there)
            if there:
                order = [lane["id"] for lane in view["strip"]["lanes"]]
                self.assertEqual(order.index("beside foot-pedal"), order.index("cleaned foot-pedal") + 1)


if __name__ == "__main__":
    unittest.main()
