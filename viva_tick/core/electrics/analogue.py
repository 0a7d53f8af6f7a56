"""Analogue parts: what they measure ↔ volts at the pin ↔ counts of the converter.

count = Vin · 2^n / Vref, so a 10-bit scale ends at 1023 (data sheet DS40002061B, converter chapter, from memory).
"""

from __future__ import annotations

import math
from bisect import bisect_right
from dataclasses import dataclass
from operator import itemgetter

from .. import laws
from ..boards import Board
from ..document import Measure
from ..document.parts import Analogue, Potentiometer, ResistiveSensor, VoltageSource

KELVIN = 273.15


def counts_of(pin_mv: float, board: Board) -> int | None:
    """What the converter makes of a voltage; None without a converter."""
    if board.analogue is None:
        return None
    full = 1 << board.analogue.bits
    return max(0, min(full - 1, math.floor(pin_mv * full / board.analogue.reference_mv)))


def mv_of(count: float, board: Board) -> float | None:
    """The voltage in the middle of a count's step; None without a converter."""
    if board.analogue is None:
        return None
    return (count + 0.5) * board.analogue.reference_mv / (1 << board.analogue.bits)


def _abscissa(law: str, value: float) -> float:
    if law == "beta":
        return 1 / (value + KELVIN)
    return math.log(value) if law == "power" else value


def _stretch(rows: list[tuple[float, float]], value: float) -> list[tuple[float, float]]:
    """The two rows of a table that a value lies between; beyond its ends, the two at that end."""
    ordered = sorted(rows)
    place = bisect_right(ordered, value, 1, len(ordered) - 1, key=itemgetter(0))
    return ordered[place - 1 : place + 1]


def sensor_ohm(part: ResistiveSensor, value: float) -> float:
    """The sensor's resistance at a value: on its law through the two points of its table that are next to it."""
    rows = [(point.value, point.ohm) for point in (part.low, *part.points, part.high)]
    (low, low_ohm), (high, high_ohm) = _stretch(rows, value)
    x, x0, x1 = (_abscissa(part.law, v) for v in (value, low, high))
    share = (x - x0) / (x1 - x0)
    if part.law == "straight":
        return max(low_ohm + share * (high_ohm - low_ohm), 0.001)
    return math.exp(math.log(low_ohm) + share * (math.log(high_ohm) - math.log(low_ohm)))


def _divided(part: ResistiveSensor, board: Board, sensor: float, fixed: float) -> float:
    upper, lower = (sensor, fixed) if part.sensor_to == "supply" else (fixed, sensor)
    return laws.divided(board.logic_mv, upper, lower)


def range_of(part: Analogue) -> tuple[float, float]:
    """The two ends of what it measures."""
    if isinstance(part, ResistiveSensor):
        return part.low.value, part.high.value
    if isinstance(part, VoltageSource | Potentiometer):
        return part.least, part.most
    raise TypeError(type(part))


def pin_mv(part: Analogue, board: Board, value: float, error: int = 0) -> float:
    """The voltage at the pin, in mV, for a value in the part's unit; `error` −1 or 1 takes its resistors to the ends
    of their tolerance that give the least or the most."""
    if isinstance(part, ResistiveSensor):
        sign = error if part.sensor_to == "supply" else -error
        fixed = part.fixed_ohm * (1 + sign * part.tolerance_percent / 100)
        return _divided(part, board, sensor_ohm(part, value), fixed)
    low, high = range_of(part)
    share = (value - low) / (high - low)
    if isinstance(part, VoltageSource):
        ends = ((part.least, part.least_mv), (part.most, part.most_mv))
        (at, at_mv), (to, to_mv) = _stretch([*ends, *((point.value, point.mv) for point in part.points)], value)
        volts = at_mv + (value - at) / (to - at) * (to_mv - at_mv)
        if not part.upper_ohm:
            return volts
        slack = error * part.tolerance_percent / 100
        upper, lower = part.upper_ohm * (1 - slack), part.lower_ohm * (1 + slack)
        return volts * lower / (upper + lower)
    return board.logic_mv * share


