"""The wire list: from where to where, in what colour, for the person with the screwdriver."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..document import Bench, Channel, ContactLine, Part, WireColours
from ..document.parts import (
    Analogue,
    ButtonModule,
    Commands,
    Display,
    Encoder,
    KeyMatrix,
    Lamp,
    Motor,
    OutputBase,
    PanelButton,
    Potentiometer,
    Relay,
    RelayBoard,
    ResistiveSensor,
    RgbLamp,
    SerialText,
    Servo,
    SignalIn,
    SignalOut,
    SolidStateRelay,
    Switched,
    TwoWay,
    VoltageSource,
)
from ..units import amps, ohms

GROUND, SUPPLY, OWN_PLUS, OWN_MINUS = "Board GND", "Board + supply", "Its own supply +", "Its own supply −"
Ends = tuple[str, str, str]


@dataclass(frozen=True)
class Wire:
    """One connection, what goes into it, and its colour."""

    from_end: str
    to_end: str
    note: str
    colour: str = ""
    part: str = ""
    signal: bool = False


def _rail(rail: str) -> str:
    return GROUND if rail == "ground" else SUPPLY


def _pull(pull: str, pull_ohm: int, pin: str) -> Iterator[Ends]:
    if pull in ("up", "down"):
        yield f"Board {pin}", SUPPLY if pull == "up" else GROUND, f"through {ohms(pull_ohm)}"


def _held(pull: str) -> str:
    if pull.startswith("internal"):
        return f"held by the board's {pull.replace('internal', 'pull')}"
    return "nothing holds this pin: see Wire" if pull == "none" else ""


def _contact(line: ContactLine) -> Iterator[Ends]:
    wiring, name, pin = line.wiring, line.name, f"Board {line.pin}"
    part = line.part
    if isinstance(part, ButtonModule):
        for number, end in enumerate(part.wired.split("-"), start=1):
            yield (pin if end == "pin" else _rail(end)), f"{name}, pin {number}", ""
        return
    if isinstance(part, SignalIn):
        yield pin, f"{name}, signal", _held(wiring.pull) if part.drives == "low-only" else ""
        yield GROUND, f"{name}, GND", "the grounds must be joined"
    elif isinstance(part, TwoWay):
        wired = part.other_throw == "wired"
        yield pin, f"{name}, common", "" if wired else _held(wiring.pull)
        yield f"{name}, side 1", _rail(wiring.contact_to), ""
        if wired:
            yield f"{name}, side 2", _rail("supply" if wiring.contact_to == "ground" else "ground"), ""
    else:
        panel = isinstance(part, PanelButton)
        ends = ("common", "NC" if wiring.normally == "closed" else "NO") if panel else ("leg 1", "leg 2")
        yield pin, f"{name}, {ends[0]}", _held(wiring.pull)
        yield f"{name}, {ends[1]}", _rail(wiring.contact_to), ""
    yield from _pull(wiring.pull, wiring.pull_ohm, line.pin)
    if wiring.filter == "rc":
        kind = " before a Schmitt input" if wiring.schmitt else ""
        yield f"Board {line.pin}", GROUND, f"{wiring.filter_nf} nF; {ohms(wiring.series_ohm)} in the wire{kind}"


def _encoder(part: Encoder) -> Iterator[Ends]:
    for end in ("a", "b"):
        pin = getattr(part, end)
        yield f"Board {pin}", f"{part.name}, {end.upper()}", _held(part.pull)
        yield from _pull(part.pull, part.pull_ohm, pin)
    yield f"{part.name}, common", GROUND, ""


def _matrix(part: KeyMatrix) -> Iterator[Ends]:
    for number, pin in enumerate(part.rows, start=1):
        yield f"Board {pin}", f"{part.name}, row {number}", ""
    for number, pin in enumerate(part.columns, start=1):
        yield f"Board {pin}", f"{part.name}, column {number}", _held(part.pull)
        yield from _pull(part.pull, part.pull_ohm, pin)


def _analogue(part: Analogue) -> Iterator[Ends]:
    pin = f"Board {part.pin}"
    if isinstance(part, Potentiometer):
        yield pin, f"{part.name}, wiper", ""
        yield f"{part.name}, end 1", GROUND, ""
        yield f"{part.name}, end 2", SUPPLY, ohms(part.track_ohm)
    elif isinstance(part, ResistiveSensor):
        other = "ground" if part.sensor_to == "supply" else "supply"
        yield pin, f"{part.name}, leg 1", ""
        yield f"{part.name}, leg 2", _rail(part.sensor_to), ""
        yield pin, _rail(other), f"through {ohms(part.fixed_ohm)}"
    elif isinstance(part, VoltageSource):
        if part.upper_ohm:
            yield f"{part.name}, output", pin, f"through {ohms(part.upper_ohm)}"
            yield pin, GROUND, f"through {ohms(part.lower_ohm)}"
        else:
            yield pin, f"{part.name}, output", ""
        yield GROUND, f"{part.name}, GND", "the grounds must be joined"


def _lamp_ends(channel: Channel, resistor_ohm: int) -> Iterator[Ends]:
    low = channel.active_level == "low"
    legs = ("short leg", "long leg") if low else ("long leg", "short leg")
    through = f"through {ohms(resistor_ohm)}" if resistor_ohm else "no resistor: see Wire"
    yield f"Board {channel.pin}", f"{channel.name}, {legs[0]}", through
    yield f"{channel.name}, {legs[1]}", SUPPLY if low else GROUND, ""


def _feed(part: Part, load_ua: float, own: bool, joined: bool = True) -> Iterator[Ends]:
    yield OWN_PLUS if own else SUPPLY, f"{part.name}, +", f"{amps(load_ua)} while it is on"
    if own and joined:
        yield OWN_MINUS, GROUND, "the grounds must be joined"


def _switched(part: Switched) -> Iterator[Ends]:
    low = part.active_level == "low"
    if part.fed == "pin":
        yield f"Board {part.pin}", f"{part.name}, {'−' if low else '+'}", ""
        yield f"{part.name}, {'+' if low else '−'}", SUPPLY if low else GROUND, ""
    elif part.fed == "module":
        yield f"Board {part.pin}", f"{part.name}'s module, IN", f"on when {part.active_level}"
        yield GROUND, f"{part.name}'s module, GND", ""
        yield from _feed(part, part.load_ua, part.own_supply, part.grounds_joined)
    else:
        control, near, far = ("gate", "source", "drain") if part.by_field else ("base", "emitter", "collector")
        through = f"through {ohms(part.base_ohm)}" if part.base_ohm else "no resistor: see Wire"
        if part.by_field:
            through = ""
            if part.gate_ohm:
                yield f"{part.name}'s transistor, gate", GROUND, f"through {ohms(part.gate_ohm)}: off before set-up"
        yield f"Board {part.pin}", f"{part.name}'s transistor, {control}", through
        yield f"{part.name}'s transistor, {near}", GROUND, ""
        yield f"{part.name}'s transistor, {far}", f"{part.name}, −", ""
        yield from _feed(part, part.load_ua, part.own_supply, part.grounds_joined)
        if getattr(part, "diode", False):
            yield f"{part.name}, −", f"{part.name}, +", "a diode, its ring at +"


def _output(part: Part, at: str) -> Iterator[Ends]:
    channels = part.channels(at)
    match part:
        case Lamp(fed="pin"):
            yield from _lamp_ends(channels[0], part.resistor_ohm)
        case RgbLamp():
            for channel in channels:
                leg = getattr(part, channel.id.rpartition(".")[2])
                yield f"Board {leg.pin}", f"{channel.name} leg", f"through {ohms(leg.resistor_ohm)}"
            yield f"{part.name}, common leg", _rail(part.common), ""
        case PanelButton():
            if part.lamp:
                yield from _lamp_ends(channels[0], part.lamp.resistor_ohm)
        case Switched():
            yield from _switched(part)
        case Relay() | RelayBoard():
            several = isinstance(part, RelayBoard)
            for number, channel in enumerate(channels, start=1):
                end = f"IN {number}" if several else "IN"
                yield f"Board {channel.pin}", f"{part.name}, {end}", f"{channel.name}: on when {channel.active_level}"
            yield from _relay_feed(part, len(channels))
        case SolidStateRelay():
            yield f"Board {part.pin}", f"{part.name}, input +", f"{amps(part.input_ua)}"
            yield f"{part.name}, input −", GROUND, ""
        case Motor():
            for channel in channels:
                yield f"Board {channel.pin}", f"{part.name}'s driver, {channel.id.rpartition('.')[2]}", ""
            yield GROUND, f"{part.name}'s driver, GND", ""
            yield from _feed(part, part.load_ua, part.own_supply, part.grounds_joined)
        case Servo():
            yield f"Board {part.pin}", f"{part.name}, signal", ""
            yield GROUND, f"{part.name}, GND", ""
            yield from _feed(part, part.load_ua, part.own_supply, part.grounds_joined)
        case Display():
            yield f"Board {part.data}", f"{part.name}, data", f"bus address {part.address}"
            yield f"Board {part.clock}", f"{part.name}, clock", ""
            yield SUPPLY, f"{part.name}, +", amps(part.load_ua)
            yield GROUND, f"{part.name}, GND", ""
        case SerialText():
            yield f"Board {part.pin}", f"{part.name}, its receiving end", "the board's own connector does it, too"
            yield GROUND, f"{part.name}, GND", ""
        case SignalOut():
            yield f"Board {part.pin}", f"{part.name}, its input", ""
            yield GROUND, f"{part.name}, GND", "the grounds must be joined"
    held = [] if isinstance(part, Switched) and part.by_field and part.hold == "none" else channels
    for where in dict.fromkeys((channel.pin, channel.hold) for channel in held if channel.hold != "none"):
        yield f"Board {where[0]}", SUPPLY if where[1] == "up" else GROUND, "through 10 kΩ: holds it before set-up"


def _relay_feed(part: Relay | RelayBoard, count: int) -> Iterator[Ends]:
    coils = f"{amps(part.coil_ua * count)} while {'all are' if count > 1 else 'it is'} on"
    if part.own_supply:
        yield OWN_PLUS, f"{part.name}, coils +", coils + ("; take the jumper off" if part.opto else "")
        if part.isolated:
            yield SUPPLY, f"{part.name}, VCC", "for its inputs"
            yield OWN_MINUS, f"{part.name}, coils −", "not joined to the board's ground: light carries the signal"
            return
        yield OWN_MINUS, GROUND, "the grounds must be joined"
    else:
        yield SUPPLY, f"{part.name}, VCC", coils
    yield GROUND, f"{part.name}, GND", ""


def _ends(part: Part, at: str) -> Iterator[Ends]:
    for line in part.contacts(at):
        yield from _contact(line)
    if isinstance(part, Encoder):
        yield from _encoder(part)
    elif isinstance(part, KeyMatrix):
        yield from _matrix(part)
    elif isinstance(part, Analogue):
        yield from _analogue(part)
    elif isinstance(part, Commands):
        typed = part.source == "typed"
        note = "through the board's own socket" if typed else f"{part.baud} baud"
        yield f"Board {part.pin}", f"{part.name}, {'your computer' if typed else 'sends'}", note
        if not typed:
            yield GROUND, f"{part.name}, GND", ""
    yield from _output(part, at)


def _coloured(part: Part, found: list[Ends], scheme: WireColours, own: str, turn: int) -> tuple[list[Wire], int]:
    """The part's wires with colours: rails by the scheme, signals `own` or else in turn from `turn` on."""
    rows: list[Wire] = []
    for from_end, to_end, note in found:
        ends = {from_end, to_end}
        colour = ""
        signal = False
        if ends & {GROUND, OWN_MINUS}:
            colour = scheme.ground
        elif ends & {SUPPLY, OWN_PLUS}:
            colour = scheme.supply
        elif from_end.startswith("Board ") or to_end.startswith("Board "):
            signal = True
            colour = own or scheme.signals[turn % len(scheme.signals)]
            turn += 0 if own else 1
            if isinstance(part, PanelButton):
                own = colour  # the button and its lamp go together
        rows.append(Wire(from_end, to_end, note, colour, part.id, signal))
    return rows, turn


def wires(bench: Bench) -> list[Wire]:
    """Every wire of the bench, inputs first, in the order of the lists. A part that is paired with an input takes the
    colour of that one's first signal."""
    scheme = bench.wire_colours
    first: dict[str, str] = {}
    found: list[Wire] = []
    turn = 0
    for at, part in bench.placed:
        pair = part.paired_with if isinstance(part, OutputBase) else None
        own = part.wire_colour or first.get(pair or "", "")
        rows, turn = _coloured(part, list(_ends(part, at)), scheme, own, turn)
        first[part.id] = next((wire.colour for wire in rows if wire.signal), "")
        found += rows
    return found
