"""What the server answers, in this process and to many at once."""

from __future__ import annotations

import json
import random
import re
import statistics
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

from scripts.crowd import Person, p95
from tests.big_bench import big_bench
from tests.browser.server import ForkedServer
from viva_tick.core.debounce import METHODS
from viva_tick.demo import demo_bench
from viva_tick.web.app import create_app

try:
    from viva_tick.web.serve import settle as loaded  # of a commit that is measured beside this one
except ImportError:
    from viva_tick.loading import loaded

from .table import Times, median, number, row


def edits() -> None:
    """Edit → findings and run, answered."""
    with tempfile.TemporaryDirectory() as folder:
        client = create_app(Path(folder), ["localhost"], demo=True).test_client()
        token = re.search(r'csrf-token" content="([^"]+)"', client.get("/").text)
        assert token is not None
        client.get("/benches/1/clean?picked=foot-pedal")
        loaded()
        taken = Times()
        revision = client.get("/api/benches/1").get_json()["revision"]
        for n in range(200):
            method = list(METHODS)[n // 10 % 3]
            value = {"method": method, "interval_us": 1000 * (1 + n * 7 % 40)}
            patch = [{"op": "replace", "path": "/firmware/debounce/foot-pedal", "value": value}]
            body = {
                "base": revision,
                "patch": patch,
                "place": {"station": "clean", "picked": "foot-pedal", "closed": True},
            }
            began = time.perf_counter()
            answer = client.post("/api/benches/1/edit", json=body, headers={"X-CSRFToken": token[1]})
            taken.seconds.append(time.perf_counter() - began)
            revision = answer.get_json()["revision"]
            if n % 5 == 4:
                taken.mark()
        row("edit → findings, run and fragments answered, 95 %", taken.of(p95), 40, "ms")
        print(f"     median {number(taken.of(statistics.median).seconds * 1000, 'ms')}")


def big_edits() -> None:
    """The same on a bench of forty parts, twenty machines and ten tasks; and the page of a hundred benches."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder), ["localhost"], demo=True)
        client = app.test_client()
        token = re.search(r'csrf-token" content="([^"]+)"', client.get("/").text)
        assert token is not None
        bench_id = app.extensions["benches"].create(big_bench(), "made").bench_id
        client.get(f"/benches/{bench_id}/behave?picked=m3")
        loaded()
        revision = client.get(f"/api/benches/{bench_id}").get_json()["revision"]
        taken = Times()
        for n in range(80):
            time_of = {"path": "/firmware/machines/3/transitions/5/on/after_us", "value": 200_000 + 1_000 * n}
            wait = {"path": f"/firmware/debounce/button-{n % 20}/interval_us", "value": 1_000 * (5 + n % 15)}
            patch = [{"op": "replace", **(time_of if n % 2 else wait)}]
            body = {"base": revision, "patch": patch, "place": {"station": "behave", "picked": "m3", "closed": True}}
            began = time.perf_counter()
            answer = client.post(f"/api/benches/{bench_id}/edit", json=body, headers={"X-CSRFToken": token[1]})
            took_s = time.perf_counter() - began
            revision = answer.get_json()["revision"]
            if n >= 10:  # the first make what stays
                taken.seconds.append(took_s)
                taken.mark()
        row("40 parts, 20 machines, 10 tasks: edit answered, 95 %", taken.of(p95), 150, "ms")
        print(f"     median {number(taken.of(statistics.median).seconds * 1000, 'ms')}")
        for n in range(100):
            app.extensions["benches"].create(
                demo_bench("print-timer").model_copy(update={"name": f"Bench {n}"}), "made"
            )
        row("home with 100 benches, the first time in a process", median(lambda: client.get("/"), 1), 0.4, "s")
        row("home with 100 benches", median(lambda: client.get("/"), 5), 0.4, "s")


def panels(people: int = 50, for_s: float = 20) -> None:
    """So many panels at once: each asks on every second, its strip with it, and something is done every two."""
    server = ForkedServer()
    taken: list[float] = []
    wrong: list[int] = []

    def live(person: int) -> None:
        rng = random.Random(person)
        one, bench = Person(server.url), 1 + person % 5
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

    times = Times()
    threads = [threading.Thread(target=live, args=(person,)) for person in range(people)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    server.kill()
    times.seconds += taken
    row(f"{people} panels at once, answered, 95 %", times.of(p95), 100, "ms")
    print(f"     {len(taken)} answers, median {statistics.median(taken) * 1000:.1f} ms; wrong {wrong}")
