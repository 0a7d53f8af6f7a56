"""What a scenario expects, against what its run did."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from typing import assert_never

from ..document import Bench, Expect, ExpectCount, ExpectNumber, ExpectOn, ExpectState, ExpectText, Scenario
from ..engine import Kind, Run
from ..machines import SIGNS
from ..units import at_s


@dataclass(frozen=True)
class Verdict:
    """One expectation, judged. `words` say what was expected, `got` what came instead (empty where it was met);
    `wrong_us` are the first instants at which it was not so. Not `reached`: the run stopped before it could be told."""

    met: bool
    words: str
    got: str
    wrong_us: tuple[int, ...]
    reached: bool = True


SIGN_WORDS = {"<": "under", "<=": "at most", "=": "is", "!=": "is not", ">=": "at least", ">": "over"}


def expected_words(bench: Bench, one: Expect) -> str:
    """What is expected, as a sentence without its full stop."""
    names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.lines}
    if isinstance(one, ExpectOn):
        return f"{names[one.output]} {'on' if one.on else 'off'} from {at_s(one.from_us)} to {at_s(one.to_us)}"
    if isinstance(one, ExpectState):
        machine = next(m for m in bench.firmware.machines if m.id == one.machine)
        return f"{machine.name} in {machine.state(one.state).name} at {at_s(one.at_us)}"
    if isinstance(one, ExpectNumber):
        name = next(variable.name for variable in bench.firmware.variables if variable.id == one.variable)
        if one.from_us == one.to_us:
            when = f"at {at_s(one.from_us)}"
        else:
            when = f"{'once ' if one.when == 'once' else ''}from {at_s(one.from_us)} to {at_s(one.to_us)}"
        return f"{name} {SIGN_WORDS[one.sign]} {one.number} {when}"
    if isinstance(one, ExpectText):
        name = next(line.name for line in bench.text_lines if line.id == one.of)
        return f"{name} shows “{one.text}” at {at_s(one.at_us)}"
    times = "once" if one.times == 1 else f"{one.times} times"
    what = {"press": "pressed", "on": "on", "event": f"gives “{one.event}”"}[one.what]
    return f"{names[one.of]} {what} {times}"


def _on(run: Run, one: ExpectOn) -> tuple[str, tuple[int, ...]]:
    signal = run.trace.signal(Kind.OUTPUT, one.output)
    wanted = 1 if one.on else 0
    start = max(bisect_right(signal.times_us, one.from_us) - 1, 0)
    for at_us, value in zip(signal.times_us[start:], signal.values[start:], strict=True):
        if at_us >= one.to_us:
            break
        if value != wanted:
            since = max(at_us, one.from_us)
            return f"{ {1: 'on', 0: 'off'}.get(value, 'floating') } at {at_s(since)}", (since,)
    return "", ()


def _count(run: Run, one: ExpectCount) -> tuple[str, tuple[int, ...]]:
    if one.what != "on":
        wanted = one.event or "press"
        if (Kind.EVENT, one.of) not in run.trace:
            return ("not read" if one.times else ""), ()
        signal = run.trace.signal(Kind.EVENT, one.of)
        instants = [at for at, what in zip(signal.times_us, signal.values, strict=True) if what == wanted]
    else:
        signal = run.trace.signal(Kind.OUTPUT, one.of)
        instants = [at for at, value in zip(signal.times_us, signal.values, strict=True) if value == 1]
    if len(instants) == one.times:
        return "", ()
    return f"{len(instants)} time{'' if len(instants) == 1 else 's'}", tuple(instants[one.times :] or instants[-1:])


def _state(bench: Bench, run: Run, one: ExpectState) -> tuple[str, tuple[int, ...]]:
    signal = run.trace.signal(Kind.STATE, one.machine)
    place = bisect_right(signal.times_us, one.at_us) - 1
    state = signal.values[place] if place >= 0 else None
    if state == one.state:
        return "", ()
    machine = next(m for m in bench.firmware.machines if m.id == one.machine)
    return ("in " + machine.state(state).name if state else "not set up yet"), (one.at_us,)


def _number(run: Run, one: ExpectNumber) -> tuple[str, tuple[int, ...]]:
    signal = run.trace.signal(Kind.VALUE, one.variable)
    holds = SIGNS[one.sign]
    if not signal.times_us or signal.times_us[0] > one.to_us:
        return "not set up yet", (one.from_us,)
    first = max(bisect_right(signal.times_us, one.from_us) - 1, 0)
    seen = []
    for at_us, value in zip(signal.times_us[first:], signal.values[first:], strict=True):
        if at_us > one.to_us:
            break
        seen.append((max(at_us, one.from_us), value))
    if one.when == "once":
        return ("", ()) if any(holds(value, one.number) for _, value in seen) else (f"{seen[-1][1]}", (one.to_us,))
    wrong = [(at_us, value) for at_us, value in seen if not holds(value, one.number)]
    return (f"{wrong[0][1]} at {at_s(wrong[0][0])}", (wrong[0][0],)) if wrong else ("", ())


def _text(run: Run, one: ExpectText) -> tuple[str, tuple[int, ...]]:
    if (Kind.TEXT, one.of) not in run.trace:
        return ("nothing", (one.at_us,)) if one.text else ("", ())
    signal = run.trace.signal(Kind.TEXT, one.of)
    place = bisect_right(signal.times_us, one.at_us) - 1
    shown = signal.values[place] if place >= 0 else None
    if shown is not None and (one.text in shown if one.text else not shown):
        return "", ()
    return f"“{shown}”" if shown else "nothing", (one.at_us,)


def _reached(run: Run, one: Expect) -> bool:
    """Whether a run that stopped early can tell: what is already wrong stays wrong."""
    end_us = run.trace.length_us
    if isinstance(one, ExpectOn):
        return one.to_us <= end_us or (one.from_us < end_us and bool(_on(run, one)[0]))
    if isinstance(one, ExpectNumber):
        return one.to_us <= end_us
    if isinstance(one, ExpectState | ExpectText):
        return one.at_us <= end_us
    return bool(_count(run, one)[1][one.times :]) or len(_count(run, one)[1]) > one.times


def judged(bench: Bench, scenario: Scenario, run: Run) -> tuple[Verdict, ...]:
    """Every expectation of the scenario, in its order."""
    found = []
    for one in scenario.expects:
        if run.stopped and not _reached(run, one):
            found.append(Verdict(True, expected_words(bench, one), "not reached: the run stopped before", (), False))
            continue
        match one:
            case ExpectOn():
                got, wrong = _on(run, one)
            case ExpectCount():
                got, wrong = _count(run, one)
            case ExpectState():
                got, wrong = _state(bench, run, one)
            case ExpectNumber():
                got, wrong = _number(run, one)
            case ExpectText():
                got, wrong = _text(run, one)
            case _:
                assert_never(one)
        found.append(Verdict(not got, expected_words(bench, one), got, wrong))
    return tuple(found)


def as_it_is(bench: Bench, run: Run, output: str) -> list[ExpectOn | ExpectCount]:
    """What an output does in a run, said as expectations: how often it is on, and its first spells, with a margin."""
    signal = run.trace.signal(Kind.OUTPUT, output)
    ends = [*signal.times_us[1:], run.trace.length_us]
    spells = [(at, to) for at, to, value in zip(signal.times_us, ends, signal.values, strict=True) if value == 1]
    found: list[ExpectOn | ExpectCount] = [ExpectCount(of=output, what="on", times=len(spells))]
    for at_us, to_us in spells[:3]:
        margin = min((to_us - at_us) // 10, 20_000)
        # Whole milliseconds inside it.
        from_us, until_us = -(-(at_us + margin) // 1000) * 1000, (to_us - margin) // 1000 * 1000
        if until_us > from_us:
            found.append(ExpectOn(output=output, on=True, from_us=from_us, to_us=until_us))
    return found
