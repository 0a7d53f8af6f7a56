"""Build: the wires laid one by one, what a meter showed, and what is kept of both."""

from __future__ import annotations

import tempfile
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from tests.browser.page import BrowserCase


class Build(BrowserCase):
    def count(self, css: str) -> int:
        return int(self.script("return document.querySelectorAll(arguments[0]).length", css))

    def test_wires_are_laid_and_remembered(self) -> None:
        self.open("benches/1/build?picked=wiring")
        for number in (1, 2):
            self.one(".lay[aria-checked=false]").click()
            self.until(lambda number=number: self.count(".lay[aria-checked=true]") == number)  # type: ignore[misc]
        self.open("benches/1/build?picked=wiring")  # another visit, and the list at the side
        self.assertEqual(self.count(".lay[aria-checked=true]"), 2)
        self.assertEqual(self.count(".wire-list input:checked"), 2)
        self.one(".lay[aria-checked=true]").send_keys(Keys.SPACE)  # by keyboard, and back
        self.until(lambda: self.count(".lay[aria-checked=true]") == 1)
        self.open("benches/1/log")
        self.assertIn("not wired: Foot pedal, leg 2 to Board GND", self.one(".log").text)

    def test_what_a_meter_showed_is_judged_and_kept(self) -> None:
        self.open("benches/1/build?picked=power")
        field = "[id='r/built/measured/ohm:foot-pedal:{}']"
        for state, shown in (("released", "open"), ("pressed", "47")):
            box = self.one(field.format(state))
            box.send_keys(shown, Keys.TAB)
            self.until(lambda state=state: "reading is-" in self.said(field.format(state), "li.className"))  # type: ignore[misc]
        self.assertIn("is-right", self.said(field.format("released"), "li.className"))
        self.assertIn("It does not touch", self.said(field.format("pressed"), "li.textContent"))
        box = self.one(field.format("pressed"))
        box.clear()
        box.send_keys("0.4", Keys.TAB)
        self.until(lambda: "is-right" in self.said(field.format("pressed"), "li.className"))
        box = self.one(field.format("released"))
        box.send_keys(Keys.CONTROL, "a")
        box.send_keys(Keys.DELETE, Keys.TAB)  # emptied: not measured
        self.until(lambda: "is-" not in self.said(field.format("released"), "li.className"))
        self.open("benches/1/log")
        self.assertIn("measured Foot pedal held down, D4 to ground: 0.4 Ω, right", self.one(".log").text)

    def said(self, css: str, what: str) -> str:
        code = f"const li = document.querySelector(arguments[0])?.closest('li'); return li ? {what} : ''"
        return str(self.script(code, css))

    def test_what_the_board_printed_is_read_kept_and_stays_on_the_page(self) -> None:
        self.open("benches/4/log")
        lines = (
            "0,cleaned,cy-button,0",
            "0,state,first-press,0",
            "500000,cleaned,cy-button,1",
            "900000,cleaned,cy-button,0",
        )
        self.one("#told-text").send_keys("\n".join(lines))
        self.one("#read-told").click()
        self.until(lambda: "On the bench only: First press: Cy first." in self.text("#told-said"))
        self.one("#keep-told").click()
        self.until(lambda: "What the board did" in self.text(".strip"))
        self.settled()
        self.until(lambda: "On the bench only: First press: Cy first." in self.text("#told-said"))
        self.assertEqual(self.one("#told-text").get_attribute("value"), "\n".join(lines))

    def test_each_program_is_shown_file_by_file(self) -> None:
        self.open("benches/1/build")
        self.assertIn("void setup() {", self.one("#code").text)
        self.one("#target-c").click()
        self.until(lambda: "void setup(void) {" in self.one("#code").text)
        self.one("#file-2 summary").click()
        self.assertIn("typedef struct {", self.one("#file-2 .code").text)

    def test_ones_own_lines_go_out_and_come_back(self) -> None:
        self.open("benches/1/build")
        with tempfile.TemporaryDirectory() as folder:
            old = Path(folder) / "old.ino"
            old.write_text(self.one("#code").text.replace("here: top\n", "here: top\nint mine;\n", 1))
            # The answer is a download: it is asked for by hand, with what the form sends.
            self.script(
                "HTMLFormElement.prototype.submit = function () { window.sent = [this.action, new FormData(this)]; }"
            )
            self.one("#old-file").send_keys(str(old))
            self.until(lambda: self.script("return Boolean(window.sent)"))
            code = "const [action, body] = window.sent; fetch(action, { method: 'POST', body }).then(async (r) => arguments[0]([r.status, (await r.arrayBuffer()).byteLength]))"
            status, size = self.driver.execute_async_script(code)
        self.assertEqual(status, 200)
        self.assertGreater(size, 5_000)
        self.one("#target-cpp").click()
        self.until(lambda: "void setup() {" in self.one("#code").text and "_step(&" not in self.one("#code").text)
        self.script("document.getElementById('c/style/helpers=functions').click()")
        self.until(lambda: "_step(&" in self.one("#code").text)
