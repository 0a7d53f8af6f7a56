"""What chance may change in a run: drawn from a number, the same on every machine. Number 0 changes nothing: it is the
run on the strip.

The engine's counter begins as the board does, and a hand acts whenever it does. So another phase of the counter is all
that is done from outside, and all that is expected, 0 to 999 µs later; a clock that is slow by so many millionths is
all of it that much sooner, as the board sees it. How contacts bounce is not stretched with it: 0.5 % of 10 ms is
50 µs. Spreads are common practice; that of the hand is assumed.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from ..document import Bench, Scenario
from ..document.base import LONGEST_US
from ..seeds import between, stream
from ..slower import slower

FACTORS = {
    "bounce": "how contacts bounce",
    "phase": "the instant within a millisecond",
    "clock": "the board's clock",
    "hand": "the hand",
    "passes": "what a pass costs",
    "parts": "the parts' tolerances",
}
CLOCK_PPM = 5_000  # a ceramic resonator, ± 0.5 %
PASS_PERCENT = 10
RESISTOR_PERCENT, CAPACITOR_PERCENT = 5, 20
HAND_US = 5_000
SCALED = 10_000  # shares of parts are drawn in so many steps


@dataclass(frozen=True)
class Draw:
    """One draw of everything; `hand` and `parts` are what further numbers are drawn from (0: none)."""

    number: int
    bounce: int = 0
    phase: int = 0
    clock: int = 0
    hand: int = 0
    passes: int = 0
    parts: int = 0


def drawn(number: int, salt: str = "") -> Draw:
    """The draw of a number from 0 on; another `salt`, another draw."""
    if not number and not salt:
        return Draw(0)

    def one(factor: str, least: int, most: int) -> int:
        return between(stream("repeat", salt, factor, number), least, most)

    return Draw(
        number, one("bounce", 1, 0x7FFF_FFFF), one("phase", 0, 999), one("clock", -CLOCK_PPM, CLOCK_PPM),
        one("hand", 1, 0x7FFF_FFFF), one("passes", -PASS_PERCENT, PASS_PERCENT), one("parts", 1, 0x7FFF_FFFF),
    )  # fmt: skip


def redrawn(draw: Draw, factor: str) -> Draw:
    """The same with one factor drawn anew."""
    return replace(draw, **{factor: getattr(drawn(draw.number, f"anew {factor}"), factor)})


def _later(at_us: int, draw: Draw) -> int:
    """An instant as the board has it. What holds from power-on holds from power-on."""
    return min(round(at_us * (1 + draw.clock / 1e6)) + draw.phase, LONGEST_US) if at_us else 0


def _by_hand(stimulus: Any, draw: Draw, place: int, room_us: int) -> dict[str, int]:
    """What a hand does a little sooner or later, and for a little longer or shorter: within a quarter of the room that
    it has, so that nothing comes before what it came after."""
    changed: dict[str, int] = {}
    rng = stream("hand", draw.hand, place)
    most_us = min(HAND_US, room_us // 4)
    changed["at_us"] = max(stimulus.at_us + between(rng, -most_us, most_us), 1)
    hold_us = getattr(stimulus, "hold_us", None)
    if hold_us:
        most_us = min(HAND_US, hold_us // 4)
        changed["hold_us"] = max(hold_us + between(rng, -most_us, most_us), 1_000)
    return changed


def _room_us(instants: list[int], at_us: int) -> int:
    """How far the nearest other thing that is done is."""
    return min((abs(one - at_us) for one in instants if one != at_us), default=at_us)


def _scenario(scenario: Scenario, draw: Draw) -> Scenario:
    instants = [one.at_us for one in scenario.stimuli]
    stimuli = []
    together: dict[tuple[str, int], int] = {}  # what is done to one thing on one instant moves together
    for number, one in enumerate(scenario.stimuli):
        moved, place = one, together.setdefault((one.input, one.at_us), number)
        if draw.hand:
            room_us = min(_room_us(instants, one.at_us), one.at_us)
            moved = one.model_copy(update=_by_hand(one, draw, place, room_us))
        stimuli.append(moved.model_copy(update={"at_us": _later(moved.at_us, draw)}))
    expects = [
        one.model_copy(
            update={
                name: _later(getattr(one, name), draw) for name in ("at_us", "from_us", "to_us") if hasattr(one, name)
            }
        )
        for one in scenario.expects
    ]
    upsets = [one.model_copy(update={"at_us": _later(one.at_us, draw)}) for one in scenario.upsets]
    repeats = [
        one.model_copy(update={"do": one.do.model_copy(update={"at_us": _later(one.do.at_us, draw)})})
        for one in scenario.repeats
    ]
    return scenario.model_copy(
        update={
            "stimuli": tuple(stimuli),
            "expects": tuple(expects),
            "upsets": tuple(upsets),
            "repeats": tuple(repeats),
            "length_us": max(_later(scenario.length_us, draw), 1_000),
        }
    )


def _off(draw: Draw, ident: str, name: str, value: int, percent: int) -> int:
    share = between(stream("part", draw.parts, ident, name), -SCALED, SCALED) / SCALED
    return max(round(value * (1 + share * percent / 100)), 1)


def _toleranced(model: Any, draw: Draw, ident: str) -> Any:
    """A part, or its wiring, with its resistors and capacitors somewhere within their tolerances."""
    changed: dict[str, Any] = {}
    for name in type(model).model_fields:
        value = getattr(model, name)
        if name.endswith("_ohm") and isinstance(value, int) and value:
            changed[name] = _off(draw, ident, name, value, RESISTOR_PERCENT)
        elif name.endswith("_nf") and isinstance(value, int) and value:
            changed[name] = _off(draw, ident, name, value, CAPACITOR_PERCENT)
        elif name == "wiring":
            changed[name] = _toleranced(value, draw, ident)
    return model.model_copy(update=changed) if changed else model


def varied(bench: Bench, scenario: Scenario, draw: Draw) -> tuple[Bench, Scenario, int]:
    """(bench, scenario, seed) of a draw, to be run as they are."""
    if draw.passes:
        bench = slower(bench, 1 + draw.passes / 100)
    if draw.parts:
        bench = bench.model_copy(update={"inputs": tuple(_toleranced(one, draw, one.id) for one in bench.inputs)})
    if draw.phase or draw.clock or draw.hand:
        scenario = _scenario(scenario, draw)
    return bench, scenario, (scenario.seed + draw.bounce) & 0xFFFF_FFFF
