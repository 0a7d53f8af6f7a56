"""Entries of the log: notes, pictures, test cards that are ticked, trials that are counted; all of it as a file."""

from __future__ import annotations

import html
import io
import re
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any

from flask import Blueprint, Response, abort, jsonify, render_template, request
from pydantic import ValidationError

from ..core.document import DocumentError, Problem
from ..core.emit.files import slug
from ..core.record import Trial, lines_of
from ..store import NoEntry
from .answers import benches, record, recordings
from .logged import KINDS, card_lines, card_words, rows_of

recording = Blueprint("recording", __name__)

MOST_WORDS, MOST_PICTURE, MOST_SIDE = 4000, 12_000_000, 1600  # characters, bytes as it comes, pixels as it is kept
MOST_PIXELS = 80_000_000
MOST_TEXT = 2_000_000  # characters of a capture, as they are read
TYPES = {"PNG": "image/png", "JPEG": "image/jpeg"}


def _body() -> dict[str, Any]:
    body = request.get_json(silent=True)
    return body if isinstance(body, dict) else {}


def _words(body: dict[str, Any], name: str, most: int = MOST_WORDS) -> str:
    value = body.get(name)
    if not isinstance(value, str) or not value.strip():
        raise DocumentError([Problem(f"/{name}", "Nothing was written yet.")])
    if len(value) > most:
        raise DocumentError([Problem(f"/{name}", f"That is {len(value):,} characters; {most:,} at most.")])
    return value.strip()


def _gone() -> tuple[Response, int]:
    return jsonify(error="That entry is no longer in the log.", next="Reload the page."), 404


def _amended(bench_id: int, number: int, change: Callable[[dict[str, Any]], dict[str, Any]]) -> Any:
    """The answer to a change of an entry's data."""
    try:
        return jsonify(data=record().amend(bench_id, number, change).data)
    except NoEntry:
        return _gone()


@recording.post("/api/benches/<int:bench_id>/log/note")
def note(bench_id: int) -> Any:
    """`{"words"}`: a note."""
    head = benches().head(bench_id)
    return jsonify(id=record().add(bench_id, head.id, "note", _words(_body(), "words"), {}))


def _picture(raw: bytes) -> tuple[bytes, str, tuple[int, int]]:
    """(bytes, format, size) of a picture, drawn anew: upright, no larger than it need be, and nothing else of what its
    file said. Raises `DocumentError`."""
    from PIL import Image, ImageOps, UnidentifiedImageError  # only pictures need it

    try:
        with Image.open(io.BytesIO(raw), formats=tuple(TYPES)) as opened:
            kind = str(opened.format)
            if opened.width * opened.height > MOST_PIXELS:
                raise DocumentError([Problem("/file", "The picture has more than 80 million points: make it smaller.")])
            upright = ImageOps.exif_transpose(opened)
            upright.thumbnail((MOST_SIDE, MOST_SIDE))
            bare = Image.new("RGBA" if kind == "PNG" else "RGB", upright.size)
            bare.paste(upright.convert(bare.mode))
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise DocumentError([Problem("/file", "That is no picture that can be read: PNG and JPEG are.")]) from None
    out = io.BytesIO()
    bare.save(out, kind, quality=86, optimize=True)
    return out.getvalue(), kind, bare.size


@recording.post("/api/benches/<int:bench_id>/log/picture")
def picture(bench_id: int) -> Any:
    """A picture (PNG or JPEG) as `file`, with `words`; drawn anew, so that neither place nor camera stays in it."""
    head = benches().head(bench_id)
    sent = request.files.get("file")
    raw = sent.read(MOST_PICTURE + 1) if sent else b""
    if not raw or len(raw) > MOST_PICTURE:
        raise DocumentError([Problem("/file", "Choose a picture of 12 MB at most." if raw else "Choose a picture.")])
    kept, kind, size = _picture(raw)
    words = request.form.get("words", "").strip()[:MOST_WORDS] or "A picture"
    data = {"type": TYPES[kind], "wide": size[0], "high": size[1]}
    return jsonify(id=record().add(bench_id, head.id, "picture", words, data, kept))


@recording.get("/benches/<int:bench_id>/log/<int:number>.picture")
def kept_picture(bench_id: int, number: int) -> Response:
    """The picture of an entry."""
    try:
        entry = record().entry(bench_id, number)
    except NoEntry:
        abort(404)
    raw = record().picture(bench_id, number)
    if raw is None:
        abort(404)
    return Response(raw, mimetype=entry.data["type"])


@recording.post("/api/benches/<int:bench_id>/log/capture")
def capture(bench_id: int) -> Any:
    """`{"text", "name", "channels"}`: a capture, or what a board printed, to be looked at again; packed, beside the
    document."""
    head = benches().head(bench_id)
    body = _body()
    text = _words(body, "text", MOST_TEXT)
    name = " ".join(str(body.get("name") or "").rsplit(".", 1)[0].split())[:80] or "What the board did"
    said = body.get("channels")
    channels = {str(one): str(key) for one, key in said.items()} if isinstance(said, dict) else {}
    data = {"channels": channels, "characters": len(text)}
    return jsonify(id=record().add(bench_id, head.id, "capture", name, data, zlib.compress(text.encode())))


@recording.get("/api/benches/<int:bench_id>/log/<int:number>/text")
def kept_text(bench_id: int, number: int) -> Any:
    """A capture that was kept, as it came, and what its channels were taken for."""
    try:
        entry = record().entry(bench_id, number)
    except NoEntry:
        return _gone()
    raw = record().picture(bench_id, number) if entry.kind == "capture" else None
    if raw is None:
        return _gone()
    return jsonify(text=zlib.decompress(raw).decode(), channels=entry.data["channels"], name=entry.words)


