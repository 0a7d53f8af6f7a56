"""What may lie behind what a board did otherwise, with the edit that mends it, where one does."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from statistics import median
from typing import Any

from ..document import Bench, pointer
from ..document.parts import ContactLine
from ..engine import Kind, Run
from ..program import working_pass_us
from ..switches import SWITCH_CLASSES
from ..units import ms
from .captured import TOGGLE, Capture, aligned, capture_of
from .compared import Compared, Difference
from .lines import Lines

LEAST_US = 50_000  # a shorter time says little about a clock
SURE_PPM = 400  # what two readings of a quartz or a resonator can differ by (common practice)
MORE, MORE_US = 1.25, 100  # a pass that is longer by that is another
TWICE_US = 50_000  # no finger presses twice so soon
AT_ONCE_US = 2_000
SENT_US = 30_000  # a terminal's lines come so irregularly


@dataclass(frozen=True)
class Cause:
    """A likely cause of what differs, and the edit that mends it, if one does."""

    words: str
    patch: list[dict[str, Any]]


def clock_of(spans: list[tuple[float, float]]) -> float | None:
    """By how many millionths the board is slow, from times that its program waited: (as captured, as computed), µs.
    None where too few are known, or where they do not agree."""
    long = [(captured, computed) for captured, computed in spans if computed >= LEAST_US]
    if len(long) < 2:
        return None
    rates = [captured / computed - 1 for captured, computed in long]
    middle = median(rates)
    apart = median(abs(one - middle) for one in rates)
    if abs(middle) * 1e6 <= SURE_PPM or apart >= abs(middle) / 3:
        return None
    near = [one for one, rate in zip(long, rates, strict=True) if abs(rate - middle) <= max(3 * apart, 1e-6)]
    # The longest say most: an instant is off by as much in a long time as in a short one.
    return (sum(captured for captured, _ in near) / sum(computed for _, computed in near) - 1) * 1e6


def pass_times(capture: Capture) -> list[float]:
    """How long each pass took, µs, where a channel toggles once a pass."""
    name = next((one.name for one in capture.channels if one.signal and one.signal.what == TOGGLE), None)
    return [later - at for (at, _), (later, _) in pairwise(capture.points[name])] if name else []


def _usual_us(run: Run) -> int:
    """The length of most passes of a run."""
    many: dict[int, int] = {}
    for length_us, count in run.trace.signal(Kind.PASS).values:
        many[length_us] = many.get(length_us, 0) + count
    return max(many, key=lambda one: many[one], default=0)


def unsure_ppm(capture: Capture, found: Compared | None) -> float:
    """How far a clock told by waits can be off: a wait ends by up to a pass, or a count of the counter, late."""
    longest = max((computed for _, computed in found.spans), default=0.0) if found else 0.0
    late = max(1000.0, median(pass_times(capture) or [0.0]))
    return 1e6 * late / longest if longest else 0.0


def passes(bench: Bench, capture: Capture, found: Compared) -> tuple[list[Difference], list[Cause]]:
    """Passes that take longer than was reckoned: the longest, and what a usual one takes."""
    times = pass_times(capture)
    if not times or not found.run.boots:
        return [], []
    differences, causes_ = [], []
    longest = max(times)
    ours_us = max(length for length, _ in found.run.trace.signal(Kind.PASS).values)
    if MORE * ours_us + MORE_US < longest < bench.the_board.start_up_us + bench.the_board.set_up_us:
        place = times.index(longest)
        name = next(one.name for one in capture.channels if one.signal and one.signal.what == TOGGLE)
        at_us = round(capture.points[name][place][0] + found.zero_us)
        words = f"A pass takes {ms(round(longest))} on the board; on the bench {ms(ours_us)} at most."
        differences.append(Difference(TOGGLE, "", at_us, words))
    usual, idle_us = median(times), _usual_us(found.run)
    rests_us = max(idle_us - working_pass_us(bench), 0)  # delays and sleep stay as they are
    if usual > MORE * idle_us and usual > rests_us:
        share = (usual - rests_us) / max(idle_us - rests_us, 1)
        measured = {name: max(round(cost * share), 1) for name, cost in bench.costs.model_dump().items()}
        patch = [
            {"op": "replace", "path": pointer("firmware", "measured", name), "value": min(value, 1_000_000)}
            for name, value in measured.items()
            if name in type(bench.firmware.measured).model_fields
        ]
        words = f"Your pass takes {ms(round(usual))}, the bench reckons with {ms(idle_us)}: use what was measured."
        causes_.append(Cause(words, patch))
    return differences, causes_


def resets(bench: Bench, found: Compared) -> list[Difference]:
    """Where all outputs of the board go off at once and those of the bench do not: as after a reset."""
    fell: list[tuple[int, str]] = []
    for (what, of), course in found.board.items():
        if what == "output":
            fell += [(at, of) for (_, before), (at, now) in pairwise(course) if before and not now]
    fell.sort()
    said: list[Difference] = []
    for place, (at_us, _) in enumerate(fell):
        mine = {of for at, of in fell[place:] if at - at_us <= AT_ONCE_US}
        if len(mine) < 2 or (said and at_us - said[-1].at_us <= AT_ONCE_US) or _stays_on(found, at_us) < 2:
            continue
        on = {of for (what, of), course in found.board.items() if what == "output" and _at(course, at_us + AT_ONCE_US)}
        if not on:
            words = "All outputs of the board go off at once here, as after a reset."
            said.append(Difference("reset", "", at_us, words))
    return said


def _at(course: list[tuple[int, int]], at_us: int) -> int:
    return next((value for at, value in reversed(course) if at <= at_us), 0)


def _stays_on(found: Compared, at_us: int) -> int:
    """How many outputs of the bench are on, before and after."""
    many = 0
    for what, of in found.board:
        if what != "output" or (Kind.OUTPUT, of) not in found.run.trace:
            continue
        signal = found.run.trace.signal(Kind.OUTPUT, of)
        course = [(at, int(value or 0) > 0) for at, value in zip(signal.times_us, signal.values, strict=True)]
        many += bool(_at(course, at_us - 10 * AT_ONCE_US)) and bool(_at(course, at_us + 10 * AT_ONCE_US))  # type: ignore[arg-type]
    return many


def started_anew(read: Lines) -> list[Difference]:
    """The starts of a board before the last one, in a trace."""
    if not read.starts:
        return []
    many = "once" if read.starts == 1 else f"{read.starts} times"
    words = f"The board started anew {many}, the last time before line {read.rows[0].line}: a reset."
    return [Difference("reset", "", 0, words)]


def causes(bench: Bench, capture: Capture, found: Compared | None) -> list[Cause]:
    """What may lie behind the differences of a capture, the likeliest first."""
    said = []
    for one in capture.bounces:
        line = bench.contact(one.of)
        if line.contact.kind != "model" or not one.moves:
            continue
        switch = SWITCH_CLASSES[line.contact.switch]
        most_us = max(switch.press.settle_us[1], switch.release.settle_us[1])
        if one.longest_us > most_us * 1.1:
            words = f"{one.name} bounces for up to {ms(one.longest_us)}, its model for {ms(most_us)}"
            said.append(Cause(f"{words}: let it bounce as it was captured.", _as_captured(bench, line, capture)))
    said += passes(bench, capture, found)[1] if found else []
    ppm = clock_of(list(found.spans)) if found else None
    return said + ([_clock_cause(ppm)] if ppm is not None else [])


def _clock_cause(ppm: float) -> Cause:
    way = "slow" if ppm > 0 else "fast"
    return Cause(f"The board's clock is {abs(ppm):,.0f} ppm {way}: a resonator's, or an oscillator's of its own.", [])


@dataclass(frozen=True)
class Drift:
    """The board's clock against another one that wrote down when its lines came: how much earlier its counter began,
    µs; by how many millionths it is slow; how far that can be off; how irregularly lines came, µs."""

    offset_us: float
    ppm: float
    unsure_ppm: float
    jitter_us: float

    @property
    def told(self) -> bool:
        """Whether it is more than lines that come irregularly can make of nothing."""
        return abs(self.ppm) > max(self.unsure_ppm, SURE_PPM)


def drift_of(read: Lines, arrived_us: dict[int, float]) -> Drift | None:
    """The drift from when lines came, by their number. None where that is too little."""
    pairs = [(float(row.at_us), arrived_us[row.line]) for row in read.rows if row.line in arrived_us]
    found = aligned(pairs)
    if found is None or pairs[-1][0] - pairs[0][0] < 1e6:
        return None
    unsure_ppm = 3e6 * max(found.jitter_us, 1000) / (pairs[-1][0] - pairs[0][0])
    return Drift(found.offset_us, found.ppm, unsure_ppm, found.jitter_us)


def trace_causes(bench: Bench, read: Lines, drift: Drift | None) -> list[Cause]:
    """What may lie behind the differences of a trace."""
    said = []
    for line in bench.contacts:
        at = [row.at_us for row in read.rows if row.what == "cleaned" and row.of == line.id and row.value]
        close = [later - earlier for earlier, later in pairwise(at) if later - earlier < TWICE_US]
        if close:
            words = f"{line.name} counts again within {ms(max(close))}, sooner than anybody presses"
            said.append(Cause(f"{words}: it bounces for longer than its wait. Capture its pin to know how long.", []))
    return said + ([_clock_cause(drift.ppm)] if drift and drift.told else [])


def _as_captured(bench: Bench, line: ContactLine, capture: Capture) -> list[dict[str, Any]]:
    """The edit that lets a contact bounce as it did."""
    made = capture_of(bench, capture, line.id)
    return [
        {"op": "add", "path": pointer("captures", "-"), "value": made.model_dump(mode="json")},
        {"op": "replace", "path": f"{line.at}/contact", "value": {"kind": "capture", "capture": made.id}},
    ]
