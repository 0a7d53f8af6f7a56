"""Hang tests: each fault of the library put into the scenario at many instants, and what becomes of the bench."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from ..cautions import hurts
from ..debounce import METHODS
from ..document import Bench, Keep, Measure, Scenario, bench_from_text, bench_text
from ..engine import HELD_BY, SUPPLY, Budget, Fault, FaultKind, Kind, Run, SkippingEngine
from ..spread import ALONE, Hands, spread

BUDGET = Budget(passes=150_000, changes=100_000)
MOST_CHANGES = 400_000  # of all runs of one fault
STORM_US = 1_000_000
PIECE = 5  # faults that are tried one after another
AFTER_US = 2_000_000  # a run with a fault goes on for so long after the scenario
RELAYS = ("relay", "relay-board", "solid-state")


@dataclass(frozen=True)
class FaultClass:
    """One of the library. `of` says what it befalls: "" (the firmware), "sensor", "handler", "contact", "relay"."""

    id: FaultKind
    title: str
    sentence: str
    of: str = ""


FAULTS: dict[str, FaultClass] = {
    one.id: one
    for one in (
        FaultClass("stuck", "A block never returns", "A wait for something that never comes."),
        FaultClass(
            "bus", "A sensor never answers", "Whoever samples waits for ever; a reset does not free it.", "sensor"
        ),
        FaultClass("starve", "A task starves the rest", "Passes so long that taps fall between two readings."),
        FaultClass("storm", "An interrupt storm", "It keeps the processor in a handler for 1 s.", "handler"),
        FaultClass("counter", "The counter stops", "The milliseconds no longer count: no time is ever up."),
        FaultClass("dip", "The supply dips", "A reset without warning; what memory held is gone."),
        FaultClass(
            "off", "A wire has come off", "A contact no longer closes; a sensor reads one end of its scale.", "wire"
        ),
        FaultClass("closed", "A contact stuck closed", "It touches, and no longer lets go.", "contact"),
        FaultClass("welded", "A contact welded", "The relay is left on whatever its pin says.", "relay"),
    )
}

VERDICTS = {
    "reset": "recovered by a reset",
    "by-itself": "went on by itself",
    "unnoticed": "fault undetected",
    "hangs": "hangs to the end",
    "boot-loop": "boots over and over",
    "outside": "out of the firmware's reach",
    "unmet": "no effect in this scenario",
    "too-late": "too near the end to tell",
}


@dataclass(frozen=True)
class OutputCourse:
    """What an output did after the fault: how long it stayed on because of it, in µs, and whether that was to the
    end of the run. Where the firmware hung or reset, staying on is counted from the fault; where it went on, from when
    it would have gone off."""

    id: str
    stayed_us: int
    for_good: bool


@dataclass(frozen=True)
class HangRun:
    """One fault at one instant. `recovered_us` is from the fault to the first pass that is as it should be, None where
    there is none; `resets` how often the board reset; `lost` what it no longer knew after that, `kept` what it did."""

    fault: Fault
    verdict: str
    recovered_us: int | None
    resets: int
    cause: str
    outputs: tuple[OutputCourse, ...]
    lost: tuple[str, ...]
    kept: tuple[str, ...]


@dataclass(frozen=True)
class HangRow:
    """All runs of one fault: the worst verdict, how many recovered, the slowest recovery, the longest that anything
    that can hurt stayed on after it (its name, µs, whether to the end of the run), the run that shows the worst, and
    how many were tried; `runs` are those that say something."""

    fault: FaultClass
    of: str
    name: str
    runs: int
    recovered: int
    slowest_us: int | None
    verdict: str
    stayed: tuple[str, int, bool] | None
    lost: tuple[str, ...]
    kept: tuple[str, ...]
    worst: HangRun
    tried: int


Befallen = tuple[str, str]  # id and name
NOTHING: list[Befallen] = [("", "")]


def _sensors(bench: Bench) -> list[Befallen]:
    """The sensors that are sampled, and the tasks that sample one."""
    read = bench.firmware.readings
    found = [(part.id, part.name) for _, part in bench.sensed if isinstance(read.get(part.id), Measure)]
    return found + [(task.id, task.name) for task in bench.firmware.tasks if task.does == "sample"]


def _handlers(bench: Bench) -> list[Befallen]:
    """What calls a handler; on a bench that has none of its own, one nobody knows of."""
    found = [
        (line.id, line.name) for line in bench.contacts if METHODS[bench.debounce(line.id).method].by == "interrupt"
    ]
    read = bench.firmware.readings
    found += [(part.id, part.name) for _, part in bench.encoders if part.read_by == "interrupt" and part.id in read]
    return found or NOTHING


BEFALLS: dict[str, Callable[[Bench], list[Befallen]]] = {
    "": lambda bench: NOTHING,
    "sensor": _sensors,
    "handler": _handlers,
    "contact": lambda bench: [(line.id, line.name) for line in bench.contacts],
    "wire": lambda bench: [
        *((line.id, line.name) for line in bench.contacts),
        *(
            (part.id, part.name)
            for _, part in bench.sensed
            if isinstance(bench.firmware.readings.get(part.id), Measure)
        ),
    ],
    "relay": lambda bench: [(channel.id, channel.name) for channel in bench.channels if channel.kind in RELAYS],
}


def faults_of(bench: Bench) -> list[tuple[FaultClass, str, str]]:
    """(fault, of, its name) of everything that can befall a bench."""
    return [(one, of, name) for one in FAULTS.values() for of, name in BEFALLS[one.of](bench)]


def fault_at(bench: Bench, kind: FaultKind, of: str, at_us: int) -> Fault:
    """The fault with what belongs to it: a storm passes, a starved pass is just short of the watchdog's timeout."""
    if kind == "storm":
        return Fault(kind, at_us, of, for_us=STORM_US)
    if kind == "starve":
        watchdog = bench.firmware.watchdog
        return Fault(kind, at_us, of, by_us=watchdog.timeout_us * 8 // 10 if watchdog.on else 200_000)
    return Fault(kind, at_us, of)


def instants(bench: Bench, scenario: Scenario, many: int) -> list[int]:
    """So many instants spread over a scenario, from when set-up is done, a little off every round number."""
    ready_us = bench.the_board.start_up_us + bench.the_board.set_up_us
    room_us = max(scenario.length_us - ready_us, 0)
    return [ready_us + (2 * n + 1) * room_us // (2 * many) + 137 * n % 1000 for n in range(many)]


def _is_on(run: Run, of: str, at_us: int) -> bool:
    signal = run.trace.signal(Kind.OUTPUT, of)
    place = bisect_right(signal.times_us, at_us) - 1
    return place >= 0 and signal.values[place] == 1


def _stayed_us(run: Run, of: str, from_us: int) -> int:
    """How long an output that is on at an instant stays on from there."""
    if not _is_on(run, of, from_us):
        return 0
    signal = run.trace.signal(Kind.OUTPUT, of)
    place = bisect_right(signal.times_us, from_us)
    while place < len(signal.times_us) and signal.values[place] == 1:
        place += 1
    return (signal.times_us[place] if place < len(signal.times_us) else run.trace.length_us) - from_us


def _last(run: Run, kind: Kind, of: str, at_us: int) -> object:
    signal = run.trace.signal(kind, of)
    place = bisect_right(signal.times_us, at_us) - 1
    return signal.values[place] if place >= 0 else None


def _memory(bench: Bench, run: Run, reset_us: int, ready_us: int, cause: str) -> tuple[list[str], list[str]]:
    """(lost, kept) of what the firmware knew before a reset, by name: numbers and states that it boots without."""
    lost, kept = [], []
    rows = [(Kind.VALUE, one.id, one.name) for one in bench.firmware.variables]
    rows += [(Kind.STATE, machine.id, machine.name) for machine in bench.firmware.machines]
    for kind, of, name in rows:
        before = _last(run, kind, of, reset_us - 1)
        after = _last(run, kind, of, ready_us)
        if before is None:
            continue
        if before == after and any(_survives(keep, of, cause) for keep in bench.firmware.keeps):
            kept.append(name)
        elif before != after:
            lost.append(name)
    return lost, kept


def _survives(keep: Keep, of: str, cause: str) -> bool:
    return keep.of == of and (keep.where == "store" or cause not in SUPPLY)


def _held_us(run: Run, fault: Fault) -> tuple[int, int] | None:
    """From when to when the fault held the pass, at its last; None where it did not."""
    blocked = run.trace.signal(Kind.BLOCKED)
    found = [
        (at_us, at_us + length_us)
        for at_us, (length_us, what) in zip(blocked.times_us, blocked.values, strict=True)
        if what == HELD_BY.get(fault.kind)
    ]
    return found[-1] if found else None


def judge_run(bench: Bench, fault: Fault, run: Run, healthy: Run) -> HangRun:
    """What became of the bench."""
    resets = run.trace.signal(Kind.RESET)
    after = [(at, cause) for at, cause in zip(resets.times_us, resets.values, strict=True) if at >= fault.at_us]
    own = [one for one in after if one[1] == "watchdog"]
    ends_us = run.trace.length_us
    verdict, recovered_us = "unnoticed", None
    held = _held_us(run, fault)
    if fault.kind in ("closed", "off", "welded"):
        verdict = "outside"
    elif fault.kind == "bus" and held is None:
        verdict = "unmet"
    elif after:
        ready_us = next((ready for began, ready in run.boots if began >= after[-1][0]), None)
        # It would have bitten again by now if it still did.
        again = len(own) > 2 and ends_us - own[-1][0] < 1.5 * (own[-1][0] - own[-2][0])
        if again or (len(own) > 1 and ready_us is None):
            verdict = "boot-loop"
        elif ready_us is not None and ready_us < ends_us:
            verdict, recovered_us = "reset", ready_us - fault.at_us
        else:  # the run ended while it started again
            verdict = "reset" if fault.kind == "dip" else "too-late"
    elif held is not None and fault.kind != "starve":
        over_us = held[1]
        verdict, recovered_us = ("by-itself", over_us - fault.at_us) if over_us < ends_us else ("hangs", None)
        if verdict == "hangs" and bench.firmware.guards and ends_us - fault.at_us < _acts_within_us(bench):
            verdict = "too-late"
    lost: list[str] = []
    kept: list[str] = []
    if after:
        ready_us = next((ready for began, ready in run.boots if began >= after[0][0]), ends_us)
        lost, kept = _memory(bench, run, after[0][0], ready_us, after[0][1])
    # What goes on as if nothing were is held against what it would have done.
    usual = {
        channel.id: 0 if after or verdict == "hangs" else _stayed_us(healthy, channel.id, fault.at_us)
        for channel in bench.channels
    }
    outputs = tuple(
        OutputCourse(
            channel.id,
            max(_stayed_us(run, channel.id, fault.at_us) - usual[channel.id], 0),
            0 < _stayed_us(run, channel.id, fault.at_us) == ends_us - fault.at_us,
        )
        for channel in bench.channels
    )
    cause = after[0][1] if after else ""
    return HangRun(fault, verdict, recovered_us, len(after), cause, outputs, tuple(lost), tuple(kept))


def _acts_within_us(bench: Bench) -> int:
    """By when the watchdog has acted, and the board has started again, at the latest."""
    watchdog = bench.firmware.watchdog
    if "interrupt" in watchdog.places or not watchdog.resets:
        return 0
    times = 2 if watchdog.mode == "interrupt-reset" else 1
    return watchdog.timeout_us * times + bench.the_board.start_up_us + bench.the_board.set_up_us


def hang_run(bench: Bench, scenario: Scenario, fault: Fault | None) -> Run:
    """One run with a fault, or without; it goes on for a while after the scenario."""
    after_us = max(AFTER_US, _acts_within_us(bench) * 5 // 4)  # so that the watchdog has acted before the end
    longer = scenario.model_copy(update={"length_us": scenario.length_us + after_us})
    return SkippingEngine().run(bench, longer, budget=BUDGET, fault=fault)


@lru_cache(maxsize=4)
def _healthy(text: str, name: str) -> tuple[Bench, Scenario, Run]:
    """A bench, one of its scenarios and the run of that without a fault."""
    bench = bench_from_text(text)
    return bench, bench.scenario(name), hang_run(bench, bench.scenario(name), None)


def _piece(text: str, name: str, faults: tuple[Fault, ...]) -> list[HangRun]:
    """A few faults, one after another."""
    bench, scenario, healthy = _healthy(text, name)
    return [judge_run(bench, fault, hang_run(bench, scenario, fault), healthy) for fault in faults]


def hang_tests(
    bench: Bench,
    scenario: Scenario,
    many: int,
    hands: Hands = ALONE,
    go_on: Callable[[int, int], bool] = lambda done, of: True,
) -> list[HangRun]:
    """Every fault at `many` instants, in their order; `go_on(done, of)` is asked every `PIECE`: False stops, and what
    is done by then is there. Raises `NoHands`."""
    at = instants(bench, scenario, many)
    faults = [fault_at(bench, kind.id, of, at_us) for kind, of, _ in faults_of(bench) for at_us in at]
    text = bench_text(bench)
    done: dict[int, list[HangRun]] = {}
    pieces = [(text, scenario.name, tuple(faults[n : n + PIECE])) for n in range(0, len(faults), PIECE)]
    for place, runs in spread(hands, _piece, pieces, lambda: go_on(sum(map(len, done.values())), len(faults))):
        done[place] = runs
    return [run for place in sorted(done) for run in done[place]]


def hang_row(
    bench: Bench, scenario: Scenario, kind: FaultKind, of: str, many: int, between: Callable[[], None] = lambda: None
) -> HangRow:
    """One fault at `many` instants, or as many as `MOST_CHANGES` allows, as a row of the table; `between` two runs may
    raise to stop it."""
    healthy = hang_run(bench, scenario, None)
    runs, left = [], MOST_CHANGES
    # In an order in which the first few are spread over the scenario, too.
    for at_us in sorted(instants(bench, scenario, many), key=lambda at_us: at_us * 0.618 % 1):
        fault = fault_at(bench, kind, of, at_us)
        run = hang_run(bench, scenario, fault)
        runs.append(judge_run(bench, fault, run, healthy))
        between()
        left -= run.trace.changes
        if left < 0:
            break
    runs.sort(key=lambda run: run.fault.at_us)
    return hang_rows(bench, runs)[0]


ORDER = ("unmet", "too-late", "outside", "by-itself", "reset", "unnoticed", "boot-loop", "hangs")


def hang_rows(bench: Bench, runs: list[HangRun]) -> list[HangRow]:
    """The runs by fault, as a table."""
    hazards = {channel.id: channel.name for channel in bench.channels if hurts(channel)}
    found = []
    for kind, of, name in faults_of(bench):
        mine = [run for run in runs if run.fault.kind == kind.id and run.fault.of == of]
        if not mine:
            continue
        stayed = [
            (one.stayed_us, hazards[one.id], one.for_good) for run in mine for one in run.outputs if one.id in hazards
        ]
        longest = max(stayed, default=None)
        worst = max(
            mine,
            key=lambda run: (
                max((one.stayed_us for one in run.outputs if one.id in hazards), default=0),
                ORDER.index(run.verdict),
                run.recovered_us or 0,
            ),
        )
        slowest = max((run.recovered_us for run in mine if run.recovered_us is not None), default=None)
        found.append(
            HangRow(
                kind,
                of,
                name,
                sum(run.verdict != "too-late" for run in mine),
                sum(run.recovered_us is not None for run in mine),
                slowest,
                max((run.verdict for run in mine), key=ORDER.index),
                (longest[1], longest[0], longest[2]) if longest and longest[0] else None,
                tuple(dict.fromkeys(name for run in mine for name in run.lost)),
                tuple(dict.fromkeys(name for run in mine for name in run.kept)),
                worst,
                len(mine),
            )
        )
    return found
