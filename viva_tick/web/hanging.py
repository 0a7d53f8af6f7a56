"""Hang tests from the screen: one fault at a time, what was found kept as long as the bench is the same."""

from __future__ import annotations

from dataclasses import asdict
from functools import partial
from typing import Any

from flask import Blueprint, jsonify, render_template, request
from pydantic import TypeAdapter, ValidationError

from ..core.at_hand import AtHand
from ..core.document import Bench, Scenario
from ..core.engine import Fault, Run
from ..core.first_scenario import with_first
from ..core.guard import VERDICTS, HangRow, fault_at, faults_of, hang_row, hang_run
from ..core.study import run_key
from .answers import benches, runs
from .turns import stop_if_left

hanging = Blueprint("hanging", __name__)

MANY = 20  # instants of each fault
_ROWS: AtHand[str, HangRow] = AtHand(400)
_AS_TEXT = TypeAdapter(HangRow)


def _rows_key(bench: Bench, scenario: Scenario) -> str:
    return f"{run_key(bench, scenario)}-hangs-"


def known_rows(bench: Bench, scenario: Scenario) -> dict[tuple[str, str], HangRow]:
    """What is known of the faults on the bench as it is, by kind and whom they befall."""
    beginning = _rows_key(bench, scenario)
    found: dict[tuple[str, str], HangRow] = {}
    for name, said in runs().notes(beginning).items():
        try:
            row = _ROWS.made(beginning + name, partial(_AS_TEXT.validate_json, said))
        except ValidationError:
            continue  # of another core, or damaged: it can be tried again
        found[row.fault.id, row.of] = row
    return found


def read_fault(bench: Bench, word: str | None) -> Fault | None:
    """The fault that a place names, “kind:of:at”; None for one that cannot befall this bench."""
    kind, _, rest = (word or "").partition(":")
    of, _, at = rest.partition(":")
    if not at.isdigit() or (kind, of) not in {(one.id, ident) for one, ident, _ in faults_of(bench)}:
        return None
    return fault_at(bench, kind, of, int(at))  # type: ignore[arg-type]


def faulty_run(bench: Bench, scenario: Scenario, fault: Fault) -> tuple[str, Run]:
    """(key, run) of a scenario with a fault, from the cache where it is there."""
    key = f"{run_key(bench, scenario)}-{fault.kind}-{fault.of.replace('.', '_')}-{fault.at_us}"
    found = runs().get(key)
    if found is None:
        found = hang_run(bench, scenario, fault)
        runs().remember(key, found)
    return key, found


@hanging.get("/api/benches/<int:bench_id>/hangs")
def hangs(bench_id: int) -> Any:
    """One fault (`fault`, `of`) at many instants of a scenario: its row of the table, as data and as drawn."""
    bench = with_first(benches().head(bench_id).bench)
    name = request.args.get("scenario")
    scenario = next((one for one in bench.scenarios if one.name == name), None)
    kind, of = request.args.get("fault", ""), request.args.get("of", "")
    known = {(one.id, ident): title for one, ident, title in faults_of(bench)}
    if scenario is None or (kind, of) not in known:
        return jsonify(error="There is no such fault, or no such scenario, on this bench any more."), 404
    row = known_rows(bench, scenario).get((kind, of))
    if row is None:
        row = hang_row(bench, scenario, kind, of, MANY, stop_if_left)  # type: ignore[arg-type]
        runs().note(f"{_rows_key(bench, scenario)}{kind}:{of}", _AS_TEXT.dump_json(row))
    html = render_template("stations/guard-hang-row.html", row=row, verdicts=VERDICTS)
    data = {
        "tried": row.tried,
        "runs": row.runs,
        "recovered": row.recovered,
        "verdict": row.verdict,
        "worst": asdict(row.worst),
    }
    return jsonify(html=html, row=data)
