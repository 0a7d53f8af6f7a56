"""What the screens show and what leaves them, as it was when somebody last looked: a mark for each of many views.

`python -m tests.approve` (or `make approve`) looks again and takes what is there for right: after a change that is
meant, and that has been looked at. `python -m tests.approve NAME` prints what is behind a mark.
"""

from __future__ import annotations

import hashlib
import json
import re
import sys
import tempfile
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

from flask.testing import FlaskClient

from tests.core.finding_cases import CASES, with_parts
from tests.core.hazard_cases import HAZARD_CASES
from tests.core.pace_cases import PACE_CASES
from tests.demos import put_demos
from viva_tick.core.document import Bench
from viva_tick.core.edits import apply_patch
from viva_tick.core.emit import TARGETS, wires
from viva_tick.core.kinds import KINDS
from viva_tick.core.pins import Room, arrival_patch
from viva_tick.core.study import study
from viva_tick.demo import ORDER, demo_bench
from viva_tick.web.app import create_app
from viva_tick.web.stations import STATIONS
from viva_tick.web.strip import lanes, run_window

APPROVED = Path(__file__).parent / "approved.json"
CHANGING = re.compile(r'(data-at|datetime)="[^"]*"|[0-9a-f]{16,}')  # times, and keys of runs


def shown(client: FlaskClient, number: int, place: dict[str, str]) -> str:
    """The text of a view, without what is another each time."""
    answer = client.get(f"/api/benches/{number}/view", query_string=place).get_json()
    parts = [*answer["fragments"].items(), ("strip", json.dumps(answer["strip"], sort_keys=True))]
    return CHANGING.sub("", "\n".join(f"=== {part}\n{one}" for part, one in parts if part != "title"))


def views(folder: Path) -> Iterator[tuple[str, str]]:
    """(name, text) of every view of every demo: each thing of each station, machines as a map, states and transitions open;
    then each kind of part as it arrives."""
    put_demos(folder)
    app = create_app(folder, ["localhost"], None, demo=True)
    client = app.test_client()
    for number, name in enumerate(ORDER, 1):
        bench = demo_bench(name)
        for station, known in STATIONS.items():
            for picked in known.items(bench):
                if picked == "compiled":
                    continue  # what the compiler of a machine says
                places = [{"station": station, "picked": picked}]
                if station == "behave":
                    places += [{**places[0], "look": "map"}]
                    places += [{**places[0], "chosen": chosen} for chosen in ("transition 0", "transition 2")]
                    machine = next(one for one in bench.firmware.machines if one.id == picked)
                    places.append({**places[0], "chosen": f"state {machine.states[-1].id}"})
                for place in places:
                    yield " ".join([name, *place.values()]), shown(client, number, place)
    for kind, bench in (*arrived(), *crowded()):
        number = app.extensions["benches"].create(bench, "arrived").bench_id
        for station in ("wire", "clean"):
            yield f"{kind} {station}", shown(client, number, {"station": station, "picked": bench.parts[0].id})


def crowded() -> Iterator[tuple[str, Bench]]:
    """Two on a pin, which clash, and two on a bus, which do not."""
    lamp, display = {"kind": "lamp", "pin": "D9"}, {"kind": "display", "data": "A4", "clock": "A5"}
    yield "two on a pin", with_parts(lamp, lamp)
    yield "two on a bus", with_parts(display, {**display, "address": 63})


def arrived() -> Iterator[tuple[str, Bench]]:
    """Each kind of part on an empty bench, as it arrives."""
    for kind in KINDS.values():
        patch = arrival_patch(Room.of(Bench(name="Arrived")), kind)
        if patch:
            yield kind.id, apply_patch(Bench(name="Arrived"), patch[1])


def findings() -> Iterator[tuple[str, str]]:
    """(name, text) of everything that is found on the benches of the tests, in words and numbers."""
    groups: list[tuple[str, Sequence[tuple[Any, ...]]]]
    groups = [("find", CASES), ("hazard", HAZARD_CASES), ("pace", PACE_CASES)]
    for group, cases in groups:
        for number, (code, bench, *_) in enumerate(cases):
            scenario: Any = bench.scenarios[0] if bench.scenarios else None
            yield f"{group} {number} {code}", "\n".join(map(repr, study(bench, scenario).findings))


def files() -> Iterator[tuple[str, str]]:
    """(name, text) of what leaves the demos."""
    for name, bench in [*((name, demo_bench(name)) for name in ORDER), *arrived()]:
        for scenario in bench.scenarios[:2]:
            done = study(bench, scenario)
            assert done.run is not None
            assert done.answers is not None
            names = [lane.id for lane in lanes(bench, done.answers)]
            drawn = run_window("run", done.run, names, 0, min(scenario.length_us, 4_000_000), 900)
            yield f"{name} window {scenario.name}", json.dumps(drawn, sort_keys=True)
        yield f"{name} wires", "\n".join(map(repr, wires(bench)))
        for target in (one for one in TARGETS.values() if one.can(bench)):
            yield f"{name} {target.id}", "\n".join(file.text for file in target.emit(bench, ()).files)


def kept() -> dict[str, str]:
    """All views of the demos, by name."""
    with tempfile.TemporaryDirectory() as folder:
        return dict(views(Path(folder)))


LOOKED_AT: dict[str, Callable[[], dict[str, str]]] = {
    "files": lambda: dict(files()),
    "findings": lambda: dict(findings()),
    "views": kept,
}


def mark(text: str) -> str:
    """Another text has another."""
    return hashlib.sha256(text.encode()).hexdigest()[:10]


def main() -> None:
    """See above."""
    found = {group: look() for group, look in LOOKED_AT.items()}
    every = {name: text for texts in found.values() for name, text in texts.items()}
    if names := sys.argv[1:]:
        print(every[" ".join(names)])
        return
    marks = {group: {name: mark(text) for name, text in texts.items()} for group, texts in found.items()}
    APPROVED.write_text(json.dumps(marks, indent=0, sort_keys=True) + "\n")
    print(f"{len(every)} approved.")


if __name__ == "__main__":
    main()