@recording.post("/api/benches/<int:bench_id>/log/card")
def card(bench_id: int) -> Any:
    """A test card for the bench as it is."""
    head = benches().head(bench_id)
    lines = [asdict(one) for one in lines_of(head.bench)]
    if not lines:
        raise DocumentError([Problem("/inputs", "There is nothing to test yet: add parts in Wire.")])
    number = record().add(bench_id, head.id, "card", f"Test card, {len(lines)} lines", {"lines": lines})
    return jsonify(id=number, picked=f"card-{number}")


@recording.post("/api/benches/<int:bench_id>/log/<int:number>/tick")
def tick(bench_id: int, number: int) -> Any:
    """`{"line", "state", "value", "who"}`: how a line came out: "pass", "fail", "" for not yet; with a number that was
    measured it is judged by its limits."""
    body = _body()
    ident, state, who = body.get("line"), body.get("state"), str(body.get("who") or "")[:40].strip()
    value = body.get("value")
    if state not in ("pass", "fail", "") or not (value is None or isinstance(value, int | float)):
        raise DocumentError([Problem("/state", "must be pass, fail or nothing; a value is a number.")])
    try:
        entry = record().entry(bench_id, number)
    except NoEntry:
        return _gone()
    line = next((one for one in (card_lines(entry) if entry.kind == "card" else ()) if one.id == ident), None)
    if line is None:
        raise DocumentError([Problem("/line", "there is no such line on the card.")])
    wrong = ""
    if value is not None:
        wrong = line.judged(float(value))
        state = "fail" if wrong else "pass"
    at = datetime.now(UTC).replace(tzinfo=None).isoformat(timespec="seconds") if state else ""

    def change(data: dict[str, Any]) -> dict[str, Any]:
        said = {"state": state, "value": value, "who": who, "at": at, "wrong": wrong}
        return {**data, "lines": [{**one, **said} if one["id"] == ident else one for one in data["lines"]]}

    return _amended(bench_id, number, change)


def _trial(data: Any) -> Trial:
    try:
        return Trial.model_validate(data, strict=False)
    except ValidationError as error:
        rows = [Problem("/" + "/".join(map(str, one["loc"])), f"{one['msg']}.") for one in error.errors()[:5]]
        raise DocumentError(rows) from None


@recording.post("/api/benches/<int:bench_id>/log/trial")
def trial(bench_id: int) -> Any:
    """A trial, as `Trial` has it."""
    head = benches().head(bench_id)
    made = _trial(_body())
    number = record().add(bench_id, head.id, "trial", made.title, made.model_dump(mode="json"))
    return jsonify(id=number, picked=f"trial-{number}")


@recording.post("/api/benches/<int:bench_id>/log/<int:number>/try")
def tried(bench_id: int, number: int) -> Any:
    """`{"at", "so", "by"}`: one try more under a condition, which is made where it is not there yet, and whether it
    came out so; `by` -1 takes the last such try back, 0 only makes the condition."""
    body = _body()
    at, so, by = body.get("at"), body.get("so"), body.get("by", 1)
    if not isinstance(at, int | float) or not isinstance(so, bool) or by not in (-1, 0, 1):
        raise DocumentError([Problem("/at", "must be a number, and so must be true or false.")])

    def change(data: dict[str, Any]) -> dict[str, Any]:
        rows = {row["at"]: row for row in data["rows"]}
        row = rows.get(float(at), {"at": float(at), "so": 0, "of": 0})
        of, count = row["of"] + by, row["so"] + (by if so else 0)
        if of < 0 or not 0 <= count <= of:
            raise DocumentError([Problem("/by", "there is no such try to take back.")])
        rows[float(at)] = {"at": float(at), "so": count, "of": of}
        return _trial({**data, "rows": sorted(rows.values(), key=lambda one: one["at"])}).model_dump(mode="json")

    return _amended(bench_id, number, change)


@recording.post("/api/benches/<int:bench_id>/log/<int:number>/remove")
def remove(bench_id: int, number: int) -> Any:
    """Take an entry out."""
    try:
        kept = record().entry(bench_id, number).data.get("recording")
        record().remove(bench_id, number)
        if kept:
            recordings().drop(kept)
    except NoEntry:
        return _gone()
    return jsonify(removed=number)


@recording.get("/benches/<int:bench_id>/log.<any(html, md):kind>.zip")
def export(bench_id: int, kind: str) -> Response:
    """The whole log as a page or as Markdown, with its pictures, in a zip."""
    head = benches().head(bench_id)
    rows = rows_of(head)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for row in rows:
            raw = (
                record().picture(bench_id, row.entry_id)
                if row.kind in ("picture", "capture") and row.entry_id
                else None
            )
            if raw is not None and row.kind == "picture":
                archive.writestr(f"pictures/{row.entry_id}.{row.data['type'].partition('/')[2]}", raw)
            elif raw is not None:
                archive.writestr(f"captures/{row.entry_id}.txt", zlib.decompress(raw))
        said = {"bench": head.bench, "rows": rows, "kinds": KINDS, "card_words": card_words}
        if kind == "html":
            text = render_template("log_export.html", **said)
        else:
            text = html.unescape(re.sub(r"\n{3,}", "\n\n", render_template("log_export.md", **said)))
        archive.writestr(f"log.{kind}", text)
    name = f"{slug(head.bench.name)}-log-{kind}.zip"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(out.getvalue(), mimetype="application/zip", headers=headers)
