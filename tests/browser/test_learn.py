"""Learn: a program read, mended and drafted; a drill from start to solved; a sum on a bench; a machine on the shelf;
help beside the work."""

from __future__ import annotations

import unittest

from tests.browser.page import BrowserCase

PROGRAM = """const int button = 4;
const int lamp = 9;
int last = 0;
bool on = false;

void setup() {
  pinMode(button, INPUT);
  pinMode(lamp, OUTPUT);
}

void loop() {
  if (digitalRead(button) == LOW && millis() > last + 50) {
    last = millis();
    on = !on;
    digitalWrite(lamp, on ? HIGH : LOW);
  }
}
"""


class Learn(BrowserCase):
    def press(self, css: str) -> None:
        self.script("document.querySelector(arguments[0]).click()", css)

    def put(self, css: str, value: str) -> None:
        self.script(
            "const field = document.querySelector(arguments[0]); field.value = arguments[1];"
            "for (const kind of ['input', 'change']) field.dispatchEvent(new Event(kind, { bubbles: true }))",
            css,
            value,
        )

    def titles(self) -> list[str]:
        return [one.text.partition(" ")[2].partition(" ")[2] for one in self.all(".read-card h3")]

    def test_a_program_is_pasted_mended_and_becomes_a_bench(self) -> None:
        self.open("read")
        self.script(
            "const field = document.getElementById('read-text'); field.value = arguments[0];"
            "field.dispatchEvent(new ClipboardEvent('paste', { bubbles: true }))",
            PROGRAM,
        )
        self.until(lambda: self.all(".read-card"))
        found = self.titles()
        for said in (
            "An input without a pull",
            "A wait that wraps",
            "The time in a type too small",
            "Turned over while it is held",
        ):
            self.assertIn(said, found)
        self.press("[data-read-line='12']")
        self.until(lambda: "is-shown" in self.one("#line-12").get_attribute("class"))
        for left in (3, 2, 1):
            self.press("[data-read-mend]")
            self.until(lambda left=left: len(self.all(".read-card")) == left)  # type: ignore[misc]
        self.assertEqual(self.titles(), ["Turned over while it is held"])
        self.press("#draft-it")
        self.until(lambda: "/wire" in self.driver.current_url)
        self.until(lambda: "Button" in self.text("#frag-side"))
        self.assertIn("Lamp", self.text("#frag-side"))

    def test_a_drill_from_start_to_solved(self) -> None:
        self.open("drills")
        self.put("[name=seed]", "11")
        self.press("#drill-begin")
        self.until(lambda: "Find the fault" in self.text("#frag-path"))
        self.painted()
        labels = self.text(".lane-labels")
        self.assertNotIn("Lamp mode", labels)
        self.press("[data-drill-ask=probe]")
        self.until(lambda: "the probe" in self.text(".lane-labels"))
        self.press("[data-drill-ask=meter]")
        self.until(lambda: "let go" in self.text(".drill-said"))
        for group in ("wiring", "cleaning", "machine", "timing", "guard", "program"):
            self.press(f"[data-drill-of={group}]")
            self.until(lambda: self.all(".drill-said li"))
            said = self.until(lambda group=group: self.answered(group))  # type: ignore[misc]
            if said == "Yes.":
                break
        self.press("#live-play")
        self.until(lambda: self.text("#live-clock") != "0:00.000")
        for option in [one.get_attribute("value") for one in self.all("#drill-state option")]:
            many = len(self.all(".drill-said li"))
            self.put("#drill-state", str(option))
            self.press("[data-drill-ask=state]")
            self.until(lambda many=many: len(self.all(".drill-said li")) > many)  # type: ignore[misc]
            if not self.all("#drill-state"):
                break
        self.assertIn("The fault is found", self.text("#frag-path"))
        self.assertIn("Found faster by:", self.text(".drill-outs"))
        self.assertTrue(self.all(".drill-outs .finding"))
        self.until(lambda: "Lamp mode" in self.text(".lane-labels"))
        self.open("drills")
        self.assertIn("What comes up weakest", self.text("main"))

    def answered(self, group: str) -> str:
        words = {"wiring": "the wiring", "cleaning": "how it is cleaned", "machine": "what it does", "timing": "its times",
                 "guard": "its watchdog", "program": "how it was made"}[group]  # fmt: skip
        found = [one.text for one in self.all(".drill-said li") if f"Is it {words}?" in one.text]
        return "" if not found else "Yes." if "Yes." in found[0] else "No."

    def test_a_sum_is_typed_and_used_on_a_bench(self) -> None:
        self.open("sums/led")
        self.put("[name=U_s]", "12V")
        self.until(lambda: "1.25 kΩ" in self.text("#give-R"))
        self.put("[name=I]", "4k7 V")
        self.until(lambda: "is not A" in self.text("#read-I"))
        self.put("[name=U_s]", "5 V")
        self.put("[name=I]", "3 mA")
        self.until(lambda: "1 kΩ" in self.text("#give-R"))
        place = next(one for one in self.all("#sum-place option") if "Rain barrel" in one.text)
        self.put("#sum-place", str(place.get_attribute("value")))
        self.press("#sum-use")
        self.until(lambda: self.all(".sum-used"))
        self.assertIn("Rain barrel", self.text(".sum-used"))

    def test_a_machine_goes_to_the_shelf_and_to_another_bench(self) -> None:
        self.open("benches/3/behave")
        self.press("#keep-machine")
        self.until(lambda: "On the shelf: " in self.text("#toast"))
        self.open("boards")
        self.press("[id^=use-machine-]")
        self.until(lambda: self.all("#use-it"))
        self.put("#use-bench", "2")
        self.until(lambda: "Use it on Rain barrel" in self.text("#use-it"))
        self.press("#use-it")
        self.until(lambda: "/benches/2/behave" in self.driver.current_url or self.all(".refusal"))
        self.assertIn("/benches/2/behave", self.driver.current_url, self.text("main"))
        self.assertIn("Lamp steps", self.text("#frag-side"))

    def test_help_stands_beside_the_work(self) -> None:
        self.open("benches/1/clean")
        self.press("#help")
        self.until(lambda: "When does a press count" in self.text("#guide-body"))
        self.assertIn("Foot pedal: interval too short", self.text("#guide-body"))
        self.put("#guide-find", "floating")
        self.until(lambda: "wire.floating" in self.text("#guide-body"))
        self.put("#guide-find", "")
        self.press("#stop-wire")
        self.until(lambda: "What does each pin see?" in self.text("#guide-body"))
        self.press("#guide-close")
        self.assertFalse(self.one("#guide").is_displayed())
        self.open("help/finding/wire.floating")
        self.press("#open-example")
        self.until(lambda: "float" in self.text("#frag-outs"))


if __name__ == "__main__":
    unittest.main()
