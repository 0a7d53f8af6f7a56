"""What a run answers, in numbers: counted presses, waits, the longest pass, on-times, resets."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass, field

from ..document import Bench
from ..engine import Kind, Run
from .expected import Verdict, judged
from .jobs import JobTally, job_tallies
from .sensed import SensedTally, sensed_tally
from .tally import PressTally, tally


@dataclass(frozen=True)
class Spread:
    """Least, median, 95 % and most, in µs (nearest rank)."""

    least: int
    median: int
    p95: int
    most: int


def spread(values: tuple[int, ...] | list[int]) -> Spread | None:
    """The spread of a sample, or None of an empty one."""
    if not values:
        return None
    ordered = sorted(values)

    def rank(percent: int) -> int:
        return ordered[max(0, -(-len(ordered) * percent // 100) - 1)]

    return Spread(ordered[0], rank(50), rank(95), ordered[-1])


@dataclass(frozen=True)
class Blocked:
    """One stretch in which the pass stood still."""

    at_us: int
    length_us: int
    what: str


@dataclass(frozen=True)
class Answers:
    """The numbers of a run. `to_output_us` is, for each input, from touch to the first output that moved because of
    it; `on_us` is each output's time on; `first_on` what each output does after the first pass; `sensed` how
    the other inputs were counted, `jobs` how the tasks kept their beat."""

    tallies: dict[str, PressTally]
    waits: dict[str, Spread | None]
    to_output_us: dict[str, Spread | None]
    longest_pass_us: int
    longest_pass_at_us: int
    longest_pass_why: str
    idle_pass_us: int
    blocked: tuple[Blocked, ...]
    on_us: dict[str, int]
    first_on: dict[str, bool | None]
    resets_us: tuple[int, ...]
    sensed: dict[str, SensedTally]
    expected: tuple[Verdict, ...] = ()
    jobs: dict[str, JobTally] = field(default_factory=dict)


def _on_time(times: list[int], values: list[int], end_us: int) -> int:
    ends = [*times[1:], end_us]
    return sum(to - at for at, to, value in zip(times, ends, values, strict=True) if value == 1)


def _to_outputs(run: Run, bench: Bench, counted: PressTally) -> list[int]:
    """Touch to output: the first output change within the pass that counted the press."""
    changes = sorted(at for part in bench.channels for at in run.trace.signal(Kind.OUTPUT, part.id).times_us)
    touches = [move.at_us for move in run.moves[counted.input] if move.pressed and move.at_us not in counted.missed_us]
    lags: list[int] = []
    for touch_us, wait_us in zip(
        touches, counted.waits_us, strict=False
    ):  # a run that stopped leaves the last ones out
        event_us = touch_us + wait_us
        index = bisect_left(changes, event_us)
        if index < len(changes) and changes[index] - event_us <= run.idle_pass_us:
            lags.append(changes[index] - touch_us)
    return lags


def _judged(bench: Bench, run: Run) -> tuple[Verdict, ...]:
    scenario = next((one for one in bench.scenarios if one.name == run.scenario), None)
    return judged(bench, scenario, run) if scenario else ()


def answers(bench: Bench, run: Run) -> Answers:
    """Everything a run says in numbers."""
    trace = run.trace
    tallies = {part.id: tally(run, part.id, bench.debounce(part.id).interval_us) for part in bench.contacts}
    passes = trace.signal(Kind.PASS)
    longest_us, longest_at_us = 0, 0
    for at_us, (length_us, _) in zip(passes.times_us, passes.values, strict=True):
        if length_us > longest_us:
            longest_us, longest_at_us = length_us, at_us
    stretches = trace.signal(Kind.BLOCKED)
    blocked = tuple(
        Blocked(at_us, length_us, what)
        for at_us, (length_us, what) in zip(stretches.times_us, stretches.values, strict=True)
    )
    inside = [stretch for stretch in blocked if longest_at_us <= stretch.at_us < longest_at_us + longest_us]
    why = max(inside, key=lambda stretch: stretch.length_us).what if inside else ""
    if not why and bench.firmware.loop.tail_delay_us:
        why = "tail"
    on_us: dict[str, int] = {}
    first_on: dict[str, bool | None] = {}
    first_pass_end_us = passes.times_us[0] + passes.values[0][0] if passes.times_us else 0
    for part in bench.channels:
        signal = trace.signal(Kind.OUTPUT, part.id)
        on_us[part.id] = _on_time(signal.times_us, signal.values, trace.length_us)
        early = [
            value for at_us, value in zip(signal.times_us, signal.values, strict=True) if at_us <= first_pass_end_us
        ]
        first_on[part.id] = early[-1] == 1 if early and early[-1] >= 0 else None
    return Answers(
        tallies=tallies,
        waits={name: spread(counted.waits_us) for name, counted in tallies.items()},
        to_output_us={name: spread(_to_outputs(run, bench, counted)) for name, counted in tallies.items()},
        longest_pass_us=longest_us,
        longest_pass_at_us=longest_at_us,
        longest_pass_why=why,
        idle_pass_us=run.idle_pass_us,
        blocked=blocked,
        on_us=on_us,
        first_on=first_on,
        resets_us=tuple(trace.signal(Kind.RESET).times_us),
        expected=_judged(bench, run),
        jobs=job_tallies(bench, run),
        sensed={part.id: said for _, part in bench.sensed if (said := sensed_tally(bench, run, part))},
    )
