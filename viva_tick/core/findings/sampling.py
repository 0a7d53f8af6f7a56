"""What stands between an analogue part and its numbers: the reference, the source, the sampling."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import Level, Measure, pointer
from ..document.parts import Analogue, Potentiometer, ResistiveSensor, VoltageSource
from ..units import ms, ohms
from .finding import Evidence, Finding, Severity
from .mends import replaced

SUPPLY_PERCENT = 5  # what a supply from a computer's port may be off (USB 2.0 allows 4.75 to 5.25 V)


def _read(evidence: Evidence) -> Iterator[tuple[str, Analogue, Measure]]:
    for at, part in evidence.bench.placed:
        reading = evidence.bench.firmware.readings.get(part.id)
        if isinstance(part, Analogue) and isinstance(reading, Measure):
            yield at, part, reading


def reference(evidence: Evidence) -> Iterator[Finding]:
    """A sensor that gives volts of its own is held against the supply."""
    board = evidence.bench.the_board
    for at, part, _ in _read(evidence):
        follows = not isinstance(part, VoltageSource) or part.ratiometric
        if follows or board.analogue is None or board.analogue.reference_mv != board.logic_mv:
            continue
        yield Finding(
            code="clean.reference",
            severity=Severity.NOTE,
            station="clean",
            part=part.id,
            title=f"{part.name} is measured against the supply",
            sentence="It gives volts of its own, and the converter compares them with the supply: a supply "
            f"{SUPPLY_PERCENT} % off makes every reading {SUPPLY_PERCENT} % wrong. Compare with the board's own "
            "reference, or measure the supply, too.",
            numbers=(("supply may be off", f"{SUPPLY_PERCENT} %"),),
            pointer=f"{at}/ratiometric",
        )


def _source_ohm(part: Analogue) -> float:
    """What lies before the pin, at the most."""
    if isinstance(part, Potentiometer):
        return part.track_ohm / 4
    if isinstance(part, ResistiveSensor):
        worst = max(part.low.ohm, part.high.ohm)
        return worst * part.fixed_ohm / (worst + part.fixed_ohm)
    if isinstance(part, VoltageSource) and part.upper_ohm:
        return part.upper_ohm * part.lower_ohm / (part.upper_ohm + part.lower_ohm)
    return 0.0


def source(evidence: Evidence) -> Iterator[Finding]:
    """More resistance before the pin than the converter can charge itself through."""
    converter = evidence.bench.the_board.analogue
    for at, part, _ in _read(evidence):
        ohm = _source_ohm(part)
        if converter is None or ohm <= converter.source_ohm:
            continue
        yield Finding(
            code="wire.source",
            severity=Severity.LOOK,
            station="wire",
            part=part.id,
            title=f"{part.name}: too much resistance before the converter",
            sentence=f"Up to {ohms(round(ohm))} lie before the pin; the converter is made for "
            f"{ohms(converter.source_ohm)} and reads some of the channel before it otherwise. 100 nF from the pin to "
            "ground holds it, or read twice.",
            numbers=(("before the pin", ohms(round(ohm))), ("made for", ohms(converter.source_ohm))),
            pointer=at,
        )


def slow(evidence: Evidence) -> Iterator[Finding]:
    """What is measured changes faster than it is sampled."""
    for _, part, reading in _read(evidence):
        moves = [
            (one.over_us, scenario.name)
            for scenario in evidence.bench.scenarios
            for one in scenario.stimuli
            if isinstance(one, Level) and one.input == part.id and one.over_us
        ]
        if not moves or min(moves)[0] >= 2 * reading.sample_us:
            continue
        over_us, name = min(moves)
        where = pointer("firmware", "readings", part.id, "sample_us")
        better = max(over_us // 4 // 1000, 1) * 1000
        helps = better < reading.sample_us
        yield Finding(
            code="clean.slow-sampling",
            severity=Severity.LOOK,
            station="clean",
            part=part.id,
            title=f"{part.name} changes faster than it is sampled",
            sentence=f"In “{name}” it changes within {ms(over_us)}; a sample comes every {ms(reading.sample_us)}, so "
            "that what lies between is never seen. Two samples in its fastest change are the least (Shannon 1949).",
            numbers=(("changes within", ms(over_us)), ("sampled every", ms(reading.sample_us))),
            pointer=where,
            patch=replaced(where, better) if helps else (),
            mend=f"Sample every {ms(better)}" if helps else "",
        )
