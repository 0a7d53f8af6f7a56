"""A run's trace as a value change dump (IEEE 1364-2001 §18), written with pyvcd.

Scopes are the kinds of signal. Contacts, levels, readings, cleaned levels and outputs are one-bit wires (floating is
z, not yet known x); events are `event` variables; states are integers, whose meaning the comment in the head gives;
blocked is a wire, high while something holds the pass, and so is a task's job; resets, calls of the watchdog and writes
to memory that wears are events.
"""

from __future__ import annotations

import io
import re
from typing import Any

from vcd import VCDWriter

from ..document import Bench
from ..engine import Kind, Trace

TIMESCALE = "1 us"
NUMBERS = {
    Kind.COUNT,
    Kind.ERROR,
    Kind.SAMPLE,
    Kind.SMOOTH,
    Kind.VALUE,
    Kind.TRANSITION,
    Kind.DUTY,
    Kind.PITCH,
    Kind.ANGLE,
    Kind.FILL,
    Kind.LOST,
}


def _bit(value: Any) -> str:
    return {1: "1", 0: "0", -1: "z"}.get(value, "x")


def _identifier(word: str) -> str:
    """A word that a dump can have for a name: what is not a letter, a digit or a common sign stands as its code point,
    so that two words stay two."""
    return re.sub(r"[^A-Za-z0-9_.+*/<>=!?&-]", lambda found: f"({ord(found[0]):x})", word.replace(" ", "_"))


def _worded_value(value: Any) -> Any:
    """A text as a value: what cannot stand there stands as its code point."""
    return re.sub(r"[\x00-\x1f\x7f]", lambda found: f"({ord(found[0]):x})", value) if isinstance(value, str) else value


def _is_contact(trace: Trace, of: str) -> bool:
    return any(signal.kind is Kind.READING and signal.of == of for signal in trace.signals)


def _worded(values: list[Any]) -> bool:
    """Whether the signal says names, as keys do, and not numbers."""
    return any(isinstance(value, str) for value in values)


def write_vcd(bench: Bench, trace: Trace) -> str:
    """The dump as text, times in µs."""
    places = {machine.id: [state.id for state in machine.states] for machine in bench.firmware.machines}
    legend = "; ".join(
        f"{machine}: " + ", ".join(f"{number} = {state}" for number, state in enumerate(states))
        for machine, states in places.items()
    )
    out = io.StringIO()
    with VCDWriter(
        out, timescale=TIMESCALE, comment=f"states by number: {legend}" if legend else "", date=""
    ) as writer:
        rows: list[tuple[int, int, Any, Any]] = []
        for place, signal in enumerate(trace.signals):
            name = signal.of.replace("-", "_").replace(".", "__") or str(signal.kind)
            scope = str(signal.kind)
            match signal.kind:
                case Kind.PASS:
                    continue
                case Kind.EVENT:
                    for word in sorted({"press", "release"} if _is_contact(trace, signal.of) else set(signal.values)):
                        var = writer.register_var(scope, f"{name}_{_identifier(word)}", "event")
                        rows += [
                            (at, place, var, True)
                            for at, v in zip(signal.times_us, signal.values, strict=True)
                            if v == word
                        ]
                case _ if signal.kind in NUMBERS:
                    var = writer.register_var(scope, name, "integer", size=32, init="x")
                    rows += [(at, place, var, v) for at, v in zip(signal.times_us, signal.values, strict=True)]
                case Kind.CUT:
                    var = writer.register_var(scope, name, "string", init=None)
                    rows += [(at, place, var, v) for at, v in zip(signal.times_us, signal.values, strict=True)]
                case Kind.MADE:
                    var = writer.register_var(scope, name, "string" if _worded(signal.values) else "real", init=None)
                    rows += [
                        (at, place, var, _worded_value(v)) for at, v in zip(signal.times_us, signal.values, strict=True)
                    ]
                case _ if signal.kind in (Kind.TEXT, Kind.STANDS) or (
                    signal.kind is Kind.CLEANED and _worded(signal.values)
                ):
                    var = writer.register_var(scope, name, "string", init=None)
                    rows += [
                        (at, place, var, _worded_value(v or ""))
                        for at, v in zip(signal.times_us, signal.values, strict=True)
                    ]
                case Kind.RESET | Kind.BARK | Kind.WRITE:
                    var = writer.register_var(scope, name, "event")
                    rows += [(at, place, var, True) for at in signal.times_us]
                case Kind.STATE:
                    var = writer.register_var(scope, name, "integer", size=8, init="x")
                    states = places[signal.of]
                    rows += [
                        (at, place, var, "x" if value is None else states.index(value))
                        for at, value in zip(signal.times_us, signal.values, strict=True)
                    ]
                case Kind.BLOCKED | Kind.JOB:
                    var = writer.register_var(scope, name, "wire", size=1, init="0")
                    for at, (length_us, *_) in zip(signal.times_us, signal.values, strict=True):
                        rows += [(at, place, var, "1"), (at + length_us, place, var, "0")]
                case _:
                    var = writer.register_var(scope, name, "wire", size=1, init="x")
                    rows += [(at, place, var, _bit(v)) for at, v in zip(signal.times_us, signal.values, strict=True)]
        for at_us, _, var, value in sorted(rows, key=lambda row: row[:2]):
            if at_us <= trace.length_us:
                writer.change(var, at_us, value)
        writer.close(trace.length_us)
    return out.getvalue()
