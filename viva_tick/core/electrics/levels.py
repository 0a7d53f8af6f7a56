"""What the pin sees: levels from contacts and wiring.

Levels are 0 (low), 1 (high) and FLOATING where nothing holds the pin; a reading of a floating pin is noise, which
the model makes from a seed: every 1 to 19 ms it may turn over, the likelier the longer the wire, as mains hum does to
it; with a hand at the wire it follows the hum, half a period of 50 Hz each way (common practice).
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Sequence
from random import Random

from ..boards import Board
from ..contacts import ContactCourse, pin_levels
from ..document.parts import ContactLine, TwoWay
from ..seeds import between, stream
from .circuit import Circuit, circuit_of, filter_of
from .pin import pin_state

LOW, HIGH, FLOATING = 0, 1, -1
HUM_US = 10_000  # half a period of 50 Hz
LOUD_CM = 60  # from here on a wire turns over at every other look (common practice)
TRANSIT_US = 2_000  # a two-way switch is open for so long between its sides (common practice: 1 to 5 ms)


def level_of(circuit: Circuit, board: Board, touching: bool) -> int:
    """LOW, HIGH or FLOATING for a contact that touches or not, once set-up has run."""
    return {"low": LOW, "high": HIGH}.get(pin_state(circuit, board, touching).verdict, FLOATING)


def floats(line: ContactLine, board: Board) -> bool:
    """Whether nothing at all holds the pin in one of the contact's two positions."""
    circuit = circuit_of(line, board)
    positions = {circuit.touching(pressed) for pressed in (False, True)}
    return any(pin_state(circuit, board, touching).verdict == "floats" for touching in positions)


def level_changes(
    line: ContactLine,
    board: Board,
    course: ContactCourse,
    length_us: int,
    seed: int,
    touched: Sequence[tuple[int, int]] = (),
) -> Iterator[tuple[int, int]]:
    """(instant, LOW or HIGH) at the pin, noise included, beginning with instant 0; `touched`: from when to when a hand
    is at its wire."""
    circuit = circuit_of(line, board)
    if circuit.deaf:
        yield 0, LOW
        return
    if rc := filter_of(line, board):
        yield from pin_levels(course.changes, rc, length_us, stream("noise", seed, line.id))
        return
    levels = {touching: level_of(circuit, board, touching) for touching in (False, True)}
    noise = stream("noise", seed, line.id)
    last = None
    changes = course.changes
    open_us = TRANSIT_US if circuit.other is not None and not circuit.held and isinstance(line.part, TwoWay) else 0
    for index, (at_us, touching) in enumerate(changes):
        end_us = changes[index + 1][0] if index + 1 < len(changes) else length_us
        level = levels[touching]
        if open_us and index and level != FLOATING:  # on its way from side to side it touches neither
            when = at_us
            while when < min(at_us + open_us, end_us):
                heard = HIGH if noise.random() < 0.5 else LOW
                if heard != last:
                    yield when, heard
                    last = heard
                when += between(noise, 100, 900)
            at_us = min(at_us + open_us, end_us)
            if at_us >= end_us:
                continue
        if level != FLOATING:
            if level != last:
                yield at_us, level
                last = level
            continue
        for when, heard in _picked_up(noise, line.wiring.wire_cm, at_us, end_us, last, touched):
            if heard != last:
                yield when, heard
                last = heard


def _picked_up(
    noise: Random, wire_cm: int, at_us: int, end_us: int, last: int | None, touched: Sequence[tuple[int, int]]
) -> Iterator[tuple[int, int]]:
    """What a wire that nothing holds picks up from one instant to another. Left to itself it stays where it was as
    often as it is short."""
    turns = 0.5 * min(wire_cm / LOUD_CM, 1)
    now = last if last is not None else int(noise.random() < 0.5)
    yield at_us, now
    when, rest = at_us, deque(sorted(touched))
    while when < end_us:
        while rest and rest[0][1] <= when:
            rest.popleft()
        if rest and rest[0][0] <= when:
            now = HIGH if now == LOW else LOW
            yield when, now
            when += HUM_US
            continue
        if when > at_us and noise.random() < turns:
            now = HIGH if now == LOW else LOW
            yield when, now
        next_us = when + between(noise, 1_000, 19_000)
        when = min(next_us, rest[0][0]) if rest else next_us
