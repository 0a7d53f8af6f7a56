"""What a pin does to an output part, off and on: its resistor, its transistor, its module, its relay."""

from __future__ import annotations

import re

from ...core.boards import Board
from ...core.document import Bench, Channel, Part
from ...core.document.parts import (
    Beeper,
    Display,
    Heater,
    Lamp,
    Load,
    Motor,
    PanelButton,
    Relay,
    RelayBoard,
    RgbLamp,
    SerialText,
    Servo,
    SignalOut,
    Solenoid,
    SolidStateRelay,
    Sounder,
    Spinning,
    Switched,
)
from ...core.drives import Text
from ...core.electrics import LampLeg, base_ua, lamp_legs
from ...core.units import amps, ms, ohms, volts
from .pen import GROUND_Y, NODE_Y, SUPPLY_Y, Figure, Pen, Value

HOLD_OHM = "10 kΩ"


def _levels(channel: Channel, on: bool) -> str:
    return "high" if (channel.active_level == "high") == on else "low"


def _start(channel: Channel, board: Board, on: bool, own: bool = False) -> Pen:
    """Rails, the pin, and what holds it before set-up."""
    level = _levels(channel, on)
    word = "On" if on else "Off"
    pen = Pen(f"{word}: the pin is {level}", f"is-driven is-{level} {'is-live' if on else ''}")
    supply = "of its own" if own else f"{board.logic_mv / 1000:g} V"
    pen.path(f"M80 {SUPPLY_Y} H310", "rail is-own" if own else "rail").path(f"M80 {GROUND_Y} H310", "rail")
    pen.text(80, 13, f"supply {supply}").text(80, 176, "ground")
    pen.pin(channel.pin, 12).text(40, 122, level, "level-text")
    if channel.hold != "none":
        y = SUPPLY_Y if channel.hold == "up" else GROUND_Y
        top, bottom = (38, 72) if y == SUPPLY_Y else (108, 142)
        near, far = (bottom, top) if y == SUPPLY_Y else (top, bottom)
        pen.path(f"M88 {NODE_Y} V{near} M88 {far} V{y}", "wire hold").box(83, top, 10, 34, "hold-resistor", 1)
        pen.text(97, top + 14, HOLD_OHM, "value-text is-small")
    return pen


def _lamp(pen: Pen, leg: LampLeg, channel: Channel, board: Board, on: bool) -> None:
    to_ground = channel.active_level == "high"
    rail_y = GROUND_Y if to_ground else SUPPLY_Y
    y = 125 if to_ground else 55
    pen.path(f"M68 {NODE_Y} H108", "wire node")
    value = Value(f"{leg.at}/resistor_ohm", "ohm", leg.resistor_ohm, "Resistor of the lamp")
    if leg.resistor_ohm:
        pen.lying_resistor(108, NODE_Y)
    else:
        pen.path(f"M108 {NODE_Y} H153", "wire run")
    pen.value(110, 76, ohms(leg.resistor_ohm) if leg.resistor_ohm else "no resistor", value)
    near, far = (108, 142) if to_ground else (72, 38)
    pen.path(f"M153 {NODE_Y} H230 V{near} M230 {far} V{rail_y}", "wire run").lamp(230, y)
    current = leg.current_ua(board)
    if on:
        words = amps(current) if current is not None else "no limit"
        pen.text(160, 106 if to_ground else 84, words, "value-text" if current is not None else "value-text is-bad")
    drop = Value(f"{leg.at}/drop_mv", "volt", leg.drop_mv, "Forward drop of the lamp")
    pen.value(252, y + 14, f"{volts(leg.drop_mv)} drop", drop, "value-text is-small")
    pen.text(252, y + 1, leg.name, "part-text is-thing")


