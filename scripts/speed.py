"""The budgets of the design, measured. `make speed` prints the table and writes docs/speed.md."""

from __future__ import annotations

import json
import platform
import random
import re
import statistics
import tempfile
import threading
import time
import urllib.request
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from transitions import Machine as Flat

from scripts.crowd import Person, p95
from tests.big_bench import big_bench
from tests.browser.chromium import chromium
from tests.browser.server import ForkedServer, Server
from tests.processes import family, own_mb
from viva_tick.core.debounce import METHODS
from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.engine import PlainEngine, SkippingEngine
from viva_tick.core.exploring import Abstract, explore
from viva_tick.core.formats import read_capture
from viva_tick.core.guard import hang_tests
from viva_tick.core.hand import PEOPLE, play_rounds
from viva_tick.core.live import by_hand, live
from viva_tick.core.machines import RunningMachine, compile_machine, event_keys
from viva_tick.core.program import program_of, under
from viva_tick.core.repeats import repeated_by_all
from viva_tick.core.spread import Hands
from viva_tick.core.sweep import TapStyle, evaluate, make_trials
from viva_tick.demo import demo_bench
from viva_tick.store import Benches, Recordings, open_database
from viva_tick.web.app import create_app
from viva_tick.web.serve import settle

OUT = Path(__file__).parents[1] / "docs" / "speed.md"
ROWS: list[tuple[str, str, str, str, bool]] = []
SECONDS = {"s": 1.0, "ms": 0.001}


def yardstick_s() -> float:
    """The seconds of a fixed piece of plain Python: what a figure is held against in the same run, since a shared
    machine is not always as fast."""
    taken = []
    for _ in range(3):
        began, total, known = time.perf_counter(), 0, {n: n for n in range(1_000)}
        for n in range(300_000):
            total = (total + known[n % 1_000] * 3) & 0xFFFF
        taken.append(time.perf_counter() - began)
    return min(taken)


def row(what: str, got: float, budget: float, unit: str, least: bool = False) -> None:
    """Note a figure against its budget (the most, or with `least` the least), and as so many yardsticks of now."""
    kept = got >= budget if least else got <= budget
    ratio = f"{got * SECONDS[unit] / yardstick_s():.3g}" if unit in SECONDS else ""
    said = f"{got:,.3g} {unit}" if got < 100 else f"{got:,.0f} {unit}"
    ROWS.append((what, said, ratio, f"{budget:g} {unit}", kept))
    print(
        f"{'ok  ' if kept else 'OVER'} {what}: {said} (budget {budget:g} {unit}; {ratio or '–'} yardsticks)", flush=True
    )


def median(job: Callable[[], Any], times: int = 7) -> float:
    """Median seconds of a job."""
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        job()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def pressed(length_s: int, every_us: int) -> Bench:
    """The flagship with a press every so often."""
    data = bench_data(demo_bench("print-timer"))
    stimuli = [
        {"kind": "press", "input": "foot-pedal", "at_us": at, "hold_us": 150_000}
        for at in range(500_000, length_s * 1_000_000 - 1_000_000, every_us)
    ]
    data["scenarios"] = [{"name": "long", "length_us": length_s * 1_000_000, "stimuli": stimuli}]
    return bench_from_data(data)


def engines() -> None:
    """Simulation of a minute and of a day."""
    minute, day = pressed(60, 1_500_000), pressed(86_400, 60_000_000)
    skipping = SkippingEngine()
    fast = median(lambda: skipping.run(minute, minute.scenarios[0]))
    row("60 s of the flagship, a press every 1.5 s", fast * 1000, 15, "ms")
    row("a day of the flagship, a press a minute", median(lambda: skipping.run(day, day.scenarios[0]), 3), 0.7, "s")
    plain = median(lambda: PlainEngine().run(minute, minute.scenarios[0]), 1)
    print(f"     the skipping engine is {plain / fast:,.0f} times as fast as the plain one on that minute")


