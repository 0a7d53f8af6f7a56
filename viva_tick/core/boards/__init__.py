"""Boards as data: one JSON file a class of board, read once. A new board is a new file in this folder.

Times in microseconds, resistances in ohm, voltages in millivolt, currents in microampere; thresholds as shares of the
logic voltage. Each file names its source: figures without one are common practice for such boards. Block costs are
common practice for the board's clock.

What a pin can do, cannot do, or what there is to mind about it, is a word of `ABILITIES`.
"""

from __future__ import annotations

import json
from functools import cache, cached_property
from importlib import resources
from typing import Annotated, Any, ClassVar, Literal

from pydantic import ConfigDict, Field, StringConstraints, model_validator

from ..data import Data

Micros = Annotated[int, Field(ge=0, le=120_000_000)]
MilliVolt = Annotated[int, Field(ge=500, le=60_000)]
MicroAmp = Annotated[int, Field(ge=1, le=50_000_000)]
Percent = Annotated[int, Field(ge=0, le=95)]
Share = Annotated[float, Field(gt=0, lt=1)]
Ohms = tuple[Annotated[int, Field(ge=1, le=100_000_000)], Annotated[int, Field(ge=1, le=100_000_000)]]
Words = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=r"^[^\x00-\x1f]*$(?!\n)")
]
Code = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_]{1,12}$(?!\n)")]
CodeLine = Annotated[str, StringConstraints(pattern=r"^[\w (){}\[\]<>|&?:;=~,.+*/%!-]{1,160}$(?!\n)")]
BoardId = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*$(?!\n)", max_length=40)]

ABILITIES = {
    "digital": "reads and drives",
    "input-only": "only reads",
    "dimmable": "PWM (dimming)",
    "analogue": "analogue in",
    "interrupt": "can interrupt",
    "serial-in": "serial, receives",
    "serial-out": "serial, sends",
    "bus-data": "bus, data",
    "bus-clock": "bus, clock",
    "lamp": "lamp on the board",
    "no-pull": "no pull of its own",
    "boot-strapping": "read as the board starts",
    "reset": "resets the board",
    "starts-analogue": "analogue until told otherwise",
    "radio-shared": "no analogue while the radio is on",
    "boot-high": "stands high or pulses as the board starts",
}
Ability = Literal[
    "digital",
    "input-only",
    "dimmable",
    "analogue",
    "interrupt",
    "serial-in",
    "serial-out",
    "bus-data",
    "bus-clock",
    "lamp",
    "no-pull",
    "boot-strapping",
    "reset",
    "starts-analogue",
    "radio-shared",
    "boot-high",
]


class _Data(Data):
    model_config = ConfigDict(
        frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True, regex_engine="python-re"
    )


class Pin(_Data):
    """A pin: what the silk screen says, what the sketch calls it, what it can do, and the timer that dims it."""

    id: Code
    code: Code
    can: tuple[Ability, ...]
    port: Annotated[str, Field(max_length=4)] | None = None
    timer: Annotated[str, Field(max_length=4)] | None = None


class Costs(_Data):
    """Microseconds each block of a pass takes; `base` once a pass, the others once for each thing of their kind."""

    base: Annotated[int, Field(ge=1, le=1_000_000)]
    read: Micros
    step: Micros
    task: Micros
    drive: Micros


class PinCurrent(_Data):
    """What a pin may carry: to design for, and never to exceed. µA."""

    design: MicroAmp
    absolute: MicroAmp


class PullEnable(_Data):
    """A bit that switches all internal pulls on, and its sense."""

    name: Words
    active: Literal["low", "high"]


class Converter(_Data):
    """The analogue converter: resolution, reference, how long one conversion holds the pass (13 cycles of 125 kHz),
    the most that may lie before it (10 kΩ; both: data sheet DS40002061B, converter chapter, from memory)."""

    bits: Annotated[int, Field(ge=6, le=24)]
    reference_mv: MilliVolt
    convert_us: Micros = 104
    source_ohm: Annotated[int, Field(ge=100, le=10_000_000)] = 10_000


class Store(_Data):
    """Memory that outlives the supply: how long a byte takes to write, and how many writes a cell stands."""

    write_us: Micros
    wears: Annotated[int, Field(ge=100, le=100_000_000)]
    bytes: Annotated[int, Field(ge=1, le=10_000_000)]
    source: Words


