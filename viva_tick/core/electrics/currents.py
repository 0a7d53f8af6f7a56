"""Who draws what: each output's current from its pin and from a supply, and the sums that have limits."""

from __future__ import annotations

from dataclasses import dataclass

from ..boards import Board
from ..document import Bench
from ..document.parts import (
    Commands,
    Display,
    Motor,
    Relay,
    RelayBoard,
    Servo,
    SolidStateRelay,
    Switched,
)
from .lamp import base_ua, lamp_legs

BOARD_UA = 50_000  # what a small board takes itself (common practice)
SIGNAL_UA = 1_000  # a module's input takes about so much (common practice)
BARE_UA = 1_000_000_000  # nothing limits it but the pin


@dataclass(frozen=True)
class Draw:
    """What one part takes while everything of it is on. `pins` are (pin, µA); `supply_ua` is taken from the board's
    own supply, `own_ua` from a supply of its own."""

    part: str
    name: str
    at: str
    pins: tuple[tuple[str, float], ...]
    supply_ua: float = 0.0
    own_ua: float = 0.0

    @property
    def pins_ua(self) -> float:
        """All its pins together."""
        return sum(ua for _, ua in self.pins)


def _switched(part: Switched, board: Board) -> float:
    """What a part that is not a lamp on a pin takes from its pin."""
    if part.fed == "pin":
        return float(part.load_ua)
    if part.fed == "module":
        return float(SIGNAL_UA)
    if part.by_field:
        return 0.0  # a gate takes no current
    drawn = base_ua(part, board)
    return float(BARE_UA) if drawn is None else drawn


def draws(bench: Bench) -> list[Draw]:
    """What each part takes, in the order of the bench; parts that take next to nothing are left out."""
    board = bench.the_board
    found: list[Draw] = []
    legs = lamp_legs(bench)
    for at, part in bench.placed:
        name, ident = part.name, part.id
        lamps = [
            (leg.pin, float(BARE_UA) if leg.current_ua(board) is None else leg.current_ua(board) or 0.0)
            for leg in legs
            if leg.channel.split(".")[0] == ident
        ]
        if lamps:
            found.append(Draw(ident, name, at, tuple(lamps), sum(ua for _, ua in lamps)))
        elif isinstance(part, Switched):
            pin_ua = _switched(part, board)
            load_ua = 0.0 if part.fed == "pin" else float(part.load_ua)
            own = part.own_supply and part.fed != "pin"
            found.append(
                Draw(ident, name, at, ((part.pin, pin_ua),), pin_ua + (0 if own else load_ua), load_ua if own else 0.0)
            )
        elif isinstance(part, Relay | RelayBoard):
            pins = tuple((channel.pin, float(part.input_ua)) for channel in part.channels(at))
            coils = float(part.coil_ua * len(pins))
            inputs = sum(ua for _, ua in pins)
            own = part.own_supply
            found.append(Draw(ident, name, at, pins, inputs + (0 if own else coils), coils if own else 0.0))
        elif isinstance(part, SolidStateRelay):
            found.append(Draw(ident, name, at, ((part.pin, float(part.input_ua)),), part.input_ua))
        elif isinstance(part, Motor | Servo):
            pins = tuple((claim.pin, float(SIGNAL_UA)) for claim in part.claims(at))
            load = float(part.load_ua)
            own = part.own_supply
            found.append(Draw(ident, name, at, pins, 0 if own else load, load if own else 0.0))
        elif isinstance(part, Display | Commands) and part.load_ua:
            found.append(Draw(ident, name, at, (), float(part.load_ua)))
    return found


@dataclass(frozen=True)
class Sum:
    """A sum of currents and its limit, µA."""

    what: str
    drawn_ua: float
    limit_ua: float

    @property
    def bare(self) -> bool:
        """Whether something in it is limited by nothing but its pin."""
        return self.drawn_ua >= BARE_UA

    @property
    def over(self) -> bool:
        """Whether it is more than it may be."""
        return self.drawn_ua > self.limit_ua


def sums(bench: Bench) -> list[Sum]:
    """Everything on at once, against the board's limits: pins in all, each port that is used, the supply."""
    board = bench.the_board
    found = draws(bench)
    ports: dict[str, float] = {}
    for draw in found:
        for pin_id, ua in draw.pins:
            pin = board.pin(pin_id)
            if pin is not None and pin.port is not None:
                ports[pin.port] = ports.get(pin.port, 0.0) + ua
    rows = [Sum("pins in all", sum(draw.pins_ua for draw in found), board.all_pins_ua)]
    if board.port_ua:
        rows += [Sum(f"port {port}", drawn, board.port_ua) for port, drawn in sorted(ports.items()) if drawn]
    rows.append(Sum("supply", BOARD_UA + sum(draw.supply_ua for draw in found), board.supply_ua))
    return rows