def hangs() -> None:
    """Hang tests: every fault of the flagship at fifty instants of a minute."""
    minute = pressed(60, 1_500_000)
    done = len(runs := hang_tests(minute, minute.scenarios[0], 50))
    taken = median(lambda: hang_tests(minute, minute.scenarios[0], 50), 1) * 500 / done
    verdicts = sorted({run.verdict for run in runs})
    row("500 hang runs of 60 s of the flagship, a press every 1.5 s", taken, 20, "s")
    print(f"     {done} runs, {', '.join(verdicts)}")


def kernels() -> None:
    """A minute of the rain barrel under the kernel, every pass of it run."""
    bench = under(demo_bench("rain-barrel"), "kernel")
    minute = bench.scenarios[0].model_copy(update={"length_us": 60_000_000})
    row("60 s of the rain barrel under the kernel", median(lambda: SkippingEngine().run(bench, minute), 3), 2, "s")


def sweeps() -> None:
    """10,000 presses × 60 intervals × every method."""
    trials = make_trials("foot-pedal", 42, TapStyle(), 5000)
    intervals = [number * 1000 for number in range(60)]
    taken = median(lambda: [evaluate(method, trials, intervals) for method in METHODS.values()], 3)
    row(f"sweep of 10,000 presses × 60 intervals × {len(METHODS)} methods", taken, 0.7, "s")


def repeats() -> None:
    """A thousand repeats of one scenario on two processes, their start included."""
    bench = demo_bench("print-timer")
    scenario = bench.scenario("One print")
    row(
        "1,000 repeats of “One print”, two processes",
        median(lambda: repeated_by_all(bench, scenario, 1_000, Hands(2)), 3),
        4,
        "s",
    )


def imports() -> None:
    """A million samples of a contact, in volts."""
    rows = "\n".join(f"{number * 5},{3.3 if number % 60_000 < 50_000 else 0.1}" for number in range(1_000_000))
    text = "time (us),v\n" + rows
    row("a capture of 1,000,000 samples read", median(lambda: read_capture(text), 3), 3, "s")
    long_capture()


