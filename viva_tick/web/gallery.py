"""The gallery: benches of what people build, one file each beside the documentation; any of them can be opened."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

from flask import Blueprint, abort, redirect, render_template, url_for

from ..core.document import Bench, bench_from_text
from .answers import benches

gallery = Blueprint("gallery", __name__)
FOLDER = Path(__file__).parents[1] / "docs" / "gallery"


@cache
def exhibits() -> dict[str, Bench]:
    """By name, every bench of the gallery, in the order of their titles."""
    found = {path.stem: bench_from_text(path.read_text(encoding="utf-8")) for path in sorted(FOLDER.glob("*.json"))}
    return dict(sorted(found.items(), key=lambda row: row[1].name))


@gallery.get("/gallery")
def room() -> str:
    """All of them, each with what it is and what is checked."""
    return render_template("gallery.html", exhibits=exhibits())


@gallery.post("/gallery/<name>")
def open_one(name: str) -> Any:
    """A bench of one's own from it."""
    bench = exhibits().get(name)
    if bench is None:
        abort(404)
    head = benches().create(bench, "from the gallery")
    return redirect(url_for("pages.workspace", bench_id=head.bench_id, station="behave"))
