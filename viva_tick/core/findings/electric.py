"""What the voltages at the contacts' pins give away, before power is on."""

from __future__ import annotations

from collections.abc import Iterator

from ..contacts import Filter, reaches_us
from ..document import ContactLine, pointer
from ..document.parts import ButtonModule, SignalIn, TwoWay
from ..electrics import (
    LONG_CABLE_CM,
    SHORT_WIRE_CM,
    TRANSIT_US,
    WASTE_UA,
    Circuit,
    PinState,
    at_most,
    both_states,
    circuit_of,
    filter_of,
    pin_state,
    pull_window,
)
from ..sweep import shortest_tap_us
from ..units import amps, ms, ohms, span, volts
from .finding import Evidence, Finding, Severity
from .mends import replaced

LAMP_OHM, LAMP_MV = 1_000, 1_700  # a board's own lamp and its resistor (common practice)
SHORT_UA = 100_000  # a press that draws this much is a short, whatever it is called
GOOD_OHM = 10_000
Fault = tuple[str, Severity, str, str]  # code, severity, end of the title, sentence


def pull_rail(pull: str) -> str | None:
    """The rail that a pull goes to."""
    return None if pull == "none" else "ground" if pull.endswith("down") else "supply"


def _pressed_level(line: ContactLine, to_ground: bool) -> str:
    """What the pin reads while it is pressed, once something holds it to the other rail."""
    return "low" if to_ground == (line.wiring.normally == "open") else "high"


def same_rail(evidence: Evidence) -> Iterator[Finding]:
    """The pull goes to the rail that the contact closes to, so a press changes nothing."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        rail = pull_rail(line.wiring.pull)
        other_throw = circuit_of(line, board).other
        if rail != line.wiring.contact_to or other_throw or isinstance(line.part, ButtonModule):
            continue
        where = f"{line.at}/wiring/pull"
        to_ground = rail == "ground"
        yield Finding(
            code="wire.same-rail",
            severity=Severity.MUST,
            station="wire",
            part=line.part.id,
            title=f"{line.name}: pressed or not, the same",
            sentence=f"The contact and what holds {line.pin} both go to {rail}, so the pin never changes.",
            numbers=(("contact", rail), ("held to", rail)),
            pointer=where,
            patch=(
                *replaced(where, "internal-up" if to_ground else "down"),
                *replaced(f"{line.at}/active_level", _pressed_level(line, to_ground)),
            ),
            mend="Use the board's pull-up" if to_ground else "Hold it to ground",
        )


def _pull_fault(evidence: Evidence, line: ContactLine, circuit: Circuit) -> Fault | None:
    board = evidence.bench.the_board
    closed, opened = (pin_state(circuit, board, touching) for touching in (True, False))
    drawn_ua = closed.contact_ua[1]
    wiring = line.wiring
    pull = ohms(wiring.pull_ohm)
    if drawn_ua >= SHORT_UA:
        sentence = f"Closed, the contact joins the rails through {pull}: {amps(drawn_ua)}."
        return "wire.short", Severity.MUST, "a press shorts the supply", sentence
    if drawn_ua > WASTE_UA:
        if line.metal == "silver":
            sentence = f"{pull} draws {amps(drawn_ua)} on each press: that keeps a silver contact clean (wetting)."
            return "wire.pull-strong", Severity.NOTE, "the pull draws much, as its contact wants", sentence
        sentence = f"{pull} draws {amps(drawn_ua)} on each press; {ohms(GOOD_OHM)} would do."
        return "wire.pull-strong", Severity.LOOK, "the pull wastes current", sentence
    if opened.verdict == "undefined":
        reach = span(*opened.pin_mv, volts)
        sentence = f"Through {pull} the input's own leakage takes the pin to {reach}, neither low nor high."
        return "wire.pull-weak", Severity.MUST, "the pull is too weak", sentence
    window = pull_window(str(pull_rail(wiring.pull)), wiring.pull_ohm, wiring.wire_cm, board)
    if wiring.pull_ohm > window.most_ohm:
        sentence = (
            f"Over {length(wiring.wire_cm)} of wire {ohms(window.most_ohm)} is the most, because of {window.most_by}; "
            f"{pull} holds {line.pin} too lightly."
        )
        return "wire.pull-weak", Severity.LOOK, "the pull is weak", sentence
    return None


def length(cm: int) -> str:
    """A length in words."""
    return f"{cm / 100:g} m" if cm >= 100 else f"{cm} cm"


def _better_ohm(evidence: Evidence, line: ContactLine) -> int:
    wiring = line.wiring
    window = pull_window(str(pull_rail(wiring.pull)), GOOD_OHM, wiring.wire_cm, evidence.bench.the_board)
    return at_most(min(GOOD_OHM, window.most_ohm)) if window.most_ohm >= window.least_ohm else GOOD_OHM


def pull_value(evidence: Evidence) -> Iterator[Finding]:
    """An external pull shorts the supply, wastes current, or is too weak to hold the pin."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        wiring = line.wiring
        if wiring.pull not in ("up", "down") or pull_rail(wiring.pull) == wiring.contact_to:
            continue
        circuit = circuit_of(line, board)
        if fault := _pull_fault(evidence, line, circuit):
            code, severity, title, sentence = fault
            better = _better_ohm(evidence, line)
            where = f"{line.at}/wiring/pull_ohm"
            drawn = pin_state(circuit, board, touching=True).contact_ua[1]
            yield Finding(
                code=code,
                severity=severity,
                station="wire",
                part=line.part.id,
                title=f"{line.name}: {title}",
                sentence=sentence,
                numbers=(("pull", ohms(wiring.pull_ohm)), ("drawn when closed", amps(drawn))),
                pointer=where,
                patch=replaced(where, better) if better != wiring.pull_ohm and severity is not Severity.NOTE else (),
                mend=f"Use {ohms(better)}" if better != wiring.pull_ohm and severity is not Severity.NOTE else "",
            )


