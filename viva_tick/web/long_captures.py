"""Captures too long for the page: taken piece by piece, and looked at in the strip."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Blueprint, jsonify, render_template, request

from ..core.document import DocumentError, Problem
from ..core.formats import EdgesError
from ..store import NoRecording, Recording
from .answers import benches, record, recordings
from .strip import Lane

long_captures = Blueprint("long_captures", __name__)

MOST_PIECE = 4_000_000  # bytes at once
KEY = "capture-"  # how the strip names one among the runs


def _gone() -> Any:
    return jsonify(error="That capture is no longer here.", next="Drop the file again."), 404


def _mine(bench_id: int, number: int) -> Recording:
    """Raises `NoRecording`."""
    found = recordings().get(number)
    if found.bench_id != bench_id:
        raise NoRecording(number)
    return found


def _so_far(one: Recording) -> dict[str, Any]:
    return {"taken": one.taken, "changes": one.changes, "length_us": one.length_ns // 1000}


@long_captures.post("/api/benches/<int:bench_id>/recordings")
def begin(bench_id: int) -> Any:
    """`{"name"}`: a capture is going to come; its number."""
    body = request.get_json(silent=True)
    said = str(body.get("name") or "") if isinstance(body, dict) else ""
    name = " ".join(said.rsplit(".", 1)[0].split())[:80] or "What the board did"
    benches().head(bench_id)
    return jsonify(id=recordings().begin(bench_id, name))


@long_captures.post("/api/benches/<int:bench_id>/recordings/<int:number>/more")
def more(bench_id: int, number: int) -> Any:
    """The bytes of the file from `at` on, as the body; `last`: these were all. Answers how far it is; with the last,
    the entry of the log that it is. Where the file is no good, nothing of it stays."""
    at = request.args.get("at", type=int)
    data = request.get_data(cache=False)
    if at is None or len(data) > MOST_PIECE:
        raise DocumentError([Problem("/at", "say where the piece begins; it has 4 MB at the most.")])
    last = request.args.get("last") == "1"
    try:
        was = _mine(bench_id, number)
        now = recordings().more(number, at, data, last)
    except NoRecording:
        return _gone()
    except EdgesError as error:
        recordings().drop(number)
        return jsonify(error=str(error), next="Nothing of it was kept; the file is as it was."), 422
    said = _so_far(now)
    if now.done and not was.done:
        kept = {"recording": number, "channels": {}, "changes": now.changes, "length_us": now.length_ns // 1000}
        said["entry"] = record().add(bench_id, benches().head(bench_id).id, "capture", now.name, kept)
    return jsonify(said)


@long_captures.post("/api/benches/<int:bench_id>/recordings/<int:number>/stop")
def stop(bench_id: int, number: int) -> Any:
    """Take away what has come so far of one that is not all there."""
    try:
        if not _mine(bench_id, number).done:
            recordings().drop(number)
    except NoRecording:
        return _gone()
    return jsonify(stopped=number)


@long_captures.get("/api/benches/<int:bench_id>/recordings/<int:number>")
def look(bench_id: int, number: int) -> Any:
    """What is said of one, and how the strip shows it: a lane a channel."""
    try:
        found = _mine(bench_id, number)
    except NoRecording:
        return _gone()
    lanes = [
        asdict(Lane(f"level {name}", "level", name, name, f"{many:,} changes")) for name, many in found.channels.items()
    ]
    shown = {"key": f"{KEY}{number}", "length_us": max(found.length_ns // 1000, 1), "lanes": lanes, "name": found.name}
    return jsonify(html=render_template("fragments/recording.html", recording=found), shown=shown)
