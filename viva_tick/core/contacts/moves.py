"""From what a scenario does to an input part to when its metal touches."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Bench, ContactLine, Press, Scenario, SetTo
from ..document.parts import FourLegged
from ..switches import SWITCH_CLASSES
from .bounce import Bouncer, CaptureBouncer, ModelBouncer

MOST_CHANGES = 60_000  # of one contact: further than that none is worked out


@dataclass(frozen=True)
class Move:
    """The part is pushed (pressed) or let go, and its bounce is over at `rest_us`."""

    at_us: int
    pressed: bool
    rest_us: int


@dataclass(frozen=True)
class ContactCourse:
    """Changes of the contact in one run: `changes` is (instant, touching), beginning with instant 0. `until_us` is as
    far as they were worked out; None: to the end."""

    moves: tuple[Move, ...]
    changes: tuple[tuple[int, bool], ...]
    until_us: int | None = None


def bouncer_for(bench: Bench, part: ContactLine, seed: int) -> Bouncer:
    """The part's own way of bouncing."""
    if part.contact.kind == "capture":
        return CaptureBouncer(bench.capture(part.contact.capture), first=seed - 1)
    return ModelBouncer(SWITCH_CLASSES[part.contact.switch], seed, part.id)


def _pushes(part: ContactLine, scenario: Scenario) -> list[tuple[int, bool]]:
    """(instant, pressed or let go), in turn. Of what is done on one instant the end of a press comes first, then all
    else in the order in which it is laid out; what is let go on the instant on which it was pressed never touched."""
    ends: list[tuple[int, bool]] = []
    pushes: list[tuple[int, bool]] = []
    for stimulus in scenario.stimuli:
        if stimulus.input == part.id:
            if isinstance(stimulus, Press):
                pushes.append((stimulus.at_us, True))
                ends.append((stimulus.at_us + stimulus.hold_us, False))
            elif isinstance(stimulus, SetTo):
                pushes.append((stimulus.at_us, stimulus.pressed))
    kept: list[tuple[int, bool]] = []
    pressed = False
    for at_us, push in sorted([*ends, *pushes], key=lambda one: one[0]):
        if push == pressed or at_us >= scenario.length_us:
            continue
        pressed = push
        if kept and kept[-1] == (at_us, True):
            kept.pop()
        else:
            kept.append((at_us, push))
    return kept


def contact_course(bench: Bench, part: ContactLine, scenario: Scenario, seed: int) -> ContactCourse:
    """When the part's metal touches in that scenario, bounces included."""
    bouncer = bouncer_for(bench, part, seed)
    closed_at_rest = part.wiring.normally == "closed"
    pushes = _pushes(part, scenario)
    if isinstance(part.part, FourLegged) and part.part.legs == "joined":
        # Wired to two legs that are one piece of metal: it touches whatever is done to it.
        return ContactCourse(tuple(Move(at_us, pressed, at_us) for at_us, pressed in pushes), ((0, True),))
    moves: list[Move] = []
    changes: list[tuple[int, bool]] = [(0, closed_at_rest)]
    over = False  # whether the part is electrically over to its pressed side
    for number, (at_us, pressed) in enumerate(pushes):
        if len(changes) > MOST_CHANGES:
            return ContactCourse(tuple(moves), tuple(changes), at_us)
        end_us = pushes[number + 1][0] if number + 1 < len(pushes) else scenario.length_us
        rest_us = at_us
        for step, offset in enumerate((0, *bouncer.burst(pressed, number))):
            if at_us + offset >= end_us:
                break
            now = pressed if step % 2 == 0 else not pressed
            if now != over:
                over = now
                rest_us = at_us + offset
                changes.append((rest_us, over != closed_at_rest))
        moves.append(Move(at_us, pressed, rest_us))
    return ContactCourse(tuple(moves), tuple(changes))
