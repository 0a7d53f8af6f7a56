"""A bench of forty parts, twenty machines and ten tasks, on a board of its own with pins for all of them."""

from __future__ import annotations

from typing import Any

from viva_tick.core.boards import boards
from viva_tick.core.document import Bench, bench_from_data

MANY = 20


def _board() -> dict[str, Any]:
    data = boards()["two-core-32bit-3v3"].model_dump(mode="json")
    plain = next(pin for pin in data["pins"] if not pin.get("caution"))
    names = {pin["id"] for pin in data["pins"]}
    more = [plain | {"id": f"X{n}"} for n in range(2 * MANY) if f"X{n}" not in names]
    return data | {"id": "wide", "name": "Wide board", "pins": [*data["pins"], *more]}


def _machine(n: int) -> dict[str, Any]:
    lamp = f"lamp-{n}"
    drives: list[dict[str, Any]] = [
        {"kind": "steady", "on": False},
        {"kind": "steady", "on": True},
        {"kind": "blink", "on_us": 50_000 + 5_000 * n, "off_us": 90_000},
        {"kind": "steady", "on": True},
    ]
    states = [{"id": f"s{k}", "name": f"S{k}", "drives": {lamp: drives[k]}} for k in range(4)]
    ways: list[dict[str, Any]] = [
        {"source": f"s{k}", "on": {"kind": "press", "input": f"button-{n}"}, "target": f"s{(k + 1) % 4}"}
        for k in range(4)
    ]
    ways += [
        {"source": f"s{k}", "on": {"kind": "timeout", "after_us": 300_000 * k + 10_000 * n}, "target": "s0"}
        for k in range(1, 4)
    ]
    return {"id": f"m{n}", "name": f"Machine {n}", "initial": "s0", "states": states, "transitions": ways}


def big_bench() -> Bench:
    """The bench; in its scenario every button is pressed four times in five seconds."""
    button = {"kind": "button", "contact": {"kind": "model", "switch": "small-button"}}
    presses = [
        {"kind": "press", "input": f"button-{n}", "at_us": 200_000 + 1_100_000 * k + 41_000 * n, "hold_us": 120_000}
        for n in range(MANY)
        for k in range(4)
    ]
    tasks = [
        {"id": f"t{n}", "name": f"Task {n}", "period_us": 100_000 + 10_000 * n, "run_us": 40 + 10 * n}
        for n in range(10)
    ]
    return bench_from_data(
        {
            "version": 4,
            "name": "Big",
            "board": "wide",
            "own_board": _board(),
            "inputs": [button | {"id": f"button-{n}", "name": f"Button {n}", "pin": f"X{n}"} for n in range(MANY)],
            "outputs": [
                {"kind": "lamp", "id": f"lamp-{n}", "name": f"Lamp {n}", "pin": f"X{MANY + n}", "resistor_ohm": 1_000}
                for n in range(MANY)
            ],
            "firmware": {
                "debounce": {f"button-{n}": {"interval_us": 12_000} for n in range(MANY)},
                "machines": [_machine(n) for n in range(MANY)],
                "tasks": tasks,
            },
            "scenarios": [{"name": "All", "length_us": 5_000_000, "stimuli": presses}],
        }
    )
