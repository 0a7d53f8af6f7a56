"""Boards as data: one JSON file a class of board, read once. A new board is a new file in this folder.

Times in microseconds, resistances in ohm, voltages in millivolt, currents in microampere; thresholds as shares of the
logic voltage. Each file names its source: figures without one are common practice for such boards. Block costs are
common practice for the board's clock.

What a pin can do: digital, dimmable, analogue, interrupt, serial, bus, lamp (one is on the board). What it cannot, or
what to mind: input-only, no-pull, boot-strapping (read by the board as it starts), reset, starts-analogue,
radio-shared (its converter is not to be had while the radio is on).
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
    port: str | None = None


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


class PullEnable(_Data):
    """A bit that switches all internal pulls on, and its sense."""

    name: str
    active: str


class Converter(_Data):
    """The analogue converter: resolution and reference."""

    bits: int
    reference_mv: int


class SketchWords(_Data):
    """What the board's own compiler calls things; used only by the emitted code. None: it has no such call."""

    watchdog_header: str | None
    watchdog_steps: tuple[str, ...]
    pull_up_mode: str
    pull_down_mode: str | None


class Board(_Data):
    """A class of board. `sketch` is None where no `setup()` / `loop()` code can be made for it."""

    id: str
    name: str
    source: str
    supply_mv: int
    logic_mv: int
    low_below_share: float
    high_from_share: float
    pull_up_ohm: tuple[int, int]
    pull_down_ohm: tuple[int, int] | None
    pull_enable: PullEnable | None
    leak_na: int
    pin_ua: PinCurrent
    port_ua: int | None
    all_pins_ua: int
    supply_ua: int
    analogue: Converter | None
    start_up_us: int
    set_up_us: int
    interrupt_latency_us: int
    clock_hz: int
    int_bits: int
    cost_us: Costs
    watchdog_steps_us: tuple[int, ...]
    watchdog_modes: tuple[str, ...]
    sketch: SketchWords | None
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
