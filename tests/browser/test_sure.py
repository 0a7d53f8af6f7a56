"""How sure a check is: a scenario repeated, and a number of it on the strip."""

from __future__ import annotations

import unittest

from tests.browser.page import BrowserCase


class Sure(BrowserCase):
    def test_a_scenario_is_repeated_and_one_of_its_runs_shown(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        self.one("#doings > summary").click()
        self.script("document.querySelector('[data-repeat=\"1000\"]').click()")
        self.until(lambda: self.all("#repeats-said [data-then-scenario]"))
        self.script("document.getElementById('stop-repeats').click()")
        self.until(lambda: not self.script("return document.querySelector('[data-repeat]').disabled"))
        self.script("document.querySelector('[data-repeat-on]').click()")
        self.until(lambda: "how contacts bounce" in self.text("#repeats-said"))
        self.until(
            lambda: (
                self.script("return document.querySelector('#doings .verdict + .verdict').textContent") != "20 of 20"
            )
        )
        name = self.one("#repeats-said [data-then-scenario]").get_attribute("data-then-scenario")
        self.saved(lambda: self.script("document.querySelector('#repeats-said [data-then-scenario]').click()"))
        self.until(lambda: self.script("return document.getElementById('scenario').value") == name)
        self.assertIn("1 of 2 checks met", self.text("#frag-scenarios"))

    def test_beside_an_edit_what_does_not_always_hold_stands_out_and_its_worst_is_shown_by_one_click(self) -> None:
        self.open("benches/1/behave")
        self.until(lambda: self.all("#frag-outs [data-number]"))
        number = self.one("#frag-outs [data-number]").get_attribute("data-number")
        self.script("document.querySelector('#frag-outs [data-number]').click()")
        self.until(lambda: f"number {number}, against the run as it is" in self.text(".strip-difference"))
        self.script("document.getElementById('no-number').click()")
        self.until(lambda: "number" not in self.text(".strip-difference"))


if __name__ == "__main__":
    unittest.main()
