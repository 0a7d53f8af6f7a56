"""Windows of the strip, brought as the screen needs them."""

from __future__ import annotations

from flask import Blueprint, Response, abort, jsonify, request

from ..core.engine import Kind, Run
from .answers import runs
from .strip import events, window

strips = Blueprint("strips", __name__)

MOST_COLUMNS = 6000


def _run(key: str) -> Run:
    run = runs().get(key)
    if run is None:
        abort(404, "This run is no longer kept; any edit or a reload makes it again.")
    return run


@strips.get("/api/runs/<key>/window")
def run_window(key: str) -> Response:
    """Lanes (`lane` = kind and part, repeated) between `from` and `to` in µs, for `columns` columns."""
    run = _run(key)
    length_us = run.trace.length_us
    from_us = max(0, request.args.get("from", 0, type=int))
    to_us = min(length_us, request.args.get("to", length_us, type=int))
    columns = min(max(request.args.get("columns", 1000, type=int), 1), MOST_COLUMNS)
    wanted: list[tuple[str, str]] = []
    known = {(str(signal.kind), signal.of) for signal in run.trace.signals} | {("loop", ""), ("watchdog", "")}
    for name in request.args.getlist("lane"):
        kind, _, of = name.partition(" ")
        if (kind, of) in known and kind in (*Kind, "loop", "watchdog"):
            wanted.append((kind, of))
    return jsonify(
        key=key, from_us=from_us, to_us=to_us, lanes=window(key, wanted, run, from_us, max(to_us, from_us), columns)
    )


@strips.get("/api/runs/<key>/event")
def run_event(key: str) -> Response:
    """The next (`forward=1`) or previous event from `at`."""
    found = events(_run(key), request.args.get("at", 0, type=int), request.args.get("forward", 1, type=int) == 1)
    if found is None:
        return jsonify(at_us=None)
    return jsonify(at_us=found[0], input=found[1], what=found[2])
