"""Benches of a few kilobytes that would ask for work without an end."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from tests.core.finding_cases import DIAL, KEYS
from tests.core.pace_benches import PRESS, STATES, TRANSITIONS, bench_of, task
from viva_tick.core.document import Bench, bench_data, bench_from_data

WEEK_MS = 7 * 86_400_000
WEEK_US = WEEK_MS * 1000
BARKING = {"mode": "interrupt", "timeout_us": 16_000}


def _with(bench: Bench, scenario: dict[str, Any] | None = None, **data: Any) -> Bench:
    found = bench_data(bench)
    found |= data
    found["scenarios"][0] |= scenario or {}
    return bench_from_data(found)


def barks() -> Bench:
    """A watchdog that only calls its handler, 60 times a second through a delay of a week."""
    return bench_of(WEEK_MS, loop={"tail_delay_us": WEEK_US}, watchdog=BARKING)


def boots() -> Bench:
    """A board that resets itself as soon as it has started, for a week."""
    dog = {"mode": "reset", "timeout_us": 16_000}
    return bench_of(WEEK_MS, loop={"tail_delay_us": 30_000}, watchdog=dog)


def boots_left_on() -> Bench:
    """The same, bitten before set-up is done, again and again."""
    dog = {"mode": "reset", "timeout_us": 16_000, "off_at_start": False}
    return bench_of(WEEK_MS, loop={"tail_delay_us": 30_000}, watchdog=dog)


def turns() -> Bench:
    """An encoder turned 5,000 times by 10,000 clicks."""
    turned = [
        {"kind": "turn", "input": "dial", "at_us": n * 100_000_000, "clicks": 10_000, "over_us": 90_000_000}
        for n in range(5_000)
    ]
    return _with(
        bench_of(),
        {"stimuli": turned, "length_us": WEEK_US},
        inputs=[{**DIAL, "id": "dial", "name": "Dial"}],
        firmware={"readings": {"dial": {"kind": "turns"}}},
    )


def replays() -> Bench:
    """A capture of 20,000 edges, played back at each of 5,000 presses."""
    edges = [{"at_us": n * 50, "level": n % 2} for n in range(20_000)]
    pressed = [{"kind": "press", "input": "button", "at_us": n * 2_000_000, "hold_us": 1_000_000} for n in range(5_000)]
    bench = bench_data(bench_of())
    bench["inputs"][0]["contact"] = {"kind": "capture", "capture": "worn"}
    bench["captures"] = [{"id": "worn", "name": "Worn", "edges": edges}]
    return bench_from_data(bench | {"scenarios": [bench["scenarios"][0] | {"stimuli": pressed, "length_us": WEEK_US}]})


def kernel_tasks() -> Bench:
    """32 tasks of a millisecond under the kernel, for a week."""
    return bench_of(WEEK_MS, school="kernel", tasks=[task(f"t{n}", 1, 10) for n in range(32)])


def keys() -> Bench:
    """64 keys scanned each millisecond, each held for a day."""
    rows, columns = (
        ["D2", "D3", "D4", "D5", "D6", "D7", "D8", "D9"],
        ["D10", "D11", "D12", "D13", "A0", "A1", "A2", "A3"],
    )
    names = [chr(48 + n) if n < 10 else chr(55 + n) if n < 36 else chr(61 + n) for n in range(64)]
    held = [
        {"kind": "key", "input": "keys", "at_us": 1_000 * n, "hold_us": 86_400_000_000, "key": names[n % 64]}
        for n in range(5_000)
    ]
    part = {**KEYS, "id": "keys", "name": "Keys", "rows": rows, "columns": columns, "keys": names}
    return _with(
        bench_of(),
        {"stimuli": held, "length_us": WEEK_US},
        inputs=[part],
        outputs=[],
        firmware={"readings": {"keys": {"kind": "scan", "scan_us": 1000}}},
    )


def offsets() -> Bench:
    """Tasks whose periods meet again after days: where each had best begin is asked for."""
    periods = [86_399_999, 86_399_993, 86_399_981, 1]
    return bench_of(2_000, tasks=[task(f"t{n}", period, 400) for n, period in enumerate(periods)])


def states() -> Bench:
    """32 machines of 64 states that all hear the same button."""
    machines = []
    for number in range(32):
        rows = [{"id": f"s{n}", "name": f"S{n}"} for n in range(64)]
        transitions = [{"source": f"s{n}", "on": PRESS, "target": f"s{(n + 1 + number) % 64}"} for n in range(64)]
        transitions += [
            {"source": f"s{n}", "on": {"kind": "timeout", "after_us": 1000 * (n + number + 1)}, "target": f"s{(n * 7 + number) % 64}"}
            for n in range(64)
        ]  # fmt: skip
        machines.append(
            {"id": f"m{number}", "name": f"M{number}", "initial": "s0", "states": rows, "transitions": transitions}
        )
    return _with(bench_of(), firmware={"machines": machines})


def blinks() -> Bench:
    """A lamp that blinks each millisecond for a week, in 64 scenarios."""
    blink = {"kind": "blink", "on_us": 1000, "off_us": 1000}
    states = [{"id": "off", "name": "Off", "drives": {"lamp": blink}}, STATES[1]]
    data = bench_data(bench_of(WEEK_MS, states=states, transitions=TRANSITIONS))
    data["scenarios"] = [{**data["scenarios"][0], "name": f"s{n}"} for n in range(64)]
    return bench_from_data(data)


BOMBS: dict[str, Callable[[], Bench]] = {
    one.__name__: one
    for one in (barks, boots, boots_left_on, turns, replays, kernel_tasks, keys, offsets, states, blinks)
}