def value_at(part: Analogue, board: Board, wanted_mv: float) -> float:
    """The value in the part's unit that gives a voltage at the pin; the nearer end where none does. By halving: every
    part's voltage is monotonic in what it measures."""
    low, high = range_of(part)
    ends = pin_mv(part, board, low), pin_mv(part, board, high)
    if not min(ends) <= wanted_mv <= max(ends):
        return low if abs(wanted_mv - ends[0]) < abs(wanted_mv - ends[1]) else high
    rising = ends[1] >= ends[0]
    for _ in range(60):
        middle = (low + high) / 2
        if (pin_mv(part, board, middle) < wanted_mv) == rising:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def broken_mv(part: Analogue, board: Board, shorted: bool) -> float:
    """The voltage at the pin, in mV, with the part's wire off or its leads shorted: a resistive sensor's fixed resistor
    has the pin then, or the rail; of a voltage that is gone, or a wiper that is off, nothing is left."""
    if isinstance(part, ResistiveSensor) and (part.sensor_to == "ground") != shorted:
        return float(board.logic_mv)
    return 0.0


@dataclass(frozen=True)
class Reading:
    """One line of an analogue part's scale: value in its unit, voltage and its error in mV, counts, value a count."""

    value: float
    pin_mv: float
    error_mv: float
    counts: int | None
    per_count: float | None


def scale(part: Analogue, board: Board, steps: int = 5) -> list[Reading]:
    """The part's scale over its range, ends included."""
    low, high = range_of(part)
    rows: list[Reading] = []
    for number in range(steps):
        value = low + (high - low) * number / (steps - 1)
        at_mv = pin_mv(part, board, value)
        error_mv = max(abs(pin_mv(part, board, value, sign) - at_mv) for sign in (-1, 1))
        per_count = None
        if board.analogue:
            step_mv = board.analogue.reference_mv / (1 << board.analogue.bits)
            near = (high - low) / 1000
            inner = min(max(value, min(low, high) + abs(near)), max(low, high) - abs(near))
            slope = abs(pin_mv(part, board, inner + near) - pin_mv(part, board, inner - near)) / abs(2 * near)
            per_count = step_mv / slope if slope else None
        rows.append(Reading(value, at_mv, error_mv, counts_of(at_mv, board), per_count))
    return rows


def most_mv(part: Analogue, board: Board) -> float:
    """The highest voltage that the part can put on its pin."""
    return max(pin_mv(part, board, value, sign) for value in range_of(part) for sign in (-1, 0, 1))


def falls(part: Analogue, board: Board) -> bool:
    """Whether the counts fall as what it measures rises."""
    low, high = sorted(range_of(part))
    return pin_mv(part, board, high) < pin_mv(part, board, low)


def mv_in(part: Analogue, board: Board, unit: str, value: float) -> float:
    """The voltage at the pin, in mV, that a value in a unit stands for: the part's own, counts, volts or percent."""
    reference = board.analogue.reference_mv if board.analogue else board.logic_mv
    bits = board.analogue.bits if board.analogue else 10
    if unit == "counts":
        return value * reference / (1 << bits)
    if unit == "volts":
        return value * 1000
    return reference * value / 100 if unit == "percent" else _own_mv(part, board, value)


def _own_mv(part: Analogue, board: Board, value: float) -> float:
    """The voltage for a value in the part's own unit; beyond the ends of its range, where its law may have no answer,
    straight on."""
    low, high = sorted(range_of(part))
    ends = pin_mv(part, board, low), pin_mv(part, board, high)
    share = min(max((value - low) / (high - low), -100.0), 100.0)
    if 0 <= share <= 1:
        return pin_mv(part, board, value)
    return (ends[0] if share < 0 else ends[1]) + (share if share < 0 else share - 1) * (ends[1] - ends[0])


def said_in(part: Analogue, board: Board, unit: str, at_mv: float) -> float:
    """A voltage at the pin as a value in a unit; the other way round of `mv_in`."""
    reference = board.analogue.reference_mv if board.analogue else board.logic_mv
    bits = board.analogue.bits if board.analogue else 10
    if unit == "counts":
        return at_mv * (1 << bits) / reference
    if unit == "volts":
        return at_mv / 1000
    return 100 * at_mv / reference if unit == "percent" else value_at(part, board, at_mv)


def threshold_counts(part: Analogue, reading: Measure, board: Board) -> tuple[int, int, bool]:
    """(upper, lower, falling): the counts from which it is above and under which it is below again; with `falling`, in
    the part's own unit on a part whose counts fall, at `upper` or less it is above."""
    falling = reading.unit == "own" and falls(part, board)
    upper, lower = (
        round(said_in(part, board, "counts", mv_in(part, board, reading.unit, value)))
        for value in (reading.above, reading.below)
    )
    return upper, lower, falling
