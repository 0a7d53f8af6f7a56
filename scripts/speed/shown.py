"""What is painted: the server as a process, the strip in Chromium."""

from __future__ import annotations

import json
import statistics
import tempfile
import time
import urllib.request

from selenium.webdriver.remote.webdriver import WebDriver

from scripts.crowd import p95
from tests.browser.chromium import chromium
from tests.browser.server import Server
from tests.processes import family, own_mb
from viva_tick.core.document import bench_data
from viva_tick.core.engine import SkippingEngine

from .benches import busy_bench
from .table import Times, Took, row

REPAINT = """
const done = arguments[0], taken = [], strip = document.querySelector('.strip');
import('/static/js/session.js').then(async ({ edit }) => {
  for (let n = %(from)d; n < %(to)d; n += 1) {
    const patch = [{ op: 'replace', path: '/firmware/debounce/%(contact)s', value: %(value)s }];
    const before = strip.dataset.painted, began = performance.now();
    await edit(patch);
    while (strip.dataset.painted === before) await new Promise(requestAnimationFrame);
    taken.push(performance.now() - began);
  }
  done(taken);
});
"""

# What an edit puts where: another interval; or another method, of a contact whose sweep by it nobody has asked for yet.
INTERVAL = "{ method: 'rest-first', interval_us: 1000 * (3 + (n * 7) % 40) }"

METHODS_ANEW = """{ method: ['none', 'act-ignore', 'count-samples', 'history', 'look-again', 'look-press', 'look-release',
  'fixed-delay', 'interrupt'][n], interval_us: 20000 }"""

UNCLEANED = """
const done = arguments[0];
import('/static/js/session.js').then(({ edit }) => edit([{ op: 'replace', path: '/firmware/debounce/safelight-switch',
  value: { method: 'none', interval_us: 0 } }])).then(done);
"""

PANEL = """
const done = arguments[0], taken = [], lamp = document.querySelector('[data-shows=safelight]');
const press = document.getElementById('do-safelight-switch'), frame = () => new Promise(requestAnimationFrame);
(async () => {
  document.getElementById('live-play').click();
  await new Promise((go) => setTimeout(go, 800));
  for (let n = 0; n < 140; n += 1) {
    const before = lamp.classList.contains('is-on'), began = performance.now();
    press.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, pointerId: 1, button: 0 }));
    while (lamp.classList.contains('is-on') === before && performance.now() - began < 2000) await frame();
    if (!before) taken.push(performance.now() - began);
    await new Promise((go) => setTimeout(go, 250 + 7 * (n % 11)));
  }
  done(taken);
})();
"""

FRAMES = """
const done = arguments[0], canvas = document.querySelector('.lane-canvas'), box = canvas.getBoundingClientRect();
const seconds = 4, began = performance.now();
let last = began, frames = 0, longest = 0;
function step(now) {
  frames += 1;
  longest = Math.max(longest, now - last);
  last = now;
  const t = (now - began) / 1000;
  const pan = Math.floor(t * 2) % 2 === 1;
  canvas.dispatchEvent(new WheelEvent('wheel', { deltaY: pan ? 60 : t < seconds / 2 ? -22 : 22, shiftKey: pan,
    clientX: box.left + box.width * (0.3 + 0.4 * (t / seconds)), clientY: box.top + 40, bubbles: true, cancelable: true }));
  if (t < seconds) requestAnimationFrame(step);
  else done([frames / t, longest]);
}
requestAnimationFrame(step);
"""


def repainted(driver: WebDriver, edits: list[tuple[str, str, int]]) -> Took:
    """95 % of how long edits take until they are painted: (contact, what it gets, how often), five between two
    yardsticks."""
    taken = Times()
    for contact, value, times in edits:
        for begin in range(0, times, 5):
            some = {"contact": contact, "value": value, "from": begin, "to": min(begin + 5, times)}
            taken.seconds += [one / 1000 for one in driver.execute_async_script(REPAINT % some)]
            taken.mark()
    return taken.of(p95)


def in_the_browser() -> None:
    """The server as a process, the strip in Chromium."""
    starts = Times()
    for _ in range(5):
        began = time.perf_counter()
        server = Server()
        urllib.request.urlopen(server.url).read()
        starts.seconds.append(time.perf_counter() - began)
        server.kill()
        starts.mark()
    row("cold start with an empty database, to the first page, median of 5", starts.of(statistics.median), 1.5, "s")
    server = Server()
    driver = chromium()
    memory: list[list[float]] = []  # of each process, time after time

    def weigh() -> None:
        memory.append([own_mb(number) for number in family(server.process.pid)])

    try:
        driver.set_script_timeout(60)
        driver.get(server.url + "benches/1/clean?picked=foot-pedal")
        time.sleep(1)
        row("edit → strip repainted, 95 %", repainted(driver, [("foot-pedal", INTERVAL, 60)]), 90, "ms")
        weigh()
        driver.get(server.url + "benches/1/behave")
        time.sleep(3)
        anew = [(contact, METHODS_ANEW, 9) for contact in ("foot-pedal", "safelight-switch", "time-dial.push")]
        row("edit of a debounce method, its sweep new → strip repainted, 95 %", repainted(driver, anew), 120, "ms")
        weigh()
        driver.get(server.url + "benches/1/try")
        driver.execute_async_script(UNCLEANED)
        time.sleep(1)
        pressed = Times()
        pressed.seconds += [one / 1000 for one in driver.execute_async_script(PANEL)]
        row("press on the panel → lamp painted, 95 %", pressed.of(p95), 50, "ms")
        weigh()
        with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
            json.dump(bench_data(busy_bench()), file)
            file.flush()
            driver.get(server.url)
            driver.find_element("id", "bench-file").send_keys(file.name)
            time.sleep(6)
        changes = SkippingEngine().run(busy_bench(), busy_bench().scenarios[0]).trace.changes
        frames, longest = driver.execute_async_script(FRAMES)
        row(f"frames a second, zooming and panning over {changes:,} changes", frames, 50, "fps", least=True)
        print(f"     longest frame {longest:.0f} ms")
        weigh()
        row("memory of the server's processes, the most after each of these", max(map(sum, memory)), 200, "MB")
        print(f"     {', '.join(' + '.join(f'{one:.0f}' for one in each) for each in memory)} MB")
    finally:
        driver.quit()
        server.kill()
