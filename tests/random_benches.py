"""Benches and scenarios at random, for properties."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

from viva_tick.core.debounce import METHODS
from viva_tick.core.document import Bench, Scenario, bench_from_data

INPUTS, OUTPUTS = ("in-a", "in-b"), ("out-a", "out-b")
SWITCHES = ("small-button", "worn-button", "foot-pedal", "toggle-switch", "logic-signal")
millis = st.integers(1, 60).map(lambda ms: ms * 1000)


def drives() -> st.SearchStrategy[dict[str, Any]]:
    return st.one_of(
        st.fixed_dictionaries({"kind": st.just("steady"), "on": st.booleans()}),
        st.fixed_dictionaries({"kind": st.just("blink"), "on_us": millis, "off_us": millis}),
        st.fixed_dictionaries({"kind": st.just("pulse"), "length_us": millis, "blocking": st.booleans()}),
    )


@st.composite
def machines(draw: st.DrawFn, number: int) -> dict[str, Any]:
    states = [f"s{place}" for place in range(draw(st.integers(1, 4)))]
    event = st.one_of(
        st.fixed_dictionaries({"kind": st.sampled_from(["press", "release"]), "input": st.sampled_from(INPUTS)}),
        st.fixed_dictionaries({"kind": st.just("timeout"), "after_us": millis}),
    )
    transition = st.fixed_dictionaries(
        {"source": st.sampled_from(states), "on": event, "target": st.sampled_from(states)}
    )
    drive_map = st.dictionaries(st.sampled_from(OUTPUTS), drives(), max_size=2)
    return {
        "id": f"m{number}",
        "name": f"M{number}",
        "initial": draw(st.sampled_from(states)),
        "states": [{"id": state, "name": state, "drives": draw(drive_map)} for state in states],
        "transitions": draw(st.lists(transition, max_size=6)),
    }


@st.composite
def scenarios(draw: st.DrawFn, length_us: int = 400_000, floating: bool = True) -> dict[str, Any]:
    at = st.integers(0, length_us - 1)
    stimulus = st.one_of(
        st.fixed_dictionaries(
            {
                "kind": st.just("press"),
                "input": st.sampled_from(INPUTS),
                "at_us": at,
                "hold_us": st.integers(1000, 90_000),
            }
        ),
        st.fixed_dictionaries(
            {"kind": st.just("set"), "input": st.sampled_from(INPUTS), "at_us": at, "pressed": st.booleans()}
        ),
    )
    near_wrap = st.integers(0xFFFF_FFFF - 300, 0xFFFF_FFFF)
    return {
        "name": "random",
        "length_us": length_us,
        "counter_start_ms": draw(st.one_of(st.just(0), near_wrap)),
        "seed": draw(st.integers(0, 1000)),
        "stimuli": draw(st.lists(stimulus, max_size=6)),
    }


@st.composite
def benches(draw: st.DrawFn, watchdog: bool = True, tasks: bool = True) -> tuple[Bench, Scenario]:
    """A checked bench of two inputs and two outputs, with one scenario."""
    pulls = st.sampled_from(["internal-up", "up", "down", "none"])

    def part(ident: str, pin: str) -> dict[str, Any]:
        wiring = {
            "contact_to": draw(st.sampled_from(["ground", "supply"])),
            "normally": draw(st.sampled_from(["open", "closed"])),
            "pull": draw(pulls),
            "filter": draw(st.sampled_from(["none", "none", "none", "rc"])),
            "filter_nf": draw(st.sampled_from([10, 100, 1_000])),
            "schmitt": draw(st.booleans()),
        }
        contact = {"kind": "model", "switch": draw(st.sampled_from(SWITCHES))}
        level = draw(st.sampled_from(["low", "high"]))
        return {"id": ident, "name": ident, "pin": pin, "wiring": wiring, "contact": contact, "active_level": level}

    scenario = draw(scenarios())
    debounce = st.fixed_dictionaries(
        {
            "method": st.sampled_from(list(METHODS)),
            "interval_us": st.integers(0, 40).map(lambda ms: ms * 1000),
            "sample_us": st.sampled_from([1_000, 1_000, 3_000]),
        }
    )
    guard = st.fixed_dictionaries(
        {
            "mode": st.sampled_from(["off", "reset"]),
            "timeout_us": st.sampled_from([16_000, 32_000, 64_000, 250_000]),
            "feed": st.sampled_from(["start", "end"]),
        }
    )
    task = st.fixed_dictionaries(
        {"id": st.just("work"), "name": st.just("work"), "period_us": millis, "run_us": st.integers(0, 20_000)}
    )
    data = {
        "version": 1,
        "name": "random",
        "inputs": [part("in-a", "D2"), part("in-b", "D3")],
        "outputs": [
            {"id": ident, "name": ident, "pin": pin, "active_level": draw(st.sampled_from(["low", "high"]))}
            for ident, pin in zip(OUTPUTS, ("D8", "D9"), strict=True)
        ],
        "firmware": {
            "debounce": draw(st.dictionaries(st.sampled_from(INPUTS), debounce)),
            "machines": [draw(machines(number)) for number in range(draw(st.integers(0, 3)))],
            "tasks": draw(st.lists(task, max_size=1)) if tasks else [],
            "loop": {"tail_delay_us": draw(st.sampled_from([0, 0, 1000, 10_000, 25_000]))},
            "watchdog": draw(guard) if watchdog else {},
        },
        "scenarios": [scenario],
    }
    bench = bench_from_data(data)
    return bench, bench.scenarios[0]
