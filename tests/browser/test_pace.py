"""Pace and Guard by hand and by key: a blink that no longer holds the loop, a hang and what the outputs do, jobs
dragged along the time."""

from __future__ import annotations

import json
import unittest
import urllib.request
from typing import Any

from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.page import BrowserCase

SAID = "return document.querySelector('.strip-difference').textContent"
HURRY = "benches/1/pace?scenario=Next+sheet+in+a+hurry"


class Pace(BrowserCase):
    def document(self, bench: int = 1) -> Any:
        with urllib.request.urlopen(f"{self.server.url}api/benches/{bench}") as answer:
            return json.load(answer)["document"]

    def lanes(self) -> list[str]:
        return [lane.text.split("\n")[0] for lane in self.all(".lane-labels li")]

    def test_a_wait_that_holds_the_loop_runs_beside_it_and_the_lost_press_comes_back(self) -> None:
        # With its bounce cleaned the pedal starts the exposure, the beeper sounds, and a tap falls into its wait.
        self.open("benches/1/clean?picked=foot-pedal&scenario=Next+sheet+in+a+hurry")
        self.saved(lambda: self.one("#mend-clean\\.counted-foot-pedal, #mend-clean\\.too-short-foot-pedal").click())
        self.open(HURRY)
        self.assertIn("0 of 1 check met", self.text("#doings summary .is-not"))
        self.assertIn("112 ms", self.text(".pass-bars"))
        self.saved(lambda: self.one("#mend-pace\\.blocking-beeper").click())
        self.until(lambda: not self.all("#doings summary .is-not"), "the check is met")
        self.assertIn("−1 missed press", self.script("return document.querySelector('.strip-difference').title"))
        self.assertNotIn("112 ms", self.text(".pass-bars"))

    def test_a_hang_and_its_reset_its_cause_and_what_the_lamp_does(self) -> None:
        self.open("benches/1/guard?picked=_hangs")
        self.one("#try-hangs").click()
        self.until(lambda: "runs. A row shows" in self.text("#hangs-said"), "all faults tried")
        self.assertIn("recovered by a reset", self.text("[data-hang=stuck]"))
        self.assertIn("fault undetected", self.text("[data-hang=counter]"))
        before = self.painted()
        self.one("#fault-stuck-all").click()
        self.until(lambda: self.painted() != before)
        self.assertEqual(self.lanes()[:4], ["Focus lamp", "Bath heater", "Loop", "Watchdog"])
        self.assertGreater(self.ink(0), 200)
        key = self.painted()
        asked = "const done = arguments[1]; fetch(arguments[0]).then(r => r.json()).then(d => done(d.lanes))"
        lanes = self.driver.execute_async_script(asked, f"/api/runs/{key}/window?lane=watchdog&lane=output+focus-lamp")
        (at, cause), lamp = lanes["watchdog"]["resets"][0], lanes["output focus-lamp"]
        self.assertEqual(cause, "watchdog")
        course = list(zip(lamp["t"], lamp["v"], strict=True))
        self.assertEqual([value for when, value in course if when < at][-1], 1, "on when it hung")
        self.assertEqual([value for when, value in course if when >= at][:2], [-1, 0], "floats, then off")
        self.one("#no-fault").click()
        self.until(lambda: self.painted() == before)

    def test_a_time_is_typed_in_the_unit_at_hand(self) -> None:
        self.open("benches/2/pace?picked=report")
        read = """const done = arguments[arguments.length - 1];
            import("/static/js/values.js").then(({ READ }) => done(arguments[0].map(([as, text]) => READ[as](text))));"""
        table = [
            ("ms", "20", 20_000), ("ms", "1,5", 1500), ("ms", "0.5 s", 500_000), ("ms", "250 µs", 250),
            ("ms", "1 min", 60_000_000), ("ms", "2 V", None), ("ms", "soon", None), ("s", "2,5", 2_500_000),
            ("s", "250 ms", 250_000), ("s", "1234.567", 1_234_567_000), ("volt", "3,3", 3300), ("volt", "900 mV", 900),
            ("volt", "3 A", None), ("amp", "75", 75_000), ("amp", "1.5 A", 1_500_000), ("cm", "30 cm", 30),
            ("cm", "1.5 m", 150), ("ohm", "4k7", 4700), ("int", "-3", -3),
            ("ohms-at", "10: 19k9 · 25.5: 10k", [{"value": 10, "ohm": 19_900}, {"value": 25.5, "ohm": 10_000}]),
            ("volts-at", "-5: 0.4; 20 900 mV", [{"value": -5, "mv": 400}, {"value": 20, "mv": 900}]),
            ("ohms-at", "", []), ("ohms-at", "10: warm", None), ("ohms-at", "19k9", None),
        ]  # fmt: skip
        got = self.driver.execute_async_script(read, [row[:2] for row in table])
        self.assertEqual(got, [row[2] for row in table])
        field = self.one("#task-run")
        self.saved(lambda: field.send_keys(Keys.CONTROL, "a", Keys.NULL, "1,25 ms", Keys.ENTER))
        self.until(lambda: any(task["run_us"] == 1250 for task in self.document(2)["firmware"]["tasks"]))

    def test_hang_tests_can_be_stopped(self) -> None:
        self.open("benches/1/guard?picked=_hangs")
        self.script("document.getElementById('try-hangs').click(); document.getElementById('stop-hangs').click()")
        self.until(lambda: "Stopped" in self.text("#hangs-said"))
        self.assertTrue(self.all("[data-hang] td.words[colspan]"))

    def test_a_job_is_dragged_in_time_and_in_length_and_moved_by_key(self) -> None:
        self.open("benches/2/pace")
        tasks = self.document(2)["firmware"]["tasks"]
        self.assertIsNone(tasks[2]["offset_us"])
        self.saved(lambda: self.one("#spread-tasks").click())
        self.assertNotIn("Tasks fall into one pass", self.text("#frag-outs"))
        self.saved(lambda: self.one("#undo").click())
        a_ms = self.script(
            "const {left, right, span} = document.querySelector('.timeline').dataset, svg = document.querySelector('.timeline svg');"
            "return (right - left) / span * svg.clientWidth / svg.viewBox.baseVal.width;"
        )
        # From its half second to where the gauge begins, so that both fall into one pass.
        self.saved(lambda: self.drag(self.one("#job-rain-rate .job-reach"), round(-250 * a_ms)))
        moved = self.document(2)["firmware"]["tasks"][2]
        self.assertLess(moved["offset_us"], 480_000)
        self.assertEqual(moved["run_us"], tasks[2]["run_us"])
        self.saved(lambda: self.drag(self.one("#job-rain-rate .job-end"), 30))
        longer = self.document(2)["firmware"]["tasks"][2]
        self.assertGreater(longer["run_us"], tasks[2]["run_us"] + 10_000)
        self.assertEqual(longer["offset_us"], moved["offset_us"])
        self.script("document.getElementById('job-gauge').focus()")
        self.saved(lambda: self.keys(Keys.ARROW_LEFT, Keys.ARROW_LEFT, "+"))
        gauge = self.document(2)["firmware"]["tasks"][1]
        self.assertEqual((gauge["offset_us"], gauge["run_us"]), (248_000, 9_500))
        # Escape takes it back.
        self.script("document.getElementById('job-gauge').focus()")
        self.keys(Keys.ARROW_LEFT, Keys.ESCAPE)
        self.pause(0.6)
        self.assertEqual(self.document(2)["firmware"]["tasks"][1], gauge)

    def test_the_watchdog_is_set_on_its_dial_by_key_and_fed_elsewhere(self) -> None:
        self.open("benches/1/guard")
        self.script("document.getElementById('step-8000000').focus()")
        self.saved(lambda: self.keys(Keys.ENTER))
        self.assertEqual(self.document()["firmware"]["watchdog"]["timeout_us"], 8_000_000)
        self.assertIn("Too long for a hazardous output", self.text("#frag-outs"))
        self.saved(lambda: self.one("#take-step").click())
        self.assertEqual(self.document()["firmware"]["watchdog"]["timeout_us"], 1_000_000)
        self.saved(lambda: self.one("#also-wait").click())
        self.assertEqual(self.document()["firmware"]["watchdog"]["also"], ["wait"])
        self.until(lambda: "Fed inside every wait" in self.text("#frag-outs"))
        self.saved(lambda: self.one("#mode-interrupt-reset").click())
        self.assertEqual(self.document()["firmware"]["watchdog"]["mode"], "interrupt-reset")

    def test_a_task_from_nothing_by_key_and_a_school_beside(self) -> None:
        self.open("benches/1/wire")
        self.keys("4")
        self.until(lambda: self.text(".stop.is-here").startswith("Pace"))
        self.saved(lambda: Select(self.one("#add-task")).select_by_visible_text("prints a line"))
        self.one("#item-report").click()
        self.until(lambda: self.all("#task-period"))
        field = self.one("#task-period")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("100")
        self.saved(lambda: field.send_keys(Keys.ENTER))
        self.saved(lambda: self.one("#keeps-now").click())
        task = self.document()["firmware"]["tasks"][0]
        self.assertEqual((task["period_us"], task["keeps"], task["characters"]), (100_000, "now", 40))
        self.one("#item-_schools").click()
        self.until(lambda: self.all("#beside-delays"))
        self.one("#beside-delays").click()
        self.until(lambda: "counter, against delays" in self.script(SAID))
        self.one("#shown-kernel").click()
        self.until(lambda: "kernel, against delays" in self.script(SAID))
        self.keys("5")
        self.until(lambda: self.text(".stop.is-here").startswith("Guard"))


if __name__ == "__main__":
    unittest.main()
