"""A board's trace held against the bench: what was done to it becomes a scenario, the scenario is run, and the changes
of the two are laid side by side."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from itertools import pairwise
from statistics import median

from ..document import Bench, Scenario
from ..document.parts import ContactLine
from ..document.scenario import Press, SetTo
from ..engine import Budget, Kind, Run, SkippingEngine
from ..program import working_pass_us
from ..switches import SWITCH_CLASSES
from .lines import Told

MOST_CHANGES = 1_500  # of one signal that are laid side by side: that work grows with their square
SETTLES_US = 300_000  # nothing is done so soon after set-up
AFTER_US = 500_000  # the scenario goes on so long after the last change
TIMES = 4  # it is run, at most, until what was done stands where it must
STEP_US = 1_000  # the trace tells whole milliseconds
TOLD = {Kind.CLEANED: "cleaned", Kind.STATE: "state", Kind.OUTPUT: "output", Kind.DUTY: "output"}
Course = list[tuple[int, int]]
Courses = dict[tuple[str, str], Course]
Late = dict[tuple[str, int], int]  # by contact, and the place of a change of it


@dataclass(frozen=True)
class Difference:
    """The board and the bench disagree: of which signal, when (µs of the scenario), in words."""

    what: str
    of: str
    at_us: int
    sentence: str


@dataclass(frozen=True)
class Compared:
    """What was done, as a scenario; its run; how many changes agree, and the differences in order of time; `spans` are
    times from one change of an output to the next, (on the board, on the bench), µs; `board` is what it did, in the
    scenario's time: by (what, of) each change, (µs, value); `zero_us` is when the capture or the counter begins."""

    scenario: Scenario
    run: Run
    agree: int
    differences: tuple[Difference, ...]
    spans: tuple[tuple[float, float], ...] = ()
    board: Courses = field(default_factory=dict)
    zero_us: int = 0


def in_words(bench: Bench, what: str, of: str, value: int) -> str:
    """Foot pedal: pressed. Lamp mode: Focus. Safelight: on."""
    if what == "cleaned":
        line = next(line for line in bench.contacts if line.id == of)
        return f"{line.name}: {'pressed' if value else 'released'}"
    if what == "state":
        machine = next(one for one in bench.firmware.machines if one.id == of)
        return f"{machine.name}: {machine.states[value].name}"
    channel = next(one for one in bench.channels if one.id == of)
    return f"{channel.name}: {'off' if not value else 'on' if value == 100 else f'{value} %'}"


def compared(
    bench: Bench, rows: Iterable[Told], name: str, budget: Budget | None = None, touched: bool = False
) -> Compared | None:
    """The trace against the bench; None where it tells nothing. What was turned, measured, typed or said is not in a
    trace: only contacts act. `touched`: contacts are told as they were touched, at their pins, by another clock that
    began when it liked; else as the program accepted them, by its own."""
    told = list(rows)
    zero_us = bench.the_board.start_up_us
    if touched:
        first_us = min((row.at_us for row in told if row.what == "cleaned" and row.at_us), default=0)
        zero_us += max(bench.the_board.set_up_us + SETTLES_US - first_us, 0)
    board = _courses((row.what, row.of, row.at_us + zero_us, row.value) for row in told)
    if not board:
        return None
    # A contact counts a while after it was touched, its bounce and all: each is put before what was told by that much.
    late: Late = {}
    scenario, run, ran = _run(bench, board, name, late, budget)
    for _ in range(0 if touched else TIMES):
        if not _later(board, ran, late):
            break
        scenario, run, ran = _run(bench, board, name, late, budget)
    agree, differences = 0, []
    spans: list[tuple[float, float]] = []
    # The real contacts come to rest earlier or later than those of the model.
    apart_us = max((_rests_us(line) for line in bench.contacts), default=0) if touched else 0
    for key, course in board.items():
        if touched and key[0] == "cleaned":
            continue  # what was done is not what was counted
        if touched and len(course) == 1 and not ran.get(key):
            agree += 1  # it stays as it was before, in both
            continue
        spans += _spans(course, ran.get(key, []))
        same, found = _laid(bench, key, course, ran.get(key, []), run, touched, apart_us)
        agree += same
        differences += found
    found_all = tuple(sorted(differences, key=lambda one: one.at_us))
    return Compared(scenario, run, agree, found_all, tuple(spans), board, zero_us)


def _run(bench: Bench, board: Courses, name: str, late: Late, budget: Budget | None) -> tuple[Scenario, Run, Courses]:
    scenario = _done(bench, board, name, late)
    run = SkippingEngine().run(bench, scenario, budget=budget)
    return scenario, run, _ran(bench, run)


def _later(board: Courses, ran: Courses, late: Late) -> bool:
    """Put down by how much later the bench counts each change than the board told it; whether any is much."""
    much = False
    for (what, ident), told in board.items():
        if what != "cleaned":
            continue
        ours = ran.get((what, ident), [])
        apart = {place: ours[other][0] - told[place][0] for place, other in _alike(told, ours) if place}
        usual = round(median(apart.values())) if apart else 0
        for place in range(1, len(told)):
            more_us = apart.get(place, usual)
            late[ident, place] = late.get((ident, place), 0) + more_us
            much = much or abs(more_us) > STEP_US
    return much


def _courses(changes: Iterable[tuple[str, str, int, int]]) -> Courses:
    """Each signal's changes in order; an output is on or off here."""
    found: Courses = {}
    for what, of, at_us, value in changes:
        course = found.setdefault((what, of), [])
        value = int(value > 0) if what == "output" else value
        if not course or course[-1][1] != value:
            course.append((at_us, value))
    return found


