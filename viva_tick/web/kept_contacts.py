"""Contacts on the shelf: captured on one bench, used on any."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, jsonify, redirect, request, url_for

from ..core.contacts import capture_bursts, distribution_of
from ..core.document import Bench, Capture, DocumentError, Problem
from ..core.formats import EdgesError
from ..core.ids import free_id, id_from
from ..core.shelf import KeptContact, contact_patch, shelf_from_text, shelf_text, uses
from ..core.told import capture_of, read_channels, read_points
from ..store import NoRecording, Revision
from .answers import benches, shelf
from .drawings import histograms
from .edits import save
from .location import Location
from .telling import part_of

kept_contacts = Blueprint("kept_contacts", __name__)


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


@kept_contacts.post("/api/benches/<int:bench_id>/shelf/contact")
def keep(bench_id: int) -> Any:
    """`{"capture"}`, or a capture as `told` is given it and `{"of"}`, the contact that it is of; `{"name"}`: a contact
    for the shelf. One that bounces just so is there once."""
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    head = benches().head(bench_id)
    capture = _captured(head.bench, body)
    name = " ".join(str(body.get("name") or capture.name).split())[:60] or "A contact"
    there = next((one for one in shelf().things() if one.capture.digest == capture.digest), None)
    taken = {one.id for one in shelf().things()}
    kept = KeptContact(
        id=there.id if there else free_id(id_from(name, "contact"), taken),
        name=name,
        note=f"Captured on {head.bench.name}.",
        capture=capture,
    )
    shelf().put_thing(kept)
    presses, releases = kept.moves
    return jsonify(id=kept.id, said=f"On the shelf: {name}, {presses} presses and {releases} releases.")


@kept_contacts.post("/api/benches/<int:bench_id>/contact")
def use(bench_id: int) -> Any:
    """`{"base": …, "place": …, "part": contact, "kept": id}`: the contact bounces as one of the shelf."""
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    head: Revision = benches().head(bench_id)
    kept = shelf().thing("contact", str(body.get("kept")))
    if kept is None or not isinstance(body.get("base"), int):
        raise DocumentError([Problem("", "that contact is no longer on the shelf.")])
    try:
        patch = contact_patch(head.bench, kept, str(body.get("part")))
    except KeyError:
        raise DocumentError([Problem("/inputs", "there is no such contact on this bench.")]) from None
    return save(head, body["base"], patch, Location.of(body.get("place")))


def shown() -> list[dict[str, Any]]:
    """The contacts of the shelf as its page shows them: histograms, how much they rest on, where they are used."""
    heads = [one for one in benches().heads() if isinstance(one, Revision)]
    rows = []
    for kept in shelf().things():
        used = [(one.bench_id, one.bench.name, names) for one in heads if (names := uses(one.bench, kept))]
        rows.append({"kept": kept, "histograms": histograms(distribution_of(kept.capture)), "used": used})
    return rows


@kept_contacts.get("/shelf/contacts/<ident>.json")
def export(ident: str) -> Response:
    """A contact as a file."""
    kept = shelf().thing("contact", ident)
    if kept is None:
        abort(404)
    answer = Response(shelf_text([kept]), mimetype="application/json")
    answer.headers["Content-Disposition"] = f'attachment; filename="{kept.id}.json"'
    return answer


@kept_contacts.post("/shelf/contacts/<ident>/name")
def rename(ident: str) -> Any:
    """Another name; benches that use it keep theirs."""
    kept = shelf().thing("contact", ident)
    name = " ".join(request.form.get("name", "").split())[:60]
    if kept is not None and name:
        shelf().put_thing(kept.model_copy(update={"name": name}))
    return redirect(url_for("shelves.all_boards", _anchor="contacts"))


@kept_contacts.post("/shelf/contacts/<ident>/remove")
def remove(ident: str) -> Any:
    """Take a contact off the shelf; benches that use it keep theirs."""
    shelf().drop_thing("contact", ident)
    return redirect(url_for("shelves.all_boards", _anchor="contacts"))


def taken(text: str) -> int:
    """Put what a file holds on the shelf; how many that were. Raises `DocumentError`."""
    things = shelf_from_text(text)
    for one in things:
        shelf().put_thing(one)
    return len(things)