def long_capture(changes: int = 1_000_000, piece: int = 1_000_000) -> None:
    """A value change dump of four channels, as it comes from a page, kept, and looked at whole."""
    rng = random.Random(1)
    now, parts = 0, ["$timescale 1 ns $end\n", *(f"$var wire 1 {one} d{one} $end\n" for one in "abcd")]
    parts.append("$enddefinitions $end\n#0\n0a\n0b\n0c\n0d\n")
    levels = dict.fromkeys("abcd", 0)
    for _ in range(changes):
        now += rng.randrange(200, 20_000)
        one = rng.choice("aaaaaaabcd")
        levels[one] ^= 1
        parts.append(f"#{now}\n{levels[one]}{one}\n")
    raw = "".join(parts).encode()
    with tempfile.TemporaryDirectory() as folder:
        engine = open_database(Path(folder) / "a.sqlite")
        kept, bench = Recordings(engine), Benches(engine).create(demo_bench("print-timer"), "made")
        number = kept.begin(bench.bench_id, "long")
        worst, began = 0.0, time.perf_counter()
        for at in range(0, len(raw), piece):
            sent = time.perf_counter()
            kept.more(number, at, raw[at : at + piece], at + piece >= len(raw))
            worst = max(worst, time.perf_counter() - sent)
        row(f"a long capture, {changes:,} changes read and kept", time.perf_counter() - began, 2.5, "s")
        row("its slowest piece of 1 MB", worst * 1000, 250, "ms")
        found = kept.get(number)
        whole = partial(kept.window, number, list(found.channels), 0, found.length_ns // 1000, 2000)
        row("all of it drawn, 2,000 columns", median(whole, 5) * 1000, 100, "ms")
        engine.dispose()


def edits() -> None:
    """Edit → findings and run, answered."""
    with tempfile.TemporaryDirectory() as folder:
        client = create_app(Path(folder), ["localhost"], demo=True).test_client()
        token = re.search(r'csrf-token" content="([^"]+)"', client.get("/").text)
        assert token is not None
        client.get("/benches/1/clean?picked=foot-pedal")
        settle()
        taken = []
        revision = client.get("/api/benches/1").get_json()["revision"]
        for number in range(200):
            method = list(METHODS)[number // 10 % 3]
            value = {"method": method, "interval_us": 1000 * (1 + number * 7 % 40)}
            patch = [{"op": "replace", "path": "/firmware/debounce/foot-pedal", "value": value}]
            body = {"base": revision, "patch": patch, "place": {"station": "clean", "picked": "foot-pedal"}}
            began = time.perf_counter()
            answer = client.post("/api/benches/1/edit", json=body, headers={"X-CSRFToken": token[1]})
            taken.append(time.perf_counter() - began)
            revision = answer.get_json()["revision"]
        row("edit → findings, run and fragments answered, 95 %", p95(taken) * 1000, 40, "ms")
        print(f"     median {statistics.median(taken) * 1000:.1f} ms, worst {max(taken) * 1000:.0f} ms")


def big_edits() -> None:
    """The same on a bench of forty parts, twenty machines and ten tasks; and the page of a hundred benches."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder), ["localhost"], demo=True)
        client = app.test_client()
        token = re.search(r'csrf-token" content="([^"]+)"', client.get("/").text)
        assert token is not None
        number = app.extensions["benches"].create(big_bench(), "made").bench_id
        client.get(f"/benches/{number}/behave?picked=m3")
        settle()
        taken = []
        revision = client.get(f"/api/benches/{number}").get_json()["revision"]
        for n in range(80):
            time_of = {"path": "/firmware/machines/3/transitions/5/on/after_us", "value": 200_000 + 1_000 * n}
            wait = {"path": f"/firmware/debounce/button-{n % 20}/interval_us", "value": 1_000 * (5 + n % 15)}
            patch = [{"op": "replace", **(time_of if n % 2 else wait)}]
            body = {"base": revision, "patch": patch, "place": {"station": "behave", "picked": "m3"}}
            began = time.perf_counter()
            answer = client.post(f"/api/benches/{number}/edit", json=body, headers={"X-CSRFToken": token[1]})
            taken.append(time.perf_counter() - began)
            revision = answer.get_json()["revision"]
        row("40 parts, 20 machines, 10 tasks: edit answered, 95 %", p95(taken[10:]) * 1000, 150, "ms")
        print(f"     median {statistics.median(taken) * 1000:.1f} ms, worst {max(taken) * 1000:.0f} ms")
        for n in range(100):
            app.extensions["benches"].create(
                demo_bench("print-timer").model_copy(update={"name": f"Bench {n}"}), "made"
            )
        row("home with 100 benches", median(lambda: client.get("/"), 5), 0.4, "s")


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


def busy_bench() -> Bench:
    """200,000 changes: two outputs that turn over every millisecond for 100 s."""
    data = bench_data(demo_bench("print-timer"))
    beat = {"kind": "blink", "on_us": 1000, "off_us": 1000}
    drives = {"focus-lamp": beat, "safelight": beat}
    data["firmware"]["machines"] = [
        {"id": "beat", "name": "Beat", "initial": "on", "states": [{"id": "on", "name": "On", "drives": drives}]}
    ]
    data["scenarios"] = [{"name": "busy", "length_us": 100_200_000, "stimuli": []}]
    return bench_from_data(data)


def panels(people: int = 50, for_s: float = 20) -> None:
    """So many panels at once: each asks on every second, its strip with it, and something is done every two."""
    server = ForkedServer()
    taken: list[float] = []
    wrong: list[int] = []

    def live(number: int) -> None:
        rng = random.Random(number)
        one, bench = Person(server.url), 1 + number % 5
        document = json.loads(one.ask("GET", f"/api/benches/{bench}")[1])
        contact = {1: "foot-pedal", 2: "low-float", 3: "saddle-button", 4: "ann-button", 5: "door"}[bench]
        view = json.loads(one.ask("GET", f"/api/benches/{bench}/view?station=try")[1])
        lanes = [lane["id"] for lane in view["strip"]["lanes"] if not lane["extra"]]
        body: dict[str, Any] = {"revision": document["revision"], "stimuli": [], "ahead_us": 2_000_000, "seed": 0}
        time.sleep(rng.random())
        began = time.monotonic()
        while (now_s := time.monotonic() - began) < for_s:
            now_us, down = int(now_s * 1e6), len(body["stimuli"]) % 2 == 0
            strip = {"lanes": lanes, "from_us": max(0, now_us - 7_000_000), "columns": 1100}
            body |= {"now_us": now_us, "since_us": now_us - 1, "strip": strip}
            if rng.random() < 0.5:
                body["stimuli"].append({"kind": "set", "input": contact, "at_us": now_us, "pressed": down})
            status, _, took_s = one.ask("POST", f"/api/benches/{bench}/live", body)
            taken.append(took_s)
            wrong.extend([status] * (status != 200))
            time.sleep(max(0.0, began + now_s + 1 - time.monotonic()))

    threads = [threading.Thread(target=live, args=(number,)) for number in range(people)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    server.kill()
    row(f"{people} panels at once, answered, 95 %", p95(taken) * 1000, 100, "ms")
    print(f"     {len(taken)} answers, median {statistics.median(taken) * 1000:.1f} ms; wrong {wrong}")


def by_hands() -> None:
    """What is worked out for who plays by hand, and for a hand that is modelled."""
    bench, done = demo_bench("print-timer"), []
    for at_us in range(500_000, 590_000_000, 1_000_000):
        done += [
            {"kind": "set", "input": "foot-pedal", "at_us": at_us + 110_000 * up, "pressed": not up} for up in (0, 1)
        ]
    scenario = by_hand(bench, done, [], 592_000_000, 0)
    again = median(lambda: live(bench, scenario, 589_999_999, (), "speed", 590_000_000))
    row("what a press does after ten minutes of play, worked out", again * 1000, 50, "ms")
    hand = median(lambda: play_rounds(bench, PEOPLE["hurried"], range(40)), 3)
    row("a thousand actions of a modelled hand, flagship", hand, 2, "s")


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
    try:
        driver.set_script_timeout(60)
        driver.get(server.url + "benches/1/clean?picked=foot-pedal")
        time.sleep(1)
        interval = dict(zip(("contact", "value", "times"), INTERVAL, strict=True))
        row("edit → strip repainted, 95 %", p95(driver.execute_async_script(REPAINT % interval)), 90, "ms")
        driver.get(server.url + "benches/1/behave")
        time.sleep(3)
        taken = []
        for contact in ("foot-pedal", "safelight-switch", "time-dial.push"):
            anew = {"contact": contact, "value": METHODS_ANEW, "times": 9}
            taken += driver.execute_async_script(REPAINT % anew)
        row("edit of a debounce method, its sweep new → strip repainted, 95 %", p95(taken), 120, "ms")
        driver.get(server.url + "benches/1/try")
        driver.execute_async_script(UNCLEANED)
        time.sleep(1)
        row("press on the panel → lamp painted, 95 %", p95(driver.execute_async_script(PANEL)), 50, "ms")
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
        row("memory of the server's processes after all that", sum(map(own_mb, family(server.process.pid))), 200, "MB")
    finally:
        driver.quit()
        server.kill()


def five_machines(guarded: bool) -> Bench:
    """Five machines of eight states each, each stepped by a button of its own and led back by a time."""
    places = range(8)
    machines = []
    for n in range(5):
        out = {0: ("o0", 7), 1: ("o1", 6)}.get(n)
        states = [
            {"id": f"s{k}", "name": f"S{k}", "drives": {out[0]: {"kind": "steady", "on": k == out[1]}} if out else {}}
            for k in places
        ]
        transitions: list[dict[str, Any]] = [
            {"source": f"s{k}", "on": {"kind": "press", "input": f"b{n}"}, "target": f"s{(k + 1) % 8}"} for k in places
        ]
        if guarded:
            transitions[0]["guards"] = [{"kind": "in", "machine": f"m{(n + 1) % 5}", "state": "s0"}]
        transitions += [
            {"source": f"s{k}", "on": {"kind": "timeout", "after_us": 1_000_000}, "target": "s0"} for k in places
        ]
        machines.append({"id": f"m{n}", "name": f"M{n}", "initial": "s0", "states": states, "transitions": transitions})
    return bench_from_data(
        {
            "version": 2,
            "name": "five",
            "inputs": [{"kind": "button", "id": f"b{n}", "name": f"B{n}", "pin": f"D{n + 2}"} for n in range(5)],
            "outputs": [{"kind": "lamp", "id": f"o{n}", "name": f"O{n}", "pin": f"D{n + 8}"} for n in range(2)],
            "firmware": {"machines": machines},
        }
    )


def machines() -> None:
    """Events through a machine, beside another library's; the product of five machines explored."""
    bench = five_machines(False)
    machine, keys = bench.firmware.machines[0], event_keys(bench)
    mine = RunningMachine(compile_machine(machine, keys), Abstract(bench, []))
    mine.begin(0)
    press, many = keys["press", "b0", ""], 300_000

    def ours() -> None:
        for _ in range(many):
            mine.fire(press, 0)

    class Model:
        """What the other library puts its state on."""

    model: Any = Model()
    flat = Flat(model, [state.id for state in machine.states], initial="s0", auto_transitions=False)
    for transition in machine.transitions[:8]:
        flat.add_transition("press", transition.source, transition.target)

    def theirs() -> None:
        for _ in range(many // 30):
            model.press()

    rate, other = many / median(ours, 3), many / 30 / median(theirs, 3)
    row("machine events a second, each leading to another state", rate, 300_000, "/s", least=True)
    print(f"     the same through transitions: {other:,.0f} /s, so {rate / other:.0f} times as many")
    ROWS.append(("the same through `transitions`, in the same run", f"{other:,.0f} /s", "", "none", True))
    for guarded, words in ((False, "that look at nothing else"), (True, "that look at each other")):
        product = five_machines(guarded)
        job = partial(explore, program_of(product), product.firmware.machines, [("o0", "o1")])
        many = job().standings
        row(f"product of five machines of eight states {words}: {many:,} combinations", median(job, 3), 2, "s")


def stolen() -> tuple[int, int]:
    """(processor time that others on the same machine have taken from this one, all that was worked or taken), in
    ticks since it started; zeros where the system does not say."""
    stat = Path("/proc/stat")
    fields = (
        [int(field) for field in stat.read_text(encoding="ascii").split("\n")[0].split()[1:9]] if stat.exists() else []
    )
    return (fields[7], sum(fields) - fields[3] - fields[4]) if len(fields) == 8 else (0, 0)


def write(share: float) -> None:
    """The table, for the documentation; `share` of the processors' time was taken by others."""
    lines = [
        "# Speed", "", f"As measured by `make speed` on {time.strftime('%Y-%m-%d')}: {platform.machine()}, Python "
        f"{platform.python_version()}, two cores of a shared machine, headless Chromium without a graphics processor. Others took "
        f"{share:.0%} of the processors' time while it was measured.", "",
        "A yardstick is a fixed piece of plain Python (300,000 steps with a dictionary), timed right after each figure.", "",
        "| What | Measured | Yardsticks | Budget | Kept |", "|---|---|---|---|---|",
        *(
            f"| {what} | {got} | {ratio} | {budget} | {'yes' if kept else '**no**'} |"
            for what, got, ratio, budget, kept in ROWS
        ), "",
    ]  # fmt: skip
    OUT.write_text("\n".join(lines), encoding="utf-8")


if __name__ == "__main__":
    before = stolen()
    for part in (
        engines,
        hangs,
        kernels,
        machines,
        sweeps,
        repeats,
        imports,
        edits,
        big_edits,
        by_hands,
        panels,
        in_the_browser,
    ):
        part()
    taken, all_of_it = (now - then for now, then in zip(stolen(), before, strict=True))
    write(taken / max(all_of_it, 1))
    print(f"wrote {OUT.name}")
