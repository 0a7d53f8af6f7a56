"""Small benches for Pace and Guard: a clean button, a lamp, and whatever a test gives the firmware."""

from __future__ import annotations

from typing import Any

from viva_tick.core.document import Bench, Scenario, bench_from_data
from viva_tick.core.engine import Fault, Kind, Run, SkippingEngine

READY_US = 65_400  # start-up and set-up of the 8-bit class
PRESS = {"kind": "press", "input": "button"}
STATES = [
    {"id": "off", "name": "Off", "drives": {"lamp": {"kind": "steady", "on": False}}},
    {"id": "on", "name": "On", "drives": {"lamp": {"kind": "steady", "on": True}}},
]
TRANSITIONS = [{"source": "off", "on": PRESS, "target": "on"}, {"source": "on", "on": PRESS, "target": "off"}]


def task(ident: str, period_ms: int, run_us: int, **more: Any) -> dict[str, Any]:
    """A task of the document."""
    return {"id": ident, "name": ident.capitalize(), "period_us": period_ms * 1000, "run_us": run_us, **more}


def bench_of(
    length_ms: int = 2_000,
    presses: list[tuple[int, int]] | None = None,
    states: list[dict[str, Any]] | None = None,
    transitions: list[dict[str, Any]] | None = None,
    lamp: dict[str, Any] | None = None,
    taps: dict[str, Any] | None = None,
    counter_start_ms: int = 0,
    board: str = "mid-8bit-5v",
    **firmware: Any,
) -> Bench:
    """A button that toggles a lamp, pressed at (ms, for ms)."""
    machine = {"id": "toggle", "name": "Toggle", "initial": "off", "states": states or STATES}
    stimuli = [
        {"kind": "press", "input": "button", "at_us": at * 1000, "hold_us": hold * 1000} for at, hold in presses or []
    ]
    scenario = {
        "name": "run",
        "length_us": length_ms * 1000,
        "stimuli": stimuli,
        "counter_start_ms": counter_start_ms,
    }
    return bench_from_data(
        {
            "version": 4,
            "name": "Pace",
            "board": board,
            "inputs": [
                {
                    "id": "button",
                    "name": "Button",
                    "kind": "button",
                    "pin": "D2" if "mid" in board else "P4",
                    "contact": {"kind": "model", "switch": "logic-signal"},
                }
            ],
            "outputs": [
                {
                    "id": "lamp",
                    "name": "Lamp",
                    "kind": "lamp",
                    "pin": "D8" if "mid" in board else "P1" if "8bit" in board else "P5",
                    **(lamp or {}),
                }
            ],
            "firmware": {
                "machines": [{**machine, "transitions": TRANSITIONS if transitions is None else transitions}],
                **firmware,
            },
            "scenarios": [scenario],
            "taps": taps or {},
        }
    )


def with_hold(hold_ms: int, **more: Any) -> Bench:
    """A press at 250 ms makes the lamp hold the loop for so long."""
    states = [
        {"id": "off", "name": "Off", "drives": {}},
        {
            "id": "on",
            "name": "On",
            "drives": {"lamp": {"kind": "pulse", "length_us": hold_ms * 1000, "blocking": True}},
        },
    ]
    return bench_of(
        states=states, transitions=[{"source": "off", "on": PRESS, "target": "on"}], presses=[(250, 100)], **more
    )


def run_of(bench: Bench, fault: Fault | None = None) -> Run:
    """Its scenario's run."""
    scenario: Scenario = bench.scenarios[0]
    return SkippingEngine().run(bench, scenario, fault=fault)


def rows(run: Run, kind: Kind, of: str = "") -> list[tuple[int, Any]]:
    """A signal as (instant, value)."""
    signal = run.trace.signal(kind, of)
    return list(zip(signal.times_us, signal.values, strict=True))
