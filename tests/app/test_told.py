"""What a board printed, on Log: read, said, refused with a sentence, kept as a scenario."""

from __future__ import annotations

import json
import re
from html import unescape

from tests.app.client import AppCase


class FromTheBoard(AppCase):
    def told(self, text: object, bench: int = 4) -> tuple[int, str]:
        answer = self.post(f"/api/benches/{bench}/told", {"text": text})
        data = answer.get_json()
        return answer.status_code, data.get("html") or f"{data['error']} {data.get('next', '')}"

    def test_what_is_read_what_is_not_and_what_is_too_much(self) -> None:
        lines = [
            "0,cleaned,cy-button,0",
            "0,state,first-press,0",
            "500000,cleaned,cy-button,1",
            "900000,cleaned,cy-button,0",
        ]
        status, said = self.told("\n".join(["hello", *lines, "1,state,none,7", "<b>"]))
        self.assertEqual(status, 200)
        # The bench lights Cy's lamp on such a press, and the board did not say so.
        self.assertIn("On the bench only: First press: Cy first.", unescape(said))
        self.assertIn("line 6 (state,none,7)", said)
        self.assertIn("“hello”, line 7 “&lt;b&gt;”", said)
        self.assertIn("No line of a trace", self.told("nothing")[1])
        self.assertIn("prints each change", self.told("nothing")[1])
        self.assertEqual(self.told(None)[0], 400)
        status, said = self.told("x" * 2_000_001)
        self.assertEqual(status, 413)
        self.assertIn("2 million are read", said)
        # What was done is an edit away from being a scenario of the bench.
        _, said = self.told("\n".join(lines))
        found = re.search(r'id="keep-told" data-patch="([^"]+)"', said)
        assert found is not None
        answer = self.edit(json.loads(unescape(found[1])), bench=4)
        self.assertEqual(answer.status_code, 200, answer.get_data(as_text=True)[:300])
        scenarios = self.head(4)["document"]["scenarios"]
        self.assertEqual(scenarios[-1]["name"], "What the board did")
        self.assertEqual([one["input"] for one in scenarios[-1]["stimuli"]], ["cy-button"])

    def test_a_simulated_board_is_read_as_what_it_prints_and_as_what_its_pins_do(self) -> None:
        for how, said in (("trace", "changes agree"), ("vcd", "channels placed")):
            answer = self.post("/api/benches/4/simulated", {"as": how, "scenario": "Close call"})
            text = answer.get_json()["text"]
            self.assertEqual("$enddefinitions" in text, how == "vcd")
            read = self.post("/api/benches/4/told", {"text": text}).get_json()
            self.assertIn(said, read["html"])
            self.assertEqual(read["laid"]["board"]["to_us"], read["laid"]["window"]["to_us"])
            self.assertIn("output ann-lamp", read["laid"]["board"]["lanes"])
        # Taken for something else by hand, or for nothing.
        channels = {f"pins.{pin}": "" for pin in re.findall(r"\$var wire 1 \S+ (\S+)", text)}
        read = self.post("/api/benches/4/told", {"text": text, "channels": channels}).get_json()
        self.assertIn("No channel is one of this bench yet", read["html"])
        self.assertIsNone(read["laid"])
        status, said = self.told("t,a\n0,0\n1,x\n")
        self.assertEqual((status, "Line 3" in said), (422, True))
        self.post("/benches/new", data={"name": "Empty"})
        self.assertEqual(self.post("/api/benches/7/simulated", {}).status_code, 422)
