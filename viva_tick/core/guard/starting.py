"""From power-on, and from each reset, to the first pass: what every output does, and what is remembered."""

from __future__ import annotations

from dataclasses import dataclass

from ..cautions import hurts
from ..document import Bench, Keep
from ..engine import Kind, Run

DAY_S = 86_400


@dataclass(frozen=True)
class Phase:
    """A stretch of a start: what it is called, from when to when, µs from power-on or reset."""

    name: str
    from_us: int
    to_us: int


@dataclass(frozen=True)
class Start:
    """An output's way through a start: for each phase "on", "off" or "floats"; `hurts` where it can."""

    output: str
    name: str
    levels: tuple[str, ...]
    hurts: bool

    @property
    def unsafe(self) -> bool:
        """Whether something that can hurt is on, or floats, at any time of it."""
        return self.hurts and any(level != "off" for level in self.levels)


def phases(bench: Bench) -> tuple[Phase, ...]:
    """Start-up, set-up, the first pass."""
    board = bench.the_board
    ready_us = board.start_up_us + board.set_up_us
    return (
        Phase("start-up", 0, board.start_up_us),
        Phase("set-up", board.start_up_us, ready_us),
        Phase("first pass", ready_us, ready_us + max(ready_us // 8, 1)),
    )


def starts(bench: Bench, run: Run, began_us: int, ready_us: int) -> list[Start]:
    """Each output through the boot of a run that began at `began_us` and was set up at `ready_us`."""
    passes = run.trace.signal(Kind.PASS)
    first_us = next(
        (at + value[0] for at, value in zip(passes.times_us, passes.values, strict=True) if at >= ready_us), ready_us
    )
    words = {1: "on", 0: "off", -1: "floats"}
    found = []
    for channel in bench.channels:
        signal = run.trace.signal(Kind.OUTPUT, channel.id)
        rows = list(zip(signal.times_us, signal.values, strict=True))

        def at(instant_us: int, rows: list[tuple[int, int]] = rows) -> str:
            value = [value for time_us, value in rows if time_us <= instant_us]
            return words[value[-1]] if value else "floats"

        # Set-up writes the pin as its last deed: what it is before that is what nothing drives.
        levels = (at(began_us), at(max(ready_us - 1, began_us)), at(first_us))
        found.append(Start(channel.id, channel.name, levels, hurts(channel)))
    return found


def save_us(bench: Bench) -> int:
    """How long the watchdog's interrupt writes what is kept when it calls."""
    store = bench.the_board.store
    called = [keep for keep in bench.firmware.keeps if keep.when == "interrupt"]
    write_us = store.write_us if store else 0
    return sum(bench.kept_bytes(keep.of) * write_us if keep.where == "store" else 1 for keep in called)


@dataclass(frozen=True)
class Wear:
    """Something kept where writing wears: writes a day, and the years until a cell has had what it stands."""

    keep: Keep
    a_day: float
    years: float | None


def writes_a_day(bench: Bench, keep: Keep, run: Run | None) -> float:
    """How often it is written, at the run's own rate where that decides it."""
    if run is None and keep.when == "every":  # nothing says how often it differs
        return DAY_S * 1e6 / keep.every_us
    if keep.when == "interrupt" or run is None or not run.trace.length_us:
        return 0.0
    try:
        writes = run.trace.signal(Kind.WRITE)
    except KeyError:
        return 0.0
    return float(writes.values.count(keep.of) * DAY_S * 1e6 / run.trace.length_us)


def wear(bench: Bench, run: Run | None) -> list[Wear]:
    """Everything that is kept in the store."""
    store = bench.the_board.store
    found = []
    for keep in bench.firmware.keeps:
        if keep.where == "store":
            a_day = writes_a_day(bench, keep, run)
            years = store.wears / a_day / 365.25 if store and a_day else None
            found.append(Wear(keep, a_day, years))
    return found
