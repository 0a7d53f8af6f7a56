"""Windows of the strip, brought as the screen needs them."""

from __future__ import annotations

from flask import Blueprint, Response, abort, jsonify, request

from ..core.engine import Run
from ..store import NoRecording
from .answers import recordings, runs
from .long_captures import KEY
from .strip import MOST_COLUMNS, events, run_window

strips = Blueprint("strips", __name__)


def _run(key: str) -> Run:
    run = runs().get(key)
    if run is None:
        abort(404, "This run is no longer kept; any edit or a reload makes it again.")
    return run


@strips.get("/api/runs/<key>/window")
def window(key: str) -> Response:
    """Lanes (`lane` = kind and part, repeated) between `from` and `to` in µs, for `columns` columns."""
    wish = request.args
    if key.startswith(KEY) and key.removeprefix(KEY).isdigit():
        return _recorded(int(key.removeprefix(KEY)), key)
    run = _run(key)
    from_us, to_us = wish.get("from", 0, type=int), wish.get("to", run.trace.length_us, type=int)
    return jsonify(run_window(key, run, wish.getlist("lane"), from_us, to_us, wish.get("columns", 1000, type=int)))


def _recorded(number: int, key: str) -> Response:
    """The same of a long capture; its lanes are "level", and the channel's name."""
    wish = request.args
    try:
        length_us = recordings().get(number).length_ns // 1000
    except NoRecording:
        abort(404, "That capture is no longer here.")
    from_us = max(wish.get("from", 0, type=int), 0)
    to_us = max(min(wish.get("to", length_us, type=int), length_us + 1), from_us + 1)
    columns = min(max(wish.get("columns", 1000, type=int), 1), MOST_COLUMNS)
    names = {lane.partition(" ")[2]: lane for lane in wish.getlist("lane")[:200]}
    found = recordings().window(number, list(names), from_us, to_us, columns)
    lanes = {names[name]: lane for name, lane in found.items()}
    return jsonify({"key": key, "from_us": from_us, "to_us": to_us, "columns": columns, "lanes": lanes})


@strips.get("/api/runs/<key>/event")
def run_event(key: str) -> Response:
    """The next (`forward=1`) or previous event from `at`."""
    found = events(_run(key), request.args.get("at", 0, type=int), request.args.get("forward", 1, type=int) == 1)
    if found is None:
        return jsonify(at_us=None)
    return jsonify(at_us=found[0], input=found[1], what=found[2])
