"""The panel of Try: inputs and outputs of a bench as they would sit on the front of a box."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..core.courses import rest_value
from ..core.document import Bench
from ..core.document.parts import (
    Analogue,
    Beeper,
    Commands,
    Display,
    Encoder,
    Heater,
    KeyMatrix,
    Lamp,
    OpenWire,
    PanelButton,
    Relay,
    RelayBoard,
    RgbLamp,
    Sensed,
    SerialText,
    Servo,
    SlideSwitch,
    Solenoid,
    SolidStateRelay,
    Sounder,
    Spinning,
    Switch,
)
from ..core.electrics import range_of
from ..core.guard import faults_of

KEYS = "wetuioxcvn"  # of contacts, in their order
SHAPES: tuple[tuple[type, str], ...] = (
    (RgbLamp, "rgb"), (Lamp, "lamp"), (PanelButton, "lamp"), (Beeper, "sounder"), (Sounder, "sounder"),
    (Relay, "relay"), (RelayBoard, "relay"), (SolidStateRelay, "relay"), (Heater, "heater"), (Solenoid, "valve"),
    (Spinning, "motor"),
)  # fmt: skip


@dataclass(frozen=True)
class Thing:
    """One thing on the panel: what it is drawn as; `of` are the outputs or lines that it shows, or what it does."""

    id: str
    name: str
    shape: str
    key: str = ""
    colour: str = ""
    of: tuple[str, ...] = ()
    more: dict[str, Any] = field(default_factory=dict)


def outputs_of(bench: Bench) -> list[Thing]:
    """What the firmware moves, in the order of the parts."""
    found = []
    for at, part in bench.placed:
        if isinstance(part, Servo):
            found.append(Thing(part.id, part.name, "servo", of=(part.id,)))
            continue
        if isinstance(part, Display | SerialText):
            lines = tuple(line.id for line in part.text_lines(at))
            found.append(Thing(part.id, part.name, "text", of=lines))
            continue
        channels = part.channels(at)
        shape = next((shape for kind, shape in SHAPES if isinstance(part, kind)), "load")
        if shape == "rgb":
            found.append(Thing(part.id, part.name, "rgb", of=tuple(one.id for one in channels)))
            continue
        colour = str(getattr(part, "colour", ""))
        found += [Thing(one.id, one.name, shape, colour=colour, of=(one.id,)) for one in channels]
    return found


def inputs_of(bench: Bench) -> list[Thing]:
    """What a hand can do, in the order of the parts."""
    found: list[Thing] = []
    keys = iter(KEYS)
    for at, part in bench.placed:
        if isinstance(part, Sensed):
            found += _sensed(part)
        for line in part.contacts(at):
            shape = "switch" if isinstance(part, Switch | SlideSwitch) else "button"
            shape = "wire" if isinstance(part, OpenWire) else shape
            found.append(Thing(line.id, line.name, shape, key=next(keys, "")))
    return found


def _sensed(part: Sensed) -> list[Thing]:
    if isinstance(part, Encoder):
        return [Thing(part.id, part.name, "dial", more={"clicks": part.clicks_a_turn})]
    if isinstance(part, KeyMatrix):
        return [Thing(part.id, part.name, "keys", more={"keys": list(part.names), "across": len(part.columns)})]
    if isinstance(part, Commands):
        said = [(name, part.number(place)) for place, name in enumerate(part.names)]
        return [Thing(part.id, part.name, "words", more={"said": said})]
    assert isinstance(part, Analogue)
    low, high = sorted(range_of(part))
    more = {"low": low, "high": high, "unit": str(getattr(part, "unit", "")), "stands": rest_value(part)}
    return [Thing(part.id, part.name, "slider", more=more)]


def panel_of(bench: Bench) -> dict[str, Any]:
    """What the template draws, and what the page must know to play it."""
    outputs, inputs = outputs_of(bench), inputs_of(bench)
    states = {one.id: {state.id: state.name for state in one.states} for one in bench.firmware.machines}
    return {
        "panel_outputs": outputs,
        "panel_inputs": inputs,
        "panel_machines": [(one.id, one.name) for one in bench.firmware.machines],
        "panel_variables": [(one.id, one.name) for one in bench.firmware.variables],
        "panel_data": {"states": states, "start_us": bench.the_board.start_up_us},
        "panel_faults": [
            (f"{fault.id}:{of}", f"{fault.title.lower()}: {name}" if name else fault.title.lower())
            for fault, of, name in faults_of(bench)
        ],
    }
