"""What two voltages that meet give away: 5 V into a 3.3 V pin, 3.3 V below a part's trigger, analogue scales."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..document.parts import (
    Analogue,
    Commands,
    Display,
    Motor,
    Relay,
    RelayBoard,
    ResistiveSensor,
    Servo,
    SignalIn,
    SignalOut,
    SolidStateRelay,
    VoltageSource,
)
from ..electrics import E24, at_least, at_most, circuit_of, counts_of, most_mv, pin_mv, range_of, scale
from ..units import ohms, volts
from .finding import Evidence, Finding, Patch, Severity
from .mends import replaced

NARROW = 0.1  # a tenth of the scale leaves so few counts that noise is a good part of them
LOOSE = 0.05


def over_volts(evidence: Evidence) -> Iterator[Finding]:
    """A part puts more on a pin than the pin stands; or the board more on another than that stands."""
    board = evidence.bench.the_board
    for at, part in evidence.bench.placed:
        high_mv = 0.0
        pin = ""
        patch: Patch = ()
        mend = ""
        if isinstance(part, SignalIn):
            circuit = circuit_of(part.contacts(at)[0], board)
            if "supply" in (circuit.contact, circuit.other):
                high_mv, pin = part.high_mv, part.pin
        elif isinstance(part, Commands) and part.source != "typed":
            high_mv, pin = part.high_mv, part.pin
        elif isinstance(part, Display):
            high_mv, pin = part.high_mv, part.data
        elif isinstance(part, Analogue):
            high_mv, pin = most_mv(part, board), part.pin
            patch, mend = _divided(at, part, board.logic_mv)
        if high_mv > board.pin_most_mv:
            yield Finding(
                code="wire.over-volts",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name} puts {volts(high_mv)} on {pin}",
                sentence=f"{pin} allows at most {volts(board.pin_most_mv)}; more harms it. Put a divider or a level "
                "shifter between.",
                numbers=(("at the pin", volts(high_mv)), ("it stands", volts(board.pin_most_mv))),
                pointer=at,
                patch=patch,
                mend=mend,
            )
        if isinstance(part, SignalOut) and board.logic_mv > part.stands_mv:
            yield Finding(
                code="wire.over-volts",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name} puts {volts(board.logic_mv)} on the other board",
                sentence=f"Its pin stands {volts(part.stands_mv)}; put a divider or a level shifter between.",
                numbers=(("at the pin", volts(board.logic_mv)), ("it stands", volts(part.stands_mv))),
                pointer=f"{at}/stands_mv",
            )


def _divided(at: str, part: Analogue, wanted_mv: float) -> tuple[Patch, str]:
    """A divider that brings the part's most down to what the board has."""
    if not isinstance(part, VoltageSource):
        return (), ""
    highest = max(part.least_mv, part.most_mv)
    slack = 1 + 2 * part.tolerance_percent / 100
    upper = at_least(part.lower_ohm * (highest / wanted_mv * slack - 1), E24)
    return replaced(f"{at}/upper_ohm", upper), f"Divide it: {ohms(upper)} above the pin"


def trigger(evidence: Evidence) -> Iterator[Finding]:
    """The board's high is below what the part takes for high."""
    board = evidence.bench.the_board
    kinds = (Relay, RelayBoard, SolidStateRelay, Motor, Servo, SignalOut)
    for at, part in evidence.bench.placed:
        if not isinstance(part, kinds) or board.logic_mv >= part.trigger_mv:
            continue
        low = getattr(part, "active_level", "high") == "low"
        what = "never quite switches off" if low else "may not switch on"
        need = "to be off" if low else "for high"
        yield Finding(
            code="wire.trigger",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name} {what}",
            sentence=f"The board's high is {volts(board.logic_mv)}; its input takes {volts(part.trigger_mv)} {need}. "
            "Put a transistor or a level shifter between.",
            numbers=(("board's high", volts(board.logic_mv)), ("needed", volts(part.trigger_mv))),
            pointer=f"{at}/trigger_mv",
        )


