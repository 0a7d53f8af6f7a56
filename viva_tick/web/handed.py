"""A modelled hand at the panel: a thousand actions, and what came of them; or one of its rounds, to be watched."""

from __future__ import annotations

import hashlib
from functools import partial
from typing import Any

from flask import Blueprint, jsonify, render_template, request

from ..core.at_hand import AtHand
from ..core.document import Bench, DocumentError, Problem
from ..core.hand import ACTIONS, PEOPLE, WRONG, Person, Played, a_round, play_rounds
from ..core.version import core_version
from .answers import benches
from .trouble import looks_only

handed = Blueprint("handed", __name__)

ROUNDS = 40  # a thousand actions
BATCH = 5  # rounds that are played for one answer
SHOWN = 6  # examples of each input
_PLAYED: AtHand[str, Played] = AtHand(64)


def _batch(bench: Bench, person: Person, first: int) -> Played:
    """Some rounds, kept as long as the bench is the same."""
    said = "\n".join((core_version(), bench.run_text, person.id, str(first)))
    key = hashlib.blake2b(said.encode(), digest_size=16).hexdigest()
    return _PLAYED.made(key, partial(play_rounds, bench, person, range(first, first + BATCH)))


def _rows(bench: Bench, played: Played) -> list[dict[str, Any]]:
    """For each input, and for the board, what came of it."""
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}
    rows = []
    for of in [*dict.fromkeys([*played.done, *(of for of, _ in played.wrong)])]:
        mine = [(many, kind) for (ident, kind), many in played.wrong.items() if ident == of]
        said = [
            {
                "many": many,
                "words": WRONG[kind],
                "examples": [one for one in played.examples if (one.of, one.wrong) == (of, kind)][:SHOWN],
            }
            for many, kind in sorted(mine, reverse=True)
        ]
        rows.append(
            {"name": names.get(of, "The board"), "done": played.done[of], "right": played.right[of], "wrong": said}
        )
    return rows


@handed.post("/api/benches/<int:bench_id>/hand")
def hand(bench_id: int) -> Any:
    """`{"who", "upto"}`: what came of so many rounds, as drawn, a few more with each request; or `{"who", "round"}`:
    what is done in one of them, as a scenario has it. Stores nothing."""
    looks_only()
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    person = PEOPLE.get(str(body.get("who")))
    if person is None:
        raise DocumentError([Problem("/who", f"nobody of that name: {', '.join(PEOPLE)} are there.")])
    bench = benches().head(bench_id).bench
    number = body.get("round")
    if isinstance(number, int) and 0 <= number < ROUNDS:
        scenario, _ = a_round(bench, person, number)
        data = scenario.model_dump(mode="json")
        return jsonify(name=scenario.name, stimuli=data["stimuli"], seed=data["seed"])
    upto = body.get("upto")
    if not isinstance(upto, int) or isinstance(upto, bool) or not 0 < upto <= ROUNDS:
        raise DocumentError([Problem("/upto", f"must be a whole number from 1 to {ROUNDS}.")])
    played = Played()
    for first in range(0, upto, BATCH):
        played.add(_batch(bench, person, first))
    html = render_template(
        "fragments/hand.html", person=person, played=played, rows=_rows(bench, played), whole=ROUNDS * ACTIONS
    )
    return jsonify(html=html, rounds=ROUNDS, batch=BATCH)
