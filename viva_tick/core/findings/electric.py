"""What voltages and currents give away, before power is on."""

from __future__ import annotations

from collections.abc import Iterator

from ..boards import Board, boards
from ..cautions import CAUTIONS
from ..document import InputPart, OutputPart, Part, pointer
from ..electrics import DIM_UA, PinState, both_states, effective, fed_by_pin, lamp_ua, pull_rail, resistor_for
from ..units import amps, ms, ohms, span, volts
from .finding import Case, Finding, Severity

SHORT_UA = 100_000  # a press that draws this much is a short, whatever it is called
WASTE_UA = 2_000  # common practice: 10 kΩ wastes 0.5 mA at 5 V, 220 Ω 23 mA
NOISY_OHM = 100_000  # common practice: 10 kΩ, up to 47 kΩ on short wires
GOOD_OHM = 10_000


def same_rail(case: Case) -> Iterator[Finding]:
    """The pull goes to the rail that the contact closes to, so a press changes nothing."""
    for index, part in enumerate(case.bench.inputs):
        rail = pull_rail(part.wiring)
        if rail != part.wiring.contact_to:
            continue
        where = pointer("inputs", index, "wiring", "pull")
        to_ground = rail == "ground"
        yield Finding(
            code="wire.same-rail",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name}: pressed or not, the same",
            sentence=f"The contact and what holds {part.pin} both go to {rail}, so the pin never changes.",
            numbers=(("contact", rail), ("held to", rail)),
            pointer=where,
            patch=({"op": "replace", "path": where, "value": "internal-up" if to_ground else "down"},),
            mend="Use the board's pull-up" if to_ground else "Hold it to ground",
        )


Fault = tuple[str, Severity, str, str]  # code, severity, end of the title, sentence
Numbers = tuple[tuple[str, str], ...]


def _pull_fault(part: InputPart, opened: PinState, drawn_ua: float) -> Fault | None:
    pull = ohms(part.wiring.pull_ohm)
    if drawn_ua >= SHORT_UA:
        sentence = f"Closed, the contact joins the rails through {pull}: {amps(drawn_ua)}."
        return "wire.short", Severity.MUST, "a press shorts the supply", sentence
    if drawn_ua > WASTE_UA:
        sentence = f"{pull} draws {amps(drawn_ua)} on each press; {ohms(GOOD_OHM)} would do."
        return "wire.pull-strong", Severity.LOOK, "the pull wastes current", sentence
    if opened.verdict == "undefined":
        reach = span(*opened.pin_mv, volts)
        sentence = f"Through {pull} the input's own leakage takes the pin to {reach}, neither low nor high."
        return "wire.pull-weak", Severity.MUST, "the pull is too weak", sentence
    if part.wiring.pull_ohm > NOISY_OHM:
        sentence = f"{pull} holds {part.pin} so lightly that the wire picks up noise."
        return "wire.pull-weak", Severity.LOOK, "the pull is weak", sentence
    return None


def _value_finding(part: Part, fault: Fault, where: str, better: int | None, numbers: Numbers) -> Finding:
    """A fault of a resistance, mended by a better value of it."""
    code, severity, title, sentence = fault
    return Finding(
        code=code,
        severity=severity,
        station="wire",
        part=part.id,
        title=f"{part.name} {title}" if isinstance(part, OutputPart) else f"{part.name}: {title}",
        sentence=sentence,
        numbers=numbers,
        pointer=where,
        patch=({"op": "replace", "path": where, "value": better},) if better else (),
        mend=f"Take {ohms(better)}" if better else "",
    )


def pull_value(case: Case) -> Iterator[Finding]:
    """An external pull shorts the supply, wastes current, or is too weak to hold the pin."""
    board = boards()[case.bench.board]
    for index, part in enumerate(case.bench.inputs):
        wiring = part.wiring
        if wiring.pull not in ("up", "down") or pull_rail(wiring) == wiring.contact_to:
            continue
        released, pressed = both_states(wiring, board)
        closed, opened = (released, pressed) if released.touching else (pressed, released)
        drawn_ua = closed.contact_ua[1]
        if fault := _pull_fault(part, opened, drawn_ua):
            numbers = (("pull", ohms(wiring.pull_ohm)), ("drawn when closed", amps(drawn_ua)))
            yield _value_finding(part, fault, pointer("inputs", index, "wiring", "pull_ohm"), GOOD_OHM, numbers)


def inverted(case: Case) -> Iterator[Finding]:
    """The pin reads the other way round than the firmware takes it."""
    board = boards()[case.bench.board]
    for index, part in enumerate(case.bench.inputs):
        released, pressed = both_states(effective(part, board), board)
        if pressed.verdict not in ("low", "high") or pressed.verdict == part.active_level:
            continue
        if released.verdict == pressed.verdict:
            continue
        where = pointer("inputs", index, "active_level")
        yield Finding(
            code="wire.inverted",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name} reads the wrong way round",
            sentence=f"Pressed, {part.pin} is {pressed.verdict} ({volts(pressed.pin_mv[1])}), but the firmware takes "
            f"{part.active_level} for pressed: it acts when you let go.",
            numbers=(("pressed", pressed.verdict), ("taken for pressed", part.active_level)),
            pointer=where,
            patch=({"op": "replace", "path": where, "value": pressed.verdict},),
            mend=f"Take {pressed.verdict} for pressed",
        )


