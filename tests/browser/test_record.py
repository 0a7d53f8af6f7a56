"""Log: a card filled on a phone, a trial from taps to an edit, a capture whose difference is mended, back and beside."""

from __future__ import annotations

import tempfile
import unittest

from tests.browser.chromium import size
from tests.browser.page import BrowserCase
from tests.core.test_captured import NAMED, as_vcd, pins
from viva_tick.core.document import bench_data, bench_from_data
from viva_tick.demo import demo_bench


class Record(BrowserCase):
    def put(self, css: str, value: str) -> None:
        self.script(
            "const field = document.querySelector(arguments[0]); field.value = arguments[1];"
            "for (const kind of ['input', 'change']) field.dispatchEvent(new Event(kind, { bubbles: true }))",
            css,
            value,
        )

    def press(self, css: str) -> None:
        self.script("document.querySelector(arguments[0]).click()", css)

    def test_a_card_is_filled_on_a_phone_and_goes_on_later(self) -> None:
        size(self.driver, 390, 844)
        self.addCleanup(size, self.driver, 1280, 800)
        self.open("benches/1/log")
        self.press("#new-card")
        self.until(lambda: "0 of 37 done" in self.text(".editor-head"))
        self.put("#card-who", "Ada")
        rails = "[data-line='power rails'] [data-card-tick=pass]"
        box = self.script("return document.querySelector(arguments[0]).getBoundingClientRect().toJSON()", rails)
        self.assertGreaterEqual(box["height"], 44)
        self.assertLessEqual(box["right"], 390)
        self.press(rails)
        self.until(lambda: "1 of 37 done" in self.text(".editor-head"))
        self.put("[data-line='power supply'] [data-card-value]", "4,1")
        self.until(lambda: "2 of 37 done, 1 failed" in self.text(".editor-head"))
        self.assertIn("pulls the supply down", self.text("[data-line='power supply']"))
        self.driver.refresh()
        self.until(lambda: "2 of 37 done, 1 failed" in self.text(".editor-head"))
        self.assertIn("pass, Ada", self.text("[data-line='power rails']"))

    def test_a_trial_from_taps_to_a_plot_and_an_edit(self) -> None:
        self.open("benches/1/log")
        self.press("#new-trial")
        told = {
            "title": "Tapped",
            "of": "foot-pedal",
            "outcome": "doubled",
            "condition": "wait",
            "unit": "ms",
            "aim": "30",
        }
        for name, value in told.items():
            self.put(f"#trial-form [name={name}]", value)
        self.press("#trial-form .act")
        self.until(lambda: self.all("[data-trial-add]"))
        for value in ("5", "20"):
            self.put("[data-trial-add] input", value)
            self.press("[data-trial-add] button")
            self.until(lambda value=value: self.all(f"[data-at='{value}.0']"))  # type: ignore[misc]
        for at, so, many in (("5.0", 1, 3), ("20.0", 0, 9)):
            for count in range(many):
                self.press(f"[data-at='{at}'] [data-try='{so}']")
                said = f"{(count + 1) * so} of {count + 1}"
                self.until(lambda at=at, said=said: said in self.text(f"[data-at='{at}']"))  # type: ignore[misc]
        self.assertEqual(len(self.all(".trial-point")), 2)
        self.until(lambda: "sure: it is as aimed" in self.text("[data-at='20.0']"))
        self.saved(lambda: self.press("#trial-over"))
        self.press("[data-station=log].text-button")
        self.until(lambda: "interval 2 ms → 20 ms" in self.text(".log"))

    def test_a_capture_of_several_pins_is_read_and_its_difference_mended(self) -> None:
        data = bench_data(demo_bench("print-timer"))
        data["firmware"]["debounce"]["foot-pedal"] = {"method": "rest-first", "interval_us": 9_000}
        data["inputs"][0]["contact"] = {"kind": "model", "switch": "worn-button"}
        real = bench_from_data(data)
        scenario = real.scenario("One print").model_copy(update={"length_us": 16_000_000})
        text = as_vcd(*pins(real, scenario, NAMED, ppm=4_800, seed=1))
        self.open("benches/1/clean?picked=foot-pedal")
        edit = "import('/static/js/session.js').then(({ edit }) => edit([{ op: 'replace', path: arguments[0], value: arguments[1] }]))"
        path = "/firmware/debounce/foot-pedal"
        self.saved(lambda: self.script(edit, path, {"method": "rest-first", "interval_us": 9_000}))
        self.open("benches/1/log")
        with tempfile.NamedTemporaryFile("w", suffix=".vcd") as file:
            file.write(text)
            file.flush()
            self.one("#told-file").send_keys(file.name)
            self.until(lambda: "differences from the bench" in self.text("#told-said"))
        self.assertEqual(len(self.all("[data-channel]")), 5)
        self.until(lambda: self.one("#strip").get_attribute("data-painted") == "computed")
        self.assertIn("the board, as the ghost", self.text(".strip-head"))
        self.press(".told-differences [data-show]")
        self.assertIn("Foot pedal bounces for up to 17.8 ms", self.text(".causes"))
        self.press(".causes [data-patch]")
        self.until(lambda: "The bench does the same" in self.text("#told-said"))
        self.assertRegex(self.text(".causes"), r"clock is 4,8\d\d ppm slow")
        # Kept in the log it can be read again, whatever the bench is by then.
        self.press("[data-keep-capture]")
        self.until(lambda: self.all("[data-log-capture]"))
        self.put("#told-text", "")
        self.press("[data-log-capture]")
        self.until(lambda: "The bench does the same" in self.text("#told-said"))
        # A channel that is something else is said so by hand.
        self.put("[data-channel='analyser.D9']", "")
        self.until(lambda: "as you said" in self.text(".channels"))

    def test_two_states_side_by_side_and_back_to_one(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        edit = "import('/static/js/session.js').then(({ edit }) => edit([{ op: 'replace', path: arguments[0], value: arguments[1] }]))"
        self.saved(lambda: self.script(edit, "/firmware/debounce/foot-pedal/interval_us", 25_000))
        self.open("benches/1/log")
        self.put("#note-words", "The pedal was frosty.")
        self.press("#note-keep")
        self.until(lambda: "The pedal was frosty." in self.text(".log"))
        self.put("#log-find", "frosty")
        self.assertEqual([one.text for one in self.all(".log-row:not([hidden]) .log-kind")], ["note"])
        self.put("#log-find", "")
        for mark in self.all("[data-log-mark]"):
            self.script("arguments[0].click()", mark)
        self.press("#log-compare")
        self.until(lambda: "Foot pedal: interval 2 ms → 25 ms" in self.text(".differences"))
        self.assertIn("as it was before", self.text(".strip-head"))
        self.press("[data-station=log].text-button")
        self.until(lambda: self.all("[data-log-go]"))
        self.press("[data-log-go]")
        self.until(lambda: "on a way that was left" in self.text(".log"))


if __name__ == "__main__":
    unittest.main()
