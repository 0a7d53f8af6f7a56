"""What is done to the bench is laid out on the lanes: added, dragged, lengthened, typed, left out."""

from __future__ import annotations

import unittest
from typing import Any

from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.page import BrowserCase


class Scenario(BrowserCase):
    def stimuli(self, bench: int = 1, scenario: int = 0) -> Any:
        code = "const done = arguments[1]; fetch('/api/benches/' + arguments[0]).then(r => r.json()).then(d => done(d.document))"
        return self.driver.execute_async_script(code, bench)["scenarios"][scenario]["stimuli"]

    def bar(self, lane: int, at_us: int, length_us: int, by_px: int) -> None:
        """Drag whatever lies on top of a lane at an instant."""
        box = self.script("return document.querySelector('.lane-canvas').getBoundingClientRect().toJSON()")
        x, y = int(box["x"] + box["width"] * at_us / length_us), int(box["y"] + lane * 24 + 3)
        chain = ActionChains(self.driver, duration=30)
        chain.w3c_actions.pointer_action.move_to_location(x, y)
        chain.click_and_hold()
        for _ in range(4):
            chain.move_by_offset(by_px // 4, 0)
        chain.release().perform()

    def test_a_press_is_added_moved_held_longer_and_left_out(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        before = self.stimuli()
        self.saved(lambda: self.one(".lane-add").click())
        added = self.stimuli()[-1]
        self.assertEqual((added["kind"], added["input"], added["at_us"]), ("press", "foot-pedal", 1_300_000))
        self.assertEqual(len(self.stimuli()), len(before) + 1)
        # By its middle it is moved, by its end it is held longer.
        self.saved(lambda: self.bar(0, 1_350_000, 2_600_000, 120))
        moved = self.stimuli()[-1]
        self.assertAlmostEqual(moved["at_us"], 1_300_000 + 120 * 2_600_000 / 1098, delta=30_000)
        self.assertEqual(moved["hold_us"], 120_000)
        end = moved["at_us"] + moved["hold_us"]
        self.saved(lambda: self.bar(0, end, 2_600_000, 80))
        longer = self.stimuli()[-1]
        self.assertEqual(longer["at_us"], moved["at_us"])
        self.assertAlmostEqual(longer["hold_us"], 120_000 + 80 * 2_600_000 / 1098, delta=30_000)
        # A click on it shows what is written about it; there it is typed over and left out.
        self.bar(0, longer["at_us"] + 100_000, 2_600_000, 0)
        self.until(lambda: self.one("#doings").get_attribute("open"))
        self.until(lambda: self.script("return document.activeElement.closest('[data-doing]') !== null"), "it has come")
        field = self.one(f"[id='d/scenarios/0/stimuli/{len(before)}/hold_us']")
        self.saved(lambda: field.send_keys(Keys.CONTROL, "a", Keys.NULL, "200", Keys.ENTER))
        self.assertEqual(self.stimuli()[-1]["hold_us"], 200_000)
        self.saved(lambda: self.one(f"#undo-{len(before)}").click())
        self.assertEqual(self.stimuli(), before)
        self.assertTrue(self.one("#doings").get_attribute("open"), "it stays open from edit to edit")
        # In Try it stands on the page.
        self.open("benches/1/try?scenario=One+print")
        press = next(one for one in before if one["kind"] == "press")
        self.keys("s")
        self.until(lambda: self.one(".lane-canvas").size["height"] > 200)
        lane = [one.text for one in self.all(".lane-label b")].index("Foot pedal")
        self.bar(lane, press["at_us"] + press["hold_us"] / 2, 2_600_000, 0)
        self.until(lambda: self.script("return document.activeElement.closest('[data-doing]') !== null"))

    def test_what_is_expected_is_held_against_every_edit(self) -> None:
        self.open("benches/1/behave?scenario=One+print")
        self.one("#doings summary").click()
        self.saved(lambda: Select(self.one("#add-expect")).select_by_visible_text("Focus lamp as now"))
        self.assertEqual(len(self.all(".verdict.is-met")), len(self.all(".verdict")))
        self.assertIn("checks met", self.text("#doings summary"))
        # Broken by an edit, it is named, drawn, and counted against the station; undone, it is met again.
        self.script("document.getElementById('doings').open = false")
        self.one("#drive-focus-focus-lamp").click()
        self.until(lambda: self.all("#opened"))
        self.saved(lambda: next(b for b in self.all("#opened .chip") if b.text == "off").click())
        self.keys(Keys.ESCAPE)
        self.until(lambda: "A check is not met" in self.text("#frag-outs"))
        self.assertTrue(self.all(".verdict.is-not"))
        self.assertIn("no longer met", self.text(".strip-difference"))
        self.saved(lambda: self.one("#undo").click())
        self.until(lambda: "A check is not met" not in self.text("#frag-outs"))

    def test_every_kind_of_input_is_done_something_to_and_a_scenario_is_named_and_lengthened(self) -> None:
        self.open("benches/1/wire?picked=foot-pedal")
        self.one("#doings summary").click()
        for words in ("Turn Time dial", "Move Bath probe", "Press Safelight switch"):
            self.saved(lambda words=words: Select(self.one("#add-doing")).select_by_visible_text(words))
        kinds = [one["kind"] for one in self.stimuli()]
        self.assertEqual(kinds[-3:], ["turn", "level", "press"])
        name = self.one("#scenario-name")
        self.saved(lambda: name.send_keys(Keys.CONTROL, "a", Keys.NULL, "Everything", Keys.ENTER))
        self.assertEqual(Select(self.one("#scenario")).first_selected_option.text, "Everything")
        length = self.one("#scenario-length")
        self.one("#scenario-length").send_keys(Keys.CONTROL, "a", Keys.NULL, "1", Keys.ENTER)
        self.until(lambda: "comes after the scenario's end" in self.text(".refusal.is-beside"))
        self.assertNotEqual(length.get_attribute("value"), "1")


if __name__ == "__main__":
    unittest.main()
