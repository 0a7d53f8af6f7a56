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
    Bounce,
    Capture,
    Compared,
    Difference,
    Otherness,
    arrivals,
    board_run,
    capture_of,
    causes,
    clock_of,
    compared,
    drift_of,
    in_words,
    is_capture,
    named,
    passes,
    pins_vcd,
    read_channels,
    read_lines,
    read_points,
    resets,
    signals_of,
    started_anew,
    trace_causes,
    trace_lines,
    unsure_ppm,
)
from ..store import NoRecording
from ..store.recordings import Points
from .answers import benches, recordings
from .drawings import histograms
from .drawings.pen import Figure
from .patches import Patch, add, patched
from .strip import run_window, scales
from .trouble import looks_only

telling = Blueprint("telling", __name__)

MOST_TEXT = 2_000_000  # characters
MOST_PART = 20_000  # changes of a long capture that are compared at once
SHOWN, FOUND, FIRST = 400, 40, 4  # changes and differences that are listed; those of the latter that are seen at once
NAME = "What the board did"
CAPTURED = "What was captured"
COLUMNS = 2_000
_COUNT = count()
WORN, WORN_SEED, SLOW_PPM, SLOWER = "worn-button", 1, 4_800.0, 12.0  # the simulated board


@telling.post("/api/benches/<int:bench_id>/simulated")
def simulated(bench_id: int) -> Any:
    """`{"scenario", "as"}`: what a simulated board did in a scenario, as its program prints it ("trace"), or as a
    capture of its pins ("vcd"). It is not quite as planned: its first contact is worn, its clock is slow, its passes
    take long. Nothing is stored."""
    looks_only()
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    bench = with_first(benches().head(bench_id).bench)
    scenario = next((one for one in bench.scenarios if one.name == body.get("scenario")), None)
    scenario = scenario or (bench.scenarios[0] if bench.scenarios else None)
    if scenario is None:
        return jsonify(error="There is nothing to press on this bench yet.", next="Add an input in Wire."), 422
    worn = {line.id: WORN for line in bench.contacts[:1] if line.contact.kind == "model"}
    run = board_run(bench, scenario, Otherness(WORN_SEED, worn, SLOW_PPM, SLOWER))
    if body.get("as") == "vcd":
        return jsonify(text=pins_vcd(bench, run, SLOW_PPM, run.boots[0][1] if run.boots else 0, True))
    lines = trace_lines(bench, run)
    at_ms = [at * (1 + SLOW_PPM / 1e6) / 1000 for at, _ in lines]
    return jsonify(text="\n".join(line for _, line in lines), at_ms=at_ms)


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
    also = [f"cleaned {one.id}" for one in bench.contacts] + [f"output {one.id}" for one in bench.channels]
    also += [f"state {one.id}" for one in bench.firmware.machines]
    window = run_window(f"laid {next(_COUNT)}", found.run, [*lanes, *also], 0, length_us, COLUMNS)
    board = {"from_us": 0, "to_us": length_us, "columns": COLUMNS, "lanes": lanes}
    return {"window": {**window, "scales": scales(bench, found.run)}, "board": board}


def _keep(bench: Bench, found: Compared | None) -> tuple[Patch, str]:
    """(the edit that keeps what was done as a scenario, its name); neither where nothing was."""
    if found is None or not found.scenario.stimuli:
        return Patch(), ""
    scenario = named(bench, found.scenario)
    return add(pointer("scenarios", "-"), scenario.model_dump(mode="json")), scenario.name


def part_of(number: int, body: dict[str, Any]) -> Points:
    """The part of a long capture that is to be compared. Raises `EdgesError` and `NoRecording`."""
    length_us = recordings().get(number).length_ns // 1000
    from_us, to_us = body.get("from_us"), body.get("to_us")
    if not isinstance(from_us, int) or not isinstance(to_us, int) or not 0 <= from_us < to_us:
        from_us, to_us = 0, length_us
    points, many = recordings().points(number, from_us, to_us, MOST_PART)
    if not points:
        raise EdgesError(f"That part has {many:,} changes; {MOST_PART:,} are compared at a time. Zoom in further.")
    return points


def _bounces(bench: Bench, capture: Capture) -> list[tuple[Bounce, tuple[Figure, ...]]]:
    """Each contact that moved, with how it bounced."""
    rows: list[tuple[Bounce, tuple[Figure, ...]]] = []
    for one in capture.bounces:
        try:
            rows.append((one, histograms(capture_of(bench, capture, one.of))))
        except ValueError:  # it never came to rest pressed
            rows.append((one, ()))
    return rows


