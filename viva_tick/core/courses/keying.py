"""Keys of a matrix that are held in a scenario: when the contact of each touches, bounces included."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass, field

from ..contacts import ModelBouncer
from ..document import KeyPress, Scenario
from ..document.parts import KeyMatrix
from ..seeds import between, stream
from ..switches import SWITCH_CLASSES
from .turning import MOST_MOVES, bounced


@dataclass(frozen=True)
class KeyCourse:
    """`held` is (instant, key, held or let go) as the person does it; `changes` (instant, places of the keys that
    touch) as the metal does. `until_us` is as far as they were worked out; None: to the end."""

    held: tuple[tuple[int, str, bool], ...]
    changes: tuple[tuple[int, frozenset[int]], ...]
    times_us: list[int] = field(repr=False)
    until_us: int | None = None

    def touching(self, at_us: int) -> frozenset[int]:
        """The places of the keys whose metal touches at an instant."""
        return self.changes[bisect_right(self.times_us, at_us) - 1][1]


def _picked_up(part: KeyMatrix, length_us: int, seed: int | str, most: int) -> tuple[list[tuple[int, int, bool]], int]:
    """(instant, place, closes) of columns that nothing holds, each of which reads low now and then as mains hum comes
    over it, in all its keys at once; and as far as that was worked out."""
    columns, edges = len(part.columns), []
    for column in range(columns):
        noise = stream("columns", seed, part.id, column)
        at_us, low, left = 0, False, most // len(part.names)
        while at_us < length_us and left:
            if noise.random() < 0.5:
                low, left = not low, left - 1
                edges += [(at_us, place, low) for place in range(column, len(part.names), columns)]
            at_us += between(noise, 1_000, 19_000)
        length_us = min(length_us, at_us)
    return edges, length_us


def key_course(part: KeyMatrix, scenario: Scenario, seed: int | str, floats: bool = False) -> KeyCourse:
    """How the keys move in a scenario; `floats`: nothing holds their columns."""
    held: list[tuple[int, str, bool]] = []
    edges: list[tuple[int, int, bool]] = []
    switch = SWITCH_CLASSES[part.switch]
    most, ends = MOST_MOVES // len(part.names), []
    for place, name in enumerate(part.names):
        moves: list[tuple[int, bool]] = []
        presses = [one for one in scenario.stimuli if isinstance(one, KeyPress) and one.input == part.id]
        for press in sorted((p for p in presses if p.key == name), key=lambda p: p.at_us):
            if not moves or press.at_us > moves[-1][0]:
                moves += [(press.at_us, True), (press.at_us + press.hold_us, False)]
        moves = [move for move in moves if move[0] < scenario.length_us]
        if len(moves) > most:
            ends.append(moves[most][0])
            moves = moves[:most]
        held += [(at_us, name, closes) for at_us, closes in moves]
        if moves:
            changes = bounced(moves, ModelBouncer(switch, seed, part.id, name), scenario.length_us)
            edges += [(at_us, place, closes) for at_us, closes in changes[1:]]
    if floats:
        noise, to_us = _picked_up(part, scenario.length_us, seed, MOST_MOVES)
        edges += noise
        ends += [to_us] if to_us < scenario.length_us else []
    closed: frozenset[int] = frozenset()
    steps = [(0, closed)]
    for at_us, place, closes in sorted(edges):
        closed = closed | {place} if closes else closed - {place}
        steps.append((at_us, closed))
    until_us = min(ends, default=None)
    return KeyCourse(tuple(sorted(held)), tuple(steps), [at_us for at_us, _ in steps], until_us)
