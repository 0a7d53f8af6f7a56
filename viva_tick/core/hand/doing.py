"""What a hand does to a panel: one round of actions from power-on, each with what was meant by it."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass

from ..document import Bench, Command, KeyPress, Level, Scenario, SetTo, Stimulus, Touch, Turn
from ..document.parts import (
    Analogue,
    Commands,
    ContactLine,
    Encoder,
    Float,
    KeyMatrix,
    LimitSwitch,
    MagnetContact,
    OpenWire,
    Sensed,
    SignalIn,
    SlideSwitch,
    Switch,
)
from ..electrics import range_of
from ..gestures.recogniser import HELD
from ..gestures.wanted import heard
from ..seeds import between, stream
from .people import AGAIN, SLIP, Person

ACTIONS = 25  # of a round; then the board is switched off and on again
BEGINS_US = 400_000
OVER_US = 1_500_000  # what was done last has come to something by then
TURNS_A_SECOND = 2  # at most, by hand


@dataclass(frozen=True)
class Meant:
    """One action: what to, from when to when, what was meant, and what went amiss as it was done: "slip", "twice".
    `many`: clicks to the right; `which`: the key, or the name of the command."""

    of: str
    what: str
    from_us: int
    to_us: int
    amiss: str = ""
    many: int = 0
    which: str = ""


class _Hand:
    """One round while it is being made up."""

    def __init__(self, bench: Bench, person: Person, number: int) -> None:
        self.bench, self.person = bench, person
        self.rng = stream("hand", person.id, number)
        self.at_us = BEGINS_US
        self.done: list[Stimulus] = []
        self.meant: list[Meant] = []
        self.over: dict[str, bool] = {}
        self.gestures = heard(bench)

    def chance(self, percent: float) -> bool:
        """Whether it happens, of so many in a hundred."""
        return self.rng.random() * 100 < percent

    def press(self, ident: str, at_us: int, for_us: int) -> int:
        """Down and up again; when it is up."""
        self.done += [
            SetTo(input=ident, at_us=at_us, pressed=True),
            SetTo(input=ident, at_us=at_us + for_us, pressed=False),
        ]
        return at_us + for_us

    def button(self, line: ContactLine) -> None:
        """A tap, or what else the bench listens for; it may slip, or come twice, or with a neighbour."""
        at_us, tap_us, kinds = self.at_us, self.person.press.draw_us(self.rng), self.gestures.get(line.id, set())
        times = self.bench.firmware.gestures.get(line.id)
        if kinds & set(HELD) and self.chance(25):
            hold_us = (times.hold_us if times else 600_000) + between(self.rng, 200_000, 700_000)
            return self.mean(line.id, "hold", at_us, self.press(line.id, at_us, hold_us))
        if "double" in kinds and self.chance(20):
            up_us = self.press(line.id, at_us, tap_us)
            again_us = up_us + AGAIN.draw_us(self.rng)
            return self.mean(
                line.id, "double", at_us, self.press(line.id, again_us, self.person.press.draw_us(self.rng))
            )
        if self.chance(self.person.slips):
            off_us = min(SLIP.draw_us(self.rng), tap_us // 2)
            slides_us = at_us + (tap_us - off_us) // 2
            self.press(line.id, at_us, slides_us - at_us)
            return self.mean(
                line.id, "tap", at_us, self.press(line.id, slides_us + off_us, at_us + tap_us - slides_us), "slip"
            )
        up_us = self.press(line.id, at_us, tap_us)
        if self.chance(self.person.twice):
            again_us = up_us + AGAIN.draw_us(self.rng)
            up_us = self.press(line.id, again_us, self.person.press.draw_us(self.rng))
            return self.mean(line.id, "tap", at_us, up_us, "twice")
        near = [one for one in self.bench.contacts if one.id != line.id and _pressed(one)]
        if near and self.chance(self.person.both):
            other = near[int(self.rng.random() * len(near))]
            beside_us = at_us + between(self.rng, 5_000, 40_000)
            self.meant.append(Meant(other.id, "tap", beside_us, self.press(other.id, beside_us, tap_us)))
            up_us = max(up_us, beside_us + tap_us)
        return self.mean(line.id, "tap", at_us, up_us)

    def mean(
        self, of: str, what: str, from_us: int, to_us: int, amiss: str = "", many: int = 0, which: str = ""
    ) -> None:
        """It was done; the next comes after a pause."""
        self.meant.append(Meant(of, what, from_us, to_us, amiss, many, which))
        self.at_us = to_us + self.person.pause.draw_us(self.rng)

    def contact(self, line: ContactLine) -> None:
        """Something that opens and closes: a button is tapped, a switch put over, a wire touched."""
        if isinstance(line.part, OpenWire):
            for_us = self.person.press.draw_us(self.rng)
            self.done.append(Touch(input=line.id, at_us=self.at_us, hold_us=for_us))
            self.mean(line.id, "touch", self.at_us, self.at_us + for_us)
        elif _pressed(line):
            self.button(line)
        else:
            self.over[line.id] = not self.over.get(line.id, False)
            self.done.append(SetTo(input=line.id, at_us=self.at_us, pressed=self.over[line.id]))
            self.mean(line.id, "over" if self.over[line.id] else "back", self.at_us, self.at_us)

    def sensed(self, part: Sensed) -> None:
        """What is more than a contact."""
        rng, at_us = self.rng, self.at_us
        if isinstance(part, Encoder):
            clicks = between(rng, 1, 5) * (1 if rng.random() < 0.5 else -1)
            over_us = max(abs(clicks) * 1_000_000 // (TURNS_A_SECOND * part.clicks_a_turn), 30_000)
            over_us = int(over_us * (1 + 3 * rng.random()))
            self.done.append(Turn(input=part.id, at_us=at_us, clicks=clicks, over_us=over_us))
            self.mean(part.id, "turn", at_us, at_us + over_us, many=clicks)
        elif isinstance(part, Analogue):
            low, high = sorted(range_of(part))
            over_us = between(rng, 200_000, 2_000_000)
            value = low + (high - low) * between(rng, 0, 200) / 200
            self.done.append(Level(input=part.id, at_us=at_us, value=value, over_us=over_us))
            self.mean(part.id, "slide", at_us, at_us + over_us)
        elif isinstance(part, KeyMatrix):
            key, for_us = part.names[int(rng.random() * len(part.names))], self.person.press.draw_us(rng)
            self.done.append(KeyPress(input=part.id, at_us=at_us, hold_us=for_us, key=key))
            self.mean(part.id, "key", at_us, at_us + for_us, which=key)
        elif isinstance(part, Commands):
            said = _said(self.bench, part)
            name = said[int(rng.random() * len(said))]
            self.done.append(Command(input=part.id, at_us=at_us, number=part.number(part.names.index(name))))
            self.mean(part.id, "say", at_us, at_us, which=name)


def _pressed(line: ContactLine) -> bool:
    """Whether it is pressed and let go, rather than put over and left."""
    return not isinstance(line.part, Switch | SlideSwitch | OpenWire | MagnetContact | Float | LimitSwitch | SignalIn)


def _for_a_hand(line: ContactLine) -> bool:
    """Whether a hand moves it, not water, a machine or another board."""
    return not isinstance(line.part, Float | LimitSwitch | SignalIn)


def _said(bench: Bench, part: Commands) -> list[str]:
    """The commands that the firmware knows, too."""
    reading = bench.firmware.readings.get(part.id)
    return [name for name in part.names if name in getattr(reading, "names", ())]


def a_round(bench: Bench, person: Person, number: int) -> tuple[Scenario, tuple[Meant, ...]]:
    """(what is done, what was meant) in one round of a hand: the same for the same bench, person and number."""
    hand = _Hand(bench, person, number)
    acts: list[Callable[[], None]] = []
    for line in filter(_for_a_hand, bench.contacts):
        acts.append(lambda line=line: hand.contact(line))  # type: ignore[misc]
    for _, part in bench.sensed:
        if part.id in bench.firmware.readings and (not isinstance(part, Commands) or _said(bench, part)):
            acts.append(lambda part=part: hand.sensed(part))  # type: ignore[misc]
    while acts and len(hand.meant) < ACTIONS:
        _one(acts, hand.rng)()
    done = tuple(sorted(hand.done, key=lambda one: one.at_us))
    length_us = max((one.to_us for one in hand.meant), default=0) + OVER_US
    name = f"{person.title[0].upper()}{person.title[1:]}, round {number + 1}"
    scenario = Scenario(name=name, length_us=length_us, seed=number, stimuli=done)
    return scenario, tuple(sorted(hand.meant, key=lambda one: one.from_us))


def _one(acts: list[Callable[[], None]], rng: random.Random) -> Callable[[], None]:
    return acts[int(rng.random() * len(acts))]
