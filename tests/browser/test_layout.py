"""The page at three widths: no two texts lie on each other, none is cut; what is touched is large enough; what axe says."""

from __future__ import annotations

import re
import unittest
import urllib.request
from base64 import b64decode
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import size
from tests.browser.page import BrowserCase
from tests.depth import DEPTH
from viva_tick.demo import ORDER
from viva_tick.web.stations import STATIONS

HERE = Path(__file__).parent
BOXES = (HERE / "boxes.js").read_text(encoding="utf-8").replace("export ", "")
AXE = (HERE / "vendor" / "axe.min.js").read_text(encoding="utf-8")
TOUCHED = ".stop a, .phone-bar button, .head-tools .tool, .editor .act, .editor .choice, .editor .chip"
WIDTHS = ((1280, 800), (1024, 800), (390, 844))


class Layout(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(size, self.driver, 1280, 800)

    def unreadable(self, roots: str = ".head, .side, .editor, .outs, .strip-head") -> list[str]:
        return list(self.script(f"{BOXES}; return unreadable(arguments[0]);", roots))

    def test_every_text_of_every_station_of_every_demo_can_be_read_at_three_widths(self) -> None:
        for bench in range(1, len(ORDER) + 1):
            for number, station in enumerate(STATIONS):
                # Without time, each station of each bench has one of the widths, the first bench all of them; and as a
                # theme has no widths of its own, the dark one is looked at where it is widest.
                widths = WIDTHS if DEPTH > 1 or bench == 1 else (WIDTHS[(bench + number) % len(WIDTHS)],)
                size(self.driver, *WIDTHS[0])
                self.open(f"benches/{bench}/{station}")
                for wide, high in widths:
                    size(self.driver, wide, high)
                    for theme in ("light", "dark") if DEPTH > 1 or wide == 1280 else ("light",):
                        with self.subTest(bench=bench, station=station, wide=wide, theme=theme):
                            self.script("document.documentElement.dataset.theme = arguments[0]", theme)
                            self.assertEqual(self.unreadable(), [])
                            beyond = self.script("return document.documentElement.scrollWidth - innerWidth")
                            self.assertLessEqual(beyond, 0, "nothing leaves the page at its side")

    def test_a_phone_has_the_work_first_lists_as_sheets_and_targets_for_a_thumb(self) -> None:
        size(self.driver, 390, 844)
        for station in STATIONS:
            self.open(f"benches/1/{station}")
            boxes = "return [...document.querySelectorAll(arguments[0])].filter((one) => one.checkVisibility()).map((one) => [one.id || one.textContent.trim(), one.getBoundingClientRect().height]);"
            small = [(name, high) for name, high in self.script(boxes, TOUCHED) if high < 43.5]
            with self.subTest(station=station):
                self.assertEqual(small, [])
        self.open("benches/1/behave")
        self.assertFalse(self.one("#frag-side").is_displayed())
        foot = self.script("return document.querySelector('.strip').getBoundingClientRect().toJSON()")
        self.assertEqual((foot["bottom"], foot["height"] < 150), (844, True), "the strip is at the foot, low")
        self.one("[data-do=side]").click()
        self.until(lambda: self.one("#frag-side").is_displayed())
        self.one("#item-bath-warmth").click()
        self.until(lambda: self.script("return document.getElementById('machine-name').value") == "Bath warmth")
        self.until(lambda: not self.one("#frag-side").is_displayed(), "what is picked closes the sheet")
        self.one("[data-do=outs]").click()
        self.until(lambda: self.one(".outs-in").is_displayed())
        for tool in ("#theme", "#help"):
            self.assertTrue(self.one(tool).is_displayed())

    def test_labels_of_a_map_lie_on_nothing(self) -> None:
        for bench in range(1, len(ORDER) + 1):
            self.open(f"benches/{bench}/behave?look=map")
            self.until(lambda: self.all(".map-node"))
            with self.subTest(bench=bench):
                self.assertEqual(self.unreadable(".map"), [])

    def test_axe_at_a_desk_that_is_small_and_on_a_phone(self) -> None:
        benches = range(1, len(ORDER) + 1) if DEPTH > 1 else (1,)
        # At a small desk it is the same page, narrower: two stations of it stand for all, unless there is time.
        for (wide, high), stations in zip(
            WIDTHS[1:], (STATIONS if DEPTH > 1 else ("wire", "behave"), STATIONS), strict=True
        ):
            size(self.driver, wide, high)
            for bench in benches:
                for station in stations:
                    self.open(f"benches/{bench}/{station}")
                    self.script(AXE)
                    found = self.driver.execute_async_script("axe.run().then((r) => arguments[0](r.violations))")
                    serious = [(v["id"], [n["target"] for n in v["nodes"]][:4]) for v in found if v["impact"] in ("serious", "critical")]  # fmt: skip
                    with self.subTest(bench=bench, station=station, wide=wide):
                        self.assertEqual(serious, [])
        self.driver.get_log("browser")

    def test_the_rail_folds_and_is_kept_and_a_station_with_nothing_has_it_by_itself(self) -> None:
        self.open("benches/1/behave")
        wide = "return document.getElementById('editor').clientWidth"
        open_wide = self.script(wide)
        self.keys("f")
        self.until(lambda: self.script(wide) > open_wide + 120)
        self.driver.refresh()
        self.painted()
        self.assertGreater(self.script(wide), open_wide + 120, "kept over a reload")
        self.assertFalse(self.one(".outs-in").is_displayed())
        self.keys("f")
        self.until(lambda: self.one(".outs-in").is_displayed())
        self.one("#stop-build").click()
        self.until(lambda: self.all(".outs-none"))
        self.assertFalse(self.one(".outs-in").is_displayed())
        self.one("#rail").click()
        self.until(lambda: self.one("#elsewhere").is_displayed(), "what stands out elsewhere can still be seen")
        self.keys("\ue00c")
        self.until(lambda: not self.one(".outs-in").is_displayed())

    def test_a_small_bench_is_two_pages_on_paper_with_its_pins_and_nothing_to_press(self) -> None:
        self.open("benches/4/build")
        paper = {"preferCSSPageSize": True, "paperWidth": 8.27, "paperHeight": 11.69}
        made = b64decode(self.driver.execute_cdp_cmd("Page.printToPDF", paper)["data"])
        self.assertLessEqual(len(re.findall(rb"/Type\s*/Page\b(?!s)", made)), 2)
        self.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
        self.addCleanup(self.driver.execute_cdp_cmd, "Emulation.setEmulatedMedia", {"media": ""})
        self.assertIn("Ann's button", self.text(".print-pins"))
        self.assertTrue(self.one(".wire-list").is_displayed())
        self.assertFalse([one.text for one in self.all("button, select") if one.is_displayed()])

    def test_four_steps_lead_from_an_empty_bench_to_its_program_and_can_be_left(self) -> None:
        self.open()
        self.one("#new-name").send_keys("First", Keys.ENTER)
        self.until(lambda: self.one("#frag-begin").is_displayed())
        step = "return document.querySelector('#frag-begin [data-steps-done]').dataset.stepsDone"
        self.one("#begin-there").click()
        self.until(lambda: self.script("return document.activeElement.id") == "find-part", "the real control")
        self.keys(*"button", Keys.ENTER)
        self.until(lambda: self.script(step) == "1")
        self.put_down("lamp")
        self.until(lambda: self.script(step) == "2")
        self.one("#begin-there").click()
        self.until(lambda: self.script("return document.activeElement.id") == "find-recipe")
        self.keys(*"follow", Keys.ENTER)
        self.saved(lambda: self.one("#recipe-make").click())
        self.until(lambda: self.script(step) == "3")
        self.one("#begin-there").click()
        self.until(lambda: self.script(step) == "4")
        self.assertIn("void loop()", self.text("#code"))
        self.one("[data-begin=leave]").click()
        self.assertFalse(self.one("#frag-begin").is_displayed())
        self.driver.refresh()
        self.painted()
        self.assertFalse(self.one("#frag-begin").is_displayed(), "who has left is not asked again")

    def test_home_finds_among_many_and_shows_what_it_knows_at_once(self) -> None:
        self.open()
        self.until(lambda: not self.all("[aria-busy]"))
        self.assertFalse(self.all("#find-bench"), "five need no search")
        for _ in range(8):
            self.open()
            self.script("document.querySelector('[aria-label=\"Duplicate Bicycle lamp\"]').click()")
            self.until(lambda: "benches/" in self.driver.current_url)
        self.open()
        self.until(lambda: not self.all("[aria-busy]"))
        with urllib.request.urlopen(self.server.url) as answer:
            page = answer.read().decode()
        self.assertNotIn("aria-busy", page, "worked out once, there at once")
        self.assertEqual(page.count('class="mini"'), len(ORDER) + 8)
        shown = "return [...document.querySelectorAll('.card-bench')].filter((one) => one.checkVisibility()).length"
        self.one("#find-bench").send_keys("rain")
        self.until(lambda: self.script(shown) == 1)
        self.one("#find-bench").clear()
        self.one("#find-bench").send_keys(" ")
        self.one("[data-tag='Encoder']").click()
        self.until(lambda: self.script(shown) == 1)


if __name__ == "__main__":
    unittest.main()
