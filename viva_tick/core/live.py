"""A bench under somebody's hands: what is done is a scenario that grows, and what comes of it is the run of that
scenario, a little further than now. So what was seen live is, by construction, what the scenario shows."""

from __future__ import annotations

import json
from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate, pairwise
from typing import Any

from pydantic import ValidationError

from .document import Bench, DocumentError, Problem, Scenario, pointer
from .document.check_readings import unmoved
from .document.scenario import ExpectState, Press, SetTo
from .engine import EVERY_US, Budget, Fault, Going, Kind, Run, SkippingEngine
from .going_on import Sessions
from .guard import FAULTS, faults_of
from .timing.expected import as_it_is

AHEAD_US = 2_000_000  # an answer goes on so long beyond now: nothing is asked again as long as nothing is done
LONGEST_US = 600_000_000  # then the panel is begun anew
BUDGET = Budget(passes=60_000, changes=200_000)  # passes of an answer, changes of all
SESSIONS = Sessions()
SETTLED_US = 200_000  # so long after it was let go a contact may still bounce, or be waited for
NAME = "By hand"
IN_FIRMWARE = ("stuck", "starve", "counter")
ENDS = ("off", "closed", "welded", "bus", "stuck", "starve")  # faults that last until they are taken off
SHOWN = {Kind.OUTPUT, Kind.DUTY, Kind.PITCH, Kind.ANGLE, Kind.TEXT, Kind.STATE, Kind.VALUE, Kind.CLEANED}


@dataclass(frozen=True)
class Happened:
    """One line of what happened: when (µs), in words; `odd`: it should not have."""

    at_us: int
    words: str
    odd: bool = False


@dataclass(frozen=True)
class Live:
    """What the panel needs: the run, whether it goes on where it stopped, its changes after an instant by kind and id
    as (µs, value), what happened."""

    run: Run
    goes_on: bool
    changes: dict[str, dict[str, list[tuple[int, Any]]]]
    happened: tuple[Happened, ...]


def by_hand(bench: Bench, stimuli: Any, upsets: Any, until_us: int, seed: int) -> Scenario:
    """What was done as a scenario. Raises `DocumentError` for what cannot be done to this bench."""
    if not 0 < until_us <= LONGEST_US:
        raise DocumentError([Problem("/until_us", f"a panel runs for {LONGEST_US // 60_000_000} minutes at most.")])
    given = {"name": NAME, "length_us": until_us, "seed": seed, "stimuli": stimuli, "upsets": upsets}
    try:
        scenario = Scenario.model_validate_json(json.dumps(given))
    except ValidationError as error:
        rows = [Problem(pointer(*map(str, one["loc"])), f"{one['msg']}.") for one in error.errors()[:5]]
        raise DocumentError(rows) from None
    contacts, parts = {line.id: line.part for line in bench.contacts}, {part.id: part for _, part in bench.sensed}
    for place, one in enumerate(scenario.stimuli):
        if why := unmoved(one, contacts, parts):
            raise DocumentError([Problem(pointer("stimuli", place, "input"), why)])
    return scenario


def played(
    bench: Bench, scenario: Scenario, faults: Sequence[Fault], session: str, now_us: int, from_us: int
) -> tuple[Run, bool]:
    """(run, whether it goes on) of what was done, for one session: from the latest of its checkpoints, with another
    put down shortly before now. Its trace is true from `from_us` on. A run that takes many passes comes in pieces."""
    from_us = min([from_us, *(one.at_us for one in faults if one.kind == "welded")])  # it may be on since then
    key = SESSIONS.key(bench, scenario.seed, session)
    begun = SESSIONS.latest(key, scenario, faults, from_us)
    going = Going(begun, ((begun.at_us if begun else 0) + EVERY_US, now_us - 1))
    run = SkippingEngine().go_on(bench, scenario, BUDGET, faults, going)
    if going.kept:
        SESSIONS.keep(key, scenario, faults, going.kept)
    return run, going.short


