"""An encoder that is turned: when each of its two contacts touches, bounces included."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..contacts import MOST_CHANGES, Bouncer, ContactCourse, ModelBouncer
from ..document import Scenario, Turn
from ..document.parts import Encoder
from ..readers import A_BIT, B_BIT, GRAY
from ..switches import SWITCH_CLASSES

Change = tuple[int, bool]
MOST_MOVES = MOST_CHANGES // 4  # of each of the two, before they bounce


@dataclass(frozen=True)
class TurnCourse:
    """`clicks` is (instant, clicks to the right so far) at each whole click. `until_us` is as far as they were worked
    out; None: to the end."""

    clicks: tuple[tuple[int, int], ...]
    a: ContactCourse
    b: ContactCourse
    until_us: int | None = None


def flips(part: Encoder, turns: list[Turn]) -> Iterator[tuple[int, int]]:
    """(instant, quarter steps to the right so far) of every change of a contact, in order of time. A turn that
    begins while another goes on follows it."""
    place, free_us = 0, 0
    for turn in sorted(turns, key=lambda turn: turn.at_us):
        quarters = abs(turn.clicks) * part.counts_a_click
        begin_us = max(turn.at_us, free_us)
        way = 1 if turn.clicks > 0 else -1
        for number in range(quarters):
            place += way
            yield begin_us + turn.over_us * number // quarters, place
        free_us = begin_us + turn.over_us


def bounced(moves: list[Change], bouncer: Bouncer, length_us: int) -> tuple[Change, ...]:
    """The contact's changes from its moves: each bounces until it rests or the next move begins."""
    changes: list[Change] = [(0, False)]
    touching = False
    for number, (at_us, closes) in enumerate(moves):
        end_us = moves[number + 1][0] if number + 1 < len(moves) else length_us
        for step, offset in enumerate((0, *bouncer.burst(closes, number))):
            if at_us + offset >= end_us:
                break
            now = closes if step % 2 == 0 else not closes
            if now != touching:
                touching = now
                changes.append((at_us + offset, touching))
    return tuple(changes)


def turn_course(part: Encoder, scenario: Scenario, seed: int | str) -> TurnCourse:
    """How the two contacts move in a scenario. At rest, on a detent, both are open."""
    turns = [one for one in scenario.stimuli if isinstance(one, Turn) and one.input == part.id]
    moves: dict[str, list[Change]] = {"a": [], "b": []}
    clicks: list[tuple[int, int]] = []
    state, until_us = 0, None
    for at_us, place in flips(part, turns):
        if at_us >= scenario.length_us:
            break
        if len(moves["a"]) > MOST_MOVES:
            until_us = at_us
            break
        after = GRAY[(-place if part.swapped else place) % 4]
        for bit, end in ((A_BIT, "a"), (B_BIT, "b")):
            if (after ^ state) & bit:
                moves[end].append((at_us, bool(after & bit)))
        state = after
        if place % part.counts_a_click == 0:
            clicks.append((at_us, place // part.counts_a_click))
    switch = SWITCH_CLASSES[part.switch]
    a, b = (
        ContactCourse((), bounced(moves[end], ModelBouncer(switch, seed, part.id, end), scenario.length_us))
        for end in ("a", "b")
    )
    return TurnCourse(tuple(clicks), a, b, until_us)
