"""The one way a bench is changed: a patch against a revision. Undo and redo are moves along revisions."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from flask import Blueprint, jsonify, request

from ..core.boards import boards
from ..core.document import DocumentError, Problem
from ..core.edits import apply_patch, rebased, refuse_twice, words
from ..core.first_scenario import touched
from ..core.pins import NoFit, move_patch
from ..core.recipes import RECIPES, made_from
from ..store import NoBench, Revision, Stale
from .answers import benches, shelf, stale, who
from .location import Location
from .trouble import kept, looks_only
from .view import view

edits = Blueprint("edits", __name__)

THINGS = ("part ", "machine ", "scenario ", "task ", "variable ", "capture ")  # what is said when it comes or goes


def _body() -> dict[str, Any]:
    try:
        body = request.get_json(silent=True)
    except RecursionError:
        raise DocumentError([Problem("", "the edit is nested far too deeply to be one of ours.")]) from None
    body = body if isinstance(body, dict) else {}
    base = body.get("base")
    if not isinstance(base, int) or isinstance(base, bool) or not 0 < base < 1 << 63:
        raise DocumentError([Problem("", "an edit names the revision it was made against (“base”).")])
    return body


def save(head: Revision, base_id: int, patch: Any, place: Location) -> Any:
    """Apply, check, store; answer the view, or both sides of a conflict."""
    if head.id != base_id:
        return stale(Stale(head), _meant(head, base_id, patch), base_id)
    place = replace(place, number=None)
    patch = touched(head.bench, patch)
    changed = apply_patch(head.bench, patch)
    if changed == head.bench:
        return view(head, head.bench, place)
    refuse_twice(head.bench, changed)
    said = words(head.bench, changed, patch)
    try:
        saved = benches().save(head.bench_id, base_id, changed, said, who())
    except Stale as error:
        return stale(error, said, base_id)
    kept()
    answer = view(saved, saved.bench, place, before=head)
    answer["same_run"] = changed.run_text == head.bench.run_text
    made = [one for one in said.split("; ") if one.startswith(THINGS) and one.endswith((" added", " removed"))]
    if made and len(patch) < 40:
        answer["said"] = "; ".join(made) + "."
    return answer


def _meant(head: Revision, base_id: int, patch: Any) -> str:
    """An edit in words, as it was meant: on the revision that it was made against."""
    made = benches().revision(head.bench_id, base_id)
    try:
        return words(made.bench, apply_patch(made.bench, patch), patch) if made else "your edit"
    except DocumentError:
        return "your edit, which does not fit the bench"


def _on_top(head: Revision, made_at: Any, patch: Any) -> Any:
    """A patch that was made against an earlier revision (`made_at`) as it means the same now. Raises `DocumentError`
    where what it changes has gone."""
    if made_at is None or made_at == head.id:
        return patch
    known = isinstance(made_at, int) and not isinstance(made_at, bool) and 0 < made_at < 1 << 63
    made = benches().revision(head.bench_id, made_at) if known else None
    if made is None or not isinstance(patch, list) or not all(isinstance(operation, dict) for operation in patch):
        raise DocumentError([Problem("", "the revision that this edit was made against is not one of this bench.")])
    try:
        return rebased(patch, made.bench, head.bench)
    except DocumentError as error:
        yours, theirs = _meant(head, made.id, patch), benches().words_since(head.bench_id, made.id)
        said = f"Yours: {yours}. Saved meanwhile: {'; '.join(theirs) or head.words}."
        raise DocumentError([error.problems[0], Problem("", said)]) from None


@edits.post("/api/benches/<int:bench_id>/edit")
def edit(bench_id: int) -> Any:
    """`{"base": revision, "patch": RFC 6902, "place": …, "preview": bool, "made": revision}`. A preview stores nothing;
    `made` is the revision that the patch was made against, where it is put on top of another one."""
    body = _body()
    head = benches().head(bench_id)
    place = Location.of(body.get("place"))
    if head.id == body["base"]:
        body["patch"] = _on_top(head, body.get("made"), body.get("patch"))
    if body.get("preview") is True:
        looks_only()
        return view(head, apply_patch(head.bench, touched(head.bench, body.get("patch"))), place, preview=True)
    return save(head, body["base"], body.get("patch"), place)


@edits.post("/api/benches/<int:bench_id>/recipe")
def recipe(bench_id: int) -> Any:
    """`{"base": …, "recipe": id, "given": {…}}`: the recipe's machine for what it asks for, ids of parts and times in
    µs, added as an ordinary edit."""
    body = _body()
    head = benches().head(bench_id)
    chosen = RECIPES.get(str(body.get("recipe")))
    if chosen is None:
        raise DocumentError([Problem("/firmware/machines", "there is no such recipe.")])
    try:
        given = body.get("given")
        made = made_from(chosen, head.bench, given if isinstance(given, dict) else {})
    except KeyError:
        needs = ", ".join(
            f"“{ask.label.lower()}” {ask.kind}"
            for ask in chosen.asks
            if ask.kind not in ("time", "number") and not ask.optional
        )
        sentence = f"{chosen.title} needs {needs}; place what is missing in Wire first."
        raise DocumentError([Problem("/firmware/machines", sentence)]) from None
    except ValueError as error:
        raise DocumentError([Problem("/firmware/machines", str(error))]) from None
    place = Location.of(body.get("place"))
    return save(head, body["base"], made.patch(), replace(place, picked=made.machine.id, chosen=None))


@edits.post("/api/benches/<int:bench_id>/pins")
def pins(bench_id: int) -> Any:
    """`{"base": …, "board": id}`: pins for every part without a conflict, on this board or on another."""
    body = _body()
    head = benches().head(bench_id)
    place = Location.of(body.get("place"))
    asked = body.get("board")
    own = shelf().get(str(asked)) if asked else head.bench.own_board
    board = own or boards().get(str(asked)) or (None if asked else head.bench.the_board)
    if board is None:
        raise DocumentError([Problem("/board", "there is no such board.")])
    try:
        patch = move_patch(head.bench, board, own=own is not None)
    except NoFit as error:
        raise DocumentError(
            [Problem("/board", f"{error} Nothing was moved; take a part off, or another board.")]
        ) from None
    if not patch:
        return {**view(head, head.bench, place), "said": "Every part has a pin that suits it; nothing was moved."}
    answer = save(head, body["base"], patch, place)
    if isinstance(answer, dict):
        answer["said"] = words(head.bench, apply_patch(head.bench, patch), patch, most=12) + "."
    return answer


@edits.post("/api/benches/<int:bench_id>/<any(undo, redo):direction>")
def step(bench_id: int, direction: str) -> Any:
    """`{"base": revision, "place": …, "sure": bool}`: one move along the revisions. What another has saved is taken
    back only by one who is sure."""
    body = _body()
    if direction == "undo" and body.get("sure") is not True:
        head = benches().head(bench_id)
        if head.id == body["base"] and head.author not in (None, who()):
            sentence = f"The last edit is not yours: {head.words}."
            return jsonify(error=sentence, unsure=f"{sentence} Undo it all the same?"), 409
    move = benches().undo if direction == "undo" else benches().redo
    try:
        moved = move(bench_id, body["base"])
    except Stale as error:
        return stale(error, f"to {direction}", body["base"])
    kept()
    left = benches().revision(bench_id, body["base"])
    return view(moved, moved.bench, Location.of(body.get("place")), before=left)


@edits.post("/api/benches/<int:bench_id>/back_to")
def back_to(bench_id: int) -> Any:
    """`{"base": revision, "place": …, "revision": number}`: the bench as it was at one of its revisions. What came
    after stays in its log, and can be gone to just so."""
    body = _body()
    number = body.get("revision")
    if not isinstance(number, int) or isinstance(number, bool):
        raise DocumentError([Problem("/revision", "must be the number of a revision.")])
    try:
        moved = benches().go_to(bench_id, body["base"], number)
    except Stale as error:
        return stale(error, "to go to another state", body["base"])
    except NoBench:
        raise
    except LookupError:
        raise DocumentError([Problem("/revision", "there is no such revision of this bench.")]) from None
    kept()
    return view(moved, moved.bench, Location.of(body.get("place")), before=benches().revision(bench_id, body["base"]))
