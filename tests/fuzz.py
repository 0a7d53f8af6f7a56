"""Malformed and extreme input of every kind that the server takes, made at random from a seed: none may end in a fault of
ours, in more than two seconds of a processor, or in more and more memory. `make fuzz` tries 100,000."""

from __future__ import annotations

import argparse
import copy
import io
import json
import logging
import random
import re
import resource
import string
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from tests.demos import put_demos
from viva_tick.core.arithmetic import SUMS
from viva_tick.core.boards import boards
from viva_tick.core.document import bench_data, board_text
from viva_tick.core.engine import SkippingEngine
from viva_tick.core.formats import write_edges, write_scxml, write_vcd
from viva_tick.demo import ORDER, demo_bench
from viva_tick.web.app import create_app
from viva_tick.web.stations import STATIONS

ANEW = 400  # inputs, then a fresh folder
SLOW_S = 2.0
NUMBERS = [0, 1, -1, 2, 999, 1000, 1001, 10**6, 10**9, 86_400_000_000, 7 * 86_400_000_000, 2**31, 2**32 - 1, 2**63, 2**64,
           10**310, -(10**30), 0.5, 1e-300, 1e300, -1e300, 5e-324]  # fmt: skip
TEXTS = ["", " ", "a", "x" * 61, "x" * 5_000, "=1+1", "../..", "\x00", "\n", "‮", "💡", "'\"<b>", "{{ 1 }}", "??/", "\\"]
FIELDS = ["text", "name", "of", "kind", "what", "value", "line", "who", "channels", "recording", "capture", "kept", "part",
          "place", "upto", "upsets", "to_us", "from_us", "sure", "strip", "stimuli", "state", "so", "session", "scenario",
          "round", "recipe", "preview", "made", "keep", "given", "faults", "expect", "by", "board", "at", "as", "arrived",
          "revision", "patch", "base"]  # fmt: skip
OTHERS: list[Any] = [None, True, False, [], {}, [[]], [[[[]]]], {"a": {}}]


@dataclass
class Found:
    """What came of some inputs: answers by kind and status, those that are faults, those that took long (kind, s,
    input), how much memory was taken at most (MB)."""

    answers: Counter[tuple[str, int]] = field(default_factory=Counter)
    faults: list[tuple[str, str]] = field(default_factory=list)
    slow: list[tuple[str, float, str]] = field(default_factory=list)
    memory_mb: int = 0


def anything(rng: random.Random) -> Any:
    """A value that does not belong there, or may."""
    kind = rng.random()
    if kind < 0.45:
        return rng.choice(NUMBERS)
    if kind < 0.7:
        return rng.choice(TEXTS)
    return (
        copy.deepcopy(rng.choice(OTHERS)) if kind < 0.9 else "".join(rng.choices(string.printable, k=rng.randrange(40)))
    )


