"""The panel, played: what was done comes in with its instants, what comes of it goes back."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Blueprint, jsonify, request

from ..core.document import DocumentError, Problem, pointer
from ..core.live import AHEAD_US, LONGEST_US, by_hand, kept, live, with_what_was_seen
from .answers import benches
from .hanging import read_fault
from .patches import add
from .trouble import looks_only

playing = Blueprint("playing", __name__)


def _number(body: dict[str, Any], name: str, least: int, most: int) -> int:
    value = body.get(name)
    if not isinstance(value, int) or isinstance(value, bool) or not least <= value <= most:
        raise DocumentError([Problem(f"/{name}", f"must be a whole number from {least} to {most}.")])
    return value


@playing.post("/api/benches/<int:bench_id>/live")
def play(bench_id: int) -> Any:
    """`{"revision", "stimuli", "upsets", "now_us", "ahead_us", "since_us", "seed", "fault", "keep", "expect"}`: stimuli
    as a scenario has them, up to now. Stores nothing. Answers what changes after `since_us`, as far as `until_us`; with
    `keep`, the edit that keeps what was done, and with `expect` what was seen as its checks. 409 where the bench is
    another by now."""
    looks_only()
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    head = benches().head(bench_id)
    if body.get("revision") != head.id:
        return jsonify(error="The bench has changed meanwhile.", next="Begin anew."), 409
    now_us = _number(body, "now_us", 0, LONGEST_US - AHEAD_US)
    since_us = _number(body, "since_us", -1, LONGEST_US)
    seed = _number(body, "seed", 0, 1_000_000)
    ahead_us = _number(body, "ahead_us", 0, 100 * AHEAD_US)
    until_us = max(min(now_us + max(ahead_us, AHEAD_US), LONGEST_US), 1_000)
    scenario = by_hand(head.bench, body.get("stimuli"), body.get("upsets", []), until_us, seed)
    if body.get("keep") is True:
        made = kept(head.bench, scenario, now_us)
        if body.get("expect") is True:
            made = with_what_was_seen(head.bench, made)
        return jsonify(name=made.name, patch=add(pointer("scenarios", "-"), made.model_dump(mode="json")))
    word = body.get("fault")
    fault = read_fault(head.bench, word if isinstance(word, str) else None)
    if word and fault is None:
        raise DocumentError([Problem("/fault", "there is no such fault on this bench.")])
    found = live(head.bench, scenario, since_us, fault)
    return jsonify(
        until_us=scenario.length_us if not found.run.stopped else found.run.trace.length_us,
        stopped=found.run.stopped,
        changes=found.changes,
        happened=[asdict(one) for one in found.happened],
    )
