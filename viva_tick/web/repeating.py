"""A scenario repeated from the screen: twenty beside every edit, more when asked; a number's run on the strip."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, jsonify, render_template, request

from ..core.document import Bench, Scenario
from ..core.first_scenario import with_first
from ..core.rates import wilson
from ..core.repeats import FACTORS, Flips, drawn, holds_without, outcomes, varied
from .answers import benches, drills
from .location import Location
from .numbered import MOST
from .so_far import BESIDE, SoFar, count, hang_on, so_far
from .studies import run_of
from .turns import Left, stop_if_left
from .view import beside

repeating = Blueprint("repeating", __name__)

REQUEST_S = 1.5  # of counting, then what is known by then is shown
BESIDE_S = 0.6
WHY = 20  # runs, beside an edit
WHY_ASKED = 60
MOST_WHY = 2  # outcomes, beside an edit
MOST_CHANGES = 10_000  # of a run that is repeated beside an edit; a longer one is when it is asked for


@dataclass(frozen=True)
class Row:
    """An outcome as it is shown: in how many of how many, between which shares (%), the first number in which it did
    not hold and that as a scenario, if the scenario alone is enough for it; what it hangs on, where that is known:
    (factor, its share of the variance in %), the largest first."""

    ident: str
    words: str
    of: int
    so: int
    least: float
    most: float
    worst: int | None
    scenario: dict[str, Any] | None
    hung: Flips | None
    shares: list[tuple[str, float]]


def as_scenario(bench: Bench, scenario: Scenario, number: int, outcome: str) -> dict[str, Any] | None:
    """A number's run as a scenario of its own; None where it takes other parts or passes for the outcome to fail."""
    _, changed, seed = varied(bench, scenario, drawn(number))
    changed = changed.model_copy(update={"name": f"{scenario.name[:45]}: number {number}", "seed": seed})
    if holds_without(bench, changed, outcome) is not False:
        return None
    return changed.model_dump(mode="json")


def rows_of(bench: Bench, scenario: Scenario, known: SoFar) -> list[Row]:
    """Every outcome, that which holds least often first."""
    rows = []
    for ident, words in outcomes(bench, scenario).items():
        of, so, worst = known.repeats.tally.rows.get(ident, (0, 0, None))
        least, most = wilson(so, of)
        hung = known.repeats.hung.get(ident)
        shares = (
            sorted(((FACTORS[name], 100 * one) for name, one in hung.effects().items()), key=lambda one: -one[1])
            if hung
            else []
        )
        other = as_scenario(bench, scenario, worst, ident) if worst else None
        rows.append(Row(ident, words, of, so, 100 * least, 100 * most, worst, other, hung, shares))
    return sorted(rows, key=lambda one: (one.so / one.of if one.of else 1, one.words))


def _asked(bench_id: int) -> tuple[Bench, Scenario | None]:
    bench = with_first(benches().head(bench_id).bench)
    return bench, next((one for one in bench.scenarios if one.name == request.args.get("scenario")), None)


@repeating.get("/api/benches/<int:bench_id>/repeat")
def pieces(bench_id: int) -> Any:
    """Numbers from `begin` on to before `end` of a `scenario`'s repeats, as many as there is time for, or what an
    outcome hangs `on`; with all that was counted of it by now, drawn, and the number to go on `from`."""
    bench, scenario = _asked(bench_id)
    if scenario is None:
        return jsonify(error="There is no such scenario on this bench any more."), 404
    begin, end = request.args.get("begin", -1, type=int), request.args.get("end", 0, type=int)
    at = begin
    if 0 <= begin < min(end, MOST):
        at = count(bench, scenario, begin, min(end, MOST), REQUEST_S, stop_if_left)
    if on := request.args.get("on", ""):
        hang_on(bench, scenario, on, WHY_ASKED, stop_if_left)
    known = so_far(bench, scenario)
    many, rows = known.repeats.tally.runs, rows_of(bench, scenario, known)
    html = render_template("fragments/repeats.html", rows=rows, runs=many, asked=WHY_ASKED)
    return jsonify(html=html, runs=many, **{"from": at})


@repeating.get("/api/benches/<int:bench_id>/sure")
def sure(bench_id: int) -> Any:
    """Beside an edit, in the second after it: the first repeats of the scenario of a place, what those that do not
    always hold hang on; and the view of what stands out, where that has anything to say of it."""
    bench, scenario = _asked(bench_id)
    head = benches().head(bench_id)
    drill = drills().of(bench_id)
    if scenario is None or (drill and not drill.ended) or run_of(bench, scenario).trace.changes > MOST_CHANGES:
        return jsonify(revision=head.id, runs=0)
    try:
        count(bench, scenario, 0, BESIDE, BESIDE_S, stop_if_left)
        known = so_far(bench, scenario)
        failing = [ident for ident, (of, so, first) in known.repeats.tally.rows.items() if so < of and first]
        for ident in failing[:MOST_WHY]:
            hang_on(bench, scenario, ident, WHY, stop_if_left)
        return jsonify(revision=head.id, runs=known.repeats.tally.runs, **beside(head, Location.of(request.args)))
    except Left:  # room was made for another request; what was counted by then is kept
        return jsonify(revision=head.id, runs=0, later=True)