def like(rng: random.Random, value: Any, seen: list[Any]) -> Any:
    """A value of the same kind: an end of what it can be, or one that stands under the same name elsewhere."""
    if seen and rng.random() < 0.4:
        return copy.deepcopy(rng.choice(seen))
    if isinstance(value, bool):
        return not value
    if isinstance(value, int):
        ends = [0, 1, 2, 100, 255, 1000, 65_535, 60_000_000, 3_600_000_000, 86_400_000_000, 7 * 86_400_000_000]
        return rng.choice(
            [*ends, value + 1, value + 1000, value // 2000 * 1000, value * 2, value * 10, value * 1000, -value]
        )
    if isinstance(value, float):
        return value * rng.choice([1e-6, 0.5, 2, 1e6, -1])
    if isinstance(value, list) and value:
        return value[:-1] if rng.random() < 0.5 else value * rng.choice([2, 20])
    return anything(rng)


def places(data: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The path of everything in a document."""
    if isinstance(data, dict | list):
        for key, value in data.items() if isinstance(data, dict) else enumerate(data):
            yield (*path, key)
            yield from places(value, (*path, key))


def spoiled(rng: random.Random, data: Any, seen: dict[Any, list[Any]]) -> Any:
    """A document with a few things in it replaced, left out, doubled or put elsewhere; `seen` is what stands under each
    name anywhere."""
    data = copy.deepcopy(data)
    for _ in range(rng.choice([1, 1, 1, 2, 4])):
        every = list(places(data))
        if not every:
            break
        path = rng.choice(every)
        at = data
        for step in path[:-1]:
            at = at[step]
        kind = rng.random()
        if kind < 0.55:
            at[path[-1]] = like(rng, at[path[-1]], seen.get(path[-1], []))
        elif kind < 0.65:
            at[path[-1]] = anything(rng)
        elif kind < 0.75:
            del at[path[-1]]
        elif isinstance(at, list):
            at.insert(rng.randrange(len(at) + 1), copy.deepcopy(at[path[-1]]))
        else:
            at[rng.choice([*TEXTS, "id", "kind", "name"])] = copy.deepcopy(at[path[-1]])
    return data


def torn(rng: random.Random, raw: bytes) -> bytes:
    """Bytes with a few of them changed, cut, doubled."""
    for _ in range(rng.choice([1, 1, 2, 5])):
        at = rng.randrange(len(raw) + 1)
        kind = rng.random()
        if kind < 0.3:
            raw = raw[:at] + bytes(rng.choices(range(256), k=rng.randrange(1, 5))) + raw[at + 1 :]
        elif kind < 0.5:
            raw = raw[:at] + raw[at + rng.randrange(1, 60) :]
        elif kind < 0.6:
            raw = raw[:at]
        elif kind < 0.8:
            end = at + rng.randrange(1, 200)
            raw = raw[:end] + raw[at:end] * rng.choice([1, 2, 50]) + raw[end:]
        else:
            raw = raw[:at] + str(rng.choice(NUMBERS)).encode() + raw[at + rng.randrange(8) :]
    return raw


class Fuzz:
    """A server of its own, and a way to make each kind of input."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.found = Found()
        self.benches = [bench_data(demo_bench(name)) for name in ORDER]
        self.machines = [
            write_scxml(machine, demo_bench(name).firmware.variables).encode()
            for name in ORDER for machine in demo_bench(name).firmware.machines
        ]  # fmt: skip
        bench = demo_bench("print-timer")
        dump = write_vcd(bench, SkippingEngine().run(bench, bench.scenarios[0]).trace).encode()[:4_000]
        self.captures = [dump, *(write_edges(one.edges).encode() for one in bench.captures)]
        self.captures += [b"time_ms,level\n0,0\n1,1\n2.5,0\n9,1\n", b"0\n1\n0\n1\n" * 20, b"t;v\n0;0,1\n1;3,2\n2;0,2\n"]
        self.boards = [json.loads(board_text(board)) for board in boards().values()]
        self.seen: dict[Any, list[Any]] = {}
        for data in (*self.benches, *self.boards):
            for path in places(data):
                at = data
                for step in path:
                    at = at[step]
                if isinstance(path[-1], str) and at not in self.seen.setdefault(path[-1], []):
                    self.seen[path[-1]].append(at)
        brought = Path(__file__).parent / "core" / "brought"
        self.programs = [(path.name, path.read_bytes()) for path in sorted(brought.iterdir()) if path.is_file()]
        self.anew()

    def anew(self) -> None:
        """A fresh folder."""
        self.folder = tempfile.TemporaryDirectory()
        put_demos(Path(self.folder.name))
        self.app = create_app(Path(self.folder.name), ["localhost"])
        self.app.config["WTF_CSRF_ENABLED"] = False  # the token is not what is tried here
        self.client = self.app.test_client()

    def head(self, bench: int) -> int:
        """The newest revision of a bench."""
        return int(self.app.extensions["benches"].head(bench).id)

    def document(self) -> Any:
        text = json.dumps(spoiled(self.rng, self.rng.choice(self.benches), self.seen))
        raw = text.encode() if self.rng.random() < 0.8 else torn(self.rng, text.encode())
        return self.client.post("/benches/import", data={"file": (io.BytesIO(raw), "b.json")}), raw

    def extreme(self) -> Any:
        """One field of a bench at one of its ends, or beyond."""
        number = self.rng.randrange(len(self.benches))
        every = [path for path in places(self.benches[number]) if path[0] != "captures"]
        path = self.rng.choice(every)
        pointer = "/" + "/".join(str(step) for step in path)
        at = self.benches[number]
        for step in path:
            at = at[step]
        value = like(self.rng, at, self.seen.get(path[-1], [])) if self.rng.random() < 0.85 else anything(self.rng)
        patch = [{"op": "replace", "path": pointer, "value": value}]
        return self.edit(number + 1, patch)

    def patch(self) -> Any:
        """Operations of any kind, anywhere."""
        number = self.rng.randrange(len(self.benches))
        every = list(places(self.benches[number]))
        patch: Any = []
        for _ in range(self.rng.choice([1, 1, 2, 5])):
            op = self.rng.choice(["add", "replace", "remove", "move", "copy", "test", "x", None])
            paths = ["/" + "/".join(map(str, self.rng.choice(every))) for _ in range(2)]
            if self.rng.random() < 0.3:
                paths[0] = self.rng.choice(
                    ["", "/", "//", "/-", "/inputs/-", "/inputs/99", "/inputs/-1", "x", "/~2", paths[0] + "/-"]
                )
            name = paths[0].rsplit("/", 1)[-1]
            value = (
                self.rng.choice(self.seen[name])
                if name in self.seen and self.rng.random() < 0.6
                else anything(self.rng)
            )
            patch.append({"op": op, "path": paths[0], "from": paths[1], "value": value})
        if self.rng.random() < 0.1:
            patch = anything(self.rng)
        return self.edit(number + 1, patch, **({"made": anything(self.rng)} if self.rng.random() < 0.1 else {}))

    def edit(self, bench: int, patch: Any, **more: Any) -> Any:
        place = {"station": self.rng.choice(list(STATIONS)), "picked": self.rng.choice([None, "foot-pedal", "x"])}
        base = self.head(bench) if self.rng.random() < 0.95 else anything(self.rng)
        body = {"base": base, "patch": patch, "place": place, "preview": self.rng.random() < 0.7, **more}
        raw = json.dumps(body)
        return self.client.post(f"/api/benches/{bench}/edit", data=raw, content_type="application/json"), raw

    def machine(self) -> Any:
        raw = self.rng.choice(self.machines)
        raw = torn(self.rng, raw) if self.rng.random() < 0.85 else raw
        data = {"file": (io.BytesIO(raw), "m.scxml"), "base": str(self.head(1)), "station": "behave"}
        return self.client.post("/api/benches/1/machine", data=data), raw

    def capture(self) -> Any:
        raw = self.rng.choice(self.captures)
        raw = torn(self.rng, raw) if self.rng.random() < 0.85 else raw
        data: dict[str, Any] = {"file": (io.BytesIO(raw), "c.csv"), "base": str(self.head(1)), "input": "foot-pedal"}
        for name, values in (("unit", ["ms", "us", "s", "x"]), ("rate", [*map(str, NUMBERS), "nan"]),
                             ("threshold", ["2,5", "nan", "1e309"]), ("signal", ["x", "", "event.x"])):  # fmt: skip
            if self.rng.random() < 0.3:
                data[name] = self.rng.choice(values)
        return self.client.post("/api/benches/1/capture", data=data), raw + repr(data).encode()

    def board(self) -> Any:
        raw = json.dumps(spoiled(self.rng, self.rng.choice(self.boards), self.seen)).encode()
        return self.client.post("/boards/import", data={"file": (io.BytesIO(raw), "b.json")}), raw

    def address(self) -> Any:
        """An address with something in it that is not so, or an order that is not."""
        word = lambda: str(anything(self.rng)).replace("\x00", "%00")[:300]  # noqa: E731
        bench = self.rng.choice([1, 2, 3, 4, 5, 6, 0, 2**63, "x", -1])
        query = "&".join(
            f"{name}={word()}" for name in ("scenario", "picked", "beside", "chosen", "look", "fault", "at", "lane", "of")
            if self.rng.random() < 0.4
        )  # fmt: skip
        station = self.rng.choice(
            [*STATIONS, "x", "run.vcd", "run.csv", "export.json", "sketch.code", "card", "readable.txt"]
        )
        path = self.rng.choice([
            f"/benches/{bench}/{station}?{query}", f"/api/benches/{bench}/view?station={station}&{query}",
            f"/api/benches/{bench}/why?{query}", f"/api/benches/{bench}/hangs?{query}",
            f"/api/runs/{word()}/window?from={word()}&to={word()}&columns={word()}&lane={word()}", f"/boards/{word()}",
            f"/benches/{bench}/machines/{word()}.scxml", f"/benches/{bench}/captures/{word()}.csv", f"/{word()}",
        ])  # fmt: skip
        path = path.replace("#", "%23").replace("\n", "%0A").replace("\r", "%0D").replace("//", "/x/")
        return self.client.get(path), path

    def program(self) -> Any:
        """A program that somebody brings, torn; read, or drafted from."""
        name, raw = self.rng.choice(self.programs)
        raw = torn(self.rng, raw) if self.rng.random() < 0.9 else raw
        text = raw.decode("utf-8", "replace")
        if self.rng.random() < 0.3:
            return self.client.post("/read/draft", data={"text": text, "name": name}), raw
        if self.rng.random() < 0.3:
            return self.client.post(
                "/api/read", data={"file": (io.BytesIO(raw), self.rng.choice([name, "a.zip"]))}
            ), raw
        return self.client.post("/api/read", json={"text": text, "name": self.rng.choice([name, "", None])}), raw

    def sum(self) -> Any:
        """What is typed into a sum."""
        one = self.rng.choice(list(SUMS.values()))
        texts = [
            "0",
            "-1",
            "4k7",
            "1e400",
            "nan",
            "10,5 ms",
            "5 V 5 V",
            "1/0",
            "",
            "1e-400 F",
            "99999999999999999999",
            "3",
        ]
        given = {
            ask.id: self.rng.choice([*texts, str(self.rng.choice(NUMBERS)), f"{ask.first} {ask.unit}"])
            for ask in one.asks
        }
        return self.client.get(f"/api/sums/{one.id}", query_string=given), f"{one.id} {given}"

    def order(self) -> Any:
        """Any order that the application takes, with a body of the right names and wrong things in them."""
        rules = [
            rule for rule in self.app.url_map.iter_rules() if "POST" in (rule.methods or ()) and "/api/" in rule.rule
        ]
        rule = self.rng.choice(sorted(rules, key=lambda one: one.rule))
        url = re.sub(r"<any\(([^)]*)\)[^>]*>", lambda found: self.rng.choice(found[1].split(",")).strip(), rule.rule)
        url = re.sub(r"<int:\w+>", lambda _: str(self.rng.choice([1, 1, 1, 2, 5, 99])), url)
        url = re.sub(r"<[^>]*>", lambda _: self.rng.choice(["contact", "log", "x", "rc", "1"]), url)
        words = [
            "print",
            "part",
            "contact",
            "foot-pedal",
            "lamp-mode",
            "card-3",
            "One print",
            "log",
            "time_ms,D4\n0,0\n1,1\n",
        ]
        body = {
            name: self.rng.choice(words) if self.rng.random() < 0.6 else anything(self.rng)
            for name in FIELDS
            if self.rng.random() < 0.5
        }
        bench = re.search(r"/benches/(\d)(?:/|$)", url)
        if bench and int(bench[1]) < 6 and self.rng.random() < 0.8:
            body["base"] = self.head(int(bench[1]))
        raw = json.dumps(body if self.rng.random() < 0.95 else anything(self.rng))
        return self.client.post(url, data=raw, content_type="application/json"), f"{url} {raw}"

    def header(self) -> Any:
        """Odd headers on an ordinary order."""
        names = ["Host", "Origin", "Sec-Fetch-Site", "Cookie", "Content-Type", "Content-Length", "Accept", "X-Forwarded-Host",
                 "Range", "If-Modified-Since", "Transfer-Encoding", "X-CSRFToken"]  # fmt: skip
        headers = {}
        for name in self.rng.sample(names, self.rng.choice([1, 2, 3])):
            value = str(anything(self.rng))[:200].replace("\n", " ").replace("\r", " ").replace("\x00", "")
            headers[name] = value.encode("latin-1", "replace").decode("latin-1")
        how = self.client.post if self.rng.random() < 0.5 else self.client.get
        address = self.rng.choice(
            ["/", "/benches/1/wire", "/api/benches/1/edit", "/enter", "/benches/import", "/restore"]
        )
        return how(address, headers=headers), f"{address} {headers}"

    def run(self, count: int) -> Found:
        """Try so many."""
        kinds: list[Callable[[], Any]] = [
            self.document, self.extreme, self.extreme, self.patch, self.machine, self.capture, self.board, self.address,
            self.header, self.program, self.sum, self.order, self.order,
        ]  # fmt: skip
        for number in range(count):
            if number and number % ANEW == 0:
                self.app.extensions["benches"].engine.dispose()
                self.folder.cleanup()
                self.anew()
            kind = kinds[number % len(kinds)]
            began_s, said = time.process_time(), ""
            try:
                answer, given = kind()
                status = answer.status_code
                if status >= 500 or "could not be worked out (" in answer.text:
                    said = f"{status} {answer.text[:200]}"
                answer.close()
            except Exception as error:
                status, given, said = 599, "", f"{type(error).__name__}: {error}"[:300]
            took_s = time.process_time() - began_s
            self.found.answers[kind.__name__, status] += 1
            shown = (given.decode("utf-8", "replace") if isinstance(given, bytes) else str(given))[:2_000]
            if said:
                self.found.faults.append((kind.__name__, f"{said}\n    {shown}"))
            if took_s > SLOW_S:
                self.found.slow.append((kind.__name__, took_s, shown))
        self.found.memory_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
        self.folder.cleanup()
        return self.found


def tried(seed: int, count: int) -> Found:
    """So many inputs from a seed."""
    logging.disable(logging.CRITICAL)
    return Fuzz(seed).run(count)


def main() -> int:
    """See above."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=100_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--hands", type=int, default=2)
    given = parser.parse_args()
    shares = max(1, given.count // 5_000)
    total, began = Found(), time.monotonic()
    with ProcessPoolExecutor(given.hands, mp_context=get_context("spawn")) as pool:
        seeds = [given.seed * 1_000 + share for share in range(shares)]
        for found in pool.map(tried, seeds, [given.count // shares] * shares):
            total.answers += found.answers
            total.faults += found.faults
            total.slow += found.slow
            total.memory_mb = max(total.memory_mb, found.memory_mb)
            print(f"{total.answers.total():,} tried, {len(total.faults)} faults, {len(total.slow)} slow", flush=True)
            for kind, took_s, shown in found.slow:
                print(f"slow {kind}: {took_s:.1f} s: {shown[:500]}", flush=True)
            for kind, said in found.faults:
                print(f"fault {kind}: {said}", flush=True)
    for (kind, status), count in sorted(total.answers.items()):
        print(f"{kind:10} {status} {count:8,}")
    for kind, took_s, shown in sorted(total.slow, key=lambda one: -one[1])[:20]:
        print(f"SLOW {kind}: {took_s:.1f} s: {shown[:500]}")
    print(f"{total.answers.total():,} inputs in {time.monotonic() - began:.0f} s, {total.memory_mb} MB at most, "
          f"{len(total.faults)} faults, {len(total.slow)} over {SLOW_S:g} s")  # fmt: skip
    return 1 if total.faults or total.slow else 0


if __name__ == "__main__":
    sys.exit(main())
