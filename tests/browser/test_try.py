"""Try: the print timer played by keys and by the pointer, back and on another way, kept and run."""

from __future__ import annotations

import base64
import re
import unittest
import zlib
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import Any

from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import size
from tests.browser.page import BrowserCase


def streams(pdf: bytes) -> Iterator[bytes]:
    """What is drawn on the pages of a PDF, unpacked."""
    for found in re.finditer(rb"stream\r?\n(.*?)endstream", pdf, re.DOTALL):
        with suppress(zlib.error):
            yield zlib.decompress(found[1])


class Try(BrowserCase):
    def log(self) -> str:
        return self.text("#live-log")

    def put(self, css: str, value: str) -> None:
        """Type into a field, or choose in a list by value or by words, and leave it."""
        self.script(
            """const field = document.querySelector(arguments[0]);
            const option = [...field.options ?? []].find((one) => [one.value, one.textContent].includes(arguments[1]));
            if (option) option.selected = true; else field.value = arguments[1];
            field.dispatchEvent(new Event('change', { bubbles: true }))""",
            css,
            value,
        )

    def test_it_is_played_gone_back_in_and_kept(self) -> None:
        self.open("benches/1/try")
        self.act(lambda hand: hand.key_down("w").pause(0.3).key_up("w"))
        self.until(lambda: "Lamp mode: Dark → Focus" in self.log())
        self.assertIn("Foot pedal pressed", self.log())
        self.assertIn(self.text("[data-state=lamp-mode]"), ("Focus", "Timed", "Done", "Dark"))
        self.one("#do-safelight-switch").click()
        self.until(lambda: "is-on" in self.one("[data-shows=safelight]").get_attribute("class"))
        self.assertEqual(self.one("#do-safelight-switch").get_attribute("aria-pressed"), "true")
        # By the focused control, too; and two at once.
        self.script("document.getElementById('do-foot-pedal').focus()")
        self.act(lambda hand: hand.key_down(Keys.SPACE).key_down("t").pause(0.2).key_up("t").key_up(Keys.SPACE))
        self.until(lambda: "Time dial push pressed" in self.log())
        # Back to when the pedal counted first; what is done there lets go what came later.
        self.one("#live-play").click()
        self.until(lambda: self.text("#live-how") == "paused")
        self.script("[...document.querySelectorAll('#live-log li')].at(-1).querySelector('button').click()")
        self.until(lambda: "Safelight on" not in self.log())
        self.one("[data-turn='1']").click()
        self.until(lambda: "Time dial: step" in self.log())
        self.assertNotIn("Safelight on", self.log())
        self.saved(lambda: self.one("#live-expect").click())
        self.until(lambda: "By hand" in self.text(".strip"))
        self.assertRegex(self.text(".strip-head"), r"(\d+) of \1 checks met")

    def test_a_scenario_is_played_on_it_and_somebody_steps_in(self) -> None:
        self.open("benches/1/try")
        self.one("#live-replay").click()
        self.until(lambda: "Safelight on" in self.log())
        self.until(lambda: self.one("#do-safelight-switch").get_attribute("aria-pressed") == "true")
        self.one("[data-turn='1']").click()  # a hand steps in, and what is laid out still comes
        self.until(lambda: "Time dial: step" in self.log())
        self.until(lambda: "Lamp mode: Dark → Focus" in self.log())
        self.until(lambda: self.text("#live-clock") > "0:01.200")  # the pedal is let go: what is pressed is the hand's
        # On the back a wire comes off, and is put on again; the loop hangs, and the watchdog is seen to act.
        self.one("#live-back").click()
        pull = "[data-fault-word='off:foot-pedal']"
        self.one(pull).click()
        self.until(lambda: "Foot pedal: wire off" in self.text("#live-faults"))
        self.act(lambda hand: hand.key_down("w").pause(0.1).key_up("w"))
        self.until(lambda: "Foot pedal: a press was missed" in self.log())
        self.one(pull).click()
        self.until(lambda: not self.text("#live-faults"))
        self.one("[data-fault-word='stuck:']").click()
        self.until(lambda: "The board starts anew: watchdog" in self.log())
        self.one("#live-back").click()
        self.until(lambda: self.one("#do-foot-pedal").is_displayed())

    def test_on_a_phone_the_panel_alone_fills_the_screen(self) -> None:
        size(self.driver, 390, 844)
        self.addCleanup(size, self.driver, 1280, 800)
        self.open("benches/4/try")
        self.one("#live-fill").click()
        box = self.script("return document.getElementById('try-desk').getBoundingClientRect().toJSON()")
        self.assertEqual([box["x"], box["y"], box["width"], box["height"]], [0, 0, 390, 844])
        top = "const box = document.getElementById('do-ann-button').getBoundingClientRect();"
        top += "return document.elementFromPoint(box.x + 20, box.y + 20).closest('[data-does]')?.id"
        self.assertEqual(self.script(top), "do-ann-button")
        # Two fingers at once: each holds its own.
        down = """for (const [place, id] of [[1, 'do-ann-button'], [2, 'do-bo-button']])
          document.getElementById(id).dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, pointerId: place, pointerType: 'touch' }));"""
        self.script(down)
        self.until(lambda: "Ann's button pressed" in self.log() and "Bo's button pressed" in self.log())
        self.assertEqual(len(self.all("[data-does=button][aria-pressed=true]")), 2)
        self.keys(Keys.ESCAPE)
        self.assertTrue(self.one(".strip").is_displayed())
        self.assertNotIn("is-panel", self.one("body").get_attribute("class"))

    def spot(self, ident: str) -> dict[str, object]:
        bench = self.script("return fetch('/api/benches/1').then((one) => one.json())")
        return dict(bench["document"]["panel"]["spots"].get(ident, {}))

    def stored(self, press: Callable[[], Any]) -> None:
        """Do something that changes the panel, and wait until that is stored: its run is the same as before."""
        number = "return fetch('/api/benches/1').then((one) => one.json()).then((one) => one.revision)"
        before = self.script(number)
        press()
        self.until(lambda: self.script(number) != before, "another revision")
        self.settled()

    def test_the_panel_is_arranged_and_what_is_played_goes_on(self) -> None:
        self.open("benches/1/try")
        self.act(lambda hand: hand.key_down("w").pause(0.1).key_up("w"))
        self.until(lambda: "Foot pedal pressed" in self.log())
        self.one("#live-arrange").click()
        pedal = self.one("#thing-foot-pedal")
        scale = self.script(
            "const front = document.getElementById('try-panel'); return front.clientWidth / front.dataset.wide"
        )
        x = float(str(pedal.get_attribute("data-x")))
        self.stored(
            lambda: self.act(lambda hand: hand.drag_and_drop_by_offset(pedal, round(10 * scale), round(-6 * scale)))
        )
        spot = self.spot("foot-pedal")
        self.assertAlmostEqual(float(str(spot["x_mm"])), x + 10, delta=1.1)
        self.script("document.getElementById('thing-foot-pedal').focus()")
        self.stored(lambda: self.act(lambda hand: hand.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ARROW_UP)))
        moved = self.spot("foot-pedal")
        self.assertEqual(float(str(moved["x_mm"])), float(str(spot["x_mm"])) + 2)
        self.assertEqual(float(str(moved["y_mm"])), float(str(spot["y_mm"])) - 1)
        self.stored(lambda: self.put("#spot-label-foot-pedal", "Pedal"))
        self.until(lambda: "Pedal" in self.text("#thing-foot-pedal"))
        self.stored(lambda: self.put("#spot-key-foot-pedal", "n"))
        self.stored(lambda: self.put("#spot-hole-foot-pedal", "24"))
        self.assertEqual({name: self.spot("foot-pedal")[name] for name in ("label", "key", "hole_mm")},
                         {"label": "Pedal", "key": "n", "hole_mm": 24})  # fmt: skip
        self.script("document.getElementById('panel-corner').focus()")
        self.stored(
            lambda: self.act(lambda hand: hand.key_down(Keys.SHIFT).send_keys(Keys.ARROW_RIGHT).key_up(Keys.SHIFT))
        )
        self.until(lambda: self.text(".panel-size").startswith("165 ×"))
        self.keys(Keys.ESCAPE)
        # All the while the same session was played, and its new letter plays it.
        self.assertIn("Foot pedal pressed", self.log())
        self.act(lambda hand: hand.key_down("n").pause(0.15).key_up("n"))
        self.until(lambda: self.log().count("Foot pedal pressed") >= 2)
        # What was done to the panel is undone like anything else.
        self.stored(lambda: self.one(".undo, [data-step=undo]").click())

    def test_hands_keep_their_own_time_where_the_server_is_slow(self) -> None:
        """The clock waits for what is known; a press is as long as it was held, and nothing in between is left out."""
        self.open("benches/1/try")
        self.script("""const usual = window.fetch;
            window.fetch = async (url, how) => {
              if (String(url).endsWith("/live")) await new Promise((done) => setTimeout(done, 700));
              return usual(url, how);
            }""")
        self.act(lambda hand: hand.key_down("w").pause(0.2).key_up("w"))
        self.until(lambda: "Foot pedal pressed" in self.log())
        self.until(lambda: "Foot pedal released" in self.log())
        self.assertNotEqual(self.text("[data-state=bath-warmth]"), "–")  # where it stood before anything was done
        self.saved(lambda: self.one("#live-keep").click())
        bench = self.script("return fetch('/api/benches/1').then((one) => one.json())")
        (press,) = bench["document"]["scenarios"][-1]["stimuli"]
        self.assertEqual((press["kind"], press["input"]), ("press", "foot-pedal"))
        self.assertTrue(150_000 < press["hold_us"] < 2_000_000, press)

    def test_the_drilling_template_prints_at_its_true_size(self) -> None:
        """On A4 (ISO 216), upright or lying, a CSS pixel is 0.75 points: nothing is made smaller to fit."""
        for bench, box in ((1, (595, 842)), (6, (842, 595))):
            self.driver.get(f"{self.server.url}benches/{bench}/drill")
            made = self.driver.execute_cdp_cmd("Page.printToPDF", {"preferCSSPageSize": True})["data"]
            pdf = base64.b64decode(made)
            page = re.search(rb"/MediaBox \[0 0 (\S+) (\S+)\]", pdf)
            assert page is not None
            self.assertEqual(tuple(round(float(one)) for one in page.groups()), box)
            drawn = next(text for text in streams(pdf) if b" cm" in text[:40])
            outer, inner = (float(one) for one in re.findall(rb"([\d.]+) 0 0 -?[\d.]+ [\d.]+ [\d.]+ cm", drawn)[:2])
            self.assertAlmostEqual(outer * inner, 0.75, places=4)

    def test_the_strip_grows_and_a_pass_is_a_pass(self) -> None:
        self.open("benches/1/try")
        self.act(lambda hand: hand.key_down("w").pause(0.1).key_up("w"))
        self.until(lambda: "by hand, as it grows" in self.text(".strip-head"))
        self.until(lambda: self.one("#strip").get_attribute("data-painted") == "by hand")
        self.one("#live-play").click()
        self.until(lambda: self.text("#live-how") == "paused")
        stood = self.text("#live-clock")
        self.one("#live-pass").click()
        self.until(lambda: len(self.text("#live-clock")) > len(stood))  # to the microsecond now
        first = self.text("#live-clock")
        self.one("#live-pass").click()
        self.until(lambda: self.text("#live-clock") > first)
        self.assertLess(float(self.text("#live-clock").split(":")[1]) - float(first.split(":")[1]), 0.01)

    def test_another_hand_plays_a_thousand_and_is_watched(self) -> None:
        self.open("benches/1/try")
        self.put("#hand-who", "hurried")
        self.script("document.getElementById('hand-play').click()")
        self.until(lambda: "1000 actions" in self.text("#hand-said"))
        self.assertIn("counted more than once", self.text("#hand-said"))
        # What is told goes on and on: all of it is listened to, whatever stands there when somebody looks.
        self.script(
            "window.told = ''; const log = document.getElementById('live-log');"
            "new MutationObserver(() => (window.told += log.textContent)).observe(log, { childList: true, subtree: true })"
        )
        self.script("document.querySelector('[data-hand-round]').click()")
        self.until(lambda: "Somebody in a hurry, round" in self.text("#live-said"))
        self.until(lambda: "a bounce counted" in self.script("return window.told"))

    def test_what_is_touched_and_what_is_dragged(self) -> None:
        self.open("benches/1/try")
        self.script("const dial = document.getElementById('do-time-dial'); dial.focus()")
        self.keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
        self.until(lambda: self.one("#do-time-dial").get_attribute("aria-valuenow") == "2")
        # Dragged a quarter round its middle, the dial passes five of its twenty detents.
        self.script("document.getElementById('live-anew').click()")
        dial = self.one("#do-time-dial")
        self.act(lambda hand: hand.move_to_element_with_offset(dial, 0, -30).click_and_hold()
                 .move_by_offset(21, 9).move_by_offset(9, 22).release())  # fmt: skip
        self.until(lambda: dial.get_attribute("aria-valuenow") in ("4", "5"))
        code = """const bar = document.getElementById('do-bath-probe'); bar.value = bar.max;
          bar.dispatchEvent(new Event('input', { bubbles: true }));"""
        self.script(code)
        self.until(lambda: "Bath" in self.log() or "Time dial" in self.log())
        self.one("[data-upset=pin]").click()
        self.until(lambda: "The board starts anew: pin" in self.log())
        self.one("#live-anew").click()
        self.until(lambda: self.text("#live-clock") == "0:00.000")


if __name__ == "__main__":
    unittest.main()
