"""Clean, for what is more than a contact: thresholds dragged over noise, an encoder, keys, commands."""

from __future__ import annotations

import re
import unittest

from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.page import BrowserCase
from viva_tick.core.study import study
from viva_tick.demo import demo_bench


class Readers(BrowserCase):
    def undivided(self) -> str:
        """What the core counts of the dial that takes each count for a step."""
        bench = demo_bench("print-timer")
        said = study(bench, bench.scenario("Setting the time")).answers
        assert said is not None
        return f"5 → {said.sensed['time-dial'].counted}"

    def crossings(self) -> int:
        """How often an hour, as the chart says it."""
        found = re.search(r"crosses ([\d,]+) times", self.text(".slide figcaption"))
        assert found is not None
        return int(found[1].replace(",", ""))

    def test_a_threshold_dragged_into_the_noise_chatters_and_the_advice_ends_it(self) -> None:
        self.open("benches/2/clean?picked=level&scenario=Rain")
        self.assertEqual(self.crossings(), 0)
        self.assertIn("one threshold for both ways", self.text("#frag-outs"))
        # Two that lie on each other: the way that it is dragged says which is meant.
        self.saved(lambda: self.drag(self.one("#handle-above .grab"), 30))
        self.assertEqual(self.one("#handle-below").get_attribute("aria-valuenow"), "95")
        self.drag(self.one("#handle-above .grab"), -138, drop=False)
        self.until(lambda: self.crossings() > 1000, "the count rises while it is dragged")
        self.script("document.querySelector('.slide svg').dispatchEvent(new PointerEvent('pointercancel'))")
        self.until(lambda: self.crossings() == 0)
        self.assertEqual(self.one("#handle-below").get_attribute("aria-valuenow"), "95")
        ActionChains(self.driver).release().perform()
        # The upper one takes the lower one along, and the drop is an edit.
        self.saved(lambda: self.drag(self.one("#handle-above .grab"), -138))
        self.until(lambda: "chatters where it stands" in self.text("#frag-outs"))
        self.assertGreater(self.crossings(), 1000)
        self.assertIn("is-wrong", self.one("#figures .figure:nth-child(2)").get_attribute("class"))
        self.saved(lambda: self.one("#take-band").click())
        self.until(lambda: "chatters" not in self.text("#frag-outs"))
        self.assertEqual(self.crossings(), 0)

    def test_thresholds_by_keyboard_in_another_unit_and_outside_the_scale(self) -> None:
        self.open("benches/2/clean?picked=level&scenario=Rain")
        self.saved(lambda: self.one("#handle-above").send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT))
        self.assertEqual(self.one("#handle-above").get_attribute("aria-valuenow"), "95.02")
        self.saved(lambda: self.one("#unit-1").click())
        self.assertIn("810 counts", self.text(".units"))
        self.assertEqual(self.one("#handle-above").get_attribute("aria-valuenow"), "810")
        self.saved(lambda: self.one("#smooth-median").click())
        self.assertIn("single spikes", self.text("#frag-editor"))
        self.until(lambda: self.ink(0) > 300 and self.ink(1) > 100)

    def test_a_dial_that_counts_four_times_is_mended_and_turned_too_fast(self) -> None:
        self.open("benches/1/clean?picked=time-dial&scenario=Setting+the+time")
        self.assertIn("2 detents would count 8", self.text(".phases"))
        self.assertEqual(self.text("#figures .figure:nth-child(1) b"), self.undivided())
        self.saved(lambda: self.one("[id='mend-clean.encoder-undivided-time-dial']").click())
        self.assertEqual(self.text("#figures .figure:nth-child(1) b"), "5 → 5")
        self.assertNotIn("would count", self.text(".phases"))
        self.saved(lambda: self.drag(self.one("#handle-turned .grab"), 420))
        self.until(lambda: "turned too fast" in self.text("#frag-outs"))
        self.saved(lambda: self.one("#undo").click())
        self.until(lambda: "turned too fast" not in self.text("#frag-outs"))
        self.until(lambda: self.ink(2) > 300, "the lane of the steps")

    def test_keys_are_let_pass_and_waited_for(self) -> None:
        self.open("benches/5/clean?picked=keys&scenario=The+code%2C+and+a+careless+hand")
        self.assertIn("a key that nobody pressed", self.text("#frag-outs"))
        self.saved(lambda: self.one("#key-4").click())
        self.assertEqual(self.one("#key-4").get_attribute("aria-pressed"), "false")
        self.assertNotIn("a key that nobody pressed", self.text("#frag-outs"))
        self.assertIn("missed", self.text("#frag-outs"))
        self.saved(lambda: self.one("[id='mend-clean.keys-wait-keys']").click())
        self.assertNotIn("presses missed", self.text("#frag-outs"))
        self.assertGreater(self.ink(0), 300)

    def test_commands_get_their_numbers(self) -> None:
        self.open("benches/4/clean?picked=handset&scenario=The+judge%27s+handset")
        self.saved(lambda: self.one("[id='mend-clean.command-base-handset']").click())
        self.assertEqual(self.text("#figures .figure:nth-child(1) b"), "5 → 4")
        self.saved(lambda: self.one("#slot-1").send_keys(Keys.CONTROL, "a", Keys.NULL, Keys.DELETE, Keys.ENTER))
        self.assertIn("wrong means nothing", self.text("#frag-outs"))
        self.assertIn("it gives wrong", self.text(".slots"))
        self.saved(lambda: self.one("#stop-reading").click())
        self.assertIn("does not read it", self.text("#frag-editor"))
        self.saved(lambda: self.one("#begin-reading").click())
        self.assertEqual(self.one("#slot-1").get_attribute("value"), "wrong")

    def test_a_dial_put_down_is_read_and_a_scenario_turns_it(self) -> None:
        self.open()
        self.one("#new-name").send_keys("Dial only", Keys.ENTER)
        self.until(lambda: self.all("#find-part"))
        self.put_down("encoder")
        self.until(lambda: self.all("#item-encoder"))
        self.one("#stop-clean").click()
        self.until(lambda: "Clean" in self.text(".stop.is-here"))
        self.one("#item-encoder").click()
        self.until(lambda: self.all("#handle-turned"))
        self.until(lambda: self.text("#figures .figure:nth-child(1) b") == "6 → 6")


if __name__ == "__main__":
    unittest.main()
