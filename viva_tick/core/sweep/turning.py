"""How fast an encoder may be turned: turns a second against what the firmware makes of it, at a pass of some length."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass
from functools import lru_cache

from ..courses import turn_course
from ..document import Scenario, Turn, Turns
from ..document.parts import Encoder
from ..readers import A_BIT, B_BIT, Quadrature
from ..seeds import stream
from ..switches import SWITCH_CLASSES

POINTS = 37
CLICKS = 20  # a trial turns so far
TRIALS = 2
MOST = 200.0  # turns a second; no hand does
SLOWEST_S = 3_600.0  # a trial takes no longer, however slowly it is turned


@dataclass(frozen=True)
class TurnSweep:
    """For each speed, of all the steps that `TRIALS` turns should have given: lost, and the readings that made no
    sense; `backwards` are steps the wrong way, which bounces make where each count is a step. `fastest` is the
    highest speed up to which nothing was lost or made no sense, 0 where there is none, and at least so much where
    `open_ended`."""

    pass_us: int
    turns_a_second: tuple[float, ...]
    steps: int
    lost: tuple[int, ...]
    backwards: tuple[int, ...]
    errors: tuple[int, ...]
    fastest: float
    open_ended: bool


def counts_fit_us(part: Encoder, turns_a_second: float) -> float:
    """How far apart two changes of the contacts are at that speed, in µs."""
    return 1e6 / (turns_a_second * part.clicks_a_turn * part.counts_a_click)


@lru_cache(maxsize=512)
def _states(part: Encoder, turns_a_second: float, trial: int) -> tuple[list[int], list[int]]:
    """(instants, states) of the two contacts over one trial of turning to the right."""
    over_us = max(int(min(CLICKS / (turns_a_second * part.clicks_a_turn), SLOWEST_S) * 1e6), 1000)
    turn = Turn(input=part.id, at_us=0, clicks=CLICKS, over_us=over_us)
    course = turn_course(part, Scenario(name="turn", length_us=over_us + 100_000, stimuli=(turn,)), f"turn {trial}")
    merged = sorted([(at, A_BIT, on) for at, on in course.a.changes] + [(at, B_BIT, on) for at, on in course.b.changes])
    times, states, state = [-1], [0], 0
    for at_us, bit, touching in merged:
        state = state | bit if touching else state & ~bit
        times.append(at_us)
        states.append(state)
    return times, states


def decoded(times: list[int], states: list[int], reading: Turns, pass_us: int, phase_us: int) -> tuple[int, int, int]:
    """(steps, steps back, errors) of a decoder that looks once every pass; with `pass_us` 0 at every change."""
    least_ms = reading.least_us // 1000
    decoder = Quadrature(reading.counts_a_step, reading.reversed, least_ms)
    decoder.see(states[0])
    right = back = 0
    place, now_us = 0, 0
    while place < len(times) - 1 or (pass_us and decoder.seen != states[place]):
        before_us = now_us
        if pass_us:
            # The pass at or after the next change is the first that can see anything new; or, where a change is not
            # looked at yet, the first in which it is.
            next_us = times[place + 1] if place + 1 < len(times) else now_us + pass_us
            if decoder.seen != states[place]:
                next_us = min(next_us, max(decoder.last_ms + least_ms, before_us // 1000) * 1000)
            passes = max(-(-(next_us - phase_us) // pass_us), (before_us - phase_us) // pass_us + 1)
            now_us = passes * pass_us + phase_us
            place = bisect_left(times, now_us + 1) - 1
        else:
            place += 1
            now_us = times[place]
        step = decoder.see(states[place], now_us // 1000)
        right += step > 0
        back += step < 0
    return right, back, decoder.errors


@lru_cache(maxsize=2048)
def outcome(part: Encoder, reading: Turns, pass_us: int, turns_a_second: float) -> tuple[int, int, int]:
    """(steps missed, steps backwards, errors) of `TRIALS` turns at that speed. A dial that is wired the other way round
    counts backwards all the time; that is not what is looked for here."""
    forwards = part.swapped == reading.reversed
    wanted = CLICKS * part.counts_a_click // reading.counts_a_step
    polled_us = pass_us if part.read_by == "polling" else 0
    lost = backwards = errors = 0
    for trial in range(TRIALS):
        times, states = _states(part, turns_a_second, trial)
        phase_us = int(stream("turn phase", trial).random() * max(pass_us, 1))
        right, back, wrong = decoded(times, states, reading, polled_us, phase_us)
        with_it, against = (right, back) if forwards else (back, right)
        lost += max(wanted - with_it + against, 0)
        backwards += against
        errors += wrong
    return lost, backwards, errors


@lru_cache(maxsize=64)
def turn_sweep(part: Encoder, reading: Turns, pass_us: int) -> TurnSweep:
    """Speeds from almost nothing to past what the loop can follow, or past four times what is asked."""
    polled_us = pass_us if part.read_by == "polling" else 0
    bounce_us = max(SWITCH_CLASSES[part.switch].press.settle_us[1], SWITCH_CLASSES[part.switch].release.settle_us[1], 1)
    by_pass, by_bounce = (
        1e6 / (longest_us * part.clicks_a_turn * part.counts_a_click) for longest_us in (max(pass_us, 1), bounce_us)
    )
    asked = part.turns_a_second
    reach = max(min(1.5 * by_pass if polled_us else MOST, 3 * by_bounce, MOST), 2 * asked)
    speeds = tuple(reach * number / (POINTS - 1) for number in range(1, POINTS))
    wanted = CLICKS * part.counts_a_click // reading.counts_a_step
    lost, backwards, errors = [], [], []
    for speed in speeds:
        totals = outcome(part, reading, pass_us, speed)
        lost.append(totals[0])
        backwards.append(totals[1])
        errors.append(totals[2])
    bad = next((n for n in range(len(speeds)) if lost[n] or errors[n]), None)
    fastest = speeds[-1] if bad is None else (speeds[bad - 1] if bad else 0.0)
    return TurnSweep(
        pass_us,
        speeds,
        TRIALS * wanted,
        tuple(lost),
        tuple(backwards),
        tuple(errors),
        fastest,
        bad is None,
    )
