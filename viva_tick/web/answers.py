"""What the server answers to an edit: refusals and conflicts as sentences, never as tracebacks."""

from __future__ import annotations

import secrets

from flask import Response, current_app, jsonify, session

from ..core.document import DocumentError
from ..store import Benches, Drills, Record, Recordings, Runs, Shelf, Stale


def benches() -> Benches:
    """The benches of the application that is answering."""
    found: Benches = current_app.extensions["benches"]
    return found


def runs() -> Runs:
    """Its cached runs."""
    found: Runs = current_app.extensions["runs"]
    return found


def record() -> Record:
    """The log of its benches."""
    found: Record = current_app.extensions["record"]
    return found


def recordings() -> Recordings:
    """Its captures that are too long for the document."""
    found: Recordings = current_app.extensions["recordings"]
    return found


def drills() -> Drills:
    """Its drills."""
    found: Drills = current_app.extensions["drills"]
    return found


def shelf() -> Shelf:
    """Its shelf of the user's own boards."""
    found: Shelf = current_app.extensions["shelf"]
    return found


def who() -> str:
    """A number for the browser that asks, so that its edits can be told from another's."""
    if "who" not in session:
        session["who"] = secrets.token_hex(6)
    return str(session["who"])


def refused(error: DocumentError) -> tuple[Response, int]:
    """The document will not do: where and why, one problem at least."""
    problems = [{"pointer": problem.pointer, "sentence": problem.sentence} for problem in error.problems]
    return jsonify(error=error.problems[0].sentence, problems=problems, next="Nothing was changed; correct it."), 422


def stale(error: Stale, yours: str, base_id: int | None = None) -> tuple[Response, int]:
    """Someone else's edit came first: both sides, for the person to choose."""
    head = error.head
    theirs = benches().words_since(head.bench_id, base_id) if base_id is not None else []
    return (
        jsonify(
            error="This bench was changed elsewhere since you opened it.",
            conflict={
                "revision": head.id,
                "made": base_id,
                "yours": yours or "your edit",
                "theirs": theirs or [f"the bench was taken back to “{head.words}”"],
            },
        ),
        409,
    )
