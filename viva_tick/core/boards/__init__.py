"""Boards as data: one JSON file a class of board, read once. A new board is a new file in this folder.

Times in microseconds, resistances in ohm, voltages in millivolt, currents in microampere. The pull range, the input
thresholds as shares of the supply, the current limits, the leakage and the watchdog steps of the 8-bit board are those
of data sheet DS40002061B (from memory); block costs are common practice for 16 MHz.
"""

from __future__ import annotations

import json
from functools import cache
from importlib import resources

from pydantic import BaseModel, ConfigDict


class _Data(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Pin(_Data):
    """A pin: what the silk screen says, what the sketch calls it, what it can do."""

    id: str
    code: str
    can: tuple[str, ...]


class Costs(_Data):
    """Microseconds each block of a pass takes; `pass` once a pass, the others once for each thing of their kind."""

    pass_: int
    read: int
    step: int
    task: int
    drive: int


class PinCurrent(_Data):
    """What a pin may carry: to design for, and never to exceed. µA."""

    design: int
    absolute: int


class SketchWords(_Data):
    """What the board's own compiler calls things; used only by the emitted code."""

    watchdog_header: str
    watchdog_steps: tuple[str, ...]
    pull_up_mode: str


class Board(_Data):
    """A class of board."""

    id: str
    name: str
    logic_mv: int
    pull_up_ohm: tuple[int, int]
    low_below_share: float
    high_from_share: float
    leak_na: int
    pin_ua: PinCurrent
    all_pins_ua: int
    start_up_us: int
    set_up_us: int
    clock_hz: int
    int_bits: int
    cost_us: Costs
    watchdog_steps_us: tuple[int, ...]
    sketch: SketchWords
    pins: tuple[Pin, ...]

    def pin(self, pin_id: str) -> Pin | None:
        """The pin of that name, or None."""
        return next((pin for pin in self.pins if pin.id == pin_id), None)


@cache
def boards() -> dict[str, Board]:
    """Every board that ships, by id, in the order of their names."""
    found = []
    for entry in resources.files(__name__).iterdir():
        if entry.name.endswith(".json"):
            data = json.loads(entry.read_text(encoding="utf-8"))
            data["cost_us"]["pass_"] = data["cost_us"].pop("pass")
            found.append(Board.model_validate(data))
    return {board.id: board for board in sorted(found, key=lambda board: board.name)}
