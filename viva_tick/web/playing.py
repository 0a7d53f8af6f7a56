"""The panel, played: what was done comes in with its instants, what comes of it goes back."""

from __future__ import annotations

from dataclasses import asdict, replace
from itertools import count
from typing import Any

from flask import Blueprint, jsonify, request

from ..core.document import Bench, DocumentError, Problem, pointer
from ..core.engine import Fault, Run
from ..core.live import AHEAD_US, LONGEST_US, by_hand, ended, kept, live, next_pass, with_what_was_seen
from ..store import Revision
from .answers import benches, drills
from .hanging import read_fault
from .patches import add
from .strip import MOST_COLUMNS, run_window, scales
from .trouble import looks_only

MOST_FAULTS = 60
_COUNT = count()
playing = Blueprint("playing", __name__)


def _number(body: dict[str, Any], name: str, least: int, most: int) -> int:
    value = body.get(name)
    if not isinstance(value, int) or isinstance(value, bool) or not least <= value <= most:
        raise DocumentError([Problem(f"/{name}", f"must be a whole number from {least} to {most}.")])
    return value


def _faults(bench: Bench, words: Any) -> list[Fault]:
    """The faults that were put in, some of which were taken off again."""
    if not isinstance(words, list) or len(words) > MOST_FAULTS:
        raise DocumentError([Problem("/faults", f"must be a list of {MOST_FAULTS} at most.")])
    found = []
    for place, word in enumerate(words):
        kind, of, at, until = (*str(word).split(":"), "", "", "", "")[:4]
        fault = read_fault(bench, f"{kind}:{of}:{at}")
        if fault is None or (until and not (until.isdigit() and int(until) >= fault.at_us)):
            raise DocumentError([Problem(pointer("faults", place), "there is no such fault on this bench.")])
        found.append(replace(fault, for_us=int(until) - fault.at_us) if until else fault)
    return found


def _window(bench: Bench, run: Run, wish: Any) -> dict[str, Any] | None:
    """What the strip shows of what is played, for a wish of `{"lanes", "from_us", "to_us", "columns"}`."""
    if not isinstance(wish, dict) or not isinstance(wish.get("lanes"), list):
        return None
    from_us = _number(wish, "from_us", 0, LONGEST_US)
    to_us = wish.get("to_us")
    to_us = to_us if isinstance(to_us, int) and not isinstance(to_us, bool) else run.trace.length_us
    lanes = [str(one) for one in wish["lanes"]]
    columns = _number(wish, "columns", 1, MOST_COLUMNS)
    shown = run_window(f"by hand {next(_COUNT)}", run, lanes, from_us, to_us, columns)
    return {**shown, "scales": scales(bench, run)}


def _runs_the_same(head: Revision, number: Any) -> bool:
    """Whether a revision runs as the head does: it is the head, or differs in what is not run, as the panel is."""
    if number == head.id:
        return True
    known = isinstance(number, int) and not isinstance(number, bool)
    other = benches().revision(head.bench_id, number) if known else None
    return other is not None and other.bench.run_text == head.bench.run_text


@playing.post("/api/benches/<int:bench_id>/live")
def play(bench_id: int) -> Any:
    """`{"revision", "stimuli", "upsets", "now_us", "ahead_us", "since_us", "seed", "faults", "strip", "session",
    "keep", "expect"}`: stimuli as a scenario has them, up to now; faults as “kind:of:from”, and “:until” where one was
    taken off again; what the strip wants to show. Stores nothing. Answers what changes after `since_us`, as far as
    `until_us`; with `keep`, the edit that keeps what was done, and with `expect` what was seen as its checks. 409 where
    the bench is another by now."""
    looks_only()
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    head = benches().head(bench_id)
    if not _runs_the_same(head, body.get("revision")):
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
    faults = _faults(head.bench, body.get("faults", []))
    session = str(body.get("session", ""))[:40]
    wish = body.get("strip")
    from_us = wish.get("from_us") if isinstance(wish, dict) else None
    from_us = from_us if isinstance(from_us, int) else None
    found = live(head.bench, scenario, since_us, faults, session, now_us, from_us)
    return jsonify(
        window=_window(head.bench, found.run, wish),
        until_us=scenario.length_us if not found.run.stopped else found.run.trace.length_us,
        stopped=None if found.goes_on else found.run.stopped,
        ended=ended(faults, found.run),
        next_pass_us=next_pass(found.run, now_us),
        changes=found.changes,
        happened=[] if drills().is_one(bench_id) else [asdict(one) for one in found.happened],
    )
