"""How sure a check is: a scenario repeated, and a number of it on the strip."""

from __future__ import annotations

import unittest

from tests.browser.page import BrowserCase


class Sure(BrowserCase):
    def test_a_scenario_is_repeated_and_one_of_its_runs_shown(self) -> None:
        self.open("benches/1/clean?picked=foot-pedal")
        self.one("#doings > summary").click()
        self.script("document.getElementById('repeat-all').click()")
        self.until(lambda: self.all("#repeats-said [data-then-scenario]"))
        self.script("document.getElementById('stop-repeats').click()")
        self.until(lambda: not self.script("return document.getElementById('repeat-all').disabled"))
        self.script("document.querySelector('[data-repeat-on]').click()")
        self.until(lambda: "how contacts bounce" in self.text("#repeats-said"))
        name = self.one("#repeats-said [data-then-scenario]").get_attribute("data-then-scenario")
        self.saved(lambda: self.script("document.querySelector('#repeats-said [data-then-scenario]').click()"))
        self.until(lambda: self.script("return document.getElementById('scenario').value") == name)
        self.assertIn("1 of 2 checks met", self.text("#frag-scenarios"))


if __name__ == "__main__":
    unittest.main()