def _things(pen: Pen, part: Part, x: float, y: float, on: bool) -> None:
    """The sign of a part that is not a lamp, about (x, y)."""
    if isinstance(part, Beeper | Sounder):
        waves = f" M{x + 12} {y - 10} q8 10 0 20 M{x + 22} {y - 17} q14 17 0 34" if on else ""
        pen.path(f"M{x - 20} {y - 8} h10 l12 -9 v34 l-12 -9 h-10 Z{waves}", "thing-lines")
    elif isinstance(part, Spinning):
        blades = f"M{x} {y} q-5 -7 0 -9 M{x} {y} q8 -2 8 5 M{x} {y} q-3 7 -8 4"
        pen.circle(x, y, 11, "thing-ring").path(blades, "thing-lines")
    elif isinstance(part, Load):
        pen.path(f"M{x - 18} {y - 8} h36 v16 h-36 Z M{x - 28} {y} h10 M{x + 18} {y} h10", "thing-lines")
    elif isinstance(part, Solenoid):
        pen.path(f"M{x - 22} {y} h6 q4 -16 8 0 q4 -16 8 0 q4 -16 8 0 q4 -16 8 0 h6", "thing-lines")
    elif isinstance(part, Heater):
        pen.path(f"M{x - 22} {y} h5 l4 -8 l7 16 l7 -16 l7 16 l7 -16 l4 8 h5", "thing-lines")
    elif isinstance(part, Lamp):
        pen.path(f"M{x - 10} {y - 10} l20 20 M{x + 10} {y - 10} l-20 20", "thing-lines").circle(x, y, 14, "thing-ring")


def _direct(pen: Pen, part: Switched, at: str, on: bool) -> None:
    rail_y = GROUND_Y if part.active_level == "high" else SUPPLY_Y
    pen.path(f"M68 {NODE_Y} H176", "wire node").box(176, 62, 92, 56)
    pen.path(f"M222 {118 if rail_y == GROUND_Y else 62} V{rail_y}", "wire run")
    _things(pen, part, 222, NODE_Y, on)
    current = Value(f"{at}/load_ua", "amp", part.load_ua, "Current that it takes")
    pen.value(110, 84, amps(part.load_ua), current).text(274, 84, part.name, "part-text is-thing")


def _transistor(pen: Pen, part: Switched, at: str, board: Board, on: bool) -> None:
    """The pin, a resistor, the transistor; its load above it, with a diode across a coil."""
    if part.by_field:
        _field_effect(pen, part, at, on)
        return
    pen.path(f"M68 {NODE_Y} H100", "wire node")
    base = Value(f"{at}/base_ohm", "ohm", part.base_ohm, "Resistor before the transistor")
    if part.base_ohm:
        pen.lying_resistor(100, NODE_Y)
    else:
        pen.path(f"M100 {NODE_Y} H145", "wire run")
    pen.value(102, 76, ohms(part.base_ohm) if part.base_ohm else "no resistor", base)
    drawn = base_ua(part, board)
    if on:
        pen.text(
            102, 108, amps(drawn) if drawn is not None else "no limit", "value-text" if drawn else "value-text is-bad"
        )
    pen.path(f"M145 {NODE_Y} H196", "wire run").circle(206, NODE_Y, 18, "thing-ring")
    pen.path(f"M198 78 V102 M198 86 L216 76 V72 M198 94 L216 104 V{GROUND_Y} M209 104 l7 0 l-2 -7", "thing-lines")
    pen.box(194, 34, 44, 24).path("M216 58 V72 M216 34 V20", "wire run")
    _things(pen, part, 216, 46, on)
    load = Value(f"{at}/load_ua", "amp", part.load_ua, "Current of the load")
    pen.value(262, 70, amps(part.load_ua), load).text(262, 30, part.name, "part-text is-thing")
    if isinstance(part, Solenoid | Spinning | Load):
        if part.diode:
            pen.path("M216 66 H252 V54 M252 40 V26 H216", "wire").path("M246 54 h12 l-6 -12 Z M246 42 h12", "diode")
        else:
            pen.text(244, 50, "no diode", "value-text is-bad")


def _field_effect(pen: Pen, part: Switched, at: str, on: bool) -> None:
    """The pin, the gate with its resistor to ground, the transistor; its load above it."""
    pen.path(f"M68 {NODE_Y} H196 M120 {NODE_Y} V108 M120 136 V{GROUND_Y}", "wire node")
    gate = Value(f"{at}/gate_ohm", "ohm", part.gate_ohm, "Resistor from the gate to ground")
    if part.gate_ohm:
        pen.path("M114 108 h12 v28 h-12 Z", "thing-lines")
    pen.value(132, 126, ohms(part.gate_ohm) if part.gate_ohm else "no resistor", gate)
    opens = Value(f"{at}/gate_mv", "volt", part.gate_mv, "Fully on from so much at its gate")
    pen.value(102, 76, f"on from {volts(part.gate_mv)}", opens, "value-text is-small")
    pen.circle(206, NODE_Y, 18, "thing-ring")
    pen.path(
        f"M198 78 V102 M203 78 V84 M203 87 V93 M203 96 V102 M203 81 H216 V72 M203 99 H216 V{GROUND_Y}", "thing-lines"
    )
    pen.box(194, 34, 44, 24).path("M216 58 V72 M216 34 V20", "wire run")
    _things(pen, part, 216, 46, on)
    load = Value(f"{at}/load_ua", "amp", part.load_ua, "Current of the load")
    pen.value(262, 70, amps(part.load_ua), load).text(262, 30, part.name, "part-text is-thing")
    if getattr(part, "diode", False):
        pen.path("M216 66 H252 V54 M252 40 V26 H216", "wire").path("M246 54 h12 l-6 -12 Z M246 42 h12", "diode")


