"""The benches that are timed."""

from __future__ import annotations

from typing import Any

from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.demo import demo_bench


def pressed(length_s: int, every_us: int) -> Bench:
    """The flagship with a press every so often."""
    data = bench_data(demo_bench("print-timer"))
    stimuli = [
        {"kind": "press", "input": "foot-pedal", "at_us": at, "hold_us": 150_000}
        for at in range(500_000, length_s * 1_000_000 - 1_000_000, every_us)
    ]
    data["scenarios"] = [{"name": "long", "length_us": length_s * 1_000_000, "stimuli": stimuli}]
    return bench_from_data(data)


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