def live(
    bench: Bench,
    scenario: Scenario,
    since_us: int,
    faults: Sequence[Fault] = (),
    session: str = "",
    now_us: int | None = None,
    from_us: int | None = None,
) -> Live:
    """What comes of what was done, after `since_us`, and of faults that were put in. `session` tells one who plays from
    another; `from_us`: the trace is asked for from there, where that is earlier."""
    now_us = scenario.length_us if now_us is None else now_us
    first_us = since_us if from_us is None else min(since_us, from_us)
    run, goes_on = played(bench, scenario, faults, session, now_us, first_us)
    changes: dict[str, dict[str, list[tuple[int, Any]]]] = {}
    for signal in run.trace.signals:
        if signal.kind in SHOWN:
            found = [row for row in zip(signal.times_us, signal.values, strict=True) if row[0] > since_us]
            if found:
                changes.setdefault(str(signal.kind), {})[signal.of] = found
    resets = run.trace.signal(Kind.RESET).times_us
    done = _put_in(bench, faults, run.trace.length_us, resets)
    said = sorted([*happened(bench, run), *done], key=lambda one: one.at_us)
    return Live(run, goes_on, changes, tuple(one for one in said if one.at_us > since_us))


def _put_in(bench: Bench, faults: Sequence[Fault], end_us: int, resets: list[int]) -> list[Happened]:
    """Faults as they were put in and taken off again."""
    names = {(fault.id, of): name for fault, of, name in faults_of(bench)}
    found = []
    for one in faults:
        title, name = FAULTS[one.kind].title, names.get((one.kind, one.of), "")
        found.append(Happened(one.at_us, f"{title}: {name}" if name else title))
        if one.kind in ENDS and one.over_us < end_us and one.over_us not in resets:
            found.append(Happened(one.over_us, f"{name or 'It'} is as it was"))
    return found


def ended(faults: Sequence[Fault], run: Run) -> dict[int, int]:
    """When a reset ended those that were in the firmware, µs, by their places."""
    resets = run.trace.signal(Kind.RESET).times_us
    found = {}
    for place, one in enumerate(faults):
        number = bisect_left(resets, one.at_us)
        if one.kind in IN_FIRMWARE and number < len(resets) and resets[number] < one.over_us:
            found[place] = resets[number]
    return found


def next_pass(run: Run, after_us: int) -> int | None:
    """When the next pass of the loop begins after an instant, µs; None where none does within the run."""
    passes = run.trace.signal(Kind.PASS)
    place = bisect_right(passes.times_us, after_us) - 1
    if place >= 0:
        length_us, count = passes.values[place]
        number = (after_us - passes.times_us[place]) // length_us + 1 if length_us else count
        if number < count:
            return int(passes.times_us[place] + number * length_us)
    return passes.times_us[place + 1] if place + 1 < len(passes.times_us) else None


def happened(bench: Bench, run: Run) -> list[Happened]:
    """Presses that counted, one touch that counted more than once, states, outputs, resets: in order of time."""
    found: list[Happened] = []
    names = {line.id: line.name for line in bench.contacts}
    machines = {machine.id: machine for machine in bench.firmware.machines}
    channels = {channel.id: channel.name for channel in bench.channels}
    parts = {part.id: part.name for _, part in bench.sensed}
    for signal in run.trace.signals:
        of, rows = signal.of, zip(signal.times_us, signal.values, strict=True)
        if signal.kind is Kind.CLEANED and of in names:
            pushes = [(move.at_us, move.pressed) for move in run.moves.get(of, ())]
            found += _counted(names[of], list(rows), pushes, run.trace.length_us)
        elif signal.kind is Kind.EVENT and of in parts:
            found += [Happened(at_us, f"{parts[of]}: {said}") for at_us, said in rows]
        elif signal.kind is Kind.STATE and of in machines:
            before = None
            for at_us, state in rows:
                if state is not None and before is not None:
                    one = machines[of]
                    found.append(Happened(at_us, f"{one.name}: {one.state(before).name} → {one.state(state).name}"))
                before = state
        elif signal.kind is Kind.OUTPUT and of in channels:
            last = None
            for at_us, value in rows:
                if value >= 0 and last is not None and (value > 0) != (last > 0):
                    found.append(Happened(at_us, f"{channels[of]} {'on' if value else 'off'}"))
                last = value if value >= 0 else last
        elif signal.kind is Kind.RESET:
            found += [
                Happened(at_us, f"The board starts anew: {cause}", odd=cause == "watchdog") for at_us, cause in rows
            ]
    return sorted(found, key=lambda one: one.at_us)


