"""What the readings of encoders, keys and commands give away. Analogue parts have a file of their own."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

from ..document import Listen, Scan, TapTiming, Turns, pointer
from ..document.parts import Commands, Encoder, KeyMatrix, Sensed
from ..pins import first_reading
from ..sweep import counts_fit_us, key_decision, outcome, sweep_keys
from ..switches import SWITCH_CLASSES
from ..units import ms
from .finding import Evidence, Finding, Patch, Severity
from .mends import replaced


def _at(part: Sensed, field: str = "") -> str:
    return pointer("firmware", "readings", part.id, *([field] if field else []))


def _set(part: Sensed, field: str, value: Any) -> Patch:
    return replaced(_at(part, field), value)


def unread(evidence: Evidence) -> Iterator[Finding]:
    """An encoder, a sensor, keys or a source of commands are wired and not read."""
    for at, part in evidence.bench.sensed:
        if part.id not in evidence.bench.firmware.readings:
            yield Finding(
                code="clean.unread",
                severity=Severity.NOTE,
                station="clean",
                part=part.id,
                title=f"{part.name} is not read",
                sentence="It is wired, and nothing in the firmware looks at it.",
                numbers=(("read", "never"),),
                pointer=at,
                patch=({"op": "add", "path": _at(part), "value": first_reading(part, evidence.bench.the_board)},),
                mend="Read it",
            )


def _turns(evidence: Evidence) -> Iterator[tuple[str, Encoder, Turns]]:
    for at, part in evidence.bench.encoders:
        reading = evidence.bench.firmware.readings.get(part.id)
        if isinstance(reading, Turns):
            yield at, part, reading


def undivided(evidence: Evidence) -> Iterator[Finding]:
    """An encoder gives another number of counts a click than the firmware takes for a step."""
    for _, part, reading in _turns(evidence):
        gives, takes = part.counts_a_click, reading.counts_a_step
        if gives == takes:
            continue
        more = gives > takes
        said = (
            f"One detent counts {gives // takes} times" if more else f"It takes {takes // gives} detents to count one"
        )
        yield Finding(
            code="clean.encoder-undivided",
            severity=Severity.MUST,
            station="clean",
            part=part.id,
            title=f"{part.name}: {said[0].lower()}{said[1:]}",
            sentence=f"Between two detents its contacts change {gives} times; the firmware takes {takes} for a step.",
            numbers=(("counts a detent", str(gives)), ("counts a step", str(takes))),
            pointer=_at(part, "counts_a_step"),
            patch=_set(part, "counts_a_step", gives),
            mend=f"One step for {gives} counts" if gives > 1 else "One step for each count",
        )


def reversed_(evidence: Evidence) -> Iterator[Finding]:
    """A turn to the right counts down."""
    for _, part, reading in _turns(evidence):
        if part.swapped != reading.reversed:
            yield Finding(
                code="clean.encoder-reversed",
                severity=Severity.MUST,
                station="clean",
                part=part.id,
                title=f"{part.name} counts the wrong way",
                sentence="Turned to the right it steps back: A and B are the other way round.",
                numbers=(("A and B", "exchanged" if part.swapped else "in order"),),
                pointer=_at(part, "reversed"),
                patch=_set(part, "reversed", part.swapped),
                mend="Turn it round in the firmware",
            )


def too_fast(evidence: Evidence) -> Iterator[Finding]:
    """The fastest turn is too fast: for the loop, always or while something holds it, or for the contacts."""
    board = evidence.bench.the_board
    for at, part, reading in _turns(evidence):
        asked, polled = part.turns_a_second, part.read_by == "polling"
        fit_us = counts_fit_us(part, asked)
        longest_us = evidence.answers.longest_pass_us if evidence.answers else evidence.idle_pass_us
        lost, _, errors = outcome(part, reading, evidence.idle_pass_us, asked)
        always = bool(lost or errors)
        if always and reading.least_us:
            free = outcome(part, reading.model_copy(update={"least_us": 0}), evidence.idle_pass_us, asked)
            if not free[0] and not free[2]:
                yield _deaf(part, reading, asked, fit_us, lost)
                continue
        if not always and (longest_us <= fit_us or not polled):
            continue
        by_edge = outcome(part.model_copy(update={"read_by": "interrupt"}), reading, evidence.idle_pass_us, asked)
        helps = polled and not by_edge[0] and not by_edge[2]
        able = all(pin is not None and "interrupt" in pin.can for pin in map(board.pin, (part.a, part.b)))
        yield Finding(
            code="clean.encoder-slow",
            severity=Severity.MUST if always else Severity.LOOK,
            station="clean",
            part=part.id,
            title=f"{part.name}: the loop is too slow for it" if helps else f"{part.name} is turned too fast",
            sentence=f"At {asked:g} turns a second its contacts change every {ms(round(fit_us))}; "
            + _why_lost(evidence, part, always, helps, longest_us, lost),
            numbers=(("changes every", ms(round(fit_us))), ("longest pass", ms(longest_us))),
            pointer=f"{at}/turns_a_second",
            patch=replaced(f"{at}/read_by", "interrupt") if able and helps else (),
            mend="Read it by interrupt" if able and helps else "",
        )


def _deaf(part: Encoder, reading: Turns, asked: float, fit_us: float, lost: int) -> Finding:
    """It is not lost by the loop, but by the time in which nothing is looked at."""
    fits_us = max(int(fit_us // 2000), 0) * 1000
    return Finding(
        code="clean.encoder-deaf",
        severity=Severity.MUST,
        station="clean",
        part=part.id,
        title=f"{part.name} is not looked at for too long",
        sentence=f"At {asked:g} turns a second its contacts change every {ms(round(fit_us))}, and after each change "
        f"nothing is looked at for {ms(reading.least_us)}: {lost} of the steps tried are missed.",
        numbers=(("changes every", ms(round(fit_us))), ("not looked at for", ms(reading.least_us))),
        pointer=_at(part, "least_us"),
        patch=_set(part, "least_us", fits_us),
        mend=f"Use {ms(fits_us)}" if fits_us else "Look at every change",
    )


def _why_lost(evidence: Evidence, part: Encoder, always: bool, helps: bool, longest_us: int, lost: int) -> str:
    if not helps:
        switch = SWITCH_CLASSES[part.switch]
        longest_bounce_us = max(switch.press.settle_us[1], switch.release.settle_us[1])
        return f"they bounce for up to {ms(longest_bounce_us)}, into one another: {lost} of the steps tried are missed."
    if always:
        return f"the loop looks every {ms(evidence.idle_pass_us)}: {lost} of the steps tried are missed."
    safe = 1e6 / (longest_us * part.clicks_a_turn * part.counts_a_click)
    held = (
        evidence.answers.longest_pass_why.split()[-1] if evidence.answers and evidence.answers.longest_pass_why else ""
    )
    by = f" while {held} holds it" if held else ""
    return f"the loop looks every {ms(longest_us)}{by}: above {safe:.2g} turns a second it loses."


def _scans(evidence: Evidence) -> Iterator[tuple[str, KeyMatrix, Scan]]:
    for at, part in evidence.bench.placed:
        reading = evidence.bench.firmware.readings.get(part.id)
        if isinstance(part, KeyMatrix) and isinstance(reading, Scan):
            yield at, part, reading


def key_wait(evidence: Evidence) -> Iterator[Finding]:
    """Keys are counted twice, or quick presses of them are missed."""
    for _, part, reading in _scans(evidence):
        swept = sweep_keys(evidence.bench, part, reading)
        place = min(range(len(swept.interval_us)), key=lambda n: abs(int(swept.interval_us[n]) - reading.interval_us))
        doubled, missed = int(swept.doubled[place]), int(swept.missed[place])
        allowed = swept.presses * evidence.bench.taps.get(part.id, TapTiming()).per_thousand // 1000
        if doubled + missed <= allowed:
            continue
        advice = key_decision(evidence.bench, part, reading)
        if advice and advice.advised_us <= 0:
            advice = None  # no wait at all would be luck
        extra = doubled >= missed
        word, count = ("counted more than once", doubled) if extra else ("missed", missed)
        yield Finding(
            code="clean.keys-wait",
            severity=Severity.MUST,
            station="clean",
            part=part.id,
            title=f"{part.name}: {'extra presses counted' if extra else 'presses missed'}",
            sentence=f"{count} of {swept.presses} presses are {word} with a scan every {ms(reading.scan_us)} and a "
            f"wait of {ms(reading.interval_us)}." + ("" if advice else " No wait is safe: scan more often."),
            numbers=(("extra presses counted", str(doubled)), ("missed", str(missed))),
            pointer=_at(part, "interval_us"),
            patch=_set(part, "interval_us", advice.advised_us)
            if advice
            else (*_set(part, "scan_us", 5_000), *_set(part, "interval_us", 20_000)),
            mend=f"Wait {ms(advice.advised_us)}" if advice else "Scan every 5 ms",
        )


def ghost_keys(evidence: Evidence) -> Iterator[Finding]:
    """In the run a key was counted that nobody pressed."""
    for at, part, _ in _scans(evidence):
        said = evidence.answers.sensed.get(part.id) if evidence.answers else None
        if not said or not said.wrong:
            continue
        times = "once" if said.wrong == 1 else f"{said.wrong} times"
        yield Finding(
            code="clean.keys-ghost",
            severity=Severity.MUST,
            station="clean",
            part=part.id,
            title=f"{part.name}: a key that nobody pressed",
            sentence=f"It happens {times} in this scenario: three keys held together show a fourth.",
            numbers=(("pressed", str(said.made)), ("counted", str(said.counted))),
            pointer=f"{at}/diodes",
            patch=() if part.diodes else replaced(f"{at}/diodes", True),
            mend="" if part.diodes else "Give each key a diode",
            show_us=said.wrong_us,
        )


def commands(evidence: Evidence) -> Iterator[Finding]:
    """Numbers of a source of commands: none for a name, one for two, counted from another end, beyond what can be
    active, or seldom recognised."""
    for at, part in evidence.bench.placed:
        reading = evidence.bench.firmware.readings.get(part.id)
        if isinstance(part, Commands) and isinstance(reading, Listen):
            yield from _numbered(part, reading)
            yield from _mapped(part, reading)
            yield from _active(part, reading, _heard_names(evidence, part))
            yield from _misheard(at, part)


def _numbered(part: Commands, reading: Listen) -> Iterator[Finding]:
    if part.numbers or reading.numbers:
        yield from _own_numbers(part, reading)
        return
    if part.first_number == reading.numbers_from:
        return
    yield Finding(
        code="clean.command-base",
        severity=Severity.MUST,
        station="clean",
        part=part.id,
        title=f"{part.name}: every command is off by one",
        sentence=f"It counts from {part.first_number}, the firmware from {reading.numbers_from}: each number is taken "
        "for its neighbour.",
        numbers=(("it counts from", str(part.first_number)), ("firmware", str(reading.numbers_from))),
        pointer=_at(part, "numbers_from"),
        patch=_set(part, "numbers_from", part.first_number),
        mend=f"Count from {part.first_number}",
    )


def _own_numbers(part: Commands, reading: Listen) -> Iterator[Finding]:
    """A module that numbers its words in its own way, and a firmware that takes them for others."""
    sends = {name: part.number(n) for n, name in enumerate(part.names)}
    takes = [(name, reading.number(n)) for n, name in enumerate(reading.names) if name in sends]
    wrong = [(name, number) for name, number in takes if sends[name] != number]
    if not wrong:
        return
    name, number = wrong[0]
    numbers = [sends.get(one, reading.number(n)) for n, one in enumerate(reading.names)]
    fits = len(set(numbers)) == len(numbers)
    yield Finding(
        code="clean.command-number",
        severity=Severity.MUST,
        station="clean",
        part=part.id,
        title=f"{part.name}: another number for {_listed([one for one, _ in wrong])}",
        sentence=f"It sends {sends[name]} for “{name}”, and the firmware waits for {number}.",
        numbers=((name, str(sends[name])), ("firmware", str(number))),
        pointer=_at(part, "numbers"),
        patch=_set(part, "numbers", numbers) if fits else (),
        mend="Use the module's numbers" if fits else "",
    )


def _mapped(part: Commands, reading: Listen) -> Iterator[Finding]:
    missing = [name for name in part.names if name not in reading.names]
    if missing:
        yield Finding(
            code="clean.command-unmapped",
            severity=Severity.LOOK,
            station="clean",
            part=part.id,
            title=f"{part.name}: {_listed(missing)} {'means' if len(missing) == 1 else 'mean'} nothing",
            sentence="The number arrives, and no name stands beside it.",
            numbers=(("without a number", str(len(missing))),),
            pointer=_at(part, "names"),
            patch=(*_set(part, "numbers", list(part.numbers)), *_set(part, "names", list(part.names))),
            mend="Use the numbers as they come",
        )
    twice = sorted({name for name in reading.names if name and reading.names.count(name) > 1})
    if twice:
        places = [str(reading.number(n)) for n, name in enumerate(reading.names) if name == twice[0]]
        yield Finding(
            code="clean.command-twice",
            severity=Severity.LOOK,
            station="clean",
            part=part.id,
            title=f"{part.name}: {twice[0]} stands at two numbers",
            sentence=f"Numbers {_listed(places)} do the same; is one of them meant for something else?",
            numbers=((twice[0], ", ".join(places)),),
            pointer=_at(part, "names"),
        )


def _listed(names: list[str]) -> str:
    shown = names[:3] if len(names) <= 3 else [*names[:2], f"{len(names) - 2} more"]
    return shown[0] if len(shown) == 1 else f"{', '.join(shown[:-1])} and {shown[-1]}"


def _heard_names(evidence: Evidence, part: Commands) -> set[str]:
    """The commands that a machine listens for."""
    events = [one.on for machine in evidence.bench.firmware.machines for one in machine.transitions]
    return {on.of for on in events if on.kind == "command" and getattr(on, "input", "") == part.id}


def _active(part: Commands, reading: Listen, heard: set[str]) -> Iterator[Finding]:
    loaded = [name for name in reading.names if name]
    if not part.active_most or part.source == "typed" or len(loaded) <= part.active_most:
        return
    used = [name for name in dict.fromkeys(loaded) if name in heard]
    others = {word for one in part.sets for word in one.words}  # bytes can make it listen for these
    asleep = [name for name in loaded[part.active_most :] if name in heard and name not in others]
    if not asleep:
        return
    fits = len(used) <= part.active_most
    kept = [name if name in heard else "" for name in reading.names]
    said = f"Machines use {len(used)} of {len(loaded)} names"
    yield Finding(
        code="clean.command-inactive",
        severity=Severity.MUST,
        station="clean",
        part=part.id,
        title=f"{part.name} listens for {part.active_most} at once",
        sentence=f"{said}; it has the first {part.active_most} loaded, so that it never recognises {_listed(asleep)}."
        + ("" if fits else " More are used than it can listen for: use fewer, or load another set."),
        numbers=(("used", str(len(used))), ("active at once", str(part.active_most))),
        pointer=_at(part, "names"),
        patch=_set(part, "names", kept) if fits else (),
        mend=f"Load the {len(used)} that are used" if fits else "",
    )


def _misheard(at: str, part: Commands) -> Iterator[Finding]:
    far = [one for one in part.hits if one.percent < 50]
    if far:
        nearest = min(one.cm for one in far)
        yield Finding(
            code="clean.command-distance",
            severity=Severity.NOTE,
            station="clean",
            part=part.id,
            title=f"{part.name} misses more than half from {nearest} cm",
            sentence="Say it closer, or show what was heard; a scenario can say how far away a command is given.",
            numbers=tuple((f"at {one.cm} cm", f"{one.percent} %") for one in sorted(part.hits, key=lambda one: one.cm)),
            pointer=f"{at}/hits",
        )
    if part.hit_percent >= 90 or part.hits:
        return
    tries = math.ceil(math.log(0.01) / math.log(1 - part.hit_percent / 100))
    yield Finding(
        code="clean.command-misheard",
        severity=Severity.NOTE,
        station="clean",
        part=part.id,
        title=f"{part.name} misses {100 - part.hit_percent} of 100",
        sentence=f"To be 99 % sure that it was recognised a command must be given {tries} times; show what was heard.",
        numbers=(("recognised", f"{part.hit_percent} %"), ("tries", str(tries))),
        pointer=f"{at}/hit_percent",
    )
