"""Find the fault: drills are begun, asked, solved; and their record."""

from __future__ import annotations

import re
import secrets
from typing import Any

from flask import Blueprint, abort, jsonify, redirect, render_template, request, url_for

from ..core.document import Bench, DocumentError, Problem
from ..core.drills import FAULTS, GROUPS, ready
from ..core.drills.drill import COSTS, MOST, NoDrill, Past, make, places, swapped, weakest
from ..demo import ORDER, demo_bench
from ..store import Drill, Glance, Revision
from .answers import benches, drills, who
from .location import Location
from .view import view

drilling = Blueprint("drilling", __name__)

EDITS = re.compile(r"/api/benches/(\d+)/(edit|undo|redo|back_to|recipe|pins|machine|capture|contact|why)$")
PAGES = re.compile(r"/benches/(\d+)/(?!try$)[a-z-]+(\.[a-z]+)*$")


@drilling.before_app_request
def as_it_is() -> Any:
    """While a drill is on its bench is not changed, and nothing of it is told that a real bench would not tell."""
    if found := EDITS.match(request.path):
        if drills().is_one(int(found[1])):
            raise DocumentError(
                [Problem("", "A drill is on: name the fault, or give up; then the bench can be changed.")]
            )
    elif (found := PAGES.match(request.path)) and request.method == "GET" and drills().is_one(int(found[1])):
        return redirect(url_for("pages.workspace", bench_id=int(found[1]), station="try"))
    return None


def _name(bench: Bench) -> str:
    return bench.name


def _choices() -> list[tuple[str, str]]:
    own = [(f"bench {one.bench_id}", one.seen) for one in benches().glances(_name) if isinstance(one, Glance)]
    return own or [(f"demo {name}", demo_bench(name).name) for name in ORDER]


@drilling.get("/drills")
def page() -> str:
    """The record of drills, what comes up weakest, and a new one."""
    known = drills().all()
    over = [one for one in known if one.ended]
    past = [Past(tuple(row["id"] for row in one.faults), tuple(one.found), one.cost, one.gave_up) for one in over]
    return render_template(
        "drills.html", choices=_choices(), drills=known, weak=weakest(past), faults=FAULTS, groups=GROUPS, most=MOST,
        problem=request.args.get("problem", "")[:300],
    )  # fmt: skip


@drilling.post("/drills")
def begin() -> Any:
    """Form fields bench, level, many, and seed where the same is wanted again."""
    kind, _, which = request.form.get("bench", "").partition(" ")
    level = min(max(request.form.get("level", 1, type=int), 1), 3)
    many = min(max(request.form.get("many", 1, type=int), 1), MOST)
    seed = request.form.get("seed", type=int)
    seed = secrets.randbelow(1_000_000) if seed is None else min(max(seed, 0), 999_999_999)
    if kind == "bench" and which.isdigit():
        sound = benches().head(int(which)).bench
    elif kind == "demo" and which in ORDER:
        sound = demo_bench(which)
    else:
        abort(404)
    sound = ready(sound)
    try:
        planted = make(sound, seed, level, many)
    except NoDrill as error:
        return redirect(url_for("drilling.page", problem=str(error)))
    name = f"Drill: {sound.name}"[:60]
    head = benches().create(planted[-1].bench.model_copy(update={"name": name}), "a drill")
    faults = [{"id": one.hidden.id, "of": one.of, "scenario": one.scenario} for one in planted]
    drills().begin(head.bench_id, sound, seed, level, faults)
    return redirect(url_for("pages.workspace", bench_id=head.bench_id, station="try", scenario=faults[0]["scenario"]))


def _said(drill: Drill, head: Revision, what: str, of: str) -> tuple[str, int]:
    """(the answer to what is asked, what it costs). Raises `DocumentError` for what cannot be asked."""
    hidden = [one for one in drill.faults if one["id"] not in drill.found]
    match what:
        case "meter":
            found = next((one for one in places(head.bench) if one.id == of), None)
            if found:
                return f"{found.title}: {found.shows}", COSTS["meter"]
        case "probe":
            line = next((one for one in head.bench.contacts if one.id == of), None)
            if line:
                return f"The probe is on {line.pin}.", COSTS["probe"]
        case "wires" | "program":
            return "", 0 if drill.last(what) else COSTS[what]
        case "ask":
            if of in GROUPS:
                some = any(FAULTS[one["id"]].group == of for one in hidden)
                return f"Is it {GROUPS[of]}? {'Yes.' if some else 'No.'}", COSTS["ask"]
        case "hint":
            hints = [hint for one in hidden for hint in FAULTS[one["id"]].hints]
            given = sum(one["what"] == "hint" for one in drill.asked)
            if given < len(hints):
                return hints[given], COSTS["hint"]
        case "swap":
            part = next((one for one in head.bench.parts if one.id == of), None)
            if part and (changed := swapped(head.bench, drill.sound, of)):
                if changed != head.bench:
                    benches().save(head.bench_id, head.id, changed, f"{part.name} swapped", who())
                return f"{part.name} and its wires are new.", COSTS["swap"]
        case "state":
            if of in FAULTS:
                right = any(one["id"] == of for one in hidden)
                return f"{FAULTS[of].title}: {'that is it.' if right else 'it is not that.'}", 0 if right else COSTS[
                    "wrong"
                ]
    raise DocumentError([Problem("/of", "that cannot be asked of this bench.")])


@drilling.post("/api/benches/<int:bench_id>/ask")
def ask(bench_id: int) -> Any:
    """`{"what", "of", "place"}`: the meter or the probe put somewhere, the wire list, the program, a question, a hint,
    a part swapped, a fault stated, or "give-up". Answers the view."""
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    drill = drills().of(bench_id)
    head = benches().head(bench_id)
    if drill is None:
        return jsonify(error="This bench is no drill.", next="Begin one from the drills."), 404
    if not drill.ended:
        what, of = str(body.get("what")), str(body.get("of") or "")
        if what == "give-up":
            drills().give_up(drill.id)
        else:
            said, cost = _said(drill, head, what, of)
            drills().ask(drill.id, what, of, said, cost)
            if what == "state" and cost == 0:
                drills().find(drill.id, of)
    head = benches().head(bench_id)
    return view(head, head.bench, Location.of(body.get("place")))
