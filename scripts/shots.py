"""Pictures of the main views, made from the demo benches with the real server in headless Chromium.

`make shots` writes them to docs/screenshots; with names as arguments only those, with `--to DIR` elsewhere.
"""

from __future__ import annotations

import argparse
import time
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.support.ui import WebDriverWait

from tests.browser.chromium import chromium, size
from tests.browser.server import Server

TIMER = "benches/1"
SHOTS: dict[str, tuple[str, str, int, str]] = {
    # name: (address, theme, width, what to do first)
    "home": ("", "light", 1280, ""),
    "wire": (f"{TIMER}/wire?picked=foot-pedal", "light", 1280, ""),
    "board": ("boards/mid-8bit-5v", "light", 1280, ""),
    "clean": (f"{TIMER}/clean?picked=foot-pedal", "light", 1280, "show"),
    "behave": (f"{TIMER}/behave", "light", 1280, ""),
    "behave-map": (
        f"{TIMER}/behave?picked=lamp-mode&look=map&chosen=transition+7&scenario=A+test+strip",
        "light",
        1280,
        "why",
    ),
    "try": (f"{TIMER}/try", "light", 1280, "play"),
    "pace": ("benches/2/pace", "light", 1280, ""),
    "guard": (f"{TIMER}/guard", "light", 1280, ""),
    "guard-hangs": (f"{TIMER}/guard?picked=_hangs", "light", 1280, "hangs"),
    "log": (f"{TIMER}/log", "light", 1280, ""),
    "log-card": (f"{TIMER}/log?picked=card-3", "light", 390, ""),
    "log-overlay": (f"{TIMER}/log", "dark", 1280, "capture"),
    "build": (f"{TIMER}/build?picked=c", "light", 1280, ""),
    "read": ("read", "light", 1280, "read"),
    "drill": ("drills", "light", 1280, "drill"),
    "sums": ("sums/rc", "dark", 1280, ""),
    "help": (f"{TIMER}/clean?picked=foot-pedal", "light", 1280, "help"),
    "phone": ("benches/4/try", "light", 390, "play"),
}
DO = {
    "": "",
    "show": "document.querySelector('[data-show]')?.click()",
    "mend": "document.querySelector('#frag-outs [data-patch]')?.click()",
    "why": "document.querySelector('[aria-label^=\"Y why\"]').click()",
    "recipes": "document.getElementById('find-recipe').focus()",
    "doings": "document.getElementById('doings').open = true",
    "beside": "document.getElementById('beside-delays').click()",
    "hangs": "document.getElementById('try-hangs').click();"
    "setTimeout(() => document.getElementById('fault-stuck-all').click(), 5000)",
    "capture": "document.querySelector('[data-log-capture]').click();"
    "setTimeout(() => document.getElementById('told-said').scrollIntoView(), 1800)",
    "play": "const press = (id, kind) => document.querySelectorAll('[data-does=button], [data-does=switch]')[id]"
    "?.dispatchEvent(new PointerEvent(kind, { bubbles: true, pointerId: 1, button: 0 }));"
    "document.getElementById('live-play').click();"
    "setTimeout(() => press(1, 'pointerdown'), 300); setTimeout(() => press(1, 'pointerup'), 450);"
    "setTimeout(() => press(0, 'pointerdown'), 1200)",
    "tray": "document.getElementById('find-part').focus()",
    "help": "document.getElementById('help').click()",
    "read": "document.getElementById('read-example').click()",
    "drill": "document.querySelector('[name=seed]').value = '11'; document.getElementById('drill-begin').click()",
}


def take(driver: webdriver.Chrome, url: str, theme: str, do: str, path: Path) -> None:
    """One picture."""
    driver.get(url)
    driver.execute_script("localStorage.setItem('theme', arguments[0])", theme)
    driver.get(url)
    painted = "return !document.querySelector('.strip') || !!document.querySelector('.strip').dataset.painted"
    WebDriverWait(driver, 10).until(lambda d: d.execute_script(painted))
    cards = "return !document.querySelector('[data-card][aria-busy]')"
    WebDriverWait(driver, 30).until(lambda d: d.execute_script(cards))
    if DO.get(do, do):
        driver.execute_script(DO.get(do, do))
    time.sleep({"hangs": 7, "play": 2.4, "capture": 2.8, "drill": 2.5, "read": 1.5}.get(do, 0.8))
    driver.save_screenshot(str(path))


def main() -> None:
    """Take the pictures that were asked for."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*", default=list(SHOTS))
    parser.add_argument("--to", type=Path, default=Path("docs/screenshots"))
    parser.add_argument("--width", type=int)
    parser.add_argument("--height", type=int, default=800)
    parser.add_argument("--theme")
    parser.add_argument("--do")
    parser.add_argument("--url")
    asked = parser.parse_args()
    asked.to.mkdir(parents=True, exist_ok=True)
    server = Server()
    driver = chromium()
    try:
        for name in asked.names:
            address, theme, width, do = SHOTS.get(name, ("", "light", 1280, ""))
            address = asked.url if asked.url is not None else address
            size(driver, asked.width or width, asked.height)
            take(driver, server.url + address, asked.theme or theme, asked.do or do, asked.to / f"{name}.png")
            for entry in driver.get_log("browser"):
                print(f"{name}: {entry['level']}: {entry['message']}")
    finally:
        driver.quit()
        server.kill()


if __name__ == "__main__":
    main()
