"""Windows of the strip, brought as the screen needs them."""

from __future__ import annotations

from flask import Blueprint, Response, abort, jsonify, request

from ..core.engine import Run
from .answers import runs
from .strip import events, run_window

strips = Blueprint("strips", __name__)


def _run(key: str) -> Run:
    run = runs().get(key)
    if run is None:
        abort(404, "This run is no longer kept; any edit or a reload makes it again.")
    return run


@strips.get("/api/runs/<key>/window")
def window(key: str) -> Response:
    """Lanes (`lane` = kind and part, repeated) between `from` and `to` in µs, for `columns` columns."""
    run = _run(key)
    wish = request.args
    from_us, to_us = wish.get("from", 0, type=int), wish.get("to", run.trace.length_us, type=int)
    return jsonify(run_window(key, run, wish.getlist("lane"), from_us, to_us, wish.get("columns", 1000, type=int)))


@strips.get("/api/runs/<key>/event")
def run_event(key: str) -> Response:
    """The next (`forward=1`) or previous event from `at`."""
    found = events(_run(key), request.args.get("at", 0, type=int), request.args.get("forward", 1, type=int) == 1)
    if found is None:
        return jsonify(at_us=None)
    return jsonify(at_us=found[0], input=found[1], what=found[2])