def _counted(name: str, rows: list[tuple[int, Any]], pushes: list[tuple[int, bool]], end_us: int) -> list[Happened]:
    """Presses and releases that counted, and presses that did not; `pushes` are what was done, (µs, whether down). What
    counts again within one push, or soon after it, is a bounce; what counts later was not pressed by anybody."""
    instants = [at_us for at_us, _ in pushes]
    numbers = [0, *accumulate(pressed for _, pressed in pushes)]
    found, pressed_in = [], -1
    down = False
    for at_us, value in rows:
        if value is None or bool(value) == down:
            continue
        down = bool(value)
        done = bisect_right(instants, at_us)
        push = numbers[done]
        held = done > 0 and (pushes[done - 1][1] or at_us - pushes[done - 1][0] < SETTLED_US)
        if down and not held:
            found.append(Happened(at_us, f"{name}: pressed, and nobody pressed it", odd=True))
        elif down and push == pressed_in:
            found.append(Happened(at_us, f"{name}: pressed again, a bounce counted", odd=True))
        else:
            found.append(Happened(at_us, f"{name} {'pressed' if down else 'released'}"))
        pressed_in = push if down else pressed_in
    counted = [at_us for at_us, value in rows if value]
    for (from_us, pressed), (to_us, _) in pairwise(pushes):
        over_us = to_us + SETTLED_US  # whoever counts a press when it is let go has done so by then
        if pressed and over_us < end_us and bisect_left(counted, from_us) == bisect_right(counted, over_us):
            found.append(Happened(over_us, f"{name}: a press was missed", odd=True))
    return found


def kept(bench: Bench, scenario: Scenario, now_us: int) -> Scenario:
    """What was done until now, as a scenario to keep: a contact that was let go again is a press, and what was done
    before there is a second more to it."""
    waits: dict[str, SetTo] = {}
    found: list[Any] = []
    for one in sorted(scenario.stimuli, key=lambda one: one.at_us):
        if one.at_us > now_us:  # what a scenario that is played again lays out later
            break
        if not isinstance(one, SetTo):
            found.append(one)
        elif one.pressed:
            if one.input in waits:  # already down
                found.append(waits[one.input])
            waits[one.input] = one
        else:
            down = waits.pop(one.input, None)
            if down is not None and one.at_us - down.at_us >= 1_000:
                found.append(Press(input=one.input, at_us=down.at_us, hold_us=one.at_us - down.at_us))
            else:
                found += [down, one] if down else [one]
    found += waits.values()
    found.sort(key=lambda one: one.at_us)
    names = {one.name for one in bench.scenarios}
    name, count = NAME, 2
    while name in names:
        name, count = f"{NAME} {count}", count + 1
    length_us = max(now_us, *(one.at_us + 1_000 for one in found), 1_000) if found else max(now_us, 1_000)
    return scenario.model_copy(update={"name": name, "stimuli": tuple(found), "length_us": length_us})


def with_what_was_seen(bench: Bench, scenario: Scenario) -> Scenario:
    """The scenario, and what its run did as its checks: how often and when outputs were on, where machines stood at
    the end."""
    run = SkippingEngine().run(bench, scenario, budget=BUDGET)
    expects: list[Any] = [one for channel in bench.channels for one in as_it_is(bench, run, channel.id)]
    at_us = run.trace.length_us // 1000 * 1000 - 1000
    for machine in bench.firmware.machines:
        states = run.trace.signal(Kind.STATE, machine.id)
        place = bisect_right(states.times_us, at_us) - 1
        if place >= 0 and states.values[place]:
            expects.append(ExpectState(machine=machine.id, state=states.values[place], at_us=at_us))
    return scenario.model_copy(update={"expects": tuple(expects)})
