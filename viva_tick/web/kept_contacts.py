"""The shelf: parts, machines, contacts, panels that were kept on one bench and are used on any."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, jsonify, redirect, render_template, request, url_for

from ..core.contacts import capture_bursts
from ..core.document import Bench, Capture, DocumentError, Problem
from ..core.edits import apply_patch, refuse_twice, words
from ..core.formats import EdgesError
from ..core.ids import free_id, id_from
from ..core.shelf import (
    KINDS,
    Kept,
    KeptContact,
    KeptMachine,
    KeptPart,
    choices,
    contact_patch,
    keep_machine,
    keep_panel,
    keep_part,
    shelf_from_text,
    shelf_text,
    take,
    uses,
)
from ..core.told import capture_of, read_channels, read_points
from ..store import NoRecording, Revision, Stale, Use
from .answers import benches, shelf, who
from .drawings import histograms
from .edits import save
from .location import Location
from .telling import part_of

kept_contacts = Blueprint("kept_contacts", __name__)

STATIONS = {"part": "wire", "machine": "behave", "contact": "clean", "panel": "try"}


def _body() -> dict[str, Any]:
    body = request.get_json(silent=True)
    return body if isinstance(body, dict) else {}


def _name(said: Any, otherwise: str) -> str:
    return " ".join(str(said or otherwise).split())[:60] or otherwise


def _captured(bench: Bench, body: dict[str, Any]) -> Capture:
    """The capture that is meant: one of the bench's, or a channel of a file. Raises `DocumentError`."""
    if ident := body.get("capture"):
        found = next((one for one in bench.captures if one.id == ident), None)
        if found is None:
            raise DocumentError([Problem("/capture", "there is no such capture on this bench.")])
        return found
    said = body.get("channels")
    channels = {str(name): str(key) for name, key in said.items()} if isinstance(said, dict) else {}
    try:
        if isinstance(body.get("recording"), int):
            capture = read_points(part_of(body["recording"], body), bench, channels)
        else:
            capture = read_channels(str(body.get("text") or ""), bench, channels)
        found = capture_of(bench, capture, str(body.get("of")))
        capture_bursts(found)
    except (EdgesError, NoRecording, ValueError, KeyError) as error:
        raise DocumentError([Problem("/of", str(error.args[0]) if error.args else "nothing was there.")]) from None
    return found


def _free(kind: str, name: str) -> str:
    return free_id(id_from(name, kind), {one.id for one in shelf().things(kind)})


@kept_contacts.post("/api/benches/<int:bench_id>/shelf/contact")
def keep_contact(bench_id: int) -> Any:
    """`{"capture"}`, or a capture as `told` is given it and `{"of"}`, the contact that it is of; `{"name"}`: a contact
    for the shelf. One that bounces just so is there once."""
    body = _body()
    head = benches().head(bench_id)
    capture = _captured(head.bench, body)
    name = _name(body.get("name"), capture.name)
    there = next((one for one in shelf().contacts() if one.capture.digest == capture.digest), None)
    ident = there.id if there else _free("contact", name)
    kept = KeptContact(id=ident, name=name, note=f"Captured on {head.bench.name}.", capture=capture)
    shelf().put_thing(kept)
    presses, releases = kept.moves
    return jsonify(id=kept.id, said=f"On the shelf: {name}, {presses} presses and {releases} releases.")


