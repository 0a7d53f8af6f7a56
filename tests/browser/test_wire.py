"""Wire in a real browser: parts put down by typing, drawings that are pressed and typed over, pins, boards, colours."""

from __future__ import annotations

import time
import unittest

from selenium.webdriver import ActionChains, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from tests.browser.page import BrowserCase


class Wire(BrowserCase):
    def test_a_part_is_found_by_what_it_does_and_stands_in_under_five_seconds(self) -> None:
        self.open("benches/4/wire")
        began = time.monotonic()
        self.keys("p", "turn knob", Keys.ENTER)
        self.until(lambda: self.all("#item-encoder"))
        self.assertLess(time.monotonic() - began, 5)
        self.assertEqual(self.one("#item-encoder").get_attribute("aria-current"), "true")
        # The arrows go through the tray; what the board cannot carry says why.
        self.keys("p", Keys.ARROW_DOWN, Keys.ARROW_RIGHT, Keys.ARROW_DOWN)
        self.assertIn("tray-part", self.script("return document.activeElement.className"))
        self.keys(Keys.ESCAPE)
        self.until(lambda: not self.one("#tray").is_displayed())
        self.keys("p", "no such thing")
        self.until(lambda: self.one("#tray-none").is_displayed())
        self.keys(Keys.ESCAPE)
        self.one("#find-part").click()
        self.assertIn("Too few free pins", self.one("#add-rgb").get_attribute("title"))
        self.one("#add-rgb").click()
        self.assertFalse(self.all("#item-rgb"), "what has no pins is not put down")

    def test_press_the_drawing_type_over_it_and_drag_onto_a_taken_pin(self) -> None:
        self.open("benches/5/wire?picked=door")
        figure = lambda: self.text(".circuits figure:first-child")  # noqa: E731
        self.assertIn("firmware reads released", figure())
        contact = self.one(".circuits figure:first-child [data-press] .grip-area")
        ActionChains(self.driver).click_and_hold(contact).perform()
        self.until(lambda: "firmware reads pressed" in figure(), "held, it shows what pressing does")
        ActionChains(self.driver).release().perform()
        self.until(lambda: "firmware reads released" in figure())
        # With nothing to hold it the pin floats; a resistor of 4.7 kΩ, typed on the drawing, is too strong by nothing.
        self.saved(lambda: Select(self.one("[id='m/inputs/1/wiring/pull']")).select_by_visible_text("nothing"))
        self.until(lambda: "the pin floats" in self.text("#frag-outs"))
        self.saved(lambda: self.one("#frag-outs [data-patch]").click())
        self.until(lambda: "pin high" in figure(), "the level is defined again")
        self.saved(
            lambda: Select(self.one("[id='m/inputs/1/wiring/pull']")).select_by_visible_text("resistor to supply")
        )
        for typed, shown in (("4k7", "4.7 kΩ"), ("220", "220 Ω")):
            self.one(".circuits figure:first-child .state:not(.is-other) [data-edit$=pull_ohm]").click()
            self.one(".typed-over").send_keys(Keys.CONTROL, "a")
            self.saved(lambda typed=typed: self.one(".typed-over").send_keys(typed, Keys.ENTER))
            self.until(lambda shown=shown: shown in figure())
        self.assertIn("the pull wastes current", self.text("#frag-outs"))
        # Onto a pin of the keys: a conflict, and pins for everything again.
        self.script(
            """const drag = new DataTransfer();
            const from = document.getElementById('item-door'), to = document.getElementById('pin-D6');
            from.dispatchEvent(new DragEvent('dragstart', {dataTransfer: drag, bubbles: true}));
            for (const name of ['dragover', 'drop'])
              to.dispatchEvent(new DragEvent(name, {dataTransfer: drag, bubbles: true, cancelable: true}));"""
        )
        self.until(lambda: "Two parts on D6" in self.text("#frag-outs"))
        self.assertTrue(self.all("#pin-D6.is-clash"))
        self.one("#find-pins").click()
        self.until(lambda: "Two parts" not in self.text("#frag-outs"))
        self.assertIn(" → ", self.text("#toast"))

    def test_one_wire_of_several_is_moved_by_its_chip(self) -> None:
        self.open("benches/1/wire?picked=time-dial")
        self.one("#claim-1").click()
        self.saved(lambda: self.one("#pin-D11").click())
        self.assertEqual([chip.text for chip in self.all(".claim code")], ["D2", "D11", "D7"])
        self.assertEqual(self.one("#claim-1").get_attribute("aria-checked"), "true", "the same wire stays chosen")

    def test_a_board_of_ones_own_and_wires_in_ones_own_colours(self) -> None:
        self.open("boards")
        self.one("#copy-mid-8bit-5v").click()
        self.until(lambda: self.all("#board-form"))
        self.one("#board-name").clear()
        self.one("#board-name").send_keys("Bench board")
        gives = self.one("[name=supply_ua]")
        gives.clear()
        gives.send_keys("lots")
        self.one("#save-board").click()
        self.until(lambda: "is not a number" in self.text(".refusal"))
        self.assertEqual(self.one("[name=supply_ua]").get_attribute("value"), "lots", "what was typed is kept")
        self.one("[name=supply_ua]").clear()
        self.one("[name=supply_ua]").send_keys("60")
        # An ability is painted across pins by dragging; a pin that has it already ends one that takes it away.
        self.one("[data-brush=dimmable]").click()
        pins = {
            row.find_element(By.CSS_SELECTOR, ".pin-name").get_attribute("value"): row
            for row in self.all("[data-pin-row]")
        }
        spot = {name: pins[name].find_element(By.CSS_SELECTOR, ".pin-has") for name in ("D0", "D1", "D2")}
        ActionChains(self.driver, duration=60).click_and_hold(spot["D0"]).move_to_element(spot["D1"]).move_to_element(spot["D2"]).release().perform()  # fmt: skip
        self.assertTrue(all("PWM" in one.text for one in spot.values()))
        self.script("arguments[0].querySelector('.is-brush').focus()", pins["D1"])
        self.keys(" ")
        self.assertNotIn("PWM", spot["D1"].text, "by key, too")
        self.script("document.getElementById('save-board').click()")
        self.until(lambda: "Saved" in self.text(".shelf"))
        self.assertEqual([self.one(f"[name='pin.{n}.dimmable']").is_selected() for n in range(3)], [True, False, True])
        self.open("benches/4/wire?picked=ann-lamp")
        self.saved(lambda: Select(self.one("#board")).select_by_visible_text("Bench board"))
        self.until(lambda: "The board's supply is not enough" in self.text("#frag-outs"))
        self.assertIn("of 60 mA", self.text(".board-foot"))
        self.assertIn("like Ann's button", Select(self.one("#wire-colour")).first_selected_option.text)
        self.one("#item-ann-button").click()
        self.until(lambda: self.one("#part-name").get_attribute("value") == "Ann's button")
        self.saved(lambda: Select(self.one("#wire-colour")).select_by_visible_text("pink"))
        self.one("#stop-build").click()
        self.until(lambda: self.all("#code"))
        rows = [row.text.replace("\n", " ") for row in self.all(".wire-list li")]
        self.assertEqual(sum("pink" in row for row in rows), 2, "the button and its lamp")
        self.saved(lambda: Select(self.one("[id='s/wire_colours/ground']")).select_by_visible_text("blue"))
        self.assertTrue(all("blue" in row.text for row in self.all(".wire-list li") if "GND" in row.text))


if __name__ == "__main__":
    unittest.main()
