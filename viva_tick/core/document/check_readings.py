"""The same for inputs that are more than a contact: how they are read, what they can give, what is done to them."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from typing import Any

from ..boards import Board, boards
from ..units import short
from .bench import Bench
from .events import InputEvent
from .firmware import Listen, Mark, Measure, Scan, Turns
from .parts import Analogue, Commands, Encoder, KeyMatrix, OpenWire, Part, Sensed
from .problems import Problem, pointer
from .scenario import Command, KeyPress, Level, Stimulus, Touch, Turn


def either(names: Iterable[str]) -> str:
    """The names that would do."""
    return ", ".join(names) or "none"


READ_BY: tuple[tuple[type[Sensed], type[Any]], ...] = (
    (Encoder, Turns),
    (Analogue, Measure),
    (KeyMatrix, Scan),
    (Commands, Listen),
)
HEARD = {
    "turns": ("step", "back", "fast", "fast-back"),
    "measure": ("above", "below", "stays"),
    "scan": ("key", "code", "wrong"),
    "listen": ("command", "number", "outside"),
}


def reading_problems(bench: Bench) -> Iterator[Problem]:
    """Faults of how encoders, analogue parts, keys and commands are read."""
    parts = {part.id: part for _, part in bench.sensed}
    for name, reading in bench.firmware.readings.items():
        where = pointer("firmware", "readings", name)
        part = parts.get(name)
        if part is None:
            yield Problem(where, f"there is no encoder, sensor, key matrix or source of commands “{name}”.")
            continue
        wanted = next(reads for kind, reads in READ_BY if isinstance(part, kind))
        if not isinstance(reading, wanted):
            word = wanted.model_fields["kind"].default
            yield Problem(where + "/kind", f"{part.name} is not read as “{reading.kind}”; “{word}” would do.")
        elif isinstance(reading, Measure):
            yield from _measure(bench, where, reading)
        elif isinstance(reading, Scan) and isinstance(part, KeyMatrix):
            for index, key in enumerate(reading.ignored):
                if key not in part.names:
                    yield Problem(f"{where}/ignored/{index}", f"{part.name} has no key “{key}”.")
            for index, key in enumerate(reading.code):
                if key not in part.names:
                    yield Problem(f"{where}/code/{index}", f"{part.name} has no key “{key}”.")
                elif key in reading.ignored:
                    yield Problem(f"{where}/ignored", f"“{key}” is in the code; remove it from that first.")
        elif isinstance(reading, Listen):
            yield from _listened(bench, where, reading)


def _listened(bench: Bench, where: str, reading: Listen) -> Iterator[Problem]:
    variables = [one.id for one in bench.firmware.variables]
    if reading.into is not None and reading.into not in variables:
        yield Problem(f"{where}/into", f"there is no variable “{reading.into}”; {either(variables)} are.")
    if reading.least > reading.most:
        yield Problem(f"{where}/most", f"{reading.most} is less than the least, {reading.least}.")
    yield from each_once(f"{where}/numbers", reading.numbers, len(reading.names))


def each_once(where: str, numbers: tuple[int, ...], names: int) -> Iterator[Problem]:
    """Numbers of names: one for each, each once."""
    if numbers and len(numbers) != names:
        yield Problem(where, f"{len(numbers)} numbers for {names} names; give each name one, or none of them.")
    for place, number in enumerate(numbers):
        if number in numbers[:place]:
            yield Problem(f"{where}/{place}", f"{number} is there twice; give each name its own.")


def scale_ends(unit: str, board: Board) -> tuple[float, float]:
    """The ends of the converter's scale in counts, volts or percent; one past the last count is let through, for that
    is a slip that has a finding of its own."""
    if board.analogue is None or unit == "own":
        return -math.inf, math.inf
    return 0.0, {"counts": float(1 << board.analogue.bits), "volts": board.analogue.reference_mv / 1000}.get(
        unit, 100.0
    )


def _measure(bench: Bench, where: str, reading: Measure) -> Iterator[Problem]:
    board = bench.own_board or boards().get(bench.board)
    least, most = scale_ends(reading.unit, board) if board else (-math.inf, math.inf)
    pairs: list[tuple[str, Measure | Mark]] = [(where, reading)]
    pairs += [(f"{where}/marks/{number}", mark) for number, mark in enumerate(reading.marks)]
    for at, pair in pairs:
        for field in ("above", "below"):
            value = getattr(pair, field)
            if not least <= value <= most:
                scale = f"from {short(least)} to {short(most)}"
                said = f"{short(value)} {reading.unit} is outside the scale, which goes {scale}."
                yield Problem(f"{at}/{field}", said)
        if pair.below > pair.above:
            yield Problem(f"{at}/below", f"{short(pair.below)} is over the upper threshold, {short(pair.above)}.")
    for number, mark in enumerate(reading.marks):
        if mark.id in [one.id for one in reading.marks[:number]]:
            yield Problem(f"{where}/marks/{number}/id", f"“{mark.id}” is there twice; give each its own.")


def no_mark(bench: Bench, ident: str, of: str) -> str:
    """Why an analogue part has no such mark; empty where it has. One that is not read has any."""
    reading = bench.firmware.readings.get(ident)
    if not of or not isinstance(reading, Measure) or of in reading.pairs:
        return ""
    return f"“{ident}” has no threshold “{of}”; {either(one.id for one in reading.marks)} are."


def unheard(bench: Bench, event: InputEvent) -> str:
    """Why an input cannot give that event; empty where it can."""
    if event.kind == "chord":
        contacts = {line.id for line in bench.contacts}
        odd = next((name for name in (event.input, event.of) if name not in contacts), None)
        if odd is not None:
            return f"there is no contact “{odd}” on this bench for a chord."
        return "a chord takes two contacts, not one twice." if event.input == event.of else ""
    part = next((part for _, part in bench.sensed if part.id == event.input), None)
    if part is None:
        return f"there is no input “{event.input}” on this bench."
    kind = next(reads for kind, reads in READ_BY if isinstance(part, kind)).model_fields["kind"].default
    if event.kind not in HEARD[kind]:
        return f"{part.name} gives {either(HEARD[kind])}, not “{event.kind}”."
    if isinstance(part, KeyMatrix) and event.kind == "key" and event.of not in part.names:
        return f"{part.name} has no key “{event.of}”; {either(part.names)} are there."
    return no_mark(bench, part.id, event.of) if event.kind in ("above", "below") else ""


def unmoved(stimulus: Stimulus, contacts: dict[str, Part], parts: dict[str, Sensed]) -> str:
    """Why a stimulus cannot be done to what it names; empty where it can. `contacts` are the parts of the lines."""
    part = parts.get(stimulus.input)
    known = stimulus.input in contacts or part is not None
    if not known:
        return f"there is no input “{stimulus.input}” on this bench."
    for done, kind in ((Turn, Encoder), (Level, Analogue), (KeyPress, KeyMatrix), (Command, Commands)):
        if isinstance(stimulus, done):
            if not isinstance(part, kind):
                return f"“{stimulus.input}” cannot be given a “{stimulus.kind}”."
            if isinstance(stimulus, KeyPress) and isinstance(part, KeyMatrix) and stimulus.key not in part.names:
                return f"{part.name} has no key “{stimulus.key}”; {either(part.names)} are there."
            return ""
    if isinstance(contacts.get(stimulus.input), OpenWire) and not isinstance(stimulus, Touch):
        return f"nothing of “{stimulus.input}” can be pressed; its wire can be touched."
    return "" if stimulus.input in contacts else f"“{stimulus.input}” cannot be pressed; it is not a contact."
