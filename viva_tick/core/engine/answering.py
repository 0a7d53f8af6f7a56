"""A scenario that answers: what is done when the bench does something, by chance, and over and over.

Nothing that is done later changes what was before. So the scenario is run, what it shows is answered as far as the
first of the answers, and it is run again with that, until nothing new is shown.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

from ..document import Answer, Press, Scenario, Stimulus, WhenOutput, WhenState, WhenText
from ..seeds import between, stream
from .contract import Run
from .trace import Kind, Trace

MOST_RUNS = 300
REST_US = 20_000  # between two presses of one hand on one thing


def shown_at(trace: Trace, answer: Answer) -> list[int]:
    """The instants at which what is waited for happens, in order."""
    to = answer.to
    match to:
        case WhenOutput():
            signal = trace.signal(Kind.OUTPUT, to.output)
            wanted, other = (1, 0) if to.on else (0, 1)
            pairs = zip(signal.times_us[1:], signal.values, signal.values[1:], strict=False)
            return [at for at, before, now in pairs if now == wanted and before == other]
        case WhenState():
            signal = trace.signal(Kind.STATE, to.machine)
            return [at for at, state in zip(signal.times_us, signal.values, strict=True) if state == to.state]
        case WhenText():
            if (Kind.TEXT, to.of) not in trace:
                return []
            signal = trace.signal(Kind.TEXT, to.of)
            pairs = zip(signal.times_us, ["", *signal.values], signal.values, strict=False)
            return [at for at, before, now in pairs if to.text in now and to.text not in before]


def repeated(scenario: Scenario, seed: int) -> Iterator[Stimulus]:
    """Everything that is done over and over, each at its instant."""
    for number, one in enumerate(scenario.repeats):
        rng = stream("repeat", seed, number)
        at_us = one.do.at_us
        for _ in range(one.times):
            if at_us >= scenario.length_us:
                break
            yield one.do.model_copy(update={"at_us": at_us})
            least_us = one.apart_us
            at_us += between(rng, least_us, max(one.apart_most_us, least_us)) // 1000 * 1000


def answered_with(answer: Answer, number: int, occurrence: int, at_us: int, seed: int) -> Stimulus | None:
    """What is done about it, and when; None where chance has it pass."""
    rng = stream("answer", seed, number, occurrence)
    passes, is_wrong = rng.random() * 100, rng.random() * 100
    later_us = between(rng, answer.after_us, max(answer.after_most_us, answer.after_us))
    if passes >= answer.percent:
        return None
    done = answer.instead if answer.instead is not None and is_wrong < answer.wrong_percent else answer.do
    return done.model_copy(update={"at_us": -(-(at_us + later_us) // 1000) * 1000})


def _free(one: Stimulus, there: list[Stimulus]) -> Stimulus:
    """The same, once the hand is free that is still pressing there."""
    if not isinstance(one, Press):
        return one
    mine = sorted((p.at_us, p.at_us + p.hold_us) for p in there if isinstance(p, Press) and p.input == one.input)
    at_us = one.at_us
    for begin, end in mine:
        if begin - REST_US < at_us + one.hold_us and at_us < end + REST_US:
            at_us = end + REST_US
    return one.model_copy(update={"at_us": at_us})


def played(scenario: Scenario, seed: int, run: Callable[[Scenario], Run]) -> Run:
    """The run of a scenario that answers. `run` runs one that does not."""
    done: list[Stimulus] = [*scenario.stimuli]
    for one in repeated(scenario, seed):
        done.append(_free(one, done))
    seen = [0] * len(scenario.answers)
    found = run(_plain(scenario, done))
    for _ in range(MOST_RUNS):
        shown = sorted(
            (at_us, number, occurrence)
            for number, answer in enumerate(scenario.answers)
            for occurrence, at_us in enumerate(shown_at(found.trace, answer))
            if occurrence >= seen[number] and (not answer.times or occurrence < answer.times)
        )
        first_us = scenario.length_us
        new: list[Stimulus] = []
        for at_us, number, occurrence in shown:
            if at_us >= first_us:
                break
            seen[number] = occurrence + 1
            wanted = answered_with(scenario.answers[number], number, occurrence, at_us, seed)
            if wanted is None:
                continue
            one = _free(wanted, [*done, *new])
            if one.at_us < scenario.length_us:
                new.append(one)
                first_us = min(first_us, one.at_us)
        if not new:
            return found
        done += new
        found = run(_plain(scenario, done))
    end_s = found.trace.length_us / 1e6
    return replace(found, stopped=f"The run stopped at {end_s:.3f} s: it had been answered {MOST_RUNS} times.")


def _plain(scenario: Scenario, done: list[Stimulus]) -> Scenario:
    """One that does just this, and does not answer."""
    rows = tuple(sorted(done, key=lambda one: one.at_us))
    return scenario.model_copy(update={"stimuli": rows, "answers": (), "repeats": ()})