def _module(pen: Pen, part: Switched, at: str, on: bool) -> None:
    pen.path(f"M68 {NODE_Y} H140", "wire node").box(140, 66, 62, 48).text(171, 86, "module", "rail-text is-middle")
    pen.path("M158 98 h8" + (" h12" if on else " l11 -7") + " M180 98 h8", "thing-lines")
    pen.path(f"M171 66 V{SUPPLY_Y} M171 114 V{GROUND_Y} M202 {NODE_Y} H226", "wire run").box(226, 66, 62, 48)
    _things(pen, part, 257, NODE_Y, on)
    load = Value(f"{at}/load_ua", "amp", part.load_ua, "Current of the load")
    pen.value(226, 132, amps(part.load_ua), load).text(226, 58, part.name, "part-text is-thing")


def _relay(pen: Pen, part: Relay, at: str, on: bool) -> None:
    closed = on == (part.contact_used == "no")
    pen.path(f"M68 {NODE_Y} H176", "wire node").path(f"M210 62 V{SUPPLY_Y} M210 118 V{GROUND_Y}", "wire run")
    pen.box(176, 62, 92, 56)
    pen.path(
        f"M188 76 h22 v28 h-22 Z M188 104 l22 -28 M224 102 h10 M258 102 h-8 M234 102 {'H250' if closed else 'L250 84'}",
        "thing-lines",
    )
    if part.opto:
        pen.path("M158 82 v16 M158 82 l10 8 l-10 8 M168 82 v16 M160 76 l4 -6 m2 6 l4 -6", "thing-lines")
    word = f"{part.contact_used.upper()} contact {'closed' if closed else 'open'}"
    pen.text(222, 134, word, "rail-text is-middle").text(216, 52, part.name, "part-text is-thing")
    coil = Value(f"{at}/coil_ua", "amp", part.coil_ua, "Current of the coil")
    pen.value(272, 92, amps(part.coil_ua), coil)


def _solid_state(pen: Pen, part: SolidStateRelay, at: str, on: bool) -> None:
    pen.path(f"M68 {NODE_Y} H150", "wire node").box(150, 62, 112, 56).path(f"M168 118 V{GROUND_Y}", "wire run")
    pen.path("M166 80 v20 M166 80 l12 10 l-12 10 M178 80 v20", "thing-lines")
    pen.path("M222 80 l-10 16 h20 Z M212 80 h20 M222 96 v8 M222 80 v-8" if not on else "M208 90 h28", "thing-lines")
    taken = Value(f"{at}/input_ua", "amp", part.input_ua, "Current of its input")
    pen.value(92, 84, amps(part.input_ua), taken).text(150, 54, part.name, "part-text is-thing")
    leak = Value(f"{at}/leak_ua", "amp", part.leak_ua, "What it leaks while off")
    pen.value(150, 134, "conducts" if on else f"leaks {amps(part.leak_ua)}", None if on else leak)


def _signal(pen: Pen, part: SignalOut, at: str) -> None:
    pen.path(f"M68 {NODE_Y} H196", "wire node").box(196, 56, 100, 68).path(f"M246 124 V{GROUND_Y}", "wire")
    takes = Value(f"{at}/trigger_mv", "volt", part.trigger_mv, "What it takes for high")
    stands = Value(f"{at}/stands_mv", "volt", part.stands_mv, "What it stands")
    pen.text(204, 74, part.name, "part-text is-thing")
    pen.value(204, 94, f"high from {volts(part.trigger_mv)}", takes, "value-text is-small")
    pen.value(204, 112, f"stands {volts(part.stands_mv)}", stands, "value-text is-small")
    if not part.grounds_joined:
        pen.text(196, 148, "grounds apart", "value-text is-bad")


