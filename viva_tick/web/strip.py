"""The strip: which lanes there are, and what a window of them shows, no finer than the screen."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.at_hand import AtHand
from ..core.document import HEARD, Bench, Measure
from ..core.document.parts import Analogue, Encoder, KeyMatrix, Sensed
from ..core.electrics import falls, mv_of, said_in, threshold_counts
from ..core.engine import Kind, Run, Signal, Trace
from ..core.timing import Answers
from ..core.units import ms, short

BUSY = "*"  # more changes than a column of the screen can show


@dataclass(frozen=True)
class Lane:
    """One lane: what it is called, what kind of drawing it needs, whether it shows only when asked for, and whether
    nothing happens in it."""

    id: str
    kind: str
    of: str
    title: str
    note: str
    extra: bool = False
    quiet: bool = False


def lanes(
    bench: Bench,
    said: Answers,
    chosen: str | None = None,
    machine: str | None = None,
    first: frozenset[str] = frozenset(),
) -> list[Lane]:
    """The lanes of a bench: the chosen input's come first, or those of what a machine hears, its own, and those of what
    it drives; or those of what is `first`. Then the outputs, then contacts, machines, variables, loop, tasks."""
    found = _all_lanes(bench, said, chosen)
    mine = first or (_of_machine(bench, machine) if machine else {chosen})

    def rank(lane: Lane) -> int:
        if lane.of in mine or ("." in lane.of and lane.of.rpartition(".")[0] in mine):
            return 0
        return 1 if lane.kind in ("output", "text", "angle") else 2

    return sorted(found, key=rank)


def _of_machine(bench: Bench, ident: str) -> set[str]:
    """What a machine has to do with, by id."""
    machine = next((one for one in bench.firmware.machines if one.id == ident), None)
    if machine is None:
        return set()
    text = machine.model_dump_json()
    numbers = {one.id for one in bench.firmware.variables if f'"{one.id}"' in text}
    heard = {transition.on.input for transition in machine.transitions if isinstance(transition.on, HEARD)} - {""}
    looked = {str(getattr(guard, "input", "")) for transition in machine.transitions for guard in transition.guards} - {
        ""
    }
    return {ident, *numbers, *heard, *looked, *bench.driven_by(machine)}


def _all_lanes(bench: Bench, said: Answers, chosen: str | None) -> list[Lane]:
    found: list[Lane] = []
    sensed = [lane for _, part in bench.sensed for lane in _sensed_lanes(bench, part)]
    found += [lane for lane in sensed if lane.of.split(".")[0] == chosen]
    for part in sorted(bench.contacts, key=lambda part: part.id != chosen):
        found.append(Lane(f"cleaned {part.id}", "cleaned", part.id, part.name, part.pin))
        found.append(Lane(f"contact {part.id}", "contact", part.id, part.name, "its metal", extra=True))
        found.append(Lane(f"level {part.id}", "level", part.id, part.name, f"level at {part.pin}", extra=True))
        found.append(Lane(f"reading {part.id}", "reading", part.id, part.name, "as it was read", extra=True))
    found += [lane for lane in sensed if lane not in found]
    for machine in bench.firmware.machines:
        found.append(Lane(f"state {machine.id}", "state", machine.id, machine.name, ""))
    for one in bench.firmware.variables:
        found.append(Lane(f"value {one.id}", "value", one.id, one.name, f"{one.least} to {one.most}"))
    for driven in bench.channels:
        found.append(Lane(f"output {driven.id}", "output", driven.id, driven.name, driven.pin))
    driven_too = {ident for machine in bench.firmware.machines for ident in bench.driven_by(machine)}
    for servo in bench.servos:
        if servo.id in driven_too:
            found.append(Lane(f"angle {servo.id}", "angle", servo.id, servo.name, "degrees"))
    for line in bench.text_lines:
        if line.id in driven_too:
            found.append(Lane(f"text {line.id}", "text", line.id, line.name, "text"))
    found.append(Lane("loop", "loop", "", "Loop", f"{ms(said.longest_pass_us)} at most"))
    for task in bench.firmware.tasks:
        late = said.jobs[task.id].late_us if task.id in said.jobs else 0
        words = f"late {ms(late)}" if late >= 1000 else f"every {ms(task.period_us)}"
        found.append(Lane(f"job {task.id}", "job", task.id, task.name, words))
    between = bench.firmware.kernel.between
    if bench.firmware.school == "kernel" and between.used:
        found += [
            Lane(f"stands {one.id}", "stands", one.id, one.name, f"priority {one.priority}") for one in between.bodies
        ]
        found += [Lane(f"fill {one.id}", "fill", one.id, one.name, f"room for {one.length}") for one in between.queues]
    if bench.firmware.watchdog.on:
        found.append(Lane("watchdog", "watchdog", "", "Watchdog", f"at {ms(bench.firmware.watchdog.timeout_us)}"))
    return found


def _sensed_lanes(bench: Bench, part: Sensed) -> list[Lane]:
    """The lanes of an input that is more than a contact: what happens to it, then what the firmware makes of it."""
    if part.id not in bench.firmware.readings:
        return []
    if isinstance(part, Encoder):
        ends = [
            Lane(f"contact {part.id}.{end}", "contact", f"{part.id}.{end}", part.name, f"{end.upper()} · {pin}")
            for end, pin in (("a", part.a), ("b", part.b))
        ]
        return [*ends, Lane(f"count {part.id}", "count", part.id, part.name, "steps counted")]
    if isinstance(part, Analogue):
        return [
            Lane(f"measure {part.id}", "measure", part.id, part.name, f"counts · {part.pin}"),
            Lane(f"crossing {part.id}", "crossing", part.id, part.name, "above?"),
            *(
                Lane(f"crossing {part.id}.{of}", "crossing", f"{part.id}.{of}", part.name, f"above {name}?")
                for (ident, of), name in bench.mark_names.items()
                if ident == part.id
            ),
        ]
    if isinstance(part, KeyMatrix):
        return [
            Lane(f"held {part.id}", "held", part.id, part.name, "held"),
            Lane(f"keyed {part.id}", "keyed", part.id, part.name, "as it was read"),
        ]
    return [
        Lane(f"sent {part.id}", "sent", part.id, part.name, "sent"),
        Lane(f"heard {part.id}", "heard", part.id, part.name, "understood"),
    ]


# Where something happens in a lane, by its kind: its signals change after the boot, or have anything in them at all.
_MOVES = (Kind.CONTACT, Kind.CLEANED)
CHANGES = {
    **dict.fromkeys(("cleaned", "contact", "level", "reading"), _MOVES),
    "state": (Kind.STATE,), "value": (Kind.VALUE,), "output": (Kind.OUTPUT,), "measure": (Kind.MADE,),
    "crossing": (Kind.CLEANED,), "text": (Kind.TEXT,), "angle": (Kind.ANGLE,), "fill": (Kind.FILL,),
    "stands": (Kind.STANDS,), "held": (Kind.MADE,),
    "sent": (Kind.MADE,),
}  # fmt: skip
HOLDS = {"count": (Kind.EVENT,), "keyed": (Kind.EVENT,), "heard": (Kind.EVENT,), "job": (Kind.JOB,)}


def is_quiet(lane: Lane, run: Run, timeout_us: int, longest_us: int) -> bool:
    """Whether nothing happens in a lane of a run: it stays as it is, from set-up to the end."""
    trace = run.trace
    if lane.kind == "watchdog":
        acts = any(one.times_us for one in trace.signals if one.kind in (Kind.RESET, Kind.BARK))
        return not acts and longest_us * 10 < timeout_us
    found = [one for one in trace.signals if one.of == lane.of]
    for one in found:
        if one.kind in CHANGES.get(lane.kind, ()) and len({repr(v) for v in one.values if v not in (None, -1)}) > 1:
            return False
        if one.kind in HOLDS.get(lane.kind, ()) and one.values:
            return False
        if lane.kind == "output" and one.kind in (Kind.DUTY, Kind.PITCH) and len(one.values) > 1:
            return False
    return lane.kind in CHANGES or lane.kind in HOLDS


def scales(bench: Bench, run: Run) -> dict[str, list[int]]:
    """For each lane of counts what is at its foot and at its top, and its thresholds where it has them. Up is more of
    what is measured: where the counts fall with it, the most counts are at the foot."""
    found: dict[str, list[int]] = {one.id: [one.least, one.most] for one in bench.firmware.variables}
    found |= {servo.id: [0, 180] for servo in bench.servos}
    found |= {queue.id: [0, queue.length] for queue in bench.firmware.kernel.between.queues}
    for _, part in bench.sensed:
        reading = bench.firmware.readings.get(part.id)
        if isinstance(part, Analogue) and isinstance(reading, Measure):
            values = run.trace.signal(Kind.SAMPLE, part.id).values
            pairs = [threshold_counts(part, pair, bench.the_board)[:2] for pair in reading.pairs.values()]
            lines = [count for pair in pairs for count in pair]
            ends = sorted((min([*values, *lines]), max([*values, *lines])), reverse=falls(part, bench.the_board))
            found[part.id] = [*ends, *lines]
        elif isinstance(part, Encoder) and reading:
            values = run.trace.signal(Kind.COUNT, part.id).values
            found[part.id] = [min([*values, 0]), max([*values, 1])]
    return found


def span_words(bench: Bench, part: Analogue, run: Run) -> str:
    """From where to where a sensor went in a run, in its own unit: “18.2 to 24.1 °C”."""
    values = run.trace.signal(Kind.SAMPLE, part.id).values
    ends = [mv_of(count, bench.the_board) for count in (min(values, default=0), max(values, default=0))]
    if not values or None in ends:
        return ""
    low, high = sorted(said_in(part, bench.the_board, "own", at_mv or 0.0) for at_mv in ends)
    return f"{short(low, 3)} to {short(high, 3)} {getattr(part, 'unit', '')}".rstrip()


def curve(key: str, signal: Signal, from_us: int, to_us: int, columns: int) -> dict[str, list[Any]]:
    """Numbers over time: all of them, or of each column the least and the most, in that order."""
    times, values = signal.times_us, signal.values
    first = max(bisect_right(times, from_us) - 1, 0)
    end = min(bisect_right(times, to_us) + 1, len(times))
    if end - first <= 3 * columns:
        return {"t": times[first:end], "v": values[first:end]}
    edges = np.linspace(from_us, to_us, columns + 1)
    places = np.clip(np.searchsorted(_array(key, signal), edges), first, end)
    t: list[int] = []
    v: list[int] = []
    for begin, stop in zip(places[:-1].tolist(), places[1:].tolist(), strict=True):
        if begin < stop:
            t += [times[begin], times[begin]]
            v += [min(values[begin:stop]), max(values[begin:stop])]
    return {"t": t, "v": v}


_ARRAYS: AtHand[tuple[str, str, str], NDArray[np.int64]] = AtHand(400)


def _array(key: str, signal: Signal, what: str = "time") -> NDArray[np.int64]:
    """The times, or the lengths of the passes, of a signal of a run: made once."""
    name = (key, f"{what} {signal.kind}", signal.of)
    found = _ARRAYS.get(name)
    if found is None:
        rows = signal.times_us if what == "time" else [value[0] for value in signal.values]
        found = _ARRAYS.put(name, np.array(rows, dtype=np.int64))
    return found


def changes(key: str, signal: Signal, from_us: int, to_us: int, columns: int) -> dict[str, list[Any]]:
    """The signal from `from_us` to `to_us`: `t` and `v`, the value at the beginning included. Where more than two
    changes share a column, the column is BUSY and then what it ended with."""
    times, values = signal.times_us, signal.values
    first = max(bisect_right(times, from_us) - 1, 0)
    end = bisect_right(times, to_us)
    if end - first <= 2 * columns:
        return {"t": times[first:end], "v": values[first:end]}
    edges = np.linspace(from_us, to_us, columns + 1)
    places = np.searchsorted(_array(key, signal), edges, side="left")
    t: list[int] = [times[first]]
    v: list[Any] = [values[first]]
    for column, (begin, stop) in enumerate(zip(places[:-1].tolist(), places[1:].tolist(), strict=True)):
        if stop - begin > 2:
            if len(v) > 1 and v[-2] == BUSY and t[-1] == int(edges[column]):
                t[-1], v[-1] = int(edges[column + 1]), values[stop - 1]  # busy columns side by side are one
                continue
            t += [int(edges[column]), int(edges[column + 1])]
            v += [BUSY, values[stop - 1]]
        else:
            t += times[begin:stop]
            v += values[begin:stop]
    return {"t": t, "v": v}


def pass_runs(key: str, signal: Signal, from_us: int, to_us: int, columns: int) -> list[list[int]]:
    """Runs of equal passes that touch the window, as (start, length, count); the longest pass of each column where
    there are more than the screen can show."""
    times, values = signal.times_us, signal.values
    first = max(bisect_right(times, from_us) - 1, 0)
    end = bisect_right(times, to_us)
    if end - first <= 2 * columns:
        return [[times[place], *values[place]] for place in range(first, end)]
    lengths = _array(key, signal, "length")
    edges = np.linspace(from_us, to_us, columns + 1)[:-1]
    begins = np.unique(np.clip(np.searchsorted(_array(key, signal), edges), first, end - 1))
    stops = [*begins[1:].tolist(), end]
    places = [begin + int(lengths[begin:stop].argmax()) for begin, stop in zip(begins.tolist(), stops, strict=True)]
    return [[times[place], *values[place]] for place in places]


def waits(run: Run, part: str) -> list[tuple[int, int]]:
    """From each move of the part to when the cleaned level followed it: the time that the firmware doubted."""
    cleaned = run.trace.signal(Kind.CLEANED, part)
    spans = []
    for move in run.moves[part]:
        place = bisect_left(cleaned.times_us, move.at_us)
        if place < len(cleaned.times_us) and cleaned.values[place] == (1 if move.pressed else 0):
            spans.append((move.at_us, cleaned.times_us[place]))
    return spans


def _inside(spans: list[Any], from_us: int, to_us: int, most: int) -> list[Any]:
    """The spans that touch the window; of more than it has columns, the longest that begins in each."""
    kept = [span for span in spans if span[0] <= to_us and span[1] >= from_us]
    if len(kept) <= most:
        return kept
    longest: dict[int, Any] = {}
    for span in kept:
        column = max(span[0] - from_us, 0) * most // max(to_us - from_us, 1)
        if column not in longest or span[1] - span[0] > longest[column][1] - longest[column][0]:
            longest[column] = span
    return list(longest.values())


def _rows(signal: Signal) -> list[tuple[int, Any]]:
    return list(zip(signal.times_us, signal.values, strict=True))


def window(
    key: str, bench_lanes: list[tuple[str, str]], run: Run, from_us: int, to_us: int, columns: int
) -> dict[str, Any]:
    """What each lane, given as (kind, of), shows between two instants, by lane id."""
    trace = run.trace
    shown: dict[str, Any] = {}
    for kind, of in bench_lanes:
        name = f"{kind} {of}".strip()
        match kind:
            case "loop" | "watchdog":
                blocked = trace.signal(Kind.BLOCKED)
                spans = [[at, at + v[0], v[1]] for at, v in zip(blocked.times_us, blocked.values, strict=True)]
                shown[name] = {
                    "runs": pass_runs(key, trace.signal(Kind.PASS), from_us, to_us, columns),
                    "blocked": _inside(spans, from_us, to_us, columns),
                    "resets": _rows(trace.signal(Kind.RESET)),
                    "barks": [at for signal in trace.signals if signal.kind is Kind.BARK for at in signal.times_us],
                }
            case "job":
                jobs = [[at, at + v[0], v[1]] for at, v in _rows(trace.signal(Kind.JOB, of))]
                shown[name] = {"t": [], "v": [], "jobs": _inside(jobs, from_us, to_us, columns)}
            case "measure":
                shown[name] = curve(key, trace.signal(Kind.SAMPLE, of), from_us, to_us, columns)
                shown[name]["smooth"] = curve(key, trace.signal(Kind.SMOOTH, of), from_us, to_us, columns)
            case "count":
                shown[name] = curve(key, trace.signal(Kind.COUNT, of), from_us, to_us, columns)
                shown[name]["events"] = changes(key, trace.signal(Kind.EVENT, of), from_us, to_us, columns)
            case "crossing" | "keyed":
                shown[name] = changes(key, trace.signal(Kind.CLEANED, of), from_us, to_us, columns)
                shown[name]["events"] = changes(key, _of_mark(trace, of), from_us, to_us, columns)
                shown[name]["waits"] = []
            case "angle":
                shown[name] = curve(key, trace.signal(Kind.ANGLE, of), from_us, to_us, columns)
            case "fill":
                shown[name] = curve(key, trace.signal(Kind.FILL, of), from_us, to_us, columns)
            case "value":
                shown[name] = curve(key, trace.signal(Kind.VALUE, of), from_us, to_us, columns)
            case "output":
                shown[name] = changes(key, trace.signal(Kind.OUTPUT, of), from_us, to_us, columns)
                if dims := next((one for one in trace.signals if (one.kind, one.of) == (Kind.DUTY, of)), None):
                    shown[name]["duty"] = curve(key, dims, from_us, to_us, columns)
            case "held" | "sent":
                shown[name] = changes(key, trace.signal(Kind.MADE, of), from_us, to_us, columns)
            case "heard":
                shown[name] = changes(key, trace.signal(Kind.EVENT, of), from_us, to_us, columns)
            case "cleaned":
                shown[name] = changes(key, trace.signal(Kind.CLEANED, of), from_us, to_us, columns)
                shown[name]["metal"] = changes(key, trace.signal(Kind.CONTACT, of), from_us, to_us, columns)
                shown[name]["waits"] = _inside(waits(run, of), from_us, to_us, columns)
                shown[name]["events"] = changes(key, trace.signal(Kind.EVENT, of), from_us, to_us, columns)
            case _:
                shown[name] = changes(key, trace.signal(Kind(kind), of), from_us, to_us, columns)
    return shown


def _of_mark(trace: Trace, of: str) -> Signal:
    """The events of an input, or of one of its marks, which have its name after them."""
    if (Kind.EVENT, of) in trace:
        found = trace.signal(Kind.EVENT, of)
        marks = any(str(what).startswith(("above ", "below ")) for what in found.values)
        keep = [what.partition(" ")[0] not in ("above", "below") or " " not in what for what in found.values]
        return _kept(found, keep, "first") if marks else found
    ident, _, mark = of.partition(".")
    found = trace.signal(Kind.EVENT, ident)
    return _kept(found, [what.partition(" ")[2] == mark for what in found.values], mark)


def _kept(signal: Signal, keep: list[bool], of: str) -> Signal:
    """Those of its values that are kept, the marks' names taken off."""
    rows = [(at, v) for at, v, kept in zip(signal.times_us, signal.values, keep, strict=True) if kept]
    # A name of its own: arrays are kept by it.
    return Signal(signal.kind, f"{signal.of} {of}", [at for at, _ in rows], [str(v).partition(" ")[0] for _, v in rows])


