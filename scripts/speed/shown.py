"""What is painted: the server as a process, the strip in Chromium."""

from __future__ import annotations

import json
import statistics
import tempfile
import time
import urllib.request

from scripts.crowd import p95
from tests.browser.chromium import chromium
from tests.browser.server import Server
from tests.processes import family, own_mb
from viva_tick.core.document import bench_data
from viva_tick.core.engine import SkippingEngine

from .benches import busy_bench
from .table import row

REPAINT = """
const done = arguments[0], taken = [], strip = document.querySelector('.strip');
import('/static/js/session.js').then(async ({ edit }) => {
  for (let n = 0; n < %(times)d; n += 1) {
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
INTERVAL = ("foot-pedal", "{ method: 'rest-first', interval_us: 1000 * (3 + (n * 7) % 40) }", 60)

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


def in_the_browser() -> None:
    """The server as a process, the strip in Chromium."""
    starts = []
    for _ in range(5):
        began = time.perf_counter()
        server = Server()
        urllib.request.urlopen(server.url).read()
        starts.append(time.perf_counter() - began)
        server.kill()
    row("cold start with an empty database, to the first page, median of 5", statistics.median(starts), 1.5, "s")
    server = Server()
    driver = chromium()
    memory: list[float] = []

    def weigh() -> None:
        memory.append(sum(map(own_mb, family(server.process.pid))))

    try:
        driver.set_script_timeout(60)
        driver.get(server.url + "benches/1/clean?picked=foot-pedal")
        time.sleep(1)
        interval = dict(zip(("contact", "value", "times"), INTERVAL, strict=True))
        row("edit → strip repainted, 95 %", p95(driver.execute_async_script(REPAINT % interval)), 90, "ms")
        weigh()
        driver.get(server.url + "benches/1/behave")
        time.sleep(3)
        taken = []
        for contact in ("foot-pedal", "safelight-switch", "time-dial.push"):
            anew = {"contact": contact, "value": METHODS_ANEW, "times": 9}
            taken += driver.execute_async_script(REPAINT % anew)
        row("edit of a debounce method, its sweep new → strip repainted, 95 %", p95(taken), 120, "ms")
        weigh()
        driver.get(server.url + "benches/1/try")
        driver.execute_async_script(UNCLEANED)
        time.sleep(1)
        row("press on the panel → lamp painted, 95 %", p95(driver.execute_async_script(PANEL)), 50, "ms")
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
        row("memory of the server's processes, the most after each of these", max(memory), 200, "MB")
        print(f"     {', '.join(f'{one:.0f}' for one in memory)} MB")
    finally:
        driver.quit()
        server.kill()
