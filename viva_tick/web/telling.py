"""What a board told over its serial line, pasted or dropped on Log: in words, and held against the bench."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, jsonify, render_template, request

from ..core.document import pointer
from ..core.study import AT_ONCE
from ..core.told import compared, in_words, named, read_lines
from .answers import benches
from .patches import Patch, add
from .trouble import looks_only

telling = Blueprint("telling", __name__)

MOST_TEXT = 2_000_000  # characters
SHOWN, FOUND, FIRST = 400, 40, 4  # changes and differences that are listed; those of the latter that are seen at once
NAME = "What the board did"


@telling.post("/api/benches/<int:bench_id>/told")
def told(bench_id: int) -> Any:
    """`{"text": …}`: the lines that the board printed. Stores nothing; answers what it says, as drawn."""
    looks_only()
    body = request.get_json(silent=True)
    text = body.get("text") if isinstance(body, dict) else None
    if not isinstance(text, str):
        return jsonify(error="Nothing to read came.", next="Paste the lines that the board printed."), 400
    if len(text) > MOST_TEXT:
        sentence = f"That is {len(text) / 1e6:.1f} million characters; 2 million are read at a time."
        return jsonify(error=sentence, next="Paste the part that matters: nothing of it was kept."), 413
    bench = benches().head(bench_id).bench
    read = read_lines(text, bench)
    found = compared(bench, read.rows, NAME, AT_ONCE)
    zero_us = bench.the_board.start_up_us
    rows = [(row, zero_us + row.at_us, in_words(bench, row.what, row.of, row.value)) for row in read.rows[:SHOWN]]
    keep, keep_name = Patch(), ""
    if found is not None and found.scenario.stimuli:
        scenario = named(bench, found.scenario)
        keep += add(pointer("scenarios", "-"), scenario.model_dump(mode="json"))
        keep_name = scenario.name
    html = render_template(
        "fragments/told.html", read=read, rows=rows, found=found, keep=keep, traces=bench.firmware.serial.traces,
        differences=found.differences[:FOUND] if found else (), first=FIRST, keep_name=keep_name,
    )  # fmt: skip
    return jsonify(html=html)
