"""What the thresholds of an analogue part give away."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..document import Measure, pointer
from ..document.parts import Analogue
from ..electrics import mv_in, pin_mv, range_of, said_in
from ..sweep import threshold_facts
from ..units import short
from .finding import Evidence, Finding, Patch, Severity

UNIT_WORDS = {"counts": "counts", "volts": "V", "percent": "%"}


def unit_of(part: Analogue, reading: Measure) -> str:
    """What stands behind a number of that reading."""
    return UNIT_WORDS.get(reading.unit) or str(getattr(part, "unit", ""))


def _measures(evidence: Evidence) -> Iterator[tuple[str, Analogue, Measure, str]]:
    """(where, part, reading, name) of every pair of thresholds, as the reading that has it for its own."""
    for _, part in evidence.bench.sensed:
        reading = evidence.bench.firmware.readings.get(part.id)
        if isinstance(part, Analogue) and isinstance(reading, Measure):
            where = pointer("firmware", "readings", part.id)
            yield where, part, reading, part.name
            for number, mark in enumerate(reading.marks):
                yield f"{where}/marks/{number}", part, reading.at(mark.id), f"{part.name}, {mark.name}"


def _set(at: str, **fields: Any) -> Patch:
    return tuple({"op": "replace", "path": f"{at}/{field}", "value": value} for field, value in fields.items())


def _band(evidence: Evidence, at: str, part: Analogue, reading: Measure) -> tuple[Patch, str]:
    above, below = threshold_facts(part, reading, evidence.bench.the_board).advised
    if (above, below) == (reading.above, reading.below):
        return (), ""  # it fits already
    return _set(
        at, above=above, below=below
    ), f"Above from {short(above)}, below under {short(below)} {unit_of(part, reading)}"


def thresholds(evidence: Evidence) -> Iterator[Finding]:
    """Chatter where it stands, no hysteresis, or less of it than the noise."""
    board = evidence.bench.the_board
    if board.analogue is None:
        return
    for at, part, reading, name in _measures(evidence):
        facts = threshold_facts(part, reading, board)
        peak, counts, standing = facts.peak, facts.peak_counts, facts.standing
        band, unit = reading.above - reading.below, unit_of(part, reading)
        patch, mend = _band(evidence, at, part, reading)
        numbers = (
            ("hysteresis", f"{short(band, 3)} {unit}"),
            ("noise", f"{short(peak, 3)} {unit}"),
            ("in counts", str(counts)),
        )
        if standing:
            yield Finding(
                code="clean.chatter",
                severity=Severity.MUST,
                station="clean",
                part=part.id,
                title=f"{name} chatters where it stands",
                sentence=f"Its noise crosses the threshold about {standing:,} times an hour.",
                numbers=(("an hour", f"{standing:,}"), *numbers[:2]),
                pointer=f"{at}/above",
                patch=patch,
                mend=mend,
            )
        elif not band and counts:
            yield Finding(
                code="clean.no-hysteresis",
                severity=Severity.LOOK,
                station="clean",
                part=part.id,
                title=f"{name} has one threshold for both ways",
                sentence=f"Whenever it stands near {short(reading.above)} {unit} its noise will carry it to and fro, "
                "up to "
                f"{facts.at_the_line:,} times an hour.",
                numbers=numbers,
                pointer=f"{at}/below",
                patch=patch,
                mend=mend,
            )
        elif band < peak:
            yield Finding(
                code="clean.thin-hysteresis",
                severity=Severity.LOOK,
                station="clean",
                part=part.id,
                title=f"{name}: the noise is wider than the hysteresis",
                sentence=f"Its two thresholds are {short(band, 3)} {unit} apart, its noise "
                f"{short(peak, 3)} {unit} wide.",
                numbers=numbers,
                pointer=f"{at}/below",
                patch=patch,
                mend=mend,
            )


def reach(evidence: Evidence) -> Iterator[Finding]:
    """A threshold that the part never reaches: one past the scale's end, in another unit, or out of its range."""
    board = evidence.bench.the_board
    if board.analogue is None:
        return
    full = 1 << board.analogue.bits
    for at, part, reading, name in _measures(evidence):
        if reading.unit == "counts" and reading.above >= full:
            last = float(full - 1)
            yield Finding(
                code="clean.full-scale",
                severity=Severity.MUST,
                station="clean",
                part=part.id,
                title=f"{name}: the scale ends at {full - 1}",
                sentence=f"{full} is one more than {board.analogue.bits} bits can count; it is never reached.",
                numbers=(("threshold", f"{short(reading.above)}"), ("last count", str(full - 1))),
                pointer=f"{at}/above",
                patch=_set(at, below=min(reading.below, last), above=last),
                mend=f"Set {full - 1}",
            )
            continue
        yield from _unreached(evidence, at, part, reading, name)


def _reached(evidence: Evidence, part: Analogue, unit: str, value: float) -> bool:
    board = evidence.bench.the_board
    ends = sorted(pin_mv(part, board, end) for end in range_of(part))
    if unit == "own":
        return min(range_of(part)) < value < max(range_of(part))
    return ends[0] < mv_in(part, board, unit, value) < ends[1]


def _unreached(evidence: Evidence, at: str, part: Analogue, reading: Measure, name: str) -> Iterator[Finding]:
    board = evidence.bench.the_board
    wrong = [value for value in (reading.above, reading.below) if not _reached(evidence, part, reading.unit, value)]
    if not wrong:
        return
    units = ("own", "counts", "volts", "percent")
    values = [value for pair in reading.pairs.values() for value in (pair.above, pair.below)]
    values += [reading.above, reading.below]
    fits = [
        unit
        for unit in units
        if unit != reading.unit and "/marks/" not in at and all(_reached(evidence, part, unit, v) for v in values)
    ]
    unit = unit_of(part, reading)
    reaches = (said_in(part, board, reading.unit, pin_mv(part, board, value)) for value in range_of(part))
    low, high = sorted(round(value, 9) for value in reaches)  # an end at nothing is 0, not 4e-18
    numbers = (
        ("threshold", f"{short(wrong[0])} {unit}"),
        ("reaches", f"{short(low, 4)} to {short(high, 4)} {unit}"),
    )
    if fits:
        meant = UNIT_WORDS.get(fits[0]) or getattr(part, "unit", "its own unit")
        yield Finding(
            code="clean.mixed-units",
            severity=Severity.MUST,
            station="clean",
            part=part.id,
            title=f"{name}: {short(wrong[0])} {unit}, or {meant}?",
            sentence=f"{part.name} goes from {short(low, 4)} to {short(high, 4)} {unit} and never reaches that; "
            f"as {meant} the "
            "number would fit.",
            numbers=numbers,
            pointer=f"{at}/unit",
            patch=_set(at, unit=fits[0]),
            mend=f"Use {meant}",
        )
        return
    middle = (low + high) / 2
    centred = reading.model_copy(update={"above": middle, "below": middle})
    above, below = threshold_facts(part, centred, board).advised
    yield Finding(
        code="clean.unreachable",
        severity=Severity.MUST,
        station="clean",
        part=part.id,
        title=f"{name} never reaches {short(wrong[0])} {unit}",
        sentence=f"It goes from {short(low, 4)} to {short(high, 4)} {unit}: nothing ever happens there.",
        numbers=numbers,
        pointer=f"{at}/above",
        patch=_set(at, above=above, below=below),
        mend=f"Above from {short(above)}, below under {short(below)} {unit}",
    )
