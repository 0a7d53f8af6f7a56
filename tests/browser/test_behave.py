"""Behave: machines built and changed by hand and by key, on the grid and on the map; what the strip answers."""

from __future__ import annotations

import json
import tempfile
import unittest
import urllib.request
from typing import Any

from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.page import BrowserCase


class Behave(BrowserCase):
    def machine(self, bench: int = 1, place: int = 0) -> Any:
        with urllib.request.urlopen(f"{self.server.url}api/benches/{bench}") as answer:
            return json.load(answer)["document"]["firmware"]["machines"][place]

    def transition(self, source: str, event: str, place: int = 0) -> str | None:
        transitions = self.machine(place=place)["transitions"]
        return next((w["target"] for w in transitions if (w["source"], w["on"]["kind"]) == (source, event)), None)

    def test_a_toggle_from_nothing_in_under_ten_actions(self) -> None:
        self.open()
        self.one("#new-name").send_keys("Nothing yet")
        self.one("#new-name").submit()
        self.until(lambda: self.all("#find-part"))
        actions = 0

        def act(css: str) -> None:
            nonlocal actions
            actions += 1
            self.until(lambda: self.one(css).is_displayed())
            self.one(css).click()

        act("#find-part")
        act("#add-button")
        self.until(lambda: self.all("#item-button"))
        act("#find-part")
        act("#add-lamp")
        self.until(lambda: self.all("#item-lamp"))
        act("#first-scenario")
        self.painted()
        act("[data-station=behave]")
        self.until(lambda: self.all("#recipe-make"))
        self.saved(lambda: act("#recipe-make"))
        self.assertLess(actions, 10)
        self.assertGreater(self.ink(3), 200, "the lamp's lane shows it on")
        self.assertEqual(len(self.all(".finding.is-must")), 0)

    def test_a_state_that_is_never_reached_is_named_and_its_finding_followed(self) -> None:
        self.open("benches/1/behave")
        self.one("#add-state").click()
        self.until(lambda: "State is never reached" in self.text("#frag-outs"))
        # A transition to it, by key: from Done, the pedal; typed as the state's name.
        cell = self.one("#go-done-press-foot-pedal")
        self.script("arguments[0].focus()", cell)
        self.keys("s", "t", "a", "t", "e")
        self.until(lambda: self.transition("done", "press") == "state")
        self.until(lambda: "State is never left" in self.text("#frag-outs"))
        scenarios = len(self.all("#scenario option"))
        self.saved(lambda: self.one("[id^=play-behave\\.dead-end]").click())
        self.assertEqual(len(self.all("#scenario option")), scenarios + 1)
        # It is played: the machine's lane ends in the state.
        shown = self.script("return document.querySelector('#scenario').selectedOptions[0].textContent")
        self.assertIn("never left", shown)
        self.saved(lambda: self.one("#undo").click())
        self.saved(lambda: self.one("#undo").click())
        self.until(lambda: "State is never reached" in self.text("#frag-outs"))
        next(b for b in self.all("#frag-outs [data-patch]") if b.text == "Take State out").click()
        self.until(lambda: "never reached" not in self.text("#frag-outs"))
        self.assertEqual(len(self.machine()["states"]), len(self.all(".state-grid tbody tr")))

    def test_the_grid_by_keyboard(self) -> None:
        self.open("benches/1/behave")
        self.script("document.getElementById('go-dark-press-foot-pedal').focus()")
        focused = "return document.activeElement.id"
        self.keys(Keys.ARROW_DOWN)
        self.assertEqual(self.script(focused), "go-focus-press-foot-pedal")
        self.keys(Keys.ARROW_LEFT)
        self.assertEqual(self.script(focused), "drive-focus-beeper")
        self.keys(Keys.ARROW_RIGHT, Keys.DELETE)
        self.until(lambda: self.transition("focus", "press") is None)
        self.until(lambda: self.script(focused) == "go-focus-press-foot-pedal")
        self.until(lambda: self.all("#go-focus-press-foot-pedal [data-pass]"))
        self.until(lambda: self.script(focused) == "go-focus-press-foot-pedal")
        self.keys("-")
        self.until(lambda: self.machine()["states"][1]["ignores"] == ["press foot-pedal"])
        self.until(lambda: self.all("td.is-passed #go-focus-press-foot-pedal"))
        self.until(lambda: self.script(focused) == "go-focus-press-foot-pedal")
        self.keys("t", "i", "m", "e", "d")
        self.until(lambda: self.transition("focus", "press") == "timed")
        self.until(lambda: self.all("#go-focus-press-foot-pedal.is-set"))
        self.until(lambda: self.script(focused) == "go-focus-press-foot-pedal")
        self.keys(Keys.ENTER)
        self.until(lambda: self.one("#drawer").is_displayed())
        self.assertIn("Focus · Foot pedal pressed", self.text("#drawer h2"))
        self.saved(lambda: Select(self.one("#more-Only-if")).select_by_visible_text("Safelight switch is pressed"))
        guards = [guard for transition in self.machine()["transitions"] for guard in transition["guards"]]
        self.assertIn({"kind": "contact", "input": "safelight-switch", "pressed": True}, guards)
        self.until(lambda: "1 if" in self.text(".state-grid"))

    def test_a_drive_is_dragged_on_its_drawing(self) -> None:
        self.open("benches/1/behave")
        handle = self.one("[data-time$='states/3/drives/beeper/length_us']")
        self.script("arguments[0].scrollIntoView({block: 'center'})", handle)
        self.saved(lambda: self.drag(handle, 24))
        longer = self.machine()["states"][3]["drives"]["beeper"]["length_us"]
        self.assertGreater(longer, 130_000)
        self.script("document.querySelector(\"[data-time$='states/3/drives/beeper/length_us']\").focus()")
        self.saved(lambda: self.keys(Keys.ARROW_LEFT))
        self.assertLess(self.machine()["states"][3]["drives"]["beeper"]["length_us"], longer)

    def test_the_map_is_the_same_machine(self) -> None:
        self.open("benches/1/behave")
        self.keys("m")
        self.until(lambda: self.all(".map-node"))
        self.assertEqual(len(self.all(".map-node")) + len(self.all(".map-frame")), len(self.machine()["states"]))
        node = self.one("#node-focus")
        ActionChains(self.driver, duration=40).drag_and_drop_by_offset(node, 20, 30).perform()
        self.until(lambda: self.machine()["states"][1]["place"])
        place = self.machine()["states"][1]["place"]
        self.until(lambda: self.all("#node-focus"))
        self.script("document.getElementById('node-focus').focus()")
        ActionChains(self.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN).key_up(Keys.SHIFT).perform()
        self.until(lambda: self.machine()["states"][1]["place"][1] > place[1])
        # A new transition, pulled from one state to another; the drawer opens on it.
        before = len(self.machine()["transitions"])
        self.until(lambda: self.all("#node-done"))
        self.script("document.getElementById('node-done').focus()")
        ActionChains(self.driver, duration=60).drag_and_drop(
            self.one("#node-done .pull"), self.one("#node-dark")
        ).perform()
        self.until(lambda: len(self.machine()["transitions"]) == before + 1)
        self.until(lambda: "→ Dark" in self.text("#drawer h2"))
        self.one("#look-grid").click()
        self.until(lambda: self.all(".state-grid"))
        self.assertIn("→ Dark", self.text("#drawer h2"), "what is chosen stays chosen")

    def test_the_strip_says_why_and_leads_to_the_way(self) -> None:
        self.open("benches/1/behave")
        labels = [row.text.split("\n")[0] for row in self.all(".lane-label")]
        canvas = self.one(".lane-canvas")
        wide = self.script("return document.querySelector('.lane-canvas').clientWidth")

        def click_lane(name: str, share: float) -> None:
            row = labels.index(name)
            code = """const [canvas, x, y] = arguments, box = canvas.getBoundingClientRect();
              document.querySelector('.strip-lanes').scrollTop = Math.max(y - 60, 0);
              const top = canvas.getBoundingClientRect().top;
              for (const kind of ['pointerdown', 'pointerup']) canvas.dispatchEvent(new PointerEvent(kind,
                {clientX: box.left + x, clientY: top + y, pointerId: 1, bubbles: true}));"""
            self.script("Element.prototype.setPointerCapture = () => {}")
            self.script(code, canvas, wide * share, row * 24 + 13)

        click_lane("Lamp mode", 0.14)
        self.until(lambda: "Dark · Foot pedal pressed → Focus" in self.text("#drawer h2"))
        click_lane("Focus lamp", 0.14)
        self.until(lambda: self.one(".why").is_displayed())
        said = self.text(".why")
        for words in ("Focus lamp on", "Dark → Focus", "press of Foot pedal", "believed pressed", "touched at 0."):
            self.assertIn(words, said)
        self.one(".why .close").click()
        self.assertFalse(self.one(".why").is_displayed())

    def test_a_machine_goes_out_and_comes_in(self) -> None:
        with urllib.request.urlopen(f"{self.server.url}benches/1/machines/lamp-mode.scxml") as answer:
            text = answer.read().decode()
        self.open("benches/1/behave")
        with tempfile.NamedTemporaryFile("w", suffix=".scxml") as file:
            file.write(text)
            file.flush()
            self.one("#machine-file").send_keys(file.name)
            self.until(lambda: self.all("#item-lamp-mode-2"))
        with tempfile.NamedTemporaryFile("w", suffix=".scxml") as file:
            file.write(
                text.replace("<onexit>", "<onexit><script/>", 1)
                if "<onexit>" in text
                else text.replace("</scxml>", "<final/></scxml>")
            )
            file.flush()
            self.one("#machine-file").send_keys(file.name)
            self.until(lambda: "is not supported" in self.text("body"))
        self.assertFalse(self.all("#item-lamp-mode-3"))


if __name__ == "__main__":
    unittest.main()
