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
        act("#stop-behave")
        self.until(lambda: self.all("#find-recipe"))
        act("#find-recipe")
        act("#recipe-toggle")
        self.saved(lambda: act("#recipe-make"))
        self.assertLessEqual(actions, 10)
        # The first scenario has made itself, and follows.
        self.painted()
        self.assertGreater(self.ink(3), 200, "the lamp's lane shows it on")
        self.assertEqual(len(self.all(".finding.is-must")), 0)
        self.assertIn("1 action", self.text("#doings summary"))

    def test_a_toggle_from_nothing_by_keyboard_alone(self) -> None:
        self.open()
        self.one("#new-name").send_keys("By key", Keys.ENTER)
        self.until(lambda: self.all("#find-part"))
        for word, ident in (("button", "button"), ("led", "lamp")):
            self.keys("p")
            self.until(lambda: self.script("return document.activeElement.id") == "find-part")
            self.keys(*word, Keys.ENTER)
            self.until(lambda ident=ident: self.all(f"#item-{ident}"))
        self.keys("3")
        self.until(lambda: self.all("#find-recipe"))
        self.keys("r")
        self.until(lambda: self.script("return document.activeElement.id") == "find-recipe")
        self.keys(*"toggle", Keys.ENTER)
        self.until(lambda: self.script("return document.activeElement.id") == "recipe-make")
        self.saved(lambda: self.keys(Keys.ENTER))
        self.until(lambda: self.all(".state-grid tbody tr"))
        # The machine grows by key: a name that no state has adds one; then it is found by the finder, and undone.
        self.script("document.querySelector('.goes.is-free').focus()")
        self.saved(lambda: self.keys(*"Dim", Keys.ENTER))
        self.until(lambda: len(self.all(".state-grid tbody tr")) == 3)
        self.assertTrue(self.script("return document.activeElement.matches('.goes')"), "the cell has the focus again")
        self.keys("/")
        self.until(lambda: self.one("#finder").is_displayed())
        self.keys(*"dim", Keys.ENTER)
        self.until(lambda: self.text("#opened h2") == "Dim")
        self.keys(Keys.ESCAPE)
        self.until(lambda: not self.all("#opened"))
        ActionChains(self.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
        self.until(lambda: len(self.all(".state-grid tbody tr")) == 2)
        ActionChains(self.driver).key_down(Keys.CONTROL).send_keys("y").key_up(Keys.CONTROL).perform()
        self.until(lambda: len(self.all(".state-grid tbody tr")) == 3)

    def test_a_state_that_is_never_reached_is_named_and_its_finding_followed(self) -> None:
        self.open("benches/1/behave")
        self.one("#add-state").click()
        self.until(lambda: self.script("return document.activeElement.id") == "state-state")
        self.until(lambda: "State is never reached" in self.text("#frag-outs"))
        # A transition to it, by key: from Done, the pedal; typed as the state's name.
        cell = self.one("#go-done-press-foot-pedal")
        self.script("arguments[0].focus()", cell)
        self.keys("s", "t", "a", "t", "e")
        self.until(lambda: self.transition("done", "press") == "state")
        self.until(lambda: "State is never left" in self.text("#frag-outs"))
        scenarios = len(self.all("#scenario option"))
        self.script("document.querySelector('[id^=play-behave\\\\.dead-end]').scrollIntoView({block: 'center'})")
        self.saved(lambda: self.one("[id^=play-behave\\.dead-end]").click())
        self.assertEqual(len(self.all("#scenario option")), scenarios + 1)
        # It is played: the machine's lane ends in the state.
        shown = self.script("return document.querySelector('#scenario').selectedOptions[0].textContent")
        self.assertIn("never left", shown)
        self.saved(lambda: self.one("#undo").click())
        self.saved(lambda: self.one("#undo").click())
        self.until(lambda: "State is never reached" in self.text("#frag-outs"))
        next(b for b in self.all("#frag-outs [data-patch]") if b.text == "Remove State").click()
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
        self.until(lambda: self.one("#go-focus-press-foot-pedal").get_attribute("data-ignore"), "the cell is empty")
        self.until(lambda: self.script(focused) == "go-focus-press-foot-pedal")
        self.keys("-")
        self.until(lambda: self.machine()["states"][1]["ignores"] == ["press foot-pedal"])
        self.until(lambda: "ignored on purpose" in self.text("#go-focus-press-foot-pedal"))
        self.until(lambda: self.script(focused) == "go-focus-press-foot-pedal")
        self.keys("t", "i", "m", "e", "d")
        self.until(lambda: self.transition("focus", "press") == "timed")
        self.assertEqual(self.machine()["states"][1]["ignores"], [], "what leads somewhere is not ignored")
        self.until(lambda: self.script("return document.activeElement.textContent").endswith(" Timed"))
        # It opens where it stands; a condition is set there, and the cell says it.
        self.keys(Keys.ENTER)
        self.until(lambda: self.all("#opened"))
        self.assertEqual(self.text("#opened h2"), "Focus, Foot pedal pressed")
        cell, box = (self.script("return document.querySelector(arguments[0]).getBoundingClientRect().toJSON()", css) for css in (".goes.is-open", "#opened"))  # fmt: skip
        self.assertLess(abs(box["left"] - cell["left"]), 60)
        self.saved(lambda: Select(self.one("#more-condition")).select_by_visible_text("Safelight switch is pressed"))
        guards = [guard for transition in self.machine()["transitions"] for guard in transition["guards"]]
        self.assertIn({"kind": "contact", "input": "safelight-switch", "pressed": True}, guards)
        self.until(lambda: "if Safelight switch pressed" in self.text(".state-grid"))
        self.assertEqual(self.script(focused), "more-condition", "the same control has the focus")
        self.keys(Keys.ESCAPE)
        self.until(lambda: not self.all("#opened"))
        self.until(lambda: self.script("return document.activeElement.matches('.goes')"))

    def test_a_new_column_is_empty_and_goes_again(self) -> None:
        self.open("benches/1/behave")
        before = len(self.machine()["transitions"])
        self.saved(lambda: Select(self.one("#add-event")).select_by_visible_text("board started"))
        self.until(lambda: self.all("#head-boot"))
        self.assertEqual(len(self.machine()["transitions"]), before, "nothing is invented")
        self.one("#go-dark-boot").click()
        self.until(lambda: self.all("#opened"))
        self.saved(lambda: next(b for b in self.all("#opened .chip") if b.text == "Focus").click())
        self.until(lambda: self.text("#opened h2") == "Dark, board started")
        ActionChains(self.driver).move_to_element(self.one("#machine-name")).click().perform()
        self.until(lambda: not self.all("#opened"))
        self.one("#head-boot").click()
        self.until(lambda: "1 transition" in self.text("#opened"))
        self.saved(lambda: next(b for b in self.all("#opened button") if b.text == "Remove the column").click())
        self.until(lambda: not self.all("#head-boot"))
        self.assertEqual(len(self.machine()["transitions"]), before)

    def test_a_drive_is_dragged_on_its_drawing(self) -> None:
        self.open("benches/1/behave")
        handle = self.one("[data-time$='states/3/drives/beeper/length_us']")
        self.script("arguments[0].scrollIntoView({block: 'center'})", handle)
        self.saved(lambda: self.drag(handle, 24))
        held = "return document.activeElement.dataset.time ?? ''"
        self.until(lambda: self.script(held).endswith("states/3/drives/beeper/length_us"))
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
        self.act(lambda hand: hand.drag_and_drop_by_offset(self.one("#node-focus"), 20, 30))
        self.until(lambda: self.machine()["states"][1]["place"])
        place = self.machine()["states"][1]["place"]
        self.settled()
        self.script("document.getElementById('node-focus').focus()")
        ActionChains(self.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_DOWN).key_up(Keys.SHIFT).perform()
        self.until(lambda: self.machine()["states"][1]["place"][1] > place[1])
        # A new transition, pulled from one state to another; the drawer opens on it.
        before = len(self.machine()["transitions"])
        self.settled()
        self.script("document.getElementById('node-done').focus()")
        self.act(lambda hand: hand.drag_and_drop(self.one("#node-done .pull"), self.one("#node-dark")), duration=60)
        self.until(lambda: len(self.machine()["transitions"]) == before + 1)
        self.until(lambda: self.text("#opened h2") == "Done, Foot pedal pressed")
        self.script("document.getElementById('look-both').click()")
        self.until(lambda: self.all(".state-grid") and self.all(".map-node"))
        self.assertEqual(self.text("#opened h2"), "Done, Foot pedal pressed", "what is open stays open")

    def test_the_strip_says_why_and_leads_to_the_transition(self) -> None:
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
        self.until(lambda: self.text("#opened h2") == "Dark, Foot pedal pressed")
        click_lane("Focus lamp", 0.14)
        self.until(lambda: self.one(".why").is_displayed())
        said = self.text(".why")
        for words in ("Focus lamp on", "Dark → Focus", "press of Foot pedal", "accepted as pressed", "touched at 0."):
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
