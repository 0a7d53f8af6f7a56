"""A contact's circuit, released and pressed: rails, contact, what holds the pin, the pin."""

from __future__ import annotations

from ...core.boards import Board
from ...core.document.parts import ButtonModule, ContactLine, OpenWire, SignalIn, TwoWay
from ...core.electrics import Branch, Circuit, PinState, both_states, circuit_of
from ...core.units import amps, ohms, span, volts
from .pen import GROUND_Y, NODE_Y, SUPPLY_Y, Figure, Pen, Value

READS = {"low": "0", "high": "1"}


def _rail_y(rail: str) -> int:
    return GROUND_Y if rail == "ground" else SUPPLY_Y


def _branch(pen: Pen, x: int, branch: Branch, value: Value | None, grip: bool, whose: str) -> None:
    to_y = _rail_y(branch.rail)
    top = 28 if to_y == SUPPLY_Y else 98
    if grip:
        pen.open("grip", grip="pull").title("Drag to the other rail").box(x - 16, top - 6, 32, 66, "grip-area")
    near, far = (top, top + 54) if to_y == GROUND_Y else (top + 54, top)
    pen.path(f"M{x} {NODE_Y} V{near} M{x} {far} V{to_y}", "wire run").resistor(x, top)
    if grip:
        pen.close()
    pen.value(x + 14, top + 25, span(*branch.ohm, ohms), value)
    pen.text(x + 14, top + 38, whose, "value-text is-small")


def _contact(pen: Pen, line: ContactLine, circuit: Circuit, state: PinState) -> None:
    rail = circuit.contact or "ground"
    top = 108 if rail == "ground" else 38
    pen.open("grip press", grip="contact", press="").title("Press it, or drag it to the other rail")
    pen.box(56, top - 16, 40, 66, "grip-area")
    up, down = (NODE_Y, top), (top + 34, GROUND_Y)
    if rail == "supply":
        up, down = (NODE_Y, top + 34), (top, SUPPLY_Y)
    pen.path(f"M80 {up[0]} V{up[1]} M80 {down[0]} V{down[1]}", "wire run")
    pen.contact(80, top, state.touching).close()
    pen.text(52, top + 21, line.name if len(line.name) < 15 else line.name[:13] + "…", "part-text")
    if state.touching and state.verdict != "floats":
        pen.text(71, top + 36 if rail == "ground" else top + 6, span(*state.contact_ua, amps), "value-text is-end")


def _other_throw(pen: Pen, circuit: Circuit, touching: bool) -> None:
    """The other side of a two-way switch, or a signal's other level."""
    rail = circuit.other or "supply"
    top = 108 if rail == "ground" else 38
    near, far = (top, top + 34) if rail == "ground" else (top + 34, top)
    pen.path(f"M118 {NODE_Y} V{near} M118 {far} V{_rail_y(rail)}", "wire")
    pen.contact(118, top, not touching, "is-other")


def _module(pen: Pen, line: ContactLine, part: ButtonModule, circuit: Circuit, state: PinState) -> None:
    """The module as a box with three pins at its right edge, each on its wire."""
    pen.box(28, 34, 84, 112, "module-box", 6)
    at_y = {"1": 50, "2": NODE_Y, "3": 130}
    names = dict(zip("123", part.wired.split("-"), strict=True))
    for number, y in at_y.items():
        goes = names[number]
        target = {"pin": NODE_Y, "supply": SUPPLY_Y, "ground": GROUND_Y}[goes]
        x = {"1": 140, "2": 152, "3": 164}[number]
        end = "H262" if goes == "pin" else ""
        pen.path(f"M112 {y} H{x} V{target} {end}", "wire node" if goes == "pin" else "wire")
        pen.circle(112, y, 4, "module-pin").text(118, y - 4, number, "value-text is-small")
    for pins, x, is_contact in ((part.contact_pins, 84, True), (part.resistor_pins, 46, False)):
        first, second = pins.split("-")
        top, bottom = at_y[first], at_y[second]
        middle = (top + bottom) / 2
        if is_contact:
            pen.open("press", press="").title("Press it").box(x - 20, middle - 24, 32, 48, "grip-area")
            pen.path(f"M100 {top} H{x} V{middle - 13} M100 {bottom} H{x} V{middle + 13}", "wire")
            blade = (
                f"M{x} {middle - 13} V{middle + 13}" if state.touching else f"M{x} {middle + 13} L{x - 13} {middle - 9}"
            )
            pen.open("contact-drawing").circle(x, middle - 13, 2.6, "end").circle(x, middle + 13, 2.6, "end")
            pen.path(blade, "blade").close().close()
        else:
            pen.path(f"M100 {top - 6} H{x} V{middle - 14} M100 {bottom - 6} H{x} V{middle + 14}", "wire")
            pen.box(x - 5, middle - 14, 10, 28, "hold-resistor", 1)
    value = Value(f"{line.at}/resistor_ohm", "ohm", part.resistor_ohm, "Resistor of the module")
    pen.value(34, 141, ohms(part.resistor_ohm), value)
    if state.shorted_ua:
        pen.text(176, 176, f"{amps(state.shorted_ua)} from rail to rail", "value-text is-bad")


