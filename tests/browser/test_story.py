"""The story: a pedal press counted twice, found, mended by dragging, undone, redone, reloaded, built, captured."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.page import BrowserCase
from viva_tick.core.edits import apply_patch
from viva_tick.core.emit import TARGETS
from viva_tick.core.findings import must_fix
from viva_tick.core.study import to_be_fixed
from viva_tick.demo import ORDER, demo_bench


class Story(BrowserCase):
    def interval(self) -> str:
        return str(self.one("#interval").get_attribute("aria-valuenow"))

    def counted(self) -> str:
        return self.text("#figure-count").replace(" ", "")

    def test_the_pedal_is_mended_by_dragging_along_the_chart(self) -> None:
        self.open()
        cards = self.all(".card-bench")
        self.assertEqual(len(cards), len(ORDER))
        self.until(lambda: not self.all("[aria-busy]"), "every card is looked at")
        self.assertTrue(cards[0].find_elements(By.CSS_SELECTOR, ".mini path"))
        self.assertIn("Focus lamp can click on at power-on", cards[0].text)
        cards[0].find_element(By.CSS_SELECTOR, ".card-open").click()
        self.painted()
        self.one("nav [data-station=clean], .path [data-station=clean]").click()
        self.until(lambda: "Foot pedal: extra presses counted" in self.text("#frag-outs"))

        # The strip shows the press that was counted twice, and where.
        self.assertIn("Foot pedal: extra presses counted", self.text("#frag-outs"))
        self.assertEqual(self.counted(), "2→3")
        wait_before = self.text("#figure-wait")
        self.one("[data-show]").click()
        self.until(lambda: "ms" in self.text(".strip-corner") or True)
        self.assertGreater(self.ink(0), 500)

        # Held and dragged, the finding clears before anything is stored.
        knob = self.one(".now .knob")
        width = self.one(".sweep-svg").size["width"]
        self.drag(knob, int(width * 646 / 700 * 14 / 120) // 6 * 6, drop=False)
        self.until(
            lambda: "Foot pedal: extra presses counted" not in self.text("#frag-outs"), "the finding clears in the drag"
        )
        self.until(lambda: self.counted() == "2→2")
        self.assertIn("−1 extra press", self.text(".strip-difference"))
        before = len(self.history())
        ActionChains(self.driver).release().perform()
        self.until(lambda: self.text(".save-state").startswith("saved"), "the drag was not saved yet while it was held")
        self.assertEqual(len(self.history()), before + 1)
        dragged = self.interval()
        self.assertTrue(10 <= int(dragged) <= 20, dragged)
        self.assertGreater(float(self.text("#figure-wait").split("–")[0]), float(wait_before.split("–")[0]) + 8)
        self.assertNotIn("extra presses counted", self.text("#frag-outs"))
        self.assertEqual(self.text("#stop-clean .count").split(), ["1", "to", "fix"], "the dial is left")

        # Undone, redone, reloaded: all there.
        self.saved(lambda: self.one("#undo").click())
        self.assertEqual((self.interval(), self.counted()), ("2", "2→3"))
        self.assertIn("Foot pedal: extra presses counted", self.text("#frag-outs"))
        self.saved(lambda: self.one("#redo").click())
        self.assertEqual((self.interval(), self.counted()), (dragged, "2→2"))
        self.driver.refresh()
        self.painted()
        self.assertEqual((self.interval(), self.counted()), (dragged, "2→2"))

        # Built: the sketch is the one that behaves so.
        self.one("#stop-build").click()
        self.until(lambda: self.all("#code"))
        us = int(dragged) * 1000
        patch = [{"op": "replace", "path": "/firmware/debounce/foot-pedal/interval_us", "value": us}]
        mended = apply_patch(demo_bench("print-timer"), patch)
        wanted = TARGETS["cpp"].emit(mended, must_fix(to_be_fixed(mended))).text
        self.assertEqual(self.script("return document.getElementById('code').textContent"), wanted)
        self.script("navigator.clipboard.writeText = (text) => { window.copied = text; return Promise.resolve(); }")
        self.one("#copy-code").click()
        self.until(lambda: self.script("return window.copied") == wanted)
        self.assertIn("Copied", self.text("#toast"))

    def history(self) -> list[object]:
        code = (
            "const done = arguments[0]; fetch('/api/benches/1/history').then(r => r.json()).then(d => done(d.history))"
        )
        return list(self.driver.execute_async_script(code))

    def test_a_captured_press_is_imported_and_replayed(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        with tempfile.TemporaryDirectory() as folder:
            bad, good = Path(folder) / "bad.csv", Path(folder) / "bench pedal.csv"
            bad.write_text("0,1\n0.001,x\n")
            # Bounces for 26 ms: longer than any modelled class of button.
            good.write_text("time (ms),level\n0,1\n5,0\n9,1\n18,0\n27,1\n31,0\n150,1\n160,0\n171,1\n")
            self.one("#capture-file").send_keys(str(bad))
            refusal = self.until(lambda: self.one(".refusal.is-beside"))
            self.assertIn("Line 2: “x” is not a level", refusal.text)
            self.saved(lambda: self.one("#capture-file").send_keys(str(good)))
        self.assertIn("captured: bench pedal", self.text("#switch-class"))
        self.assertIn("26 ms", self.text("#figures"))
        self.assertIn("captured", self.text("#figures"))
        # Its histogram, and how little a single press proves.
        self.assertIn("as you captured it: 1 presses", self.text(".measured"))
        self.assertTrue(self.all(".measured .bar"))
        self.assertIn("capture more", self.text(".measured"))
        # The advice follows the capture: nothing under its longest wrong rest is safe now.
        self.assertIn("replayed presses", self.text(".sweep figcaption"))
        self.saved(lambda: self.one("#frag-outs [data-patch]").click())
        self.assertEqual(self.counted(), "2→2")


if __name__ == "__main__":
    unittest.main()
