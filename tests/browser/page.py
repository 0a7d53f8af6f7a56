"""What the browser tests do over and over: open a page, wait for a thing, read the strip."""

from __future__ import annotations

import atexit
import shutil
import time
import unittest
from collections.abc import Callable
from functools import cache
from typing import Any, ClassVar

from selenium.common.exceptions import ElementClickInterceptedException, StaleElementReferenceException
from selenium.webdriver import ActionChains, Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from tests.browser.chromium import chromium
from tests.browser.server import ForkedServer, Server


class Seen(WebElement):
    """What was found on the page; looked for again where the page has drawn it anew since, as somebody's eyes would."""

    again: Callable[[], WebElement] | None = None

    def _seen(self, do: Callable[[], Any]) -> Any:
        try:
            return do()
        except StaleElementReferenceException:
            if self.again is None:
                raise
            self._id = self.again().id
            return do()

    def _execute(self, command: str, params: Any = None) -> Any:
        do = super()._execute
        return self._seen(lambda: do(command, params))

    def get_attribute(self, name: str) -> str | None:
        do = super().get_attribute
        return self._seen(lambda: do(name))

    def click(self) -> None:
        try:
            super().click()
        except ElementClickInterceptedException:  # the page was still rolling to what was typed before
            time.sleep(0.3)
            super().click()

    def is_displayed(self) -> bool:
        do = super().is_displayed
        return self._seen(do)


@cache
def the_browser() -> Chrome:
    """The browser of this process."""
    driver = chromium()
    driver._web_element_cls = Seen
    atexit.register(driver.quit)
    return driver


class BrowserCase(unittest.TestCase):
    """One browser for all that a process runs; a server with fresh demo benches, at a port of its own, for each test."""

    driver: ClassVar[Chrome]

    @classmethod
    def setUpClass(cls) -> None:
        cls.driver = the_browser()

    def setUp(self) -> None:
        for more in self.driver.window_handles[1:]:  # what the test before left open
            self.driver.switch_to.window(more)
            self.driver.close()
        self.driver.switch_to.window(self.driver.window_handles[0])
        self.driver.get_log("browser")  # what the end of the last test's server has brought
        self.server: Server | ForkedServer = ForkedServer()
        self.addCleanup(shutil.rmtree, self.server.data, ignore_errors=True)
        self.addCleanup(self.server.kill)

    def tearDown(self) -> None:
        noise = ("favicon", "willReadFrequently", "net::ERR_CONNECTION_REFUSED", "409 (CONFLICT)", "422 (")
        logged = [entry["message"] for entry in self.driver.get_log("browser")]
        bad = [message for message in logged if not any(word in message for word in noise)]
        self.assertEqual(bad, [], "the browser complained")

    def open(self, address: str = "") -> None:
        self.driver.get(self.server.url + address)
        if "benches/" in address:
            self.painted()

    def one(self, css: str) -> WebElement:
        found = self.driver.find_element(By.CSS_SELECTOR, css)
        found.again = lambda: self.driver.find_element(By.CSS_SELECTOR, css)  # type: ignore[attr-defined]
        return found

    def all(self, css: str) -> list[WebElement]:
        found = self.driver.find_elements(By.CSS_SELECTOR, css)
        for place, one in enumerate(found):
            one.again = lambda place=place: self.driver.find_elements(By.CSS_SELECTOR, css)[place]  # type: ignore[attr-defined]
        return found

    def text(self, css: str) -> str:
        return self.one(css).text

    def script(self, code: str, *arguments: Any) -> Any:
        return self.driver.execute_script(code, *arguments)

    def until(self, claim: Callable[[], Any], said: str = "") -> Any:
        def quiet(_: Any) -> Any:
            try:
                return claim()
            except Exception:
                return False

        return WebDriverWait(self.driver, 50, 0.05).until(quiet, said)

    def painted(self) -> str:
        """Wait until the strip has drawn the run that the page speaks of; answers its key."""
        return str(self.until(lambda: self.one(".strip").get_attribute("data-painted")))

    def saved(self, press: Callable[[], Any]) -> None:
        """Do something that makes an edit, and wait until it is stored and its run drawn."""
        before = self.script("return document.querySelector('.strip').dataset.painted")
        press()
        self.until(
            lambda: self.script("return document.querySelector('.strip').dataset.painted") != before, "a new run"
        )
        self.until(lambda: self.text(".save-state").startswith("saved"))

    def settled(self) -> None:
        """Wait until no edit is on its way: what it changes is drawn."""
        self.until(lambda: self.text(".save-state").startswith("saved"), "no edit on its way")

    def act(self, do: Callable[[ActionChains], ActionChains], duration: int = 40) -> None:
        """What a hand does in one go, once no edit is on its way; begun anew if the page is drawn anew under it."""
        self.settled()
        for last in (False, False, True):
            try:
                do(ActionChains(self.driver, duration=duration)).perform()
                return
            except StaleElementReferenceException:
                ActionChains(self.driver).reset_actions()
                if last:
                    raise

    def keys(self, *keys: str) -> None:
        chain = ActionChains(self.driver)
        for key in keys:
            chain.send_keys(key)
        chain.perform()

    def put_down(self, kind: str) -> None:
        """A part from the tray."""
        self.one("#find-part").click()
        self.one(f"#add-{kind}").click()

    def drag(self, element: WebElement, by_x: int, steps: int = 6, drop: bool = True) -> None:
        chain = ActionChains(self.driver, duration=30).move_to_element(element).click_and_hold()
        for _ in range(steps):
            chain.move_by_offset(by_x // steps, 0)
        if drop:
            chain.release()
        chain.perform()

    def ink(self, lane: int) -> int:
        """How many pixels of a lane's row are not paper: whether anything is drawn there."""
        code = """
          const canvas = document.querySelector('.lane-canvas'), pen = canvas.getContext('2d');
          const data = pen.getImageData(0, arguments[0] * 24 + 3, canvas.width, 18).data;
          let count = 0;
          for (let n = 3; n < data.length; n += 4) count += data[n] > 40;
          return count;"""
        return int(self.script(code, lane))

    def pause(self, seconds: float = 0.3) -> None:
        time.sleep(seconds)
