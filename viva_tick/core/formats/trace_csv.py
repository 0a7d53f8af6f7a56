"""A run's trace as CSV (RFC 4180): every change of every signal, one a row."""

from __future__ import annotations

import csv
import io

from ..engine import Kind, Trace

FORMULA = tuple("=+-@\t\r\n")  # how a cell begins that a table takes for a formula: such a text has ' before it


def write_trace(trace: Trace) -> str:
    """Columns time_us, kind, of, value; in order of time, signals in the trace's order at one instant. Passes give
    "length_us x count", blocked stretches "length_us what"."""
    rows = [
        (at_us, place, str(signal.kind), signal.of, _text(signal.kind, value))
        for place, signal in enumerate(trace.signals)
        for at_us, value in zip(signal.times_us, signal.values, strict=True)
    ]
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(["time_us", "kind", "of", "value"])
    writer.writerows((at_us, kind, of, value) for at_us, _, kind, of, value in sorted(rows, key=lambda row: row[:2]))
    return out.getvalue()


def _text(kind: Kind, value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, tuple):
        return " x ".join(map(str, value)) if kind == Kind.PASS else " ".join(map(str, value))
    return f"'{value}" if isinstance(value, str) and value[:1] in FORMULA else str(value)
