"""Read my program: what is wrong with a program that somebody brings, and a bench drafted from it."""

from __future__ import annotations

import json
from typing import Any

from flask import Blueprint, jsonify, redirect, render_template, request, url_for

from ..core.given import (
    CHECKS,
    MOST,
    Draft,
    Facts,
    Unreadable,
    Wrong,
    draft,
    mended_lines,
    read_brought,
    read_program,
    sections,
    wrongs,
)
from .answers import benches, record
from .trouble import looks_only

reading = Blueprint("reading", __name__)

MOST_FILE = 4_000_000  # bytes
EXAMPLE = """// A lamp that a button turns on and off, as it is often written.
const int button = 4;
const int lamp = 9;
int last = 0;
bool on = false;

void setup() {
  pinMode(button, INPUT);
  pinMode(lamp, OUTPUT);
}

void loop() {
  if (digitalRead(button) == LOW) {
    on = !on;
    digitalWrite(lamp, on ? HIGH : LOW);
    delay(300);
  }
}
"""


def _name(said: Any) -> str:
    return " ".join(str(said or "").split())[:80]


def _stem(name: str) -> str:
    return name.rpartition("/")[2].rsplit(".", 1)[0].replace("_", " ").strip() or "From a program"


def _card(facts: Facts, one: Wrong) -> dict[str, Any]:
    """What the page shows of one thing that is wrong."""
    check = CHECKS[one.code]
    old, new = mended_lines(facts.source.text, one.edits) if one.edits else ([], list(one.instead))
    edits = json.dumps([[edit.start, edit.stop, edit.text] for edit in one.edits]) if one.edits else ""
    return {"wrong": one, "check": check, "old": old, "new": new, "edits": edits}


def _lines(facts: Facts, found: list[Wrong], made: Draft) -> list[dict[str, Any]]:
    """The program line by line, with what each became."""
    bad: dict[int, list[str]] = {}
    for one in found:
        bad.setdefault(one.line, []).append(CHECKS[one.code].title)
    rows = []
    for number, text in enumerate(facts.source.lines, 1):
        words = "; ".join(bad.get(number, ())) or made.became.get(number, "")
        kind = "wrong" if number in bad else "became" if number in made.became else ""
        if not kind and number in made.unknown:
            kind, words = "unknown", "not understood: it is not on the bench"
        elif not kind and number in made.left:
            kind, words = "left", f"left out: {made.left[number]}"
        rows.append({"number": number, "text": text, "kind": kind, "words": words})
    return rows


def _answer(facts: Facts, name: str) -> dict[str, Any]:
    found, made = wrongs(facts), draft(facts, _stem(name))
    html = render_template(
        "fragments/reading.html", cards=[_card(facts, one) for one in found], sections=sections(facts, made),
        lines=_lines(facts, found, made), draft=made, bench=made.bench, name=name,
    )  # fmt: skip
    return {"html": html, "text": facts.source.text, "name": name, "language": facts.source.language}


@reading.get("/read")
def page() -> str:
    """The page, with a program to begin with where nobody has one at hand."""
    return render_template("read.html", example=EXAMPLE, most=MOST)


@reading.post("/api/read")
def read() -> Any:
    """`{"text", "name"}`, or a file (a program or a zip of one) as `file`: what is in it. Nothing of it is run, nothing
    is stored."""
    looks_only()
    sent = request.files.get("file")
    try:
        if sent is not None:
            name = _name(sent.filename)
            data = sent.read(MOST_FILE + 1)
            if len(data) > MOST_FILE:
                raise Unreadable("The file has more than 4 MB.")
            return jsonify(_answer(read_brought(data, name), name))
        body = request.get_json(silent=True)
        body = body if isinstance(body, dict) else {}
        text = body.get("text")
        if not isinstance(text, str):
            raise Unreadable("Nothing to read came.")
        name = _name(body.get("name"))
        return jsonify(_answer(read_program(text, name), name))
    except Unreadable as error:
        return jsonify(error=str(error), next="Nothing was changed; paste the program, or drop its file."), 422


@reading.post("/read/draft")
def drafted() -> Any:
    """Form fields text, name: a bench drafted from a program, with what was not understood as a note in its log."""
    name = _name(request.form.get("name"))
    try:
        facts = read_program(request.form.get("text", ""), name)
    except Unreadable as error:
        return render_template("error.html", title="Not read", sentence=str(error), next_step="Go back."), 422
    made = draft(facts, _stem(name))
    head = benches().create(made.bench, f"drafted from {name or 'a program'}")
    lines = [f"line {number}: {facts.source.lines[number - 1].strip()}" for number in made.unknown]
    words = [*made.notes, *(["Not understood, and not on the bench:", *lines] if lines else [])]
    if words:
        record().add(head.bench_id, head.id, "note", "\n".join(words)[:4000], {})
    return redirect(url_for("pages.workspace", bench_id=head.bench_id, station="wire"))
