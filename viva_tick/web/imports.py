"""Files that come in: benches on the home page, captures in Clean. Nothing is half-imported."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Any

from flask import Blueprint, abort, current_app, jsonify, redirect, render_template, request, url_for

from ..core.contacts import capture_bursts
from ..core.document import Bench, Capture, DocumentError, Problem, bench_from_text
from ..core.formats import UNITS, Asked, EdgesError, ScxmlError, arrival_patch, read_capture
from ..core.ids import free_id, id_from
from ..store import NoBackup, Revision, open_database, restore
from .answers import benches
from .edits import save
from .location import Location

imports = Blueprint("imports", __name__)


@imports.post("/benches/new")
def new_bench() -> Any:
    """An empty bench."""
    name = " ".join(request.form.get("name", "").split())[:60] or "New bench"
    head = benches().create(Bench(name=name), "bench begun")
    return redirect(url_for("pages.workspace", bench_id=head.bench_id, station="wire"))


@imports.post("/benches/import")
def import_bench() -> Any:
    """A bench from a file, or why not, each fault with where it is."""
    file = request.files.get("file")
    if file is None or not file.filename:
        problem = Problem("", "no file was chosen.")
        return render_template("refused.html", name="No file", problems=[problem]), 422
    try:
        bench = bench_from_text(file.read().decode("utf-8"))
    except UnicodeDecodeError as error:
        problem = Problem("", f"the file is not text in UTF-8 (byte {error.start}).")
        return render_template("refused.html", name=file.filename, problems=[problem]), 422
    except DocumentError as error:
        return render_template("refused.html", name=file.filename, problems=error.problems), 422
    head = benches().create(bench, f"imported from {file.filename[:60]}")
    return redirect(url_for("pages.workspace", bench_id=head.bench_id, station="wire"))


@imports.post("/benches/<int:bench_id>/copy")
def copy_bench(bench_id: int) -> Any:
    """The same bench again, under a name of its own."""
    bench = benches().head(bench_id).bench
    head = benches().create(bench.model_copy(update={"name": f"{bench.name[:52]}, copy"}), f"copied from {bench.name}")
    return redirect(url_for("pages.workspace", bench_id=head.bench_id, station="wire"))


@imports.post("/restore")
def restore_backup() -> Any:
    """All benches as they were in a backup; what is there now is backed up first."""
    try:
        restore(current_app.extensions["database"], request.form.get("name", ""), f"{datetime.now():%Y-%m-%d-%H%M%S}")  # noqa: DTZ005
    except NoBackup:
        abort(404)
    benches().engine.dispose()  # what is open is of the file as it was
    open_database(current_app.extensions["database"]).dispose()  # one from before a migration is brought up
    return redirect(url_for("pages.home"))


@imports.post("/benches/<int:bench_id>/back")
def step_back(bench_id: int) -> Any:
    """A bench that cannot be read, taken back to its newest state that can."""
    benches().step_back(bench_id)
    return redirect(url_for("pages.bench", bench_id=bench_id))


@imports.post("/benches/<int:bench_id>/remove")
def remove_bench(bench_id: int) -> Any:
    """Take a bench away, with its history."""
    benches().remove(bench_id)
    return redirect(url_for("pages.home"))


def _capture_id(bench: Bench, name: str) -> str:
    return free_id(id_from(name, "capture"), {capture.id for capture in bench.captures})


def _take(head: Revision, part_id: str, name: str, text: str, asked: Asked) -> list[dict[str, Any]]:
    """The patch that adds a capture and lets the part bounce by it. Raises `EdgesError`, `DocumentError`."""
    line = next((line for line in head.bench.contacts if line.id == part_id), None)
    if line is None:
        raise DocumentError([Problem("/inputs", "choose the input part that the capture is of.")])
    read = read_capture(text, asked)
    stem = " ".join(name.rsplit(".", 1)[0].split())[:60] or "Capture"
    ident = _capture_id(head.bench, stem)
    capture = Capture(id=ident, name=stem, edges=read.edges)
    try:
        capture_bursts(capture)
    except ValueError as error:
        raise EdgesError(f"{error} Nothing was imported.") from None
    return [
        {"op": "add", "path": "/captures/-", "value": capture.model_dump(mode="json")},
        {"op": "replace", "path": f"{line.at}/contact", "value": {"kind": "capture", "capture": ident}},
    ]


def _number(field: str) -> float | None:
    """A number from the form, or None where nothing was typed. Raises `EdgesError`."""
    typed = request.form.get(field, "").strip().replace(",", ".")
    try:
        return float(typed) if typed else None
    except ValueError:
        raise EdgesError(f"“{typed[:20]}” is not a number.") from None


@imports.post("/api/benches/<int:bench_id>/machine")
def import_machine(bench_id: int) -> Any:
    """A machine from an SCXML file: form fields file, base, station, picked, scenario."""
    file = request.files.get("file")
    base = request.form.get("base", type=int)
    if file is None or base is None:
        return jsonify(error="No file was chosen.", next="Choose an SCXML file."), 422
    head = benches().head(bench_id)
    try:
        ident, patch = arrival_patch(head.bench, file.read().decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        return jsonify(error=f"The file is not text in UTF-8 (byte {error.start}); nothing was brought in."), 422
    except ScxmlError as error:
        return jsonify(error=str(error), next="Nothing was brought in; the help says what is supported."), 422
    return save(head, base, patch, replace(Location.of(request.form), picked=ident, chosen=None))


@imports.post("/api/benches/<int:bench_id>/capture")
def import_capture(bench_id: int) -> Any:
    """A capture for an input part: form fields file, input, base, station, picked, scenario; and, where the file needs
    them, unit, rate (samples a second), threshold, signal."""
    file = request.files.get("file")
    base = request.form.get("base", type=int)
    unit = request.form.get("unit") or None
    if file is None or base is None or (unit is not None and unit not in UNITS):
        return jsonify(error="No file was chosen.", next="Choose a CSV of time and level."), 422
    head = benches().head(bench_id)
    try:
        text = file.read().decode("utf-8-sig")
        asked = Asked(unit, _number("rate"), _number("threshold"), request.form.get("signal", "").strip() or None)  # type: ignore[arg-type]
        patch = _take(head, request.form.get("input", ""), file.filename or "Capture", text, asked)
    except UnicodeDecodeError as error:
        return jsonify(error=f"The file is not text in UTF-8 (byte {error.start}); nothing was imported."), 422
    except EdgesError as error:
        return jsonify(error=error.sentence, rows=list(error.rows), next="Correct it and choose it again."), 422
    return save(head, base, patch, Location.of(request.form))
