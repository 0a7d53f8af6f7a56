"""What is said when the benches' file cannot be read or written: why, whether this edit was kept, and what to do."""

from __future__ import annotations

from typing import Any

from flask import Flask, Response, current_app, g, jsonify, render_template, request
from sqlalchemy.exc import DatabaseError

from ..store import DamagedBench, backups
from .answers import benches

# What SQLite says, the status, a title, a sentence, what to do about it.
TROUBLES = (
    ("disk is full", 507, "The disk is full", "There is no room left where the benches are kept.", "Make room there"),
    ("disk I/O error", 507, "The disk fails", "The disk on which the benches are kept does not answer as it should.",
     "See whether it is full, or was taken off"),
    ("locked", 503, "The benches are held", "Another program holds the file of the benches.",
     "Close it (one that copies or syncs the folder, most often)"),
    ("readonly", 503, "The benches cannot be written", "The file of the benches may be read, not written.",
     "Give back the right to write it"),
    ("unable to open", 503, "The benches cannot be reached", "The file of the benches cannot be opened.",
     "See whether its folder is still there and may be written"),
)  # fmt: skip
GARBLED = ("malformed", "not a database")
OTHER = ("", 503, "The file of the benches", "It cannot be used now; the program's log says why.", "See what holds it")


def kept() -> None:
    """This request's edit has been stored: whatever fails from here on, it stands."""
    g.kept = True


def looks_only() -> None:
    """This request stores nothing: it is a preview."""
    g.looks_only = True


def _writes() -> bool:
    return request.method == "POST" and request.path.startswith("/api/") and not g.get("looks_only")


def init(app: Flask) -> None:
    """Answer these faults."""

    @app.errorhandler(DamagedBench)
    def damaged(error: DamagedBench) -> Any:
        if request.path.startswith("/api/"):
            sentence = "What was saved there cannot be read any more."
            return jsonify(error=sentence, next="Go to all benches: it says there what can be done."), 410
        found = benches().damaged(error.bench_id)
        return render_template("damaged.html", one=found, bench_id=error.bench_id), 410

    @app.errorhandler(DatabaseError)
    def trouble(error: DatabaseError) -> tuple[Response | str, int]:
        said = str(error.orig)
        app.logger.error("the database says: %s", said)
        if any(word in said for word in GARBLED):
            return _garbled()
        rows = [row for row in TROUBLES if row[0] in said]
        _, status, title, sentence, step = rows[0] if rows else OTHER
        if not request.path.startswith("/api/"):
            return render_template(
                "error.html", title=title, sentence=sentence, next_step=f"{step}; then reload."
            ), status
        if g.get("kept"):
            return jsonify(error=f"{sentence} Your edit was kept.", next=f"{step}; then reload."), status
        if not _writes():
            return jsonify(error=sentence, next=f"{step}; then reload."), status
        step = f"{step}; then press “try again”: it is still on this page."
        return jsonify(error=f"{sentence} This edit was not kept.", next=step, again=True), status


def _garbled() -> tuple[Response | str, int]:
    """Pages of the database that cannot be read: what is kept, where, and how to put it back."""
    database = current_app.extensions["database"]
    sentence = "The file of the benches is damaged."
    if request.path.startswith("/api/"):
        lost = "Your edit was kept, as far as can be said." if g.get("kept") else "This edit was not kept."
        step = "Go to all benches: the backups are listed there."
        return jsonify(error=f"{sentence} {lost}" if _writes() else sentence, next=step), 500
    return render_template("garbled.html", database=database, backups=backups(database)), 500