def contact_figure(line: ContactLine, board: Board, circuit: Circuit, state: PinState, when: str) -> Figure:
    """One state of a contact."""
    live = "is-live" if state.touching and state.contact_ua[1] > 1 and state.verdict != "floats" else ""
    pen = Pen(f"{when}: the pin is {state.verdict}", f"is-{state.verdict} {live}")
    source = f"{board.logic_mv / 1000:g} V"
    part = line.part
    pen.rails(source)
    if isinstance(part, ButtonModule):
        _module(pen, line, part, circuit, state)
        inside = [branch for branch in circuit.held if branch.inside]
    else:
        pen.path(f"M80 {NODE_Y} H262", "wire node")
        if isinstance(part, OpenWire):
            said = f"{line.wiring.wire_cm} cm of wire, nothing on it"
            pen.circle(80, NODE_Y, 3, "end").text(80, NODE_Y - 10, said, "value-text")
        else:
            _contact(pen, line, circuit, state)
        if circuit.other:
            _other_throw(pen, circuit, state.touching)
        inside = [branch for branch in circuit.held if branch.inside]
        if isinstance(part, SignalIn) and part.high_mv != board.logic_mv:
            value = Value(f"{line.at}/high_mv", "volt", part.high_mv, "High of the other board")
            pen.value(124, 34, volts(part.high_mv), value)
        for branch in circuit.held:
            if not branch.inside:
                value = Value(f"{line.at}/wiring/pull_ohm", "ohm", line.wiring.pull_ohm, "Pull resistor")
                _branch(pen, 180, branch, value, grip=True, whose="your resistor")
    for branch in inside:
        _branch(
            pen, 180 if not isinstance(part, ButtonModule) else 200, branch, None, grip=True, whose="inside the board"
        )
    if line.wiring.filter == "rc":
        pen.path("M240 90 V118 M230 118 H250 M230 124 H250 M240 124 V160", "wire").box(
            206, 85, 26, 10, "hold-resistor", 1
        )
        series = Value(f"{line.at}/wiring/series_ohm", "ohm", line.wiring.series_ohm, "Resistor before the pin")
        size = Value(f"{line.at}/wiring/filter_nf", "int", line.wiring.filter_nf, "Capacitor at the pin, nF")
        pen.value(202, 80, ohms(line.wiring.series_ohm), series, "value-text is-small")
        pen.value(228, 140, f"{line.wiring.filter_nf} nF", size, "value-text is-small is-end")
        if line.wiring.schmitt:
            pen.path("M268 100 h5 v-8 h8 M272 100 h-6 M273 92 h-0", "thing-lines")
    level = state.verdict
    pen.pin(line.pin).text(290, 122, level, "level-text")
    pen.text(290, 137, span(*state.pin_mv, volts) if level != "floats" else "? V", "value-text is-middle")
    return _figure(pen, line, state, when)


def _figure(pen: Pen, line: ContactLine, state: PinState, when: str) -> Figure:
    sure = state.verdict in READS
    taken = ("pressed" if state.verdict == line.active_level else "released") if sure else "anything"
    caption = f"pin {state.verdict}, reads {READS.get(state.verdict, '0 or 1')}, firmware reads "
    two_way = isinstance(line.part, TwoWay)
    shown = {"Released": "Switched off", "Pressed": "Switched on"}[when] if two_way else when
    return Figure(pen.svg(), shown, caption, taken if taken == when.lower() else f"!{taken}")


def contact_figures(line: ContactLine, board: Board) -> list[Figure]:
    """Released and pressed, each holding the other for while it is pressed on the drawing."""
    circuit = circuit_of(line, board)
    states = both_states(circuit, board)
    if isinstance(line.part, OpenWire):  # nothing of it can be pressed
        one = contact_figure(line, board, circuit, states[0], "Released")
        return [Figure(one.svg, "As it hangs", one.caption, one.odd)]
    released, pressed = (
        contact_figure(line, board, circuit, state, when)
        for state, when in zip(states, ("Released", "Pressed"), strict=True)
    )
    return [
        Figure(one.svg, one.head, one.caption, one.odd, other)
        for one, other in ((released, pressed), (pressed, released))
    ]
