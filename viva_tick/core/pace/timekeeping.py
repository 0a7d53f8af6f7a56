"""How time is kept: across the wrap, in a narrow integer, by a tick, with a clock that is off."""

from __future__ import annotations

from dataclasses import dataclass

from ..clock import MASK, US_PER_MS, as_kept
from ..document import Bench, TimeoutEvent

WRAP_MS = MASK + 1  # 49 d 17 h 2 min 47.296 s
DAY_S = 86_400


def fires_since(now_ms: int, since_ms: int, wait_ms: int) -> bool:
    """now − since ≥ wait, unsigned: right across the wrap."""
    return (now_ms - since_ms) & MASK >= wait_ms


def fires_until(now_ms: int, since_ms: int, wait_ms: int) -> bool:
    """now ≥ since + wait, unsigned: wrong across the wrap."""
    return now_ms >= (since_ms + wait_ms) & MASK


@dataclass(frozen=True)
class WrapRow:
    """One instant of a wait that begins before the wrap: ms since it began, the counter, what each comparison says."""

    after_ms: int
    counter: int
    since: bool
    until: bool


def across_the_wrap(wait_ms: int, begins_before_ms: int) -> list[WrapRow]:
    """A wait that begins so long before the wrap, looked at in ten places."""
    since = (WRAP_MS - begins_before_ms) & MASK
    step = max(wait_ms // 8, 1)
    rows = []
    for after in [n * step for n in range(8)] + [wait_ms, wait_ms + step]:
        now = (since + after) & MASK
        rows.append(WrapRow(after, now, fires_since(now, since, wait_ms), fires_until(now, since, wait_ms)))
    return rows


@dataclass(frozen=True)
class Wait:
    """A wait of the bench as asked for and as it comes out, in ms; `what` and `pointer` say whose it is."""

    what: str
    pointer: str
    asked_ms: int
    kept_ms: int


def waits(bench: Bench) -> list[Wait]:
    """Every fixed wait of tasks and machines."""
    keeping = bench.firmware.timekeeping
    narrow, bits = keeping.product == "int", bench.the_board.int_bits
    found = []
    for number, task in enumerate(bench.firmware.tasks):
        asked = task.period_us // US_PER_MS
        found.append(Wait(task.name, f"/firmware/tasks/{number}/period_us", asked, as_kept(asked, narrow, bits)))
    for number, machine in enumerate(bench.firmware.machines):
        for place, way in enumerate(machine.transitions):
            if isinstance(way.on, TimeoutEvent) and way.on.variable is None:
                asked = way.on.after_us // US_PER_MS
                where = f"/firmware/machines/{number}/transitions/{place}/on/after_us"
                found.append(Wait(machine.name, where, asked, as_kept(asked, narrow, bits)))
    return found


def off_a_day_s(ppm: int) -> float:
    """How far a clock may be off after a day, in seconds, that is off by so many millionths."""
    return ppm * DAY_S / 1e6