def channel_figures(bench: Bench, channel: Channel, at: str) -> list[Figure]:
    """Off and on, for a part of a single channel."""
    board, part = bench.the_board, channel.part
    legs = {leg.channel: leg for leg in lamp_legs(bench)}
    figures: list[Figure] = []
    for on in (False, True):
        own = bool(getattr(part, "own_supply", False)) and getattr(part, "fed", "module") != "pin"
        pen = _start(channel, board, on, own)
        if channel.id in legs:
            _lamp(pen, legs[channel.id], channel, board, on)
        elif isinstance(part, Switched):
            if part.fed == "transistor":
                _transistor(pen, part, at, board, on)
            else:
                (_direct if part.fed == "pin" else _module)(pen, part, at, on)
        elif isinstance(part, Relay):
            _relay(pen, part, at, on)
        elif isinstance(part, SolidStateRelay):
            _solid_state(pen, part, at, on)
        elif isinstance(part, SignalOut):
            _signal(pen, part, at)
        rest = ", as it should rest" if on == (channel.at_rest == "on") else ""
        if not on and channel.hold == "none":
            rest += f"; floats for {ms(board.start_up_us + board.set_up_us)} at power-on"
        figures.append(Figure(pen.svg(), "On" if on else "Off", f"pin {_levels(channel, on)}{rest}"))
    return figures


def many_figures(bench: Bench, part: Part, at: str) -> list[Figure]:
    """A part of several channels: each a row, all off and all on."""
    board = bench.the_board
    channels = part.channels(at)
    legs = {leg.channel: leg for leg in lamp_legs(bench)}
    step = 34 if len(channels) <= 4 else 22
    height = max(150, 34 + step * len(channels))
    figures: list[Figure] = []
    # A motor is shown going each way, since both inputs on is what must not be.
    states = ("Forward", "Backward") if isinstance(part, Motor) else ("Off", "On")
    for words in states:
        ons = {channel.id: _is_on(words, channel) for channel in channels}
        pen = Pen(f"{words}: {part.name}", "is-many", height)
        pen.box(146, 8, 176, height - 20, "module-box", 7).text(156, 24, part.name, "part-text is-thing")
        for number, channel in enumerate(channels):
            y = 40 + step * number
            on = ons[channel.id]
            level = _levels(channel, on)
            pen.box(8, y - 11, 44, 20, "pin-box", 4).text(30, y + 4, channel.pin, "pin-text is-small")
            pen.path(f"M52 {y} H146", f"wire is-{level}")
            if leg := legs.get(channel.id):
                value = Value(f"{leg.at}/resistor_ohm", "ohm", leg.resistor_ohm, f"Resistor of {leg.name}")
                pen.box(92, y - 5, 34, 10, "hold-resistor", 1)
                pen.value(
                    60, y - 6, ohms(leg.resistor_ohm) if leg.resistor_ohm else "none", value, "value-text is-small"
                )
                current = leg.current_ua(board)
                pen.circle(166, y, 8, f"thing is-{channel.id.rpartition('.')[2]}" if on else "thing-ring")
                pen.text(
                    184,
                    y + 4,
                    f"{channel.id.rpartition('.')[2]} {amps(current) if current else 'no limit'}",
                    "value-text",
                )
            else:
                pen.text(60, y - 5, level, "value-text is-small")
                _row(pen, part, channel, number, y, on)
        if isinstance(part, RgbLamp):
            pen.text(156, height - 18, f"common leg to {part.common}", "rail-text")
        figures.append(Figure(pen.svg(), words, _many_caption(part, channels, words == "On")))
    return figures


def _is_on(words: str, channel: Channel) -> bool:
    way = channel.id.rpartition(".")[2]
    return words == "On" or way == words.lower() or (way == "speed" and words != "Off")