def long_wire(evidence: Evidence) -> Iterator[Finding]:
    """The board's own pull is too light for the length of the wire."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        inside = [branch for branch in circuit_of(line, board).held if branch.inside]
        if not inside:
            continue
        window = pull_window(inside[0].rail, inside[0].ohm[1], line.wiring.wire_cm, board)
        if line.wiring.wire_cm <= SHORT_WIRE_CM or inside[0].ohm[0] <= window.most_ohm:
            continue
        better = _better_ohm(evidence, line)
        value = "up" if inside[0].rail == "supply" else "down"
        yield Finding(
            code="wire.long-wire",
            severity=Severity.LOOK,
            station="wire",
            part=line.part.id,
            title=f"{line.name}: a long wire on a light pull",
            sentence=f"Over {length(line.wiring.wire_cm)} the board's own pull lets in what the wire picks up; "
            f"{ohms(window.most_ohm)} is the most, because of {window.most_by}.",
            numbers=(("pull", span(*inside[0].ohm, ohms)), ("wire", length(line.wiring.wire_cm))),
            pointer=f"{line.at}/wiring/pull",
            patch=(
                {"op": "replace", "path": f"{line.at}/wiring/pull", "value": value},
                {"op": "replace", "path": f"{line.at}/wiring/pull_ohm", "value": better},
            ),
            mend=f"Add {ohms(better)} to {inside[0].rail}",
        )


def rc_filter(evidence: Evidence) -> Iterator[Finding]:
    """A slow edge on a plain input, or one so slow that the shortest tap does not get through."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        rc = filter_of(line, board)
        if rc is None or rc.closed_share == rc.open_share:
            continue  # pressed or not, the same: another rule says so
        band_us = _band_us(rc)
        if not rc.schmitt:
            where = f"{line.at}/wiring/schmitt"
            yield Finding(
                code="wire.rc-plain",
                severity=Severity.MUST,
                station="wire",
                part=line.part.id,
                title=f"{line.name}: a slow edge on a plain input",
                sentence=f"Through its capacitor the pin takes {ms(round(band_us))} from one threshold to the other; "
                "meanwhile a plain input reads 0 or 1 at random. A Schmitt input changes once.",
                numbers=(("between the thresholds", ms(round(band_us))),),
                pointer=where,
                patch=replaced(where, True),
                mend="Use a Schmitt input",
            )
        slow_us = max(_through_us(rc, touching) for touching in (False, True))
        shortest = shortest_tap_us(evidence.bench, line.id)
        if shortest and slow_us >= shortest[0] / 2:
            better = max(int(line.wiring.filter_nf * shortest[0] / slow_us / 4), 1)
            where = f"{line.at}/wiring/filter_nf"
            yield Finding(
                code="wire.rc-slow",
                severity=Severity.MUST,
                station="wire",
                part=line.part.id,
                title=f"{line.name}: its capacitor is too large",
                sentence=f"A move takes {ms(round(slow_us))} to reach the threshold; “{shortest[2]}” taps it for "
                f"{ms(shortest[0])}.",
                numbers=(("to the threshold", ms(round(slow_us))), ("shortest tap", ms(shortest[0]))),
                pointer=where,
                patch=replaced(where, better),
                mend=f"Use {better} nF",
            )


