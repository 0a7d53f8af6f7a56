"""Many people at once, and kills at random, against the real server. `make crowd` and `make kills`.

`crowd`: so many people for so long; each has a bench of their own, changes a time in it every two seconds, drags it now and
then (five previews) and opens a page now and then. `kills`: three people edit one bench as fast as they can; the server is killed
at random, started again, and every edit that was acknowledged is looked for.
"""

from __future__ import annotations

import argparse
import http.client
import json
import random
import re
import sqlite3
import sys
import threading
import time
from collections import Counter
from typing import Any
from urllib.parse import urlsplit

from tests.browser.server import ForkedServer

STATIONS = ("wire", "clean", "behave", "pace", "guard", "build")


def p95(values: list[float]) -> float:
    """95th percentile by nearest rank."""
    ordered = sorted(values)
    return ordered[max(0, -(-len(ordered) * 95 // 100) - 1)]


class Person:
    """A browser: a connection that is kept, a cookie, a token."""

    def __init__(self, url: str) -> None:
        where = urlsplit(url)
        self.where = (where.hostname or "", where.port)
        self.line = http.client.HTTPConnection(*self.where, timeout=60)
        page = self.ask("GET", "/")[1].decode()
        found = re.search(r'csrf-token" content="([^"]+)"', page)
        assert found is not None
        self.token = found[1]

    cookie = ""

    def ask(self, how: str, path: str, body: Any = None) -> tuple[int, bytes, float]:
        """(status, answer, seconds)."""
        headers = {"Cookie": self.cookie}
        if body is not None:
            headers |= {"Content-Type": "application/json", "X-CSRFToken": self.token}
        began = time.perf_counter()
        self.line.request(how, path, None if body is None else json.dumps(body), headers)
        answer = self.line.getresponse()
        raw = answer.read()
        took_s = time.perf_counter() - began
        if said := answer.headers.get("Set-Cookie"):
            self.cookie = said.split(";")[0]
        return answer.status, raw, took_s


def taken_by_others(since: tuple[int, int] = (0, 0)) -> tuple[int, int]:
    """(ticks that the host gave to other guests, all ticks) of the processors, where the machine says it."""
    try:
        with open("/proc/stat") as file:
            ticks = [int(word) for word in file.readline().split()[1:9]]
    except (OSError, ValueError):
        return 0, 0
    return ticks[7] - since[0], sum(ticks) - since[1]


def crowd(people: int, for_s: float) -> int:
    """See above."""
    before = taken_by_others()
    server = ForkedServer()
    edits: list[float] = []
    others: list[float] = []
    wrong: Counter[str] = Counter()
    lost: list[int] = []
    until = time.monotonic() + for_s

    def live(number: int) -> None:
        rng = random.Random(number)
        time.sleep(number * 0.1)  # not all open their first page in one moment
        one = Person(server.url)
        # A copy of a demo, by the way everybody has: the bench as a file is not needed for that.
        one.line.request(
            "POST", f"/benches/{1 + number % 5}/copy", f"csrf_token={one.token}",
            {"Cookie": one.cookie, "Content-Type": "application/x-www-form-urlencoded"},
        )  # fmt: skip
        answer = one.line.getresponse()
        answer.read()
        found = re.search(r"/benches/(\d+)/", answer.headers["Location"])
        assert found is not None
        bench = int(found[1])
        head = json.loads(one.ask("GET", f"/api/benches/{bench}")[1])
        revision, cleaned = head["revision"], [*head["document"]["firmware"]["debounce"]]
        time.sleep(rng.random() * 2)
        made = 0
        while time.monotonic() < until:
            began = time.monotonic()
            station = rng.choice(STATIONS)
            body = {"base": revision, "place": {"station": station}}
            # A word to look for at the end; and a time, so that the bench has to be run.
            time_at = f"/firmware/debounce/{rng.choice(cleaned)}/interval_us"
            body["patch"] = [{"op": "replace", "path": "/note", "value": f"edit {made} of {number}"},
                             {"op": "replace", "path": time_at, "value": 1000 * rng.randint(5, 60)}]  # fmt: skip
            status, raw, took_s = one.ask("POST", f"/api/benches/{bench}/edit", body)
            edits.append(took_s)
            if status == 200:
                revision, made = json.loads(raw)["revision"], made + 1
            else:
                wrong[f"edit {status}"] += 1
            if rng.random() < 0.1:
                for place in range(5):
                    body["patch"][1]["value"] = 1000 * (20 + place)
                    status, _, took_s = one.ask(
                        "POST", f"/api/benches/{bench}/edit?preview", {**body, "base": revision, "preview": True}
                    )
                    others.append(took_s)
                    wrong[f"preview {status}"] += status != 200
            if rng.random() < 0.1:
                status, _, took_s = one.ask("GET", f"/benches/{bench}/{station}")
                others.append(took_s)
                wrong[f"page {status}"] += status != 200
            time.sleep(max(0.0, began + 2 - time.monotonic()))
        kept = json.loads(one.ask("GET", f"/api/benches/{bench}")[1])["document"]["note"]
        if made and kept != f"edit {made - 1} of {number}":
            lost.append(number)

    threads = [threading.Thread(target=live, args=(number,)) for number in range(people)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    server.kill()
    stolen, ticks = taken_by_others(before)
    wrong = +wrong
    print(f"{people} people, {for_s:g} s: {len(edits)} edits ({len(edits) / for_s:.1f} a second), p95 "
          f"{p95(edits) * 1000:.0f} ms, middle {sorted(edits)[len(edits) // 2] * 1000:.0f} ms; {len(others)} previews and "
          f"pages, p95 {p95(others) * 1000:.0f} ms; wrong {dict(wrong)}, lost {len(lost)}; "
          f"{100 * stolen / max(ticks, 1):.0f} % of the processors went to other guests of the host")  # fmt: skip
    return 1 if wrong or lost else 0


def kills(times: int, seed: int) -> int:
    """See above."""
    rng = random.Random(seed)
    kept_in_all = lost = 0
    server = ForkedServer()
    data = server.data
    for number in range(times):
        acknowledged: list[str] = []

        def edit(who: int, url: str, said: list[str], turn: int) -> None:
            try:
                one = Person(url)
                revision = json.loads(one.ask("GET", "/api/benches/1")[1])["revision"]
                for count in range(10_000):
                    name = f"<{turn}.{who}.{count}>"
                    patch = [{"op": "replace", "path": "/name", "value": name}]
                    body = {"base": revision, "patch": patch, "place": {"station": "build"}}
                    status, raw, _ = one.ask("POST", "/api/benches/1/edit", body)
                    answer = json.loads(raw)
                    if status == 200:
                        said.append(name)
                        revision = answer["revision"]
                    else:
                        revision = answer["conflict"]["revision"]
            except (OSError, http.client.HTTPException, ValueError, KeyError, AssertionError):
                return

        threads = [threading.Thread(target=edit, args=(who, server.url, acknowledged, number)) for who in range(3)]
        for thread in threads:
            thread.start()
        until = time.monotonic() + 20
        while not acknowledged and time.monotonic() < until:
            time.sleep(0.005)
        time.sleep(rng.random() * 0.4)
        server.kill()
        for thread in threads:
            thread.join()
        with sqlite3.connect(data / "viva-tick.sqlite") as connection:
            assert connection.execute("PRAGMA quick_check").fetchone() == ("ok",)
            there = {words for (words,) in connection.execute("SELECT words FROM revision WHERE bench_id = 1")}
            names = " ".join(there)
            lost += sum(name not in names for name in acknowledged)
        kept_in_all += len(acknowledged)
        server = ForkedServer(data)
        if number % 50 == 49:
            print(f"{number + 1} kills, {kept_in_all} edits acknowledged, {lost} lost", flush=True)
    server.kill()
    print(f"{times} kills under three editors: {kept_in_all} edits acknowledged, {lost} lost")
    return 1 if lost or not kept_in_all else 0


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("what", choices=["crowd", "kills"])
    parser.add_argument("--people", type=int, default=50)
    parser.add_argument("--seconds", type=float, default=600)
    parser.add_argument("--times", type=int, default=1_000)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    sys.exit(crowd(given.people, given.seconds) if given.what == "crowd" else kills(given.times, given.seed))