def _lamp_fault(part: OutputPart, board: Board, current_ua: float | None) -> Fault | None:
    design, absolute = board.pin_ua.design, board.pin_ua.absolute
    resistor = ohms(part.resistor_ohm)
    if current_ua is None:
        sentence = f"Nothing bounds its current; {part.pin} is made for {amps(design)}."
        return "wire.lamp-bare", Severity.MUST, "has no resistor", sentence
    if current_ua > design:
        severity = Severity.MUST if current_ua > absolute else Severity.LOOK
        sentence = (
            f"{resistor} lets {amps(current_ua)} through; design for {amps(design)}, never over {amps(absolute)}."
        )
        return "wire.lamp-over", severity, "takes too much current", sentence
    if current_ua < DIM_UA:
        sentence = f"{resistor} leaves it {amps(current_ua)}; 1 to 5 mA is enough to see."
        return "wire.lamp-dim", Severity.LOOK, "will hardly be seen", sentence
    return None


def lamp(case: Case) -> Iterator[Finding]:
    """A lamp on a pin without a resistor, with too much current, or too dim to see."""
    board = boards()[case.bench.board]
    for index, part in enumerate(case.bench.outputs):
        current_ua = lamp_ua(part, board)
        fault = _lamp_fault(part, board, current_ua) if fed_by_pin(part) else None
        if fault:
            numbers = (
                ("resistor", ohms(part.resistor_ohm) if part.resistor_ohm else "none"),
                ("current", amps(current_ua) if current_ua is not None else "unbounded"),
            )
            where = pointer("outputs", index, "resistor_ohm")
            yield _value_finding(part, fault, where, resistor_for(part, board), numbers)


BOARD_UA = 50_000  # what a small board takes itself (common practice)


def relay_supply(case: Case) -> Iterator[Finding]:
    """Relay coils fed by the board's own supply take more than it gives, or nearly."""
    board = boards()[case.bench.board]
    fed = [(n, part) for n, part in enumerate(case.bench.outputs) if part.kind == "relay" and not part.own_supply]
    total_ua = sum(part.coil_ua for _, part in fed)
    over = total_ua + BOARD_UA > board.supply_ua
    if not over and len(fed) < 2:
        return
    names = " and ".join(part.name for _, part in fed[:2]) + ("" if len(fed) <= 2 else f" and {len(fed) - 2} more")
    enough = f"more than the {amps(board.supply_ua)} it has" if over else f"of the {amps(board.supply_ua)} it has"
    yield Finding(
        code="wire.relay-supply",
        severity=Severity.MUST if over else Severity.LOOK,
        station="wire",
        part=fed[0][1].id,
        title="Relays hang on the board's supply",
        sentence=f"{names} take {amps(total_ua)} together, {enough}; give them a supply of their own, grounds joined.",
        numbers=(("coils together", amps(total_ua)), ("supply", amps(board.supply_ua))),
        pointer=pointer("outputs", fed[0][0], "own_supply"),
        patch=tuple({"op": "replace", "path": pointer("outputs", n, "own_supply"), "value": True} for n, _ in fed),
        mend="Give them their own supply",
    )


def unheld(case: Case) -> Iterator[Finding]:
    """Nothing holds the pin of an output that could do harm until set-up has run."""
    board = boards()[case.bench.board]
    ready = ms(board.start_up_us + board.set_up_us)
    for index, part in enumerate(case.bench.outputs):
        low_relay = part.kind == "relay" and part.active_level == "low"
        if part.hold != "none" or not (low_relay or part.load in CAUTIONS):
            continue
        where = pointer("outputs", index, "hold")
        level = "up" if part.active_level == "low" else "down"
        why = "a low-trigger board is on while its input is low" if low_relay else "what floats can switch it on"
        yield Finding(
            code="wire.unheld",
            severity=Severity.LOOK,
            station="wire",
            part=part.id,
            title=f"{part.name} can click on at power-on",
            sentence=f"Until set-up has run, for {ready}, {part.pin} floats, and {why}.",
            numbers=(("floats for", ready),),
            pointer=where,
            patch=({"op": "replace", "path": where, "value": level},),
            mend=f"Hold it off: 10 kΩ to {'supply' if level == 'up' else 'ground'}",
            show_us=(0,),
        )


def all_pins(case: Case) -> Iterator[Finding]:
    """The lamps together take more than the board's pins may carry."""
    board = boards()[case.bench.board]
    currents = [lamp_ua(part, board) or 0 for part in case.bench.outputs if fed_by_pin(part)]
    if (total := sum(currents)) > board.all_pins_ua:
        yield Finding(
            code="wire.all-pins",
            severity=Severity.MUST,
            station="wire",
            part="",
            title="The lamps together take too much",
            sentence=f"{len(currents)} lamps take {amps(total)} if all are on; the board's pins may carry "
            f"{amps(board.all_pins_ua)} in all.",
            numbers=(("together", amps(total)), ("limit", amps(board.all_pins_ua))),
            pointer="/outputs",
        )