def _ran(bench: Bench, run: Run) -> Courses:
    """The same of a run, from set-up on."""
    places = {m.id: {state.id: place for place, state in enumerate(m.states)} for m in bench.firmware.machines}
    dimmed = {one.of for one in run.trace.signals if one.kind is Kind.DUTY}
    ready_us = run.boots[0][1] if run.boots else 0
    told = {channel.id for channel in bench.channels} | {line.id for line in bench.contacts} | {*places}
    changes = []
    for signal in run.trace.signals:
        what = {Kind.CLEANED: "cleaned", Kind.STATE: "state", Kind.OUTPUT: "output", Kind.DUTY: "output"}.get(
            signal.kind
        )
        if what is None or signal.of not in told or (signal.kind is Kind.OUTPUT and signal.of in dimmed):
            continue
        for at_us, value in zip(signal.times_us, signal.values, strict=True):
            if value is None or (what == "output" and (at_us < ready_us or value < 0)):
                continue
            changes.append((what, signal.of, at_us, places[signal.of][value] if what == "state" else int(value)))
    return _courses(changes)


def _done(bench: Bench, board: Courses, name: str, late: Late) -> Scenario:
    """What was done to the contacts: a press where one was let go again, else put over and left so."""
    stimuli: list[Press | SetTo] = []
    end_us = max(course[-1][0] for course in board.values()) + AFTER_US
    for line in bench.contacts:
        course = board.get(("cleaned", line.id), [])
        down_us: int | None = None
        for place, (at_us, value) in enumerate(course):
            did_us = max(at_us - late.get((line.id, place), 0), 0)
            if value:
                down_us = did_us
            elif down_us is not None and did_us - down_us >= 1000:
                stimuli.append(Press(input=line.id, at_us=down_us, hold_us=did_us - down_us))
                down_us = None
        if down_us is not None:
            stimuli.append(SetTo(input=line.id, at_us=down_us, pressed=True))
    stimuli.sort(key=lambda one: one.at_us)
    return Scenario(
        name=name, note="What the board told that was done to it.", length_us=end_us, stimuli=tuple(stimuli)
    )


def _alike(told: Course, ours: Course) -> list[tuple[int, int]]:
    """(place on the board, place on the bench) of the changes that both have."""
    blocks = _matcher(told, ours).get_matching_blocks()
    return [(one.a + n, one.b + n) for one in blocks for n in range(one.size)]


def _spans(told: Course, ours: Course) -> list[tuple[float, float]]:
    """(on the board, on the bench) from each change to the next, where both have both."""
    pairs = [one for one in _alike(told[:MOST_CHANGES], ours[:MOST_CHANGES]) if one[0]]  # the first is as it was before
    return [
        (told[later][0] - told[place][0], ours[then][0] - ours[other][0])
        for (place, other), (later, then) in pairwise(pairs)
        if later == place + 1 and then == other + 1
    ]


def _matcher(told: Course, ours: Course) -> SequenceMatcher[int]:
    return SequenceMatcher(None, [value for _, value in told], [value for _, value in ours], autojunk=False)


def _rests_us(line: ContactLine) -> int:
    """How long a modelled contact bounces at the most; one that bounces as captured does so each time."""
    if line.contact.kind != "model":
        return 0
    switch = SWITCH_CLASSES[line.contact.switch]
    return max(switch.press.settle_us[1], switch.release.settle_us[1])


def _laid(
    bench: Bench, key: tuple[str, str], told: Course, ours: Course, run: Run, touched: bool, apart_us: int
) -> tuple[int, list[Difference]]:
    """(how many agree, the differences) of one signal; `apart_us` is how much later or earlier it may be besides."""
    what, of = key
    told, ours = told[:MOST_CHANGES], ours[:MOST_CHANGES]
    if told and ours and len(told) == MOST_CHANGES:
        ours = [one for one in ours if one[0] <= told[-1][0]]
    slack_us = 2 * STEP_US + 2 * working_pass_us(bench) + apart_us
    fine = 1 if touched else 0  # a trace tells whole milliseconds
    matcher = _matcher(told, ours)
    agree = 0
    found: list[Difference] = []

    def said(value: int) -> str:
        return in_words(bench, what, of, 100 * value if what == "output" else value)

    def differs(at_us: int, sentence: str) -> None:
        found.append(Difference(what, of, at_us, sentence))

    for tag, a_from, a_to, b_from, b_to in matcher.get_opcodes():
        if tag == "equal":
            for (told_us, value), (ours_us, _) in zip(told[a_from:a_to], ours[b_from:b_to], strict=True):
                apart_us = told_us - ours_us
                # The first of each is said when the board has started, whenever that was.
                if abs(apart_us) <= slack_us or told_us == told[0][0]:
                    agree += 1
                else:
                    way = "later" if apart_us > 0 else "earlier"
                    differs(ours_us, f"{abs(apart_us) / 1000:,.{fine}f} ms {way} on the board: {said(value)}.")
            continue
        for at_us, value in told[a_from:a_to]:
            differs(at_us, f"On the board only: {said(value)}.")
        for at_us, value in ours[b_from:b_to]:
            if at_us < run.trace.length_us - AFTER_US + slack_us:
                differs(at_us, f"On the bench only: {said(value)}.")
    return agree, found


def named(bench: Bench, scenario: Scenario) -> Scenario:
    """The scenario under a name that no other has."""
    names = {one.name for one in bench.scenarios}
    name, count = scenario.name, 2
    while name in names:
        name, count = f"{scenario.name} {count}", count + 1
    return scenario.model_copy(update={"name": name})