def _through_us(rc: Filter, touching: bool) -> float:
    """From the one end to the threshold that a move towards the other must pass."""
    start = rc.course(not touching)[0]
    target, tau_us = rc.course(touching)
    return reaches_us(start, target, tau_us, rc.high_share if target > start else rc.low_share)


def _band_us(rc: Filter) -> float:
    """The longest time between the thresholds."""
    spans = []
    for touching in (False, True):
        start = rc.course(not touching)[0]
        target, tau_us = rc.course(touching)
        first, last = (rc.low_share, rc.high_share) if target > start else (rc.high_share, rc.low_share)
        spans.append(reaches_us(start, target, tau_us, last) - reaches_us(start, target, tau_us, first))
    return max(spans)


WETTING_UA = {"gold": 10, "silver": 5_000}  # what keeps a contact clean (common practice)


def wetting(evidence: Evidence) -> Iterator[Finding]:
    """A contact carries too little current to stay clean."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        circuit = circuit_of(line, board)
        closed = pin_state(circuit, board, touching=True)
        drawn_ua, wanted_ua = closed.contact_ua[0], WETTING_UA[line.metal]
        if not circuit.held or isinstance(line.part, SignalIn) or drawn_ua >= wanted_ua:
            continue
        better = at_most(board.logic_mv / wanted_ua * 900)  # a tenth more than it wants
        rail = "up" if pull_rail(line.wiring.pull) == "supply" else "down"
        where = f"{line.at}/wiring"
        yield Finding(
            code="wire.wetting",
            severity=Severity.LOOK,
            station="wire",
            part=line.part.id,
            title=f"{line.name}: too little current for its contact",
            sentence=f"Closed, it carries {amps(drawn_ua)}; a {line.metal} contact wants {amps(wanted_ua)} to burn "
            "its film off, or it fails after months. A stronger pull does that, or a contact plated with gold.",
            numbers=(("carries", amps(drawn_ua)), (f"{line.metal} wants", amps(wanted_ua))),
            pointer=f"{where}/pull",
            patch=(*replaced(f"{where}/pull", rail), *replaced(f"{where}/pull_ohm", better)),
            mend=f"Pull with {ohms(better)}",
        )


def long_cable(evidence: Evidence) -> Iterator[Finding]:
    """A long cable goes straight into a pin."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        wiring = line.wiring
        if wiring.wire_cm <= LONG_CABLE_CM or wiring.guard != "none" or wiring.filter == "rc":
            continue
        where = f"{line.at}/wiring/guard"
        yield Finding(
            code="wire.long-cable",
            severity=Severity.LOOK,
            station="wire",
            part=line.part.id,
            title=f"{line.name}: {length(wiring.wire_cm)} of cable straight into {line.pin}",
            sentence=f"Over {length(LONG_CABLE_CM)} a cable brings in surges that {line.pin} does not survive: it "
            f"allows at most {volts(board.pin_most_mv)}. Put 1 kΩ and a clamp before it, or an opto-isolator outdoors.",
            numbers=(("cable", length(wiring.wire_cm)), ("allows", volts(board.pin_most_mv))),
            pointer=where,
            patch=replaced(where, "clamp"),
            mend="1 kΩ and a clamp",
        )


