"""What a board told over its serial line, pasted or dropped on Log: in words, and held against the bench."""

from __future__ import annotations

from itertools import count
from typing import Any

from flask import Blueprint, jsonify, render_template, request

from ..core.document import Bench, pointer
from ..core.first_scenario import with_first
from ..core.formats import EdgesError
from ..core.study import AT_ONCE
from ..core.told import (
    Compared,
    Otherness,
    board_run,
    causes,
    compared,
    in_words,
    is_capture,
    named,
    pins_vcd,
    read_channels,
    read_lines,
    signals_of,
    trace_lines,
)
from .answers import benches
from .patches import Patch, add, patched
from .strip import run_window, scales
from .trouble import looks_only

telling = Blueprint("telling", __name__)

MOST_TEXT = 2_000_000  # characters
SHOWN, FOUND, FIRST = 400, 40, 4  # changes and differences that are listed; those of the latter that are seen at once
NAME = "What the board did"
CAPTURED = "What was captured"
COLUMNS = 2_000
_COUNT = count()
WORN, WORN_SEED, SLOW_PPM = "worn-button", 1, 4_800.0  # the simulated board


@telling.post("/api/benches/<int:bench_id>/simulated")
def simulated(bench_id: int) -> Any:
    """`{"scenario", "as"}`: what a simulated board did in a scenario, as its program prints it ("trace"), or as a
    capture of its pins ("vcd"). It is not quite as planned: its first contact is worn, its clock is slow. Nothing is
    stored."""
    looks_only()
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    bench = with_first(benches().head(bench_id).bench)
    scenario = next((one for one in bench.scenarios if one.name == body.get("scenario")), None)
    scenario = scenario or (bench.scenarios[0] if bench.scenarios else None)
    if scenario is None:
        return jsonify(error="There is nothing to press on this bench yet.", next="Add an input in Wire."), 422
    worn = {line.id: WORN for line in bench.contacts[:1] if line.contact.kind == "model"}
    run = board_run(bench, scenario, Otherness(WORN_SEED, worn, SLOW_PPM))
    if body.get("as") == "vcd":
        return jsonify(text=pins_vcd(bench, run, SLOW_PPM, run.boots[0][1] if run.boots else 0))
    return jsonify(text="\n".join(line for _, line in trace_lines(bench, run)))


def _laid(bench: Bench, found: Compared | None) -> dict[str, Any] | None:
    """What the strip draws of both, one over the other: the run's lanes, and the board's as the ghost."""
    if found is None:
        return None
    length_us = found.run.trace.length_us
    states = {one.id: [state.id for state in one.states] for one in bench.firmware.machines}
    lanes: dict[str, Any] = {}
    for (what, of), course in found.board.items():
        values = [states[of][value] if what == "state" else int(value > 0) for _, value in course]
        lanes[f"{what} {of}"] = {"t": [at for at, _ in course], "v": values}
        if what == "cleaned":
            nothing: dict[str, list[Any]] = {"t": [], "v": []}
            lanes[f"{what} {of}"] |= {"metal": nothing, "events": nothing, "waits": []}
    window = run_window(f"laid {next(_COUNT)}", found.run, list(lanes), 0, length_us, COLUMNS)
    board = {"from_us": 0, "to_us": length_us, "columns": COLUMNS, "lanes": lanes}
    return {"window": {**window, "scales": scales(bench, found.run)}, "board": board}


def _keep(bench: Bench, found: Compared | None) -> tuple[Patch, str]:
    """(the edit that keeps what was done as a scenario, its name); neither where nothing was."""
    if found is None or not found.scenario.stimuli:
        return Patch(), ""
    scenario = named(bench, found.scenario)
    return add(pointer("scenarios", "-"), scenario.model_dump(mode="json")), scenario.name


def _captured(bench: Bench, text: str, said: dict[str, Any]) -> Any:
    """The answer to a capture of several channels."""
    try:
        capture = read_channels(text, bench, {str(name): str(key) for name, key in said.items()})
    except EdgesError as error:
        return jsonify(error=str(error), next="Nothing of it was kept; the text is still here."), 422
    found = compared(bench, capture.rows, CAPTURED, AT_ONCE, touched=True)
    keep, keep_name = _keep(bench, found)
    html = render_template(
        "fragments/captured.html", capture=capture, signals=signals_of(bench), found=found, keep=keep, first=FIRST,
        keep_name=keep_name, differences=found.differences[:FOUND] if found else (),
        causes=[(one.words, patched(one.patch)) for one in causes(bench, capture, list(found.spans) if found else [])],
    )  # fmt: skip
    return jsonify(html=html, laid=_laid(bench, found))


@telling.post("/api/benches/<int:bench_id>/told")
def told(bench_id: int) -> Any:
    """`{"text", "channels"}`: the lines that the board printed, or a capture of its pins, and what the person takes its
    channels for. Stores nothing; answers what it says, as drawn."""
    looks_only()
    body = request.get_json(silent=True)
    text = body.get("text") if isinstance(body, dict) else None
    if not isinstance(text, str):
        return jsonify(error="Nothing to read came.", next="Paste the lines that the board printed."), 400
    if len(text) > MOST_TEXT:
        sentence = f"That is {len(text) / 1e6:.1f} million characters; 2 million are read at a time."
        return jsonify(error=sentence, next="Paste the part that matters: nothing of it was kept."), 413
    bench = benches().head(bench_id).bench
    if is_capture(text):
        said = body.get("channels") if isinstance(body, dict) else None
        return _captured(bench, text, said if isinstance(said, dict) else {})
    read = read_lines(text, bench)
    found = compared(bench, read.rows, NAME, AT_ONCE)
    zero_us = bench.the_board.start_up_us
    rows = [(row, zero_us + row.at_us, in_words(bench, row.what, row.of, row.value)) for row in read.rows[:SHOWN]]
    keep, keep_name = _keep(bench, found)
    html = render_template(
        "fragments/told.html", read=read, rows=rows, found=found, keep=keep, traces=bench.firmware.serial.traces,
        differences=found.differences[:FOUND] if found else (), first=FIRST, keep_name=keep_name,
    )  # fmt: skip
    return jsonify(html=html, laid=_laid(bench, found))
