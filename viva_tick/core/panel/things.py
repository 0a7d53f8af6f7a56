"""What is on the panel of a bench: its inputs and outputs as they would sit on the front of a box."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

from ..courses import rest_value
from ..document import Bench
from ..document.panel import KEYS
from ..document.parts import (
    Analogue,
    Beeper,
    Commands,
    Display,
    Encoder,
    Float,
    Heater,
    KeyMatrix,
    Lamp,
    MagnetContact,
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
from ..electrics import range_of

PRESSED = ("button", "switch", "wire", "magnet")
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
    """What a hand can do, in the order of the parts; each contact has a key, its own or the next that is free."""
    found = _hands(bench)
    own = {ident: spot.key for ident, spot in bench.panel.spots.items() if spot.key}
    free = iter(key for key in KEYS if key not in own.values())
    keyed = [one for one in found if one.shape in PRESSED]
    keys = {one.id: own.get(one.id) or next(free, "") for one in keyed}
    return [replace(one, key=keys.get(one.id, "")) for one in found]


def _hands(bench: Bench) -> list[Thing]:
    found: list[Thing] = []
    for at, part in bench.placed:
        if isinstance(part, Sensed):
            found += _sensed(part)
        for line in part.contacts(at):
            shape = "switch" if isinstance(part, Switch | SlideSwitch | Float) else "button"
            shape = "wire" if isinstance(part, OpenWire) else "magnet" if isinstance(part, MagnetContact) else shape
            found.append(Thing(line.id, line.name, shape))
    return found


def _sensed(part: Sensed) -> list[Thing]:
    if isinstance(part, Encoder):
        return [Thing(part.id, part.name, "dial", more={"clicks": part.clicks_a_turn})]
    if isinstance(part, KeyMatrix):
        return [Thing(part.id, part.name, "keys", more={"keys": list(part.names), "across": len(part.columns)})]
    if isinstance(part, Commands):
        said = [(name, part.number(place)) for place, name in enumerate(part.names)]
        return [Thing(part.id, part.name, "words", more={"said": said, "types": part.source == "typed"})]
    assert isinstance(part, Analogue)
    low, high = sorted(range_of(part))
    more = {"low": low, "high": high, "unit": str(getattr(part, "unit", "")), "stands": rest_value(part)}
    return [Thing(part.id, part.name, "slider", more=more)]