MOST_COLUMNS = 6000
SHOWN_AS = {"sample": ("measure",), "cleaned": ("crossing", "keyed"), "made": ("held", "sent"), "event": ("heard",)}


def run_window(key: str, run: Run, names: list[str], from_us: int, to_us: int, columns: int) -> dict[str, Any]:
    """A window as it goes to the browser: lanes by id, unknown ones left out, numbers kept in bounds."""
    length_us = run.trace.length_us
    from_us = max(0, from_us)
    to_us = min(length_us, to_us)
    columns = min(max(columns, 1), MOST_COLUMNS)
    known = {(str(signal.kind), signal.of) for signal in run.trace.signals} | {("loop", ""), ("watchdog", "")}
    known |= {(lane, of) for kind, of in known for lane in SHOWN_AS.get(kind, ())}
    pairs = [(kind, of) for kind, _, of in (name.partition(" ") for name in names[:200])]
    wanted = [pair for pair in pairs if pair in known]
    shown = window(key, wanted, run, from_us, max(to_us, from_us), columns)
    return {"key": key, "from_us": from_us, "to_us": to_us, "columns": columns, "lanes": shown}


def events(run: Run, from_us: int, forward: bool) -> tuple[int, str, str] | None:
    """The next or previous event of any input: (instant, input, what)."""
    best: tuple[int, str, str] | None = None
    for signal in run.trace.signals:
        if signal.kind is not Kind.EVENT:
            continue
        place = bisect_right(signal.times_us, from_us) if forward else bisect_left(signal.times_us, from_us) - 1
        if 0 <= place < len(signal.times_us):
            found = (signal.times_us[place], signal.of, signal.values[place])
            if best is None or (found < best) == forward:
                best = found
    return best