def scales(evidence: Evidence) -> Iterator[Finding]:
    """An analogue part that uses little of the converter's scale, goes past its end, or has loose resistors."""
    board = evidence.bench.the_board
    if board.analogue is None:
        return
    for at, part in evidence.bench.placed:
        if isinstance(part, Analogue):
            yield from _narrow(evidence, at, part)
            yield from _past_the_end(evidence, at, part)
            yield from _loose(evidence, at, part)


def _narrow(evidence: Evidence, at: str, part: Analogue) -> Iterator[Finding]:
    board = evidence.bench.the_board
    ends = [pin_mv(part, board, value) for value in range_of(part)]
    assert board.analogue is not None
    share = abs(ends[1] - ends[0]) / board.analogue.reference_mv
    if share >= NARROW:
        return
    counts = [counts_of(mv, board) or 0 for mv in ends]
    patch: Patch = ()
    mend = ""
    if isinstance(part, ResistiveSensor):
        better = at_most(math.sqrt(part.low.ohm * part.high.ohm), E24)
        now = part.fixed_ohm
        if better != now:
            patch = replaced(f"{at}/fixed_ohm", better)
            mend = f"Use {ohms(better)} for the fixed resistor"
    yield Finding(
        code="wire.narrow",
        severity=Severity.LOOK,
        station="wire",
        part=part.id,
        title=f"{part.name} uses little of the scale",
        sentence=f"Its whole range is {abs(counts[1] - counts[0])} counts, {counts[0]} to {counts[1]}: a few counts of "
        "noise are a good part of it.",
        numbers=(("counts", f"{min(counts)} to {max(counts)}"), ("of", str((1 << board.analogue.bits) - 1))),
        pointer=at,
        patch=patch,
        mend=mend,
    )


def _past_the_end(evidence: Evidence, at: str, part: Analogue) -> Iterator[Finding]:
    board = evidence.bench.the_board
    assert board.analogue is not None
    highest = max(pin_mv(part, board, value) for value in range_of(part))
    reference = board.analogue.reference_mv
    if highest <= reference or highest > board.pin_most_mv:
        return
    patch, mend = _divided(at, part, reference)
    yield Finding(
        code="wire.over-scale",
        severity=Severity.LOOK,
        station="wire",
        part=part.id,
        title=f"{part.name} goes past the end of the scale",
        sentence=f"It reaches {volts(highest)}; from {volts(reference)} on every reading is "
        f"{(1 << board.analogue.bits) - 1}.",
        numbers=(("reaches", volts(highest)), ("scale ends at", volts(reference))),
        pointer=at,
        patch=patch,
        mend=mend,
    )


def _loose(evidence: Evidence, at: str, part: Analogue) -> Iterator[Finding]:
    board = evidence.bench.the_board
    low_mv, high_mv = (pin_mv(part, board, value) for value in range_of(part))
    worst = max(reading.error_mv for reading in scale(part, board))
    span_mv = abs(high_mv - low_mv)
    if not span_mv or worst <= LOOSE * span_mv:
        return
    low, high = range_of(part)
    unit_error = worst / span_mv * abs(high - low)
    unit = getattr(part, "unit", "")
    yield Finding(
        code="wire.tolerance",
        severity=Severity.LOOK,
        station="wire",
        part=part.id,
        title=f"{part.name}: its resistors are loose",
        sentence=f"Their tolerance moves the pin by up to {volts(worst)}, about {unit_error:.2g} {unit}. Measure "
        "them and type in what you find, or take 1 %.",
        numbers=(("moves by", volts(worst)), ("range", volts(span_mv))),
        pointer=f"{at}/tolerance_percent",
        patch=replaced(f"{at}/tolerance_percent", 1.0),
        mend="Use 1 % resistors",
    )