class WatchdogCalls(_Data):
    """How a program speaks to the watchdog, in its own language. `{step}` is the word for a step. `on` resets; `calls`
    calls the handler, `calls_first` calls it and resets at the next time out; `arm` lets it call again. `cause` is the
    register that says why the board started, `cause_bit` its bit of the watchdog, the other bits those of power, of a
    dip of the supply and of the reset pin; `early_section` is code that runs before memory is set up."""

    feed: CodeLine
    off: CodeLine
    on: CodeLine
    calls: Annotated[tuple[CodeLine, ...], Field(max_length=12)]
    calls_first: Annotated[tuple[CodeLine, ...], Field(max_length=12)]
    arm: CodeLine
    handler: CodeLine
    cause: CodeLine
    cause_bit: CodeLine
    power_bit: CodeLine
    dip_bit: CodeLine
    pin_bit: CodeLine
    early_section: Annotated[str, StringConstraints(pattern=r"^\.\w{1,30}$(?!\n)")]


class TimerCalls(_Data):
    """An interrupt that comes every millisecond or so: its handler, and what switches it on."""

    handler: CodeLine
    on: Annotated[tuple[CodeLine, ...], Field(max_length=12)]


class SleepCalls(_Data):
    """Sleep in which the counter stands still (`down`), and one in which it runs on (`idle`). `{pin}` in `pin_on` is a
    pin whose edges wake the board, through one of `pin_handlers`."""

    header: Annotated[str, StringConstraints(pattern=r"^[\w./-]{1,60}$(?!\n)")]
    down: Annotated[tuple[CodeLine, ...], Field(max_length=12)]
    idle: Annotated[tuple[CodeLine, ...], Field(max_length=12)]
    pin_on: Annotated[tuple[CodeLine, ...], Field(max_length=12)] = ()
    pin_handlers: Annotated[tuple[CodeLine, ...], Field(max_length=12)] = ()


class StoreCalls(_Data):
    """The store, byte by byte: `put` writes `{value}` at `{at}` if that differs, `get` fills `{field}` from `{at}`."""

    put: CodeLine
    get: CodeLine


class KernelCalls(_Data):
    """Its kernel, which runs already as set-up begins: what makes a task, and the end of that call, which keeps it on
    the core that set-up runs on. The other calls are the same wherever there is one."""

    create: CodeLine
    place: CodeLine


class SketchWords(_Data):
    """What the board's own compiler calls things; used only by the emitted code. None: it has no such call.
    `kept_section` is memory that start-up leaves as it is."""

    watchdog_header: Annotated[str, StringConstraints(pattern=r"^[\w./-]{1,60}$(?!\n)")] | None
    watchdog_steps: tuple[Annotated[str, StringConstraints(pattern=r"^\w{1,30}$(?!\n)")], ...]
    store_header: Annotated[str, StringConstraints(pattern=r"^[\w./-]{1,60}$(?!\n)")] | None = None
    kept_section: Annotated[str, StringConstraints(pattern=r"^\.\w{1,30}$(?!\n)")] | None = None
    pull_up_mode: Annotated[str, StringConstraints(pattern=r"^\w{1,30}$(?!\n)")]
    pull_down_mode: Annotated[str, StringConstraints(pattern=r"^\w{1,30}$(?!\n)")] | None
    watchdog: WatchdogCalls | None = None
    timer: TimerCalls | None = None
    sleep: SleepCalls | None = None
    store: StoreCalls | None = None
    kernel: KernelCalls | None = None
    layered: ClassVar[bool] = False
    modes: ClassVar[tuple[str, ...]] = ("interrupt", "reset", "interrupt-reset")  # of the watchdog, that can be had


class LayerWords(SketchWords):
    """The calls of a layer that stands between a program and its board. What must be early is done by the layer: it
    keeps the cause of the reset, and turns the watchdog off. `restart` starts the board anew."""

    layered: ClassVar[bool] = True
    restart: CodeLine


class SmallWords(LayerWords):
    """Those of a layer in Python, whose watchdog only resets."""

    modes: ClassVar[tuple[str, ...]] = ("reset",)


