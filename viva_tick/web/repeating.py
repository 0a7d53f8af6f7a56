"""A scenario repeated from the screen: a piece at a time, what was counted kept as long as the bench is the same."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, jsonify, render_template, request

from ..core.document import Bench, Scenario
from ..core.first_scenario import with_first
from ..core.record.trials import wilson
from ..core.repeats import FACTORS, Tally, drawn, flips, holds_without, outcomes, repeat, varied
from ..core.study import run_key
from .answers import benches, runs
from .turns import stop_if_left

repeating = Blueprint("repeating", __name__)

PIECE, PIECES = 50, 20


@dataclass(frozen=True)
class Row:
    """An outcome as it is shown: in how many of how many, between which shares (%), the first number in which it did
    not hold and that as a scenario, if the scenario alone is enough for it; what it hangs on, once asked."""

    ident: str
    words: str
    of: int
    so: int
    least: float
    most: float
    worst: int | None
    scenario: dict[str, Any] | None
    hangs_on: list[tuple[str, int]] | None
    asked_of: int
    marginal: bool


def _known(bench: Bench, scenario: Scenario) -> tuple[str, dict[str, bytes]]:
    beginning = f"{run_key(bench, scenario)}-repeat-"
    return beginning, runs().notes(beginning)


def _tally(notes: dict[str, bytes]) -> Tally:
    done = Tally()
    for name, said in notes.items():
        if name.isdigit():
            data = json.loads(said)
            done.merge(Tally(data["runs"], {ident: tuple(row) for ident, row in data["rows"].items()}))
    return done


def as_scenario(bench: Bench, scenario: Scenario, number: int, outcome: str) -> dict[str, Any] | None:
    """A number's run as a scenario of its own; None where it takes other parts or passes for the outcome to fail."""
    _, changed, seed = varied(bench, scenario, drawn(number))
    changed = changed.model_copy(update={"name": f"{scenario.name[:45]}: number {number}", "seed": seed})
    if holds_without(bench, changed, outcome) is not False:
        return None
    return changed.model_dump(mode="json")


def _rows(bench: Bench, scenario: Scenario, done: Tally, notes: dict[str, bytes]) -> list[Row]:
    rows = []
    for ident, words in outcomes(bench, scenario).items():
        of, so, worst = done.rows.get(ident, (0, 0, None))
        least, most = wilson(so, of)
        asked = json.loads(notes.get(f"on {ident}", b"null"))
        on = (
            sorted(((FACTORS[name], many) for name, many in asked["changed"].items() if many), key=lambda one: -one[1])
            if asked
            else None
        )
        rows.append(
            Row(ident, words, of, so, 100 * least, 100 * most, worst,
                as_scenario(bench, scenario, worst, ident) if worst else None,
                on if asked else None, asked["of"] if asked else 0, bool(asked and asked["marginal"]))
        )  # fmt: skip
    return sorted(rows, key=lambda one: (one.so / one.of if one.of else 1, one.words))


@repeating.get("/api/benches/<int:bench_id>/repeat")
def pieces(bench_id: int) -> Any:
    """`piece` of a `scenario`'s runs, or what an outcome hangs `on`; with all that was counted of it by now, drawn."""
    bench = with_first(benches().head(bench_id).bench)
    scenario = next((one for one in bench.scenarios if one.name == request.args.get("scenario")), None)
    if scenario is None:
        return jsonify(error="There is no such scenario on this bench any more."), 404
    beginning, notes = _known(bench, scenario)
    piece, on = request.args.get("piece", -1, type=int), request.args.get("on", "")
    if 0 <= piece < PIECES and str(piece) not in notes:
        done = repeat(bench, scenario, range(piece * PIECE, (piece + 1) * PIECE), stop_if_left)
        notes[str(piece)] = json.dumps({"runs": done.runs, "rows": done.rows}).encode()
        runs().note(f"{beginning}{piece}", notes[str(piece)])
    if on in outcomes(bench, scenario) and f"on {on}" not in notes:
        found = flips(bench, scenario, on, go_on=stop_if_left)
        said = {"of": found.of, "changed": found.changed, "marginal": found.marginal}
        notes[f"on {on}"] = json.dumps(said).encode()
        runs().note(f"{beginning}on {on}", notes[f"on {on}"])
    done = _tally(notes)
    rows = _rows(bench, scenario, done, notes)
    html = render_template("fragments/repeats.html", rows=rows, runs=done.runs)
    return jsonify(html=html, runs=done.runs, of=PIECE * PIECES, pieces=PIECES)
