"""A headless Chromium, driven through Selenium."""

from __future__ import annotations

import atexit
import shutil
import tempfile

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

QUIET = (
    "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync",
    "--disable-background-networking", "--disable-component-update", "--hide-scrollbars", "--force-color-profile=srgb",
)  # fmt: skip


def chromium(width: int = 1280, height: int = 800) -> webdriver.Chrome:
    """A browser with an inner size of `width` by `height`."""
    options, profile = Options(), tempfile.mkdtemp(prefix="viva-tick-chromium-")
    atexit.register(shutil.rmtree, profile, ignore_errors=True)
    options.binary_location = "/usr/bin/chromium"
    for argument in (*QUIET, f"--user-data-dir={profile}"):
        options.add_argument(argument)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    size(driver, width, height)
    return driver


def size(driver: webdriver.Chrome, width: int, height: int) -> None:
    """Set the inner size."""
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
    )
