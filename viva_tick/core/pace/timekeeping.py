"""How time is kept: across the wrap, in a narrow integer, by a tick, with a clock that is off."""

from __future__ import annotations

from dataclasses import dataclass

from ..clock import MASK, US_PER_MS, as_kept
from ..debounce import METHODS
from ..document import Bench, TimeoutEvent, pointer

WRAP_MS = MASK + 1  # 49 d 17 h 2 min 47.296 s
DAY_S = 86_400
DRIVE_TIMES = ("on_us", "off_us", "length_us", "time_us", "rest_us")


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
        for place, transition in enumerate(machine.transitions):
            if isinstance(transition.on, TimeoutEvent) and transition.on.variable is None:
                asked = transition.on.after_us // US_PER_MS
                where = f"/firmware/machines/{number}/transitions/{place}/on/after_us"
                found.append(Wait(machine.name, where, asked, as_kept(asked, narrow, bits)))
    return found


@dataclass(frozen=True)
class Counted:
    """Something that the millisecond counter has to reach: whose it is, what it is, where, how long; `ends`: once it
    has, it is done."""

    name: str
    what: str
    pointer: str
    ms: int
    ends: bool = True


def counted(bench: Bench) -> list[Counted]:
    """Everything that stops while the counter stands still: waits of tasks and machines, drives, cleaning."""
    found = [Counted(wait.what, "waits", wait.pointer, wait.kept_ms) for wait in waits(bench)]
    for number, machine in enumerate(bench.firmware.machines):
        for steps, output, drive in bench.drives_of(machine):
            where = pointer("firmware", "machines", number, *steps)
            longest_us = max((getattr(drive, name, 0) or 0 for name in DRIVE_TIMES), default=0)
            if longest_us and not drive.blocks_us:
                name = bench.channel(output).name
                found.append(Counted(name, f"{drive.kind}s", where, longest_us // US_PER_MS, not drive.lasting))
    for line in bench.contacts:
        debounce = bench.debounce(line.id)
        method = METHODS[debounce.method]
        waits_for = method.statistic == "gap" or method.samples
        if waits_for and not method.blocks and debounce.interval_us:
            where = pointer("firmware", "debounce", line.id)
            found.append(Counted(line.name, "is accepted", where, debounce.interval_us // US_PER_MS))
    return found


def off_a_day_s(ppm: int) -> float:
    """How far a clock may be off after a day, in seconds, that is off by so many millionths."""
    return ppm * DAY_S / 1e6
