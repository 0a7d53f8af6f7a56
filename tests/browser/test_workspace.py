"""The workspace by hand and by keyboard; conflicts; a server that goes away; accessibility."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from scripts.crowd import Person
from tests.browser.page import BrowserCase
from tests.browser.server import Server

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
SCREENS = (
    "",
    "benches/1/wire",
    "benches/1/wire?picked=focus-lamp",
    "benches/1/wire?picked=bath-probe",
    "benches/5/wire?picked=keys",
    "boards",
    "boards/mid-8bit-5v",
    "benches/1/clean",
    "benches/1/behave",
    "benches/2/pace?picked=report",
    "benches/2/pace?picked=_schools",
    "benches/1/pace?picked=_reach",
    "benches/1/guard",
    "benches/1/guard?picked=_hangs",
    "benches/1/guard?picked=_start",
    "benches/1/build",
    "help",
    "benches/99/wire",
)


class Strip(BrowserCase):
    def test_keys_zoom_pan_jump_measure_and_ghost(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        corner = lambda: self.text(".strip-corner")  # noqa: E731
        self.keys("]")
        self.until(lambda: "Safelight switch: press at" in corner() or "Foot pedal: press at" in corner())
        self.keys("]", "]")
        self.until(lambda: "press at" in corner() or "release at" in corner())
        first = corner()
        self.keys("[")
        self.until(lambda: corner() != first)
        self.keys("0", "a")
        self.until(lambda: "A at" in self.text(".strip-between"))
        lanes = self.one(".lane-canvas")
        ActionChains(self.driver).move_to_element_with_offset(lanes, 120, -20).perform()
        self.keys("b")
        self.until(lambda: "Δt" in self.text(".strip-between"))
        before = self.text(".strip-between")
        self.keys("+", "+", "a")
        self.until(lambda: self.text(".strip-between") != before)
        rows = len(self.all(".lane-label"))
        self.keys("l")
        self.until(lambda: len(self.all(".lane-label")) == rows + 6)  # of two contacts: metal, level, reading
        self.keys("l")
        # Lanes in which nothing happens are one line, until they are asked for; the strip has three heights, kept.
        self.assertIn("Bath probe", self.one(".lane-label.is-quiet").get_attribute("title"))
        self.keys("q")
        self.until(lambda: len(self.all(".lane-label")) > rows + 6)
        self.keys("q")
        self.until(lambda: len(self.all(".lane-label")) == rows)
        height = lambda: self.one("#strip").size["height"]  # noqa: E731
        half = height()
        self.keys("s")
        self.until(lambda: height() > half + 100)
        self.driver.refresh()
        self.until(lambda: height() > half + 100)
        self.keys("s")
        self.until(lambda: height() < half - 100)
        self.keys("s")
        self.until(lambda: height() == half)
        self.keys("g")
        self.until(
            lambda: self.one("[aria-label='G ghost of the run before']").get_attribute("aria-pressed") == "false"
        )
        self.keys("h")
        self.until(lambda: "demo bench added" in self.text("#history-list"))
        self.keys(Keys.ESCAPE)
        self.keys("?")
        self.until(lambda: "Clean" in self.text("#guide"))
        self.keys(Keys.ESCAPE)
        self.until(lambda: not self.one("#guide").is_displayed())

    def test_every_lane_is_drawn(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        self.script("document.documentElement.style.setProperty('--strip-height', '560px')")
        self.until(lambda: all(self.ink(lane) > 300 for lane in range(len(self.all(".lane-label")))))

    def test_wheel_zooms_about_the_pointer_and_drag_pans(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        lanes = self.one(".lane-canvas")
        point = lambda: float(self.text(".strip-corner").split()[0])  # noqa: E731
        ActionChains(self.driver).move_to_element_with_offset(lanes, 100, 0).perform()
        at = point()
        self.script(
            "const box = arguments[0].getBoundingClientRect(); for (let n = 0; n < 3; n++) arguments[0].dispatchEvent(new WheelEvent('wheel',"
            "{deltaY: -240, clientX: box.left + box.width / 2 + 100, clientY: box.top + 20, bubbles: true, cancelable: true}))",
            lanes,
        )
        ActionChains(self.driver).move_by_offset(1, 0).move_by_offset(-1, 0).perform()
        self.assertLess(abs(point() - at), 0.01)
        ActionChains(self.driver).click_and_hold().move_by_offset(-80, 0).move_by_offset(-80, 0).release().perform()
        ActionChains(self.driver).move_by_offset(160, 0).perform()
        self.assertGreater(point(), at + 0.005)


class Stations(BrowserCase):
    def test_a_button_is_placed_wired_given_a_recipe_and_pressed(self) -> None:
        self.open()
        self.one("#new-name").send_keys("From nothing")
        self.one("#new-name").submit()
        self.until(lambda: self.all("#find-part"))
        self.put_down("button")
        self.until(lambda: self.all("#item-button"))
        self.assertEqual(self.one("#item-button").get_attribute("aria-current"), "true")
        Select(self.one("[id='m/inputs/0/wiring/pull']")).select_by_visible_text("nothing")
        self.until(lambda: "the pin floats" in self.text("#frag-outs"))
        self.assertTrue(self.all(".circuit.is-floats"))
        self.one("#frag-outs [data-patch]").click()
        self.until(lambda: "the pin floats" not in self.text("#frag-outs"))
        self.put_down("lamp")
        self.until(lambda: self.all("#item-lamp"))
        self.one("#pin-D4").click()
        self.until(lambda: "Two parts on D4" in self.text("#frag-outs"))
        self.one("#frag-outs [data-patch]").click()
        self.until(lambda: "Two parts" not in self.text("#frag-outs"))
        self.painted()
        self.keys("3")
        self.until(lambda: self.all("#find-recipe"))
        self.one("#find-recipe").click()
        self.one("#recipe-toggle").click()
        self.saved(lambda: self.one("#recipe-make").click())
        self.until(lambda: self.all("#machine-name"))
        self.assertIn("LED: toggle on press", self.script("return document.getElementById('machine-name').value"))
        self.one("#drive-on-lamp").click()
        self.until(lambda: self.all("#opened"))
        self.saved(lambda: next(b for b in self.all("#opened .chip") if b.text == "blink").click())
        field = "f/firmware/machines/0/states/1/drives/lamp/on_us"
        self.until(lambda: self.all(f"[id='{field}']"))
        self.saved(lambda: self.one(f"[id='{field}']").send_keys(Keys.CONTROL, "a", Keys.NULL, "40", Keys.ENTER))
        self.keys(Keys.ESCAPE)
        self.until(lambda: not self.all("#opened"))
        self.keys("7")
        self.until(
            lambda: "lamp_out.blink(40UL, 250UL);" in self.script("return document.getElementById('code').textContent")
        )

    def test_methods_are_tried_in_the_strip_and_the_best_is_taken(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        key = self.painted()
        ActionChains(self.driver).move_to_element(self.one("#method-act-ignore")).perform()
        self.until(lambda: self.painted() != key, "resting on a method shows its run")
        self.assertIn("extra press", self.text(".strip-head"))
        ActionChains(self.driver).move_to_element(self.one("h1")).perform()
        self.until(lambda: self.painted() == key, "leaving it shows the present one again")
        self.assertIn("best", self.text("#method-act-ignore"))
        self.assertIn("holds the loop", self.one("#method-look-again").get_attribute("title"))
        self.saved(lambda: self.one("#take-best").click())
        self.assertEqual(self.one("#method-act-ignore").get_attribute("aria-checked"), "true")
        self.assertNotIn("extra presses counted", self.text("#frag-outs"))
        # Asked for quicker taps than its bounce, a method that waits for rest has no safe interval, and says so.
        self.assertIn("waits", self.text("#method-rest-first"))
        field = self.one("#tap-hold")
        self.saved(lambda: field.send_keys(Keys.CONTROL, "a", Keys.NULL, "8", Keys.ENTER))
        self.until(
            lambda: "no safe interval" in self.script("return document.getElementById('method-rest-first').textContent")
        )
        self.assertEqual(self.one("#tap-hold").get_attribute("value"), "8")

    def test_two_methods_are_laid_beside_each_other_on_the_same_presses(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        lanes = len(self.all(".lane-label"))
        Select(self.one("#beside")).select_by_value("count-samples")
        self.until(lambda: len(self.all(".lane-label")) == lanes + 1)
        self.assertIn("count samples,", self.text(".lane-label.is-beside"))
        self.assertIn("count samples,", self.text(".strip-difference"))
        self.assertIn("extra press", self.text(".strip-difference"))
        self.until(lambda: self.ink(1) > 300, "the other method's lane is drawn")
        # It stays through an edit, and goes when it is taken away.
        self.saved(lambda: self.one("#interval").send_keys(Keys.ARROW_RIGHT))
        self.assertTrue(self.all(".lane-label.is-beside"))
        Select(self.one("#beside")).select_by_value("")
        self.until(lambda: not self.all(".lane-label.is-beside"))

    def test_a_part_put_down_has_its_lanes_at_once(self) -> None:
        self.open("benches/1/wire?picked=foot-pedal")
        self.saved(lambda: self.put_down("magnet"))
        self.assertEqual(self.text(".lane-label b"), "Magnet")
        self.until(lambda: self.ink(0) > 300)

    def test_a_contact_is_dragged_to_the_other_rail(self) -> None:
        self.open("benches/1/wire?picked=foot-pedal")
        grip = self.one(".circuits [data-grip=contact] .grip-area")
        chain = ActionChains(self.driver, duration=40).move_to_element(grip).click_and_hold()
        self.saved(lambda: chain.move_by_offset(0, -40).move_by_offset(0, -40).release().perform())
        self.until(lambda: "pressed or not, the same" in self.text("#frag-outs"))
        grip = self.one(".circuits [data-grip=pull] .grip-area")
        chain = ActionChains(self.driver, duration=40).move_to_element(grip).click_and_hold()
        self.saved(lambda: chain.move_by_offset(0, 40).move_by_offset(0, 40).release().perform())
        self.until(lambda: "reads the wrong way round" in self.text("#frag-outs"))
        self.saved(lambda: self.one("[id='mend-wire.inverted-foot-pedal']").click())
        self.assertIn("firmware reads pressed", self.text(".circuits figure:last-child"))

    def test_a_part_is_dropped_on_a_taken_pin_and_pins_are_found_again(self) -> None:
        self.open("benches/1/wire?picked=foot-pedal")
        drop = """
          const data = new DataTransfer(), pin = document.getElementById(arguments[1]);
          const send = (on, name) => on.dispatchEvent(new DragEvent(name, { bubbles: true, cancelable: true, dataTransfer: data }));
          send(document.getElementById(arguments[0]), 'dragstart'); send(pin, 'dragover'); send(pin, 'drop');"""
        self.script(drop, "item-beeper", "pin-D8")
        self.until(lambda: "Two parts on D8" in self.text("#frag-outs"))
        self.assertTrue(self.all("#pin-D8.is-clash"))
        self.one("#find-pins").click()
        self.until(lambda: "Two parts" not in self.text("#frag-outs"))
        self.assertIn("D8 → ", self.text("#toast"))
        Select(self.one("#board")).select_by_visible_text("32-bit 3.3 V two-core board, 27 pins")
        self.until(lambda: "3.3 V" in self.text(".circuits"))
        self.until(lambda: "the board is now" in self.text("#toast").lower())
        self.one("#undo").click()
        self.until(lambda: "supply 5 V" in self.text(".circuits"))

    def test_a_refusal_stands_beside_its_control_which_goes_back(self) -> None:
        self.open("benches/1/behave?picked=lamp-mode&chosen=drive+done+beeper")
        length = "[id='f/firmware/machines/0/states/3/drives/beeper/length_us']"
        field = self.one(length)
        field.send_keys(Keys.CONTROL, "a", Keys.NULL, "0", Keys.ENTER)
        said = self.until(lambda: self.one(".refusal.is-beside"))
        self.assertIn("0 is too small", said.text)
        self.assertIn("Nothing was changed", said.text)
        self.assertEqual(self.one(length).get_attribute("value"), "112 ms")
        self.assertIn("refused", self.text(".save-state"))

    def test_the_interval_by_keyboard(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        self.saved(lambda: self.one("#interval").send_keys(Keys.ARROW_RIGHT * 3))
        self.until(lambda: "now 5 ms" in self.text(".now-text"))
        self.saved(lambda: self.one("#interval").send_keys(Keys.HOME))
        self.assertEqual(self.one("#interval").get_attribute("aria-valuenow"), "12")
        self.keys("j")
        self.until(lambda: self.text(".editor h1") == "Safelight switch")
        self.keys("1")
        self.until(lambda: self.all("#part-name"))
        self.driver.back()
        self.until(lambda: self.text(".editor h1") == "Safelight switch")

    def test_a_method_is_changed_and_says_what_it_costs(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        for method, words in (
            ("act-ignore", "deaf time"),
            ("fixed-delay", "nothing feeds the watchdog"),
            ("none", "no interval to set"),
        ):
            self.script("document.querySelectorAll('.weaker').forEach((one) => { one.open = true; })")
            self.saved(lambda method=method: self.one(f"#method-{method}").click())
            self.assertIn(words, self.text("#frag-editor"))
        self.assertIn("is not cleaned", self.text("#frag-outs"))


class Saving(BrowserCase):
    def test_two_tabs_and_both_sides_of_a_conflict(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        first = self.driver.current_window_handle
        self.driver.switch_to.new_window("tab")
        self.open("benches/1/clean?picked=foot-pedal")
        self.saved(lambda: self.one("#interval").send_keys(Keys.ARROW_RIGHT))
        self.driver.close()
        self.driver.switch_to.window(first)
        for choice, interval in (("#conflict-leave", "3"), ("#conflict-mine", "12")):
            if choice == "#conflict-mine":
                code = """
                  const { history } = await (await fetch("/api/benches/1/history")).json();
                  (await import("/static/js/session.js")).session.revision = history[1].revision;"""
                self.script(f"return (async () => {{ {code} }})()")
            self.one("#interval").send_keys(Keys.HOME)
            self.until(lambda: self.one("#conflict-dialog").is_displayed())
            self.assertIn("interval", self.text("#conflict-yours"))
            self.assertTrue(self.all("#conflict-theirs li"))
            self.one(choice).click()
            self.until(lambda interval=interval: self.one("#interval").get_attribute("aria-valuenow") == interval)
            self.until(lambda: self.text(".save-state").startswith("saved"))

    def test_what_another_browser_saved_is_taken_back_only_after_a_question(self) -> None:
        other = Person(self.server.url)
        revision = json.loads(other.ask("GET", "/api/benches/1")[1])["revision"]
        patch = [{"op": "replace", "path": "/name", "value": "Theirs"}]
        other.ask("POST", "/api/benches/1/edit", {"base": revision, "patch": patch, "place": {}})
        self.open("benches/1/clean?picked=foot-pedal")
        name = lambda: self.one("#bench-name").get_attribute("value")  # noqa: E731
        for answer, wanted in (("dismiss", "Theirs"), ("accept", "Print timer")):
            self.one("#undo").click()
            alert = self.until(lambda: self.driver.switch_to.alert)
            self.assertIn("Theirs. Undo it all the same?", alert.text)
            getattr(alert, answer)()
            self.until(lambda wanted=wanted: name() == wanted)
            self.until(lambda: self.text(".save-state").startswith("saved"))

    def test_a_server_that_goes_away_is_said_and_the_edit_is_kept_until_it_is_back(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        port = self.server.url.rsplit(":", 1)[1].strip("/")
        self.server.kill()
        self.one("#interval").send_keys(Keys.ARROW_RIGHT * 4)
        self.until(lambda: "not saved: the server cannot be reached" in self.text(".save-state"))
        self.server = Server(self.server.data, "--port", port)
        self.addCleanup(self.server.kill)
        self.one(".retry").click()
        self.until(lambda: self.text(".save-state").startswith("saved"))
        self.driver.refresh()
        self.assertEqual(self.one("#interval").get_attribute("aria-valuenow"), "6")


class ForEveryone(BrowserCase):
    def test_axe_finds_no_serious_violation_on_any_screen_in_either_theme(self) -> None:
        for screen in SCREENS:
            self.open(screen) if "99" not in screen else self.driver.get(self.server.url + screen)
            self.script(AXE)
            # What is not colour is the same in both.
            for theme, rules in (("light", {}), ("dark", {"runOnly": ["color-contrast"]})):
                with self.subTest(theme=theme, screen=screen):
                    self.script("document.documentElement.dataset.theme = arguments[0]", theme)
                    code = "const done = arguments[1]; axe.run(arguments[0]).then((r) => done(r.violations))"
                    found = self.driver.execute_async_script(code, rules)
                    serious = [
                        (v["id"], [n["target"] for n in v["nodes"]][:4])
                        for v in found
                        if v["impact"] in ("serious", "critical")
                    ]
                    self.assertEqual(serious, [])
        self.driver.get_log("browser")

    def test_everything_on_a_station_can_be_reached_by_tab(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        reached = set()
        for _ in range(70):
            self.keys(Keys.TAB)
            reached.add(self.script("return document.activeElement.id || document.activeElement.className"))
        for wanted in (
            "stop-wire",
            "item-foot-pedal",
            "interval",
            "method-rest-first",
            "switch-class",
            "strip-lanes",
            "scenario",
        ):
            self.assertTrue(any(wanted in name for name in reached), (wanted, reached))
        self.assertFalse(self.driver.find_elements(By.CSS_SELECTOR, "[style*='display: none'] :focus"))


class Fragments(BrowserCase):
    def test_what_an_answer_leaves_alone_keeps_its_text_its_caret_its_panels_and_its_place(self) -> None:
        self.open("benches/1/wire?picked=focus-lamp")
        fields = [one for one in self.all("#frag-editor input[data-path]") if one.is_displayed()]
        first, second = fields[0], fields[1]
        self.script("document.querySelector('.side').scrollTop = 40;")
        panel = self.script(
            "const one = document.querySelector('#frag-outs details');"
            "if (one) { one.open = true; one.mine = 1; } return one !== null;"
        )
        scrolled = self.script("return document.querySelector('.side').scrollTop")
        self.script("arguments[0].mine = arguments[1].mine = 1", first, second)
        first.click()
        first.send_keys(Keys.CONTROL, "a")
        self.keys("123")

        def hand_in_and_type_on() -> None:
            second.click()
            second.send_keys(Keys.CONTROL, "a")
            second.send_keys("2.2")
            second.send_keys(Keys.ARROW_LEFT)

        self.saved(hand_in_and_type_on)
        self.assertEqual(first.get_attribute("value"), "123")
        self.assertEqual((second.get_attribute("value"), self.driver.switch_to.active_element), ("2.2", second))
        self.assertEqual(self.script("return [arguments[0].mine, arguments[1].selectionStart]", first, second), [1, 2])
        self.assertEqual(self.script("return document.querySelector('.side').scrollTop"), scrolled)
        if panel:
            self.assertTrue(
                self.script("return [...document.querySelectorAll('details')].some((one) => one.mine && one.open)")
            )
        second.send_keys(Keys.TAB)
        self.until(lambda: second.get_attribute("defaultValue") == "2.2", "the second field is saved, too")

    def test_a_chart_is_set_up_anew_where_its_figures_are_others_and_left_alone_where_not(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        self.script("document.querySelector('.sweep').mine = 1; document.querySelector('.methods').mine = 1;")
        field = self.one("#frag-editor input[data-path$='hold_us'], #frag-editor input[data-make*='taps']")
        self.script("arguments[0].scrollIntoView({block: 'center'})", field)
        field.click()
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("31")
        self.saved(lambda: field.send_keys(Keys.ENTER))
        self.assertIsNone(self.script("return document.querySelector('.sweep').mine ?? null"))
        value = self.one(".sweep [role=slider]")
        before = value.get_attribute("aria-valuenow")
        self.saved(lambda: value.send_keys(Keys.ARROW_RIGHT))
        self.until(lambda: self.one(".sweep [role=slider]").get_attribute("aria-valuenow") != before)


if __name__ == "__main__":
    unittest.main()