class Board(_Data):
    """A class of board. `sketch` is None where no `setup()` / `loop()` code can be made for it. `pin_most_mv` is the
    most that a pin stands; `schedule_us` how late a pass can begin because something else runs; `edge_bounce`: its
    edge call-backs take a bounce time. `watchdog_corner_percent`: how much sooner and how much later than its step the
    watchdog may act, over voltage and temperature. `uart` divides the clock (8-bit class) or can make any baud; None:
    there is none. `run_ua`, `sleep_ua`, `sleep_watchdog_ua`: what the board draws running, asleep, and asleep with its
    watchdog counting, lamps and regulator left out. `clock_ppm` is how far its clock may be off.
    `loader_clears_cause`: what loads programs clears the reset's cause before the program runs. `tone_timer` is
    the timer that makes notes, and then dims nothing. Not of the board's file, but as a bench's firmware has set it up:
    `pulls_on`, its internal pulls are enabled; `digital`, pins that start analogue have been made digital."""

    id: BoardId
    name: Words
    source: Words
    supply_mv: MilliVolt
    logic_mv: MilliVolt
    pin_most_mv: MilliVolt
    low_below_share: Share
    high_from_share: Share
    pull_up_ohm: Ohms
    pull_down_ohm: Ohms | None
    pull_enable: PullEnable | None
    leak_na: Annotated[int, Field(ge=0, le=1_000_000)]
    pin_ua: PinCurrent
    port_ua: MicroAmp | None
    all_pins_ua: MicroAmp
    supply_ua: MicroAmp
    analogue: Converter | None
    start_up_us: Micros
    set_up_us: Micros
    interrupt_latency_us: Micros
    schedule_us: Micros = 0
    edge_bounce: bool = False
    clock_hz: Annotated[int, Field(ge=1_000, le=10_000_000_000)]
    int_bits: Literal[16, 32, 64]
    cost_us: Costs
    watchdog_steps_us: Annotated[tuple[Annotated[int, Field(ge=100, le=600_000_000)], ...], Field(max_length=40)]
    watchdog_modes: tuple[Literal["interrupt", "reset", "interrupt-reset"], ...]
    watchdog_corner_percent: tuple[Percent, Percent] = (20, 20)
    loader_clears_cause: bool = False
    store: Store | None = None
    uart: Literal["divider", "fractional"] | None = None
    clock_ppm: Annotated[int, Field(ge=1, le=200_000)] = 10_000
    ram_bytes: Annotated[int, Field(ge=16, le=100_000_000_000)] = 2048
    run_ua: MicroAmp = 20_000
    sleep_ua: MicroAmp = 1_000
    sleep_watchdog_ua: MicroAmp = 1_000
    tone_timer: Annotated[str, Field(max_length=4)] | None = None
    program: SketchWords | None
    pulls_on: bool = Field(default=True, exclude=True)
    digital: bool = Field(default=True, exclude=True)
    pins: Annotated[tuple[Pin, ...], Field(min_length=1, max_length=80)]

    @model_validator(mode="before")
    @classmethod
    def _calls_of_old(cls, data: Any) -> Any:
        """A board that was copied before all the calls stood in its file has those of the board that it came from."""
        if isinstance(data, dict) and "sketch" in data:  # as documents up to version 3 called it
            data = {**{name: value for name, value in data.items() if name != "sketch"}, "program": data["sketch"]}
        words = data.get("program") if isinstance(data, dict) else None
        if not isinstance(words, dict) or not words.get("watchdog_header"):
            return data
        calls = words.get("watchdog")
        if calls and (not isinstance(calls, dict) or "power_bit" in calls):
            return data
        for board in boards().values():
            if board.program and board.program.watchdog and board.ram_bytes == data.get("ram_bytes", 2048):
                own = board.program.model_dump(mode="json")
                found = {name: own[name] for name in ("watchdog", "timer", "sleep", "store")} | words
                found["watchdog"] = {**own["watchdog"], **(calls or {})}
                return {**data, "program": found}
        return data

    @property
    def restart_us(self) -> int:
        """How long it takes a program to restart the board: a board of the 8-bit class has its watchdog's shortest step
        do it, the others have a call."""
        return min(self.watchdog_steps_us, default=0) if self.int_bits == 16 else 0

    def watchdog_step_us(self, wanted_us: int) -> int:
        """The shortest step that is no shorter, or else the longest; what is wanted, where the board has no steps."""
        longest_us = max(self.watchdog_steps_us, default=wanted_us)
        return next((step for step in self.watchdog_steps_us if step >= wanted_us), longest_us)

    def as_set_up(self, pulls_on: bool, digital: bool) -> Board:
        """The same, with those of its settings left out that it has."""
        return self.model_copy(update={"pulls_on": pulls_on or self.pull_enable is None, "digital": digital})

    def reads_zero(self, pin_id: str) -> bool:
        """Whether the pin is still analogue, and so reads 0 whatever is on it."""
        pin = self.pin(pin_id)
        return not self.digital and pin is not None and "starts-analogue" in pin.can

    @cached_property
    def _by_name(self) -> dict[str, Pin]:
        return {pin.id: pin for pin in reversed(self.pins)}

    def pin(self, pin_id: str) -> Pin | None:
        """The pin of that name, or None."""
        return self._by_name.get(pin_id)


@cache
def boards() -> dict[str, Board]:
    """Every board that ships, by id, in the order of their names."""
    found = []
    for entry in resources.files(__name__).iterdir():
        if entry.name.endswith(".json"):
            data = json.loads(entry.read_text(encoding="utf-8"))
            found.append(Board.model_validate(data))
    return {board.id: board for board in sorted(found, key=lambda board: board.name)}