def _row(pen: Pen, part: Part, channel: Channel, number: int, y: float, on: bool) -> None:
    if isinstance(part, RelayBoard):
        used = part.relays[number].contact_used
        closed = on == (used == "no")
        pen.path(f"M158 {y} h14 {'h16' if closed else 'l15 -9'} M190 {y} h10", "thing-lines")
        pen.text(206, y + 4, f"{used.upper()} {channel.name}", "value-text is-small")
    elif isinstance(part, Motor):
        way = channel.id.rpartition(".")[2]
        arc = {
            "forward": f"M160 {y} a9 9 0 1 1 9 9 l-4 -4 m4 4 l4 -5",
            "backward": f"M178 {y} a9 9 0 1 0 -9 9 l4 -4 m-4 4 l-4 -5",
        }
        pen.path(arc.get(way, f"M160 {y + 5} h5 v-10 h5 v10 h8"), "thing-lines is-heavy" if on else "thing-lines").text(
            190, y + 4, way, "value-text"
        )


def _many_caption(part: Part, channels: list[Channel], on: bool) -> str:
    if isinstance(part, Motor):
        return "never both directions together" if part.both_on == "forbidden" else "both directions together brake"
    return f"every pin {_levels(channels[0], on)}"


def link_figures(bench: Bench, part: Servo | Display, at: str) -> list[Figure]:
    """A part that is told rather than switched."""
    if isinstance(part, Servo):
        pen = Pen("The servo's pulse", "is-driven")
        pen.pin(part.pin, 12).path(f"M68 {NODE_Y} H220", "wire node").box(220, 54, 92, 72)
        pen.text(228, 72, part.name, "part-text is-thing").circle(266, 98, 16, "thing-ring").path(
            "M266 98 L276 86", "thing-lines"
        )
        pen.path("M84 66 v-16 h9 v16 h52 v-16 h9 v16 h24", "thing-lines").text(84, 42, "1 to 2 ms, every 20 ms")
        load = Value(f"{at}/load_ua", "amp", part.load_ua, "Current of the servo")
        pen.value(228, 142, amps(part.load_ua), load)
        return [Figure(pen.svg(), "Told by a pulse", "its length says where to go")]
    pen = Pen("The display on the bus", "is-driven")
    for pin, y, word in ((part.data, 60, "data"), (part.clock, 110, "clock")):
        pen.pin(pin, 12, y - 14).path(f"M68 {y} H200", "wire node").text(110, y - 6, word)
    pen.box(200, 34, 116, 100).box(212, 46, 92, 44, "thing-ring", 3)
    for row, line in enumerate(part.text_lines(at)[:2]):
        pen.text(218, 64 + 17 * row, _first_text(bench, line.id)[:11], "value-text")
    pen.text(208, 108, part.name, "part-text is-thing")
    address = Value(f"{at}/address", "int", part.address, "Address on the bus")
    pen.value(208, 126, f"address {part.address}", address, "value-text is-small")
    return [Figure(pen.svg(), "On the bus", "which other things share, each with its address")]


def _first_text(bench: Bench, line: str) -> str:
    """What a line shows first, its numbers as dashes."""
    texts = (
        drive.text
        for machine in bench.firmware.machines
        for _, output, drive in machine.drives
        if output == line and isinstance(drive, Text) and drive.text
    )
    return re.sub(r"\{[^}]*\}", "–", next(texts, ""))


def text_figures(bench: Bench, part: SerialText) -> list[Figure]:
    """Text that goes out over the serial line."""
    pen = Pen("Text over the serial line", "is-driven")
    pen.pin(part.pin, 12, 70).path("M68 84 H200", "wire node").text(96, 76, "8N1")
    pen.box(200, 34, 116, 100).box(212, 46, 92, 44, "thing-ring", 3).text(
        218, 66, _first_text(bench, part.id)[:11], "value-text"
    )
    pen.text(208, 108, part.name, "part-text is-thing")
    return [Figure(pen.svg(), "To a computer", "or to another board, which reads the same baud")]


def output_figures(bench: Bench, part: Part, at: str) -> list[Figure]:
    """Whatever shows an output part best."""
    if isinstance(part, SerialText):
        return text_figures(bench, part)
    if isinstance(part, Servo | Display):
        return link_figures(bench, part, at)
    channels = part.channels(at)
    if isinstance(part, RgbLamp | RelayBoard | Motor):
        return many_figures(bench, part, at)
    return channel_figures(bench, channels[0], at)


def panel_lamp(bench: Bench, part: PanelButton, at: str) -> list[Figure]:
    """The lamp in a panel button."""
    return channel_figures(bench, part.channels(at)[0], f"{at}/lamp") if part.lamp else []
