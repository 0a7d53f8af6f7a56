"""A scenario that answers: what is done when the bench does something, by chance, and over and over.

Nothing that is done later changes what was before. So a hand on contacts is played as the run goes on (`Hands`); what
else can be done is played by running the scenario, answering what it shows as far as the first of the answers, and
running it again with that, until nothing new is shown (`played`). A test holds the two together.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from typing import Any

from ..document import Answer, Press, Scenario, SetTo, Stimulus, WhenOutput, WhenState, WhenText
from ..seeds import between, stream
from .contract import Run
from .trace import Kind, Recording, Trace

MOST_RUNS = 300
REST_US = 20_000  # between two presses of one hand on one thing


def shown_at(trace: Trace, answer: Answer) -> list[int]:
    """The instants at which what is waited for happens, in order."""
    if _name(answer) not in trace:
        return []
    signal = trace.signal(*_name(answer))
    return [at for place, at in enumerate(signal.times_us) if _shows(answer, signal.values, place)]


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
    done: list[Stimulus] = [*with_repeats(scenario, seed).stimuli]
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


def with_repeats(scenario: Scenario, seed: int) -> Scenario:
    """The same with everything that is done over and over laid out."""
    done: list[Stimulus] = [*scenario.stimuli]
    for one in repeated(scenario, seed):
        done.append(_free(one, done))
    rows = tuple(sorted(done, key=lambda one: one.at_us))
    return scenario.model_copy(update={"stimuli": rows, "repeats": ()})


def only_hands(scenario: Scenario) -> bool:
    """Whether all answers are done to contacts."""
    done = [one for answer in scenario.answers for one in (answer.do, answer.instead) if one is not None]
    return all(isinstance(one, Press | SetTo) for one in done)


class Hands:
    """Answers as the run goes on. `move` is told of a contact's whole course whenever it gets another press, and from
    when on it is new."""

    def __init__(
        self,
        scenario: Scenario,
        seed: int,
        recorded: Mapping[tuple[Kind, str], Recording],
        move: Callable[[str, int, Scenario], None],
    ) -> None:
        self.scenario, self.seed, self.move = scenario, seed, move
        self.done: list[Stimulus] = [*scenario.stimuli]
        self.watched = [recorded.get(_name(answer)) for answer in scenario.answers]
        self.places = [0] * len(scenario.answers)
        self.seen = [0] * len(scenario.answers)

    def look(self) -> None:
        """After a pass: answer what it has shown."""
        new: list[tuple[int, int]] = []
        for number, recording in enumerate(self.watched):
            if recording is None or self.places[number] >= len(recording.times_us):
                continue
            for place in range(self.places[number], len(recording.times_us)):
                if _shows(self.scenario.answers[number], recording.values, place):
                    new.append((recording.times_us[place], number))
            self.places[number] = len(recording.times_us)
        for at_us, number in sorted(new):
            answer, occurrence = self.scenario.answers[number], self.seen[number]
            self.seen[number] += 1
            if answer.times and occurrence >= answer.times:
                continue
            wanted = answered_with(answer, number, occurrence, at_us, self.seed)
            if wanted is None:
                continue
            one = _free(wanted, self.done)
            if one.at_us < self.scenario.length_us:
                self.done.append(one)
                self.move(one.input, at_us, _plain(self.scenario, self.done))


def _name(answer: Answer) -> tuple[Kind, str]:
    """What is looked at for an answer."""
    match answer.to:
        case WhenOutput() as to:
            return Kind.OUTPUT, to.output
        case WhenState() as to:
            return Kind.STATE, to.machine
        case WhenText() as to:
            return Kind.TEXT, to.of


def _shows(answer: Answer, values: list[Any], place: int) -> bool:
    """Whether a change is what an answer waits for."""
    now, before = values[place], values[place - 1] if place else None
    match answer.to:
        case WhenOutput() as to:
            return bool(now == int(to.on) and before == int(not to.on))
        case WhenState() as to:
            return bool(now == to.state)
        case WhenText() as to:
            return to.text in now and to.text not in (before or "")


def _plain(scenario: Scenario, done: list[Stimulus]) -> Scenario:
    """One that does just this, and does not answer."""
    rows = tuple(sorted(done, key=lambda one: one.at_us))
    return scenario.model_copy(update={"stimuli": rows, "answers": (), "repeats": ()})
