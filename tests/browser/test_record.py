"""Log: a card filled on a phone, a trial from taps to an edit, a capture whose difference is mended, back and beside."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains

from tests.browser.chromium import size
from tests.browser.page import BrowserCase
from tests.core.test_captured import NAMED, as_vcd, pins
from viva_tick.core.document import bench_data, bench_from_data
from viva_tick.demo import demo_bench
from viva_tick.demo.log import demo_capture


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
        self.assertFalse(self.one(".placing").get_attribute("open"))
        self.until(lambda: self.one("#strip").get_attribute("data-painted") == "computed")
        self.assertIn("the board, as the ghost", self.text(".strip-head"))
        self.press(".told-differences [data-show]")
        self.assertIn("Foot pedal bounces for up to 17.8 ms", self.text(".causes"))
        self.press(".causes [data-patch]")
        self.until(lambda: "The bench does the same" in self.text("#told-said"))
        self.assertRegex(self.text(".causes"), r"clock is 4,8\d\d ppm slow")
        # Kept in the log it can be read again, whatever the bench is by then.
        self.press("[data-keep-capture]")
        self.until(lambda: len(self.all("[data-log-capture]")) == 2)
        self.put("#told-text", "")
        self.press("[data-log-capture]")
        self.until(lambda: "The bench does the same" in self.text("#told-said"))
        # A channel that is something else is said so by hand.
        self.put("[data-channel-is='analyser.D9']", "")
        self.until(lambda: "as you said" in self.text(".sockets"))

    def sent(self, css: str, text: str, suffix: str) -> None:
        folder = tempfile.TemporaryDirectory()  # the page reads it when it likes
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / f"capture{suffix}"
        path.write_text(text)
        self.one(css).send_keys(str(path))

    def test_three_channels_differ_twice_and_a_mend_leaves_one(self) -> None:
        self.open("benches/1/log")
        self.sent("#told-file", demo_capture(demo_bench("print-timer")), ".vcd")
        self.until(lambda: "2 differences from the bench" in self.text("#told-said"))
        self.assertEqual(len(self.all("[data-channel]")), 3)
        self.press(".causes [data-patch]")
        self.until(lambda: "1 difference from the bench" in self.text("#told-said"))
        self.assertIn("A pass takes 0.95 ms on the board", self.text(".told-differences"))
        self.press(".causes [data-patch]")
        self.until(lambda: "The bench does the same" in self.text("#told-said"))
        # A channel is dragged to the pin that it is.
        self.settled()
        self.until(lambda: not self.all("#told-said[aria-busy]"))
        self.press(".placing summary")
        self.until(lambda: self.one(".placing").get_attribute("open") is not None)
        chip = self.one("[data-channel='pins.D8']")
        socket = self.one("[data-socket='output beeper']")
        self.script("arguments[0].scrollIntoView()", self.one(".placing"))
        grip = ActionChains(self.driver).move_to_element_with_offset(chip, 0, -20).click_and_hold()
        grip.move_to_element(socket).release().perform()
        self.until(lambda: "as you said" in self.text("[data-socket='output beeper']"))
        # How it bounced goes to the shelf, and back to any bench.
        self.put("[data-shelf-name]", "The cold pedal")
        self.press("[data-shelf-contact='foot-pedal']")
        self.until(lambda: "On the shelf: The cold pedal" in self.text(".bounced"))
        self.open("benches/4/clean")
        option = self.one("[data-kept]")
        self.assertIn("from the shelf: The cold pedal", option.get_attribute("textContent"))
        pick = "arguments[0].selected = true; arguments[0].closest('select').dispatchEvent(new Event('change', { bubbles: true }))"
        self.saved(lambda: self.script(pick, option))
        self.assertIn("as you captured it", self.text(".measured"))
        self.open("boards")
        self.assertRegex(self.text("#contact-the-cold-pedal"), "Used: .*Quiz table")

    def test_what_comes_over_the_serial_port_is_read_as_it_comes(self) -> None:
        self.open("benches/1/log")
        # A stand-in for the port that the browser would ask for.
        self.script(
            """
            let feed;
            const readable = new ReadableStream({ start: (stream) => (feed = stream) });
            const port = { open: async ({ baudRate }) => (window.opened = baudRate), readable, close: async () => (window.shut = true) };
            Object.defineProperty(navigator, "serial", { configurable: true, value: { requestPort: async () => port } });
            window.feed = (text) => feed.enqueue(new TextEncoder().encode(text));
            """
        )
        self.press("#listen-port")
        self.until(lambda: self.script("return window.opened") == 9600)
        self.script("feed('hello\\r\\n60000,state,lamp-mode,0\\r\\n900000,sta')")
        self.until(lambda: "agree" in self.text("#told-said"))
        self.script("feed('te,lamp-mode,2\\r\\n')")
        self.until(lambda: "On the board only: Lamp mode" in self.text("#told-said"))
        self.assertTrue(self.one("#listen-port").get_attribute("disabled"))
        self.press("#listen-stop")
        self.until(lambda: self.script("return window.shut"))
        self.until(lambda: not self.one("#listen-port").get_attribute("disabled"))
        self.assertIn("line 1 “hello”", self.text("#told-said"))
        # Without a port, or with one that goes away, it says so; a board that is simulated is always there.
        self.script(
            "navigator.serial.requestPort = () => Promise.reject(new DOMException('unplugged', 'NetworkError'))"
        )
        self.press("#listen-port")
        self.until(lambda: "The port went away (unplugged)" in self.text("#told-said"))
        self.press("[data-listen=simulated]")
        self.until(lambda: "state,lamp-mode" in self.one("#told-text").get_property("value"))
        self.press("#listen-stop")
        self.until(lambda: not self.one("#listen-port").get_attribute("disabled"))

    def test_a_long_capture_comes_with_a_stop_and_is_looked_at_in_the_strip(self) -> None:
        self.open("benches/1/log")
        rows = "t,D4\n" + "".join(f"{n / 1000:.3f},{n // 50 & 1}\n" for n in range(250_000))
        slow = "window.fetch = ((plain) => async (...args) => { await new Promise((done) => setTimeout(done, 400)); return plain(...args); })(fetch)"
        self.script(f"window.quick = fetch; {slow}")
        self.sent("#told-file", rows, ".csv")
        self.until(lambda: self.all("[data-sending-stop]"))
        self.press("[data-sending-stop]")
        self.until(lambda: self.text("#told-said") == "Stopped. Nothing of the file was kept.")
        self.script("window.fetch = window.quick")
        self.sent("#told-file", rows, ".csv")
        self.until(lambda: self.all(".recording"))
        self.assertRegex(self.text(".recording"), "5,000 changes, 1 channel, 249.9 s")
        self.until(lambda: "the capture alone" in self.text(".strip-head"))
        self.until(lambda: str(self.one("#strip").get_attribute("data-painted")).startswith("capture-"))
        self.assertIn("D4", self.text(".lane-labels"))
        self.press("[data-recording-compare]")
        self.until(lambda: "the board, as the ghost" in self.text(".strip-head"))
        self.press("[data-recording-whole]")
        self.until(lambda: "the capture alone" in self.text(".strip-head"))

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
        for mark in self.all("[data-log-mark]")[:2]:
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