@kept_contacts.post("/api/benches/<int:bench_id>/shelf/<any(part, machine, panel):kind>")
def keep(bench_id: int, kind: str) -> Any:
    """`{"of", "name"}`: a part, a machine or the panel of a bench for the shelf. Of the same name it takes the place of
    what is there: benches keep what they use until they are told to take it anew."""
    body = _body()
    head = benches().head(bench_id)
    of = str(body.get("of") or "")
    named = {
        **{one.id: one.name for one in head.bench.parts},
        **{one.id: one.name for one in head.bench.firmware.machines},
    }
    name = _name(body.get("name"), named.get(of, f"{head.bench.name}: panel"[:60]))
    there = next((one for one in shelf().things(kind) if one.name == name), None)
    ident = there.id if there else _free(kind, name)
    if kind == "part":
        kept: Kept = keep_part(head.bench, of, ident, name)
    elif kind == "machine":
        kept = keep_machine(head.bench, of, ident, name)
    else:
        kept = keep_panel(head.bench, ident, name)
    shelf().put_thing(kept)
    if of or kind == "panel":
        given = {ask.ref: ask.ref for ask in kept.asks} if isinstance(kept, KeptMachine) else {}
        shelf().used(kept, bench_id, of or "panel", given)
    return jsonify(id=ident, said=f"On the shelf: {name}{', anew' if there else ''}.")


@kept_contacts.post("/api/benches/<int:bench_id>/contact")
def use_contact(bench_id: int) -> Any:
    """`{"base": …, "place": …, "part": contact, "kept": id}`: the contact bounces as one of the shelf."""
    body = _body()
    head: Revision = benches().head(bench_id)
    kept = shelf().thing("contact", str(body.get("kept")))
    if not isinstance(kept, KeptContact) or not isinstance(body.get("base"), int):
        raise DocumentError([Problem("", "that contact is no longer on the shelf.")])
    return save(
        head, body["base"], contact_patch(head.bench, kept, str(body.get("part"))), Location.of(body.get("place"))
    )


def _there(bench: Bench, use: Use) -> bool:
    """Whether what was taken is still on a bench."""
    if use.kind == "part":
        return any(one.id == use.local for one in bench.parts)
    if use.kind == "machine":
        return any(one.id == use.local for one in bench.firmware.machines)
    return use.kind == "panel"


def shown() -> list[dict[str, Any]]:
    """The things of the shelf as its page shows them: histograms, asks, where they are used, which are newer here."""
    heads = {one.bench_id: one for one in benches().heads() if isinstance(one, Revision)}
    taken_ = shelf().uses()
    rows = []
    for kept in shelf().things():
        used = []
        if isinstance(kept, KeptContact):
            used = [
                (one.bench_id, one.bench.name, ", ".join(names), False, "")
                for one in heads.values()
                if (names := uses(one.bench, kept))
            ]
        for use in taken_:
            head = heads.get(use.bench_id)
            if (use.kind, use.thing_id) == (kept.kind, kept.id) and head and _there(head.bench, use):
                used.append((use.bench_id, head.bench.name, use.local, use.digest != kept.digest, use.local))
        row: dict[str, Any] = {"kept": kept, "used": used, "station": STATIONS[kept.kind]}
        if isinstance(kept, KeptContact):
            row["histograms"] = histograms(kept.capture)
        rows.append(row)
    return rows


def shelf_page() -> dict[str, Any]:
    """What the page of the shelf is given of these."""
    heads = [one for one in benches().heads() if isinstance(one, Revision)]
    return {"things": shown(), "thing_kinds": KINDS, "thing_benches": [(one.bench_id, one.bench.name) for one in heads]}


def _thing(kind: str, ident: str) -> Kept:
    kept = shelf().thing(kind, ident)
    if kept is None:
        abort(404)
    return kept


@kept_contacts.get("/shelf/<kind>/<ident>.json")
def export(kind: str, ident: str) -> Response:
    """One thing as a file."""
    kept = _thing(kind, ident)
    answer = Response(shelf_text([kept]), mimetype="application/json")
    answer.headers["Content-Disposition"] = f'attachment; filename="{kept.id}.json"'
    return answer


@kept_contacts.get("/shelf.json")
def export_all() -> Response:
    """The whole shelf, but its boards, as one file."""
    answer = Response(shelf_text(shelf().things()), mimetype="application/json")
    answer.headers["Content-Disposition"] = 'attachment; filename="shelf.json"'
    return answer


