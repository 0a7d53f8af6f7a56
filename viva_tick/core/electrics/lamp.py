"""A lamp (LED) that a pin feeds through a resistor, and the resistor before a transistor's base.

Common practice: 1 to 5 mA is enough to see; forward drop red 1.8 to 2.2 V, green 2.0 to 3.2 V, blue and white
3.0 to 3.4 V; a switching transistor is given a tenth of its load's current at the base, where 0.7 V are left.
"""

from __future__ import annotations

from dataclasses import dataclass

from .. import laws
from ..boards import Board
from ..document import Bench, Part
from ..document.parts import Lamp, PanelButton, RgbLamp, Switched
from .series import E24, at_least, at_most

WANTED_UA = 5_000
DIM_UA = 1_000
BASE_MV = 700
GAIN_IN_SWITCHING = 10
GAIN_AT_LEAST = 50  # an ordinary small transistor still switches with a fiftieth at its base, though not through

DROPS_MV = {"red": 2_000, "yellow": 2_100, "green": 2_200, "blue": 3_100, "white": 3_100, "infra-red": 1_200}


@dataclass(frozen=True)
class LampLeg:
    """One lamp on one pin: its channel, where its resistor stands in the document, its figures."""

    channel: str
    name: str
    at: str
    pin: str
    resistor_ohm: int
    drop_mv: int
    wanted_ua: int

    def current_ua(self, board: Board) -> float | None:
        """The current in µA; None without a resistor, where nothing bounds it."""
        if not self.resistor_ohm:
            return None
        return laws.current(max(board.logic_mv - self.drop_mv, 0), self.resistor_ohm) * 1000

    def better_ohm(self, board: Board) -> int | None:
        """The E12 value that gives no more than what is wanted; None where the supply is below the drop."""
        left_mv = board.logic_mv - self.drop_mv
        wanted = min(self.wanted_ua, board.pin_ua.design)
        return at_least(left_mv / wanted * 1000) if left_mv > 0 else None


def legs_of(part: Part, at: str) -> list[LampLeg]:
    """Every lamp of a part that a pin itself feeds."""
    if isinstance(part, Lamp) and part.fed == "pin":
        return [LampLeg(part.id, part.name, at, part.pin, part.resistor_ohm, part.drop_mv, part.wanted_ua)]
    if isinstance(part, PanelButton) and part.lamp:
        own, name = part.lamp, f"{part.name} lamp"
        return [LampLeg(f"{part.id}.lamp", name, f"{at}/lamp", own.pin, own.resistor_ohm, own.drop_mv, WANTED_UA)]
    if isinstance(part, RgbLamp):
        legs = [(colour, getattr(part, colour)) for colour in ("red", "green", "blue")]
        return [
            LampLeg(
                f"{part.id}.{c}",
                f"{part.name} {c}",
                f"{at}/{c}",
                leg.pin,
                leg.resistor_ohm,
                leg.drop_mv,
                part.wanted_ua,
            )
            for c, leg in legs
        ]
    return []


def lamp_legs(bench: Bench) -> list[LampLeg]:
    """Every lamp on the bench that a pin itself feeds."""
    return [leg for at, part in bench.placed for leg in legs_of(part, at)]


def base_ua(part: Switched, board: Board) -> float | None:
    """The current into the base of the part's transistor; None without a resistor."""
    return laws.current(board.logic_mv - BASE_MV, part.base_ohm) * 1000 if part.base_ohm else None


def base_ohm_for(part: Switched, board: Board) -> int:
    """The E24 value that gives the base a tenth of the load's current, no less, and never more than the pin is made
    for; a transistor for more than that wants another before it, or a field-effect one."""
    wanted_ua = min(max(part.load_ua / GAIN_IN_SWITCHING, 500), board.pin_ua.design)
    ohm = (board.logic_mv - BASE_MV) / wanted_ua * 1000
    return at_least(ohm, E24) if wanted_ua == board.pin_ua.design else at_most(ohm, E24)
