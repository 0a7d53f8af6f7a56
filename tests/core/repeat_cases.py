"""Benches on which a run can come out either way."""

from __future__ import annotations

from viva_tick.core.document import Bench, bench_from_data


def held_us(hold_us: int, interval_us: int = 20_000) -> Bench:
    """A signal that does not bounce, high for so long, and an interval to wait: what counts is a matter of arithmetic."""
    part = {
        "kind": "button",
        "id": "in",
        "name": "In",
        "pin": "D2",
        "contact": {"kind": "model", "switch": "logic-signal"},
    }
    rest = {"method": "rest-first", "interval_us": interval_us}
    press = {"kind": "press", "input": "in", "at_us": 100_000, "hold_us": hold_us}
    one = {"name": "One", "length_us": 300_000, "stimuli": [press],
           "expects": [{"kind": "count", "of": "in", "what": "press", "times": 1}]}  # fmt: skip
    return bench_from_data(
        {"version": 4, "name": "x", "inputs": [part], "firmware": {"debounce": {"in": rest}}, "scenarios": [one]}
    )


REPEAT_CASES: tuple[tuple[str, Bench], ...] = (
    ("clean.not-always", held_us(19_600)),
    ("behave.not-always", held_us(19_600)),
)