def _captured(bench: Bench, source: str | Points, said: dict[str, Any], recording: int = 0) -> Any:
    """The answer to a capture of several channels."""
    taken_for = {str(name): str(key) for name, key in said.items()}
    try:
        if isinstance(source, str):
            capture = read_channels(source, bench, taken_for)
        else:
            capture = read_points(source, bench, taken_for)
    except EdgesError as error:
        return jsonify(error=str(error), next="Nothing of it was kept; the text is still here."), 422
    found = compared(bench, capture.rows, CAPTURED, AT_ONCE, touched=True)
    keep, keep_name = _keep(bench, found)
    differences: list[Difference] = []
    if found:
        more = [*passes(bench, capture, found)[0], *resets(bench, found)]
        differences = sorted([*found.differences, *more], key=lambda one: one.at_us)
    html = render_template(
        "fragments/captured.html", capture=capture, signals=signals_of(bench), found=found, keep=keep, first=FIRST,
        keep_name=keep_name, many=len(differences), differences=differences[:FOUND],
        ppm=clock_of(list(found.spans)) if found else None, waits=len(found.spans) if found else 0,
        unsure_ppm=unsure_ppm(capture, found),
        recording=recordings().get(recording) if recording else None, bounces=_bounces(bench, capture),
        causes=[(one.words, patched(one.patch)) for one in causes(bench, capture, found)],
    )  # fmt: skip
    return jsonify(html=html, laid=_laid(bench, found))


def _of_recording(bench_id: int, number: int, body: dict[str, Any]) -> Any:
    said = body.get("channels")
    try:
        part = part_of(number, body)
    except NoRecording:
        return jsonify(error="That capture is no longer here.", next="Drop the file again."), 404
    except EdgesError as error:
        return jsonify(error=str(error), next=""), 422
    return _captured(benches().head(bench_id).bench, part, said if isinstance(said, dict) else {}, number)


def _arrivals(text: str, told: Any) -> dict[int, float]:
    """When each line came, µs, by its number: as the page wrote it down (ms), or as the terminal did before it."""
    if isinstance(told, list):
        return {n: at * 1000.0 for n, at in enumerate(told, 1) if isinstance(at, int | float)}
    return arrivals(text)


@telling.post("/api/benches/<int:bench_id>/told")
def told(bench_id: int) -> Any:
    """`{"text", "channels", "arrived"}`: the lines that the board printed, or a capture of its pins, what the person
    takes its channels for, when each line came (ms); or a part of a long one, `{"recording", "from_us", "to_us",
    "channels"}`. Stores nothing; answers what it says, as drawn."""
    looks_only()
    body = request.get_json(silent=True)
    body = body if isinstance(body, dict) else {}
    if isinstance(number := body.get("recording"), int):
        return _of_recording(bench_id, number, body)
    text = body.get("text")
    if not isinstance(text, str):
        return jsonify(error="Nothing to read came.", next="Paste the lines that the board printed."), 400
    if len(text) > MOST_TEXT:
        sentence = f"That is {len(text) / 1e6:.1f} million characters; 2 million are read at a time."
        return jsonify(error=sentence, next="Paste the part that matters: nothing of it was kept."), 413
    bench = benches().head(bench_id).bench
    if is_capture(text):
        said = body.get("channels")
        return _captured(bench, text, said if isinstance(said, dict) else {})
    read = read_lines(text, bench)
    found = compared(bench, read.rows, NAME, AT_ONCE)
    drift = drift_of(read, _arrivals(text, body.get("arrived")))
    differences = [*started_anew(read), *(found.differences if found else ())]
    zero_us = bench.the_board.start_up_us
    rows = [(row, zero_us + row.at_us, in_words(bench, row.what, row.of, row.value)) for row in read.rows[:SHOWN]]
    keep, keep_name = _keep(bench, found)
    html = render_template(
        "fragments/told.html", read=read, rows=rows, found=found, keep=keep, traces=bench.firmware.serial.traces,
        differences=differences[:FOUND], many=len(differences), first=FIRST, keep_name=keep_name, drift=drift,
        causes=[one.words for one in trace_causes(bench, read, drift)],
    )  # fmt: skip
    return jsonify(html=html, laid=_laid(bench, found))