def lamp_pull(evidence: Evidence) -> Iterator[Finding]:
    """The board's own lamp hangs on a pin that an internal pull should hold high."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        pin = board.pin(line.pin)
        if line.wiring.pull != "internal-up" or pin is None or "lamp" not in pin.can:
            continue
        left_mv = max(board.logic_mv - LAMP_MV, 0)
        ends = [LAMP_MV + left_mv * LAMP_OHM / (LAMP_OHM + ohm) for ohm in board.pull_up_ohm]
        reach = span(min(ends), max(ends), volts)
        yield Finding(
            code="wire.lamp-pull",
            severity=Severity.MUST,
            station="wire",
            part=line.part.id,
            title=f"{line.name}: the board's lamp drags {line.pin} down",
            sentence=f"The lamp on the board hangs on {line.pin}, too. Against it the internal pull-up brings the pin "
            f"to about {reach}, which may read 0 or 1. Give it 1 kΩ to supply, or another pin.",
            numbers=(("open, the pin is at", reach), ("high from", volts(board.high_from_share * board.logic_mv))),
            pointer=f"{line.at}/wiring/pull",
            patch=(*replaced(f"{line.at}/wiring/pull", "up"), *replaced(f"{line.at}/wiring/pull_ohm", 1_000)),
            mend="Add 1 kΩ to supply",
        )


def between_throws(evidence: Evidence) -> Iterator[Finding]:
    """A two-way switch leaves its pin to itself on its way from side to side."""
    for line in evidence.bench.contacts:
        part = line.part
        if not isinstance(part, TwoWay) or part.other_throw != "wired" or line.wiring.pull != "none":
            continue
        where = f"{line.at}/wiring/pull"
        yield Finding(
            code="wire.between-throws",
            severity=Severity.LOOK,
            station="wire",
            part=line.part.id,
            title=f"{line.name}: between its two sides nothing holds {line.pin}",
            sentence=f"Its contact leaves one side before it touches the other; for {ms(TRANSIT_US)} or so {line.pin} "
            "floats, and may read 0 or 1. A pull, either way, holds it meanwhile.",
            numbers=(("open for about", ms(TRANSIT_US)), ("pull", "none")),
            pointer=where,
            patch=replaced(where, "internal-up"),
            mend="Use the board's pull-up",
        )


def undecided(evidence: Evidence) -> Iterator[Finding]:
    """Two resistors pull the pin to different rails, or a signal's voltage lies between the thresholds."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        circuit = circuit_of(line, board)
        states = both_states(circuit, board)
        wrong = next((state for state in states if state.verdict == "undefined"), None)
        external = line.wiring.pull in ("up", "down")
        if wrong is None or (external and not circuit.source_mv < board.logic_mv):
            continue
        where = f"{line.at}/wiring/pull" if len(circuit.held) > 1 else line.at
        when = "Released" if wrong is states[0] else "Pressed"
        yield Finding(
            code="wire.undecided",
            severity=Severity.MUST,
            station="wire",
            part=line.part.id,
            title=f"{line.name}: neither low nor high",
            sentence=f"{when}, {line.pin} is at {span(*wrong.pin_mv, volts)}; the board takes under "
            f"{volts(board.low_below_share * board.logic_mv)} for low and over "
            f"{volts(board.high_from_share * board.logic_mv)} for high.",
            numbers=((when.lower(), span(*wrong.pin_mv, volts)),),
            pointer=where,
            patch=replaced(where, "none") if len(circuit.held) > 1 else (),
            mend="Switch the board's pull off" if len(circuit.held) > 1 else "",
        )


def _reads_inverted(pressed: PinState, released: PinState, active_level: str) -> bool:
    if pressed.verdict not in ("low", "high") or pressed.verdict == active_level:
        return False
    return released.verdict != pressed.verdict


def inverted(evidence: Evidence) -> Iterator[Finding]:
    """The pin reads the other way round than the firmware takes it."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        released, pressed = both_states(circuit_of(line, board), board)
        if not _reads_inverted(pressed, released, line.active_level):
            continue
        where = f"{line.at}/active_level"
        yield Finding(
            code="wire.inverted",
            severity=Severity.MUST,
            station="wire",
            part=line.part.id,
            title=f"{line.name} reads the wrong way round",
            sentence=f"Pressed, {line.pin} is {pressed.verdict} ({volts(pressed.pin_mv[1])}), but the firmware takes "
            f"{line.active_level} for pressed: it acts when you release it.",
            numbers=(("pressed", pressed.verdict), ("firmware reads pressed", line.active_level)),
            pointer=where,
            patch=replaced(where, pressed.verdict),
            mend=f"Use {pressed.verdict} for pressed",
        )


def output_inverted(evidence: Evidence) -> Iterator[Finding]:
    """An output does the opposite of what the firmware asks for."""
    bench = evidence.bench
    for channel in bench.channels:
        if not bench.inverted(channel):
            continue
        yield Finding(
            code="wire.output-inverted",
            severity=Severity.MUST,
            station="wire",
            part=channel.part.id,
            title=f"{channel.name} does the opposite",
            sentence=f"It is wired to be on while {channel.pin} is {channel.active_level}, and the firmware writes "
            f"{bench.on_level(channel)} to switch it on: it is on whenever it should be off.",
            numbers=(("on while", channel.active_level), ("firmware writes", bench.on_level(channel))),
            pointer=pointer("firmware", "on_levels", channel.id),
            patch=({"op": "remove", "path": pointer("firmware", "on_levels", channel.id)},),
            mend="Switch it as it is wired",
        )