@kept_contacts.get("/shelf/<kind>/<ident>")
def ask(kind: str, ident: str) -> Any:
    """What a thing asks of a bench (`bench`)."""
    kept = _thing(kind, ident)
    number = request.args.get("bench", type=int)
    heads = [one for one in benches().heads() if isinstance(one, Revision)]
    head = next((one for one in heads if one.bench_id == number), heads[0] if heads else None)
    asks = []
    if head and isinstance(kept, KeptMachine):
        asks = [(one.ref, one.label, choices(head.bench, one.what)) for one in kept.asks]
    elif head and isinstance(kept, KeptContact):
        asks = [("of", "the contact that bounces so", choices(head.bench, "contact"))]
    return render_template(
        "shelf_use.html", kept=kept, head=head, heads=heads, asks=asks, problem=request.args.get("problem", "")[:300]
    )


def _taken(kept: Kept, head: Revision, given: dict[str, str]) -> str:
    """Put it on the bench and write that down; what is wrong, or nothing."""
    try:
        made = take(head.bench, kept, given)
        changed = apply_patch(head.bench, made.patch)
        refuse_twice(head.bench, changed)
        if changed != head.bench:
            benches().save(head.bench_id, head.id, changed, words(head.bench, changed, made.patch), who())
    except DocumentError as error:
        return error.problems[0].sentence
    except Stale:
        return "The bench was changed meanwhile; try again."
    if not isinstance(kept, KeptContact):
        kept_given = {name: value for name, value in given.items() if name != "of"}
        shelf().used(kept, head.bench_id, made.local, kept_given)
    return ""


@kept_contacts.post("/shelf/<kind>/<ident>/use")
def use_thing(kind: str, ident: str) -> Any:
    """Form fields bench, and what is asked for."""
    kept = _thing(kind, ident)
    head = benches().head(request.form.get("bench", type=int) or 0)
    given = {name: value for name, value in request.form.items() if name not in ("csrf_token", "bench")}
    if problem := _taken(kept, head, given):
        return redirect(url_for("kept_contacts.ask", kind=kind, ident=ident, bench=head.bench_id, problem=problem))
    return redirect(url_for("pages.workspace", bench_id=head.bench_id, station=STATIONS[kind]))


@kept_contacts.post("/shelf/<kind>/<ident>/update")
def update(kind: str, ident: str) -> Any:
    """Form fields bench, local: what a bench has taken is what stands on the shelf now."""
    kept = _thing(kind, ident)
    number, local = request.form.get("bench", type=int), request.form.get("local", "")
    use = next((one for one in shelf().uses() if (one.kind, one.bench_id, one.local) == (kind, number, local)), None)
    if use is None or use.thing_id != ident:
        abort(404)
    head = benches().head(use.bench_id)
    of = {} if isinstance(kept, KeptPart | KeptMachine) is False else {"of": local}
    if problem := _taken(kept, head, {**use.given, **of}):
        return redirect(url_for("kept_contacts.ask", kind=kind, ident=ident, bench=head.bench_id, problem=problem))
    return redirect(url_for("shelves.all_boards", _anchor=f"{kind}-{ident}"))


@kept_contacts.post("/shelf/<kind>/<ident>/name")
def rename(kind: str, ident: str) -> Any:
    """Another name; benches that use it keep theirs."""
    kept = _thing(kind, ident)
    if name := _name(request.form.get("name"), ""):
        shelf().put_thing(kept.model_copy(update={"name": name}))
    return redirect(url_for("shelves.all_boards", _anchor=f"{kind}-{ident}"))


@kept_contacts.post("/shelf/<kind>/<ident>/remove")
def remove(kind: str, ident: str) -> Any:
    """Take a thing off the shelf; benches that use it keep theirs."""
    shelf().drop_thing(kind, ident)
    return redirect(url_for("shelves.all_boards", _anchor="things"))


def taken(text: str) -> int:
    """Put what a file holds on the shelf; how many that were. Raises `DocumentError`."""
    things = shelf_from_text(text)
    for one in things:
        shelf().put_thing(one)
    return len(things)
