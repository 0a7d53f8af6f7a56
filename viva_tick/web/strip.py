"""The strip: which lanes there are, and what a window of them shows, no finer than the screen."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.document import Bench
from ..core.engine import Kind, Run, Signal
from ..core.timing import Answers
from ..core.units import ms

BUSY = "*"  # more changes than a column of the screen can show


@dataclass(frozen=True)
class Lane:
    """One lane: what it is called, what kind of drawing it needs, and whether it shows only when asked for."""

    id: str
    kind: str
    of: str
    title: str
    note: str
    extra: bool = False


def lanes(bench: Bench, said: Answers, chosen: str | None = None) -> list[Lane]:
    """The lanes of a bench in the order contacts, machines, outputs, loop; the chosen input's come first."""
    found: list[Lane] = []
    for part in sorted(bench.contacts, key=lambda part: part.id != chosen):
        found.append(Lane(f"contact {part.id}", "contact", part.id, part.name, f"contact · {part.pin}"))
        found.append(Lane(f"level {part.id}", "level", part.id, part.name, f"level at {part.pin}", extra=True))
        found.append(Lane(f"reading {part.id}", "reading", part.id, part.name, "as the firmware read it", extra=True))
        found.append(Lane(f"cleaned {part.id}", "cleaned", part.id, part.name, "cleaned"))
    for machine in bench.firmware.machines:
        found.append(Lane(f"state {machine.id}", "state", machine.id, machine.name, "machine"))
    for driven in bench.channels:
        found.append(
            Lane(f"output {driven.id}", "output", driven.id, driven.name, f"{driven.pin} · on is {driven.active_level}")
        )
    found.append(Lane("loop", "loop", "", "Loop", f"longest pass {ms(said.longest_pass_us)}"))
    if bench.firmware.watchdog.mode == "reset":
        found.append(Lane("watchdog", "watchdog", "", "Watchdog", f"bites at {ms(bench.firmware.watchdog.timeout_us)}"))
    return found


_ARRAYS: dict[tuple[str, str, str], NDArray[np.int64]] = {}


def _array(key: str, signal: Signal, what: str = "time") -> NDArray[np.int64]:
    """The times, or the lengths of the passes, of a signal of a run: made once."""
    name = (key, f"{what} {signal.kind}", signal.of)
    found = _ARRAYS.get(name)
    if found is None:
        if len(_ARRAYS) > 400:
            _ARRAYS.clear()
        rows = signal.times_us if what == "time" else [value[0] for value in signal.values]
        found = _ARRAYS[name] = np.array(rows, dtype=np.int64)
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
    kept = [span for span in spans if span[0] <= to_us and span[1] >= from_us]
    return kept if len(kept) <= most else sorted(kept, key=lambda span: span[0] - span[1])[:most]


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
                    "resets": trace.signal(Kind.RESET).times_us,
                }
            case "cleaned":
                shown[name] = changes(key, trace.signal(Kind.CLEANED, of), from_us, to_us, columns)
                shown[name]["waits"] = _inside(waits(run, of), from_us, to_us, columns)
                shown[name]["events"] = changes(key, trace.signal(Kind.EVENT, of), from_us, to_us, columns)
            case _:
                shown[name] = changes(key, trace.signal(Kind(kind), of), from_us, to_us, columns)
    return shown


MOST_COLUMNS = 6000


def run_window(key: str, run: Run, names: list[str], from_us: int, to_us: int, columns: int) -> dict[str, Any]:
    """A window as it goes to the browser: lanes by id, unknown ones left out, numbers kept in bounds."""
    length_us = run.trace.length_us
    from_us = max(0, from_us)
    to_us = min(length_us, to_us)
    columns = min(max(columns, 1), MOST_COLUMNS)
    known = {(str(signal.kind), signal.of) for signal in run.trace.signals} | {("loop", ""), ("watchdog", "")}
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
