"""Sums: one page for each, worked out as it is typed; what comes out goes on a bench."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

from flask import Blueprint, abort, jsonify, redirect, render_template, request, url_for

from ..core.arithmetic import SUMS, NotAQuantity, Sum, Values, first_values, problem, quantity, said, worked
from ..core.arithmetic.uses import uses
from ..core.document import DocumentError
from ..core.edits import apply_patch, refuse_twice, words
from ..store import Revision, Stale
from .answers import benches, who
from .drawings.arithmetic import drawn
from .typeset import typeset

calculating = Blueprint("calculating", __name__)


def _typed(one: Sum) -> tuple[Values, dict[str, str], dict[str, str]]:
    """(the values, what was typed for each, what is wrong with it) of a request; what is wrong counts as at first."""
    values, texts, faults = first_values(one), {}, {}
    for ask in one.asks:
        text = request.values.get(ask.id, "").strip()[:40]
        texts[ask.id] = text or said(ask.first, ask.unit)
        if not text:
            continue
        try:
            values[ask.id] = quantity(text, ask.unit)
        except NotAQuantity as error:
            faults[ask.id] = str(error)
            continue
        if not ask.least <= values[ask.id] <= ask.most:
            faults[ask.id] = f"From {said(ask.least, ask.unit)} to {said(ask.most, ask.unit)}."
            values[ask.id] = ask.first
    return values, texts, faults


def _places(one: Sum, values: Values) -> list[dict[str, Any]]:
    """Where the result fits, bench by bench."""
    if not one.use:
        return []
    rows = []
    for head in benches().heads():
        if isinstance(head, Revision):
            rows += [
                {"value": f"{head.bench_id} {number}", "label": f"{head.bench.name}: {use.label}"}
                for number, use in enumerate(uses(head.bench, one, values))
            ]
    return rows[:300]


def _shown(one: Sum) -> dict[str, Any]:
    values, texts, faults = _typed(one)
    done = worked(one, values)
    gives = [
        {
            "id": give.id,
            "label": give.label,
            "text": said(done.values[give.id], give.unit, 6 if give.unit == "Bd" else 3),
            "corner": " to ".join(said(end, give.unit) for end in done.corners[give.id])
            if give.id in done.corners
            else "",
        }
        for give in one.gives
    ]
    asks = [
        {"ask": ask, "text": texts[ask.id], "fault": faults.get(ask.id, ""), "read": said(values[ask.id], ask.unit)}
        for ask in one.asks
    ]
    return {
        "asks": asks,
        "gives": gives,
        "note": done.note,
        "svg": drawn(one, values, done),
        "values": {**values, **done.values},
    }


@calculating.get("/sums")
@calculating.get("/sums/<ident>")
def page(ident: str = "led") -> str:
    """One sum, with what is in the address; all of them beside it."""
    one = SUMS.get(ident)
    if one is None:
        abort(404)
    shown = _shown(one)
    groups: dict[str, list[Sum]] = {}
    for each in SUMS.values():
        groups.setdefault(each.group, []).append(each)
    example = {
        name: said(value, next(ask.unit for ask in one.asks if ask.id == name), 6)
        for name, value in one.example[0].items()
    }
    gives = {give.id: give for give in one.gives}
    came = [f"{gives[name].label} {said(value, gives[name].unit, 4)}" for name, value in one.example[1].items()]
    return render_template(
        "sums.html", one=one, shown=shown, groups=groups, example=example,
        formulas=[typeset(each) for each in one.formulas], came=came,
        places=_places(one, shown["values"]), used=request.args.get("used", ""),
    )  # fmt: skip


@calculating.get("/api/sums/<ident>")
def work(ident: str) -> Any:
    """The same as JSON, as it is typed: what came out, what is wrong with what was typed, the drawing."""
    one = SUMS.get(ident)
    if one is None:
        abort(404)
    shown = _shown(one)
    asks = [{"id": row["ask"].id, "fault": row["fault"], "read": row["read"]} for row in shown["asks"]]
    return jsonify(
        asks=asks, gives=shown["gives"], note=shown["note"], svg=shown["svg"], places=_places(one, shown["values"])
    )


@calculating.post("/sums/<ident>/use")
def use(ident: str) -> Any:
    """The result on a bench, as an edit of it: form fields as the sum asks, and `place`, the bench and which use."""
    one = SUMS.get(ident)
    bench_id, _, number = request.form.get("place", "").partition(" ")
    if one is None or not bench_id.isdigit() or not number.isdigit():
        abort(404)
    values, texts, faults = _typed(one)
    if faults or problem(one, values):
        return redirect(f"{url_for('calculating.page', ident=ident)}?{urlencode(texts)}")
    head = benches().head(int(bench_id))
    found = uses(head.bench, one, {**values, **worked(one, values).values})
    if int(number) >= len(found):
        abort(404)
    patch = found[int(number)].patch
    try:
        changed = apply_patch(head.bench, patch)
        refuse_twice(head.bench, changed)
        said_so = words(head.bench, changed, patch)
        if changed != head.bench:
            benches().save(head.bench_id, head.id, changed, said_so, who())
    except (DocumentError, Stale) as error:
        why = error.problems[0].sentence if isinstance(error, DocumentError) else "It was changed meanwhile; try again."
        return render_template("error.html", title="Not used", sentence=why, next_step="Go back."), 422
    used = f"{head.bench.name}: {said_so or 'as it was'}."
    query = urlencode({**texts, "used": used[:300]})
    return redirect(f"{url_for('calculating.page', ident=ident)}?{query}")
