"""An analogue part's thresholds against its noise: how it lies, how often it would cross, how wide the hysteresis
is."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..boards import Board
from ..courses import noise_mv, rest_value
from ..document import Measure, scale_ends
from ..document.parts import Analogue
from ..electrics import counts_of, falls, mv_in, pin_mv, range_of, said_in, threshold_counts
from ..readers import Smoother, Threshold
from ..seeds import stream

SAMPLES = 2000
POINTS = 41
ENOUGH = 2  # hysteresis of twice the noise's peak to peak keeps a threshold from chattering (common practice)


@dataclass(frozen=True)
class NoiseStudy:
    """All in the reading's unit but for `counts`.

    `bins` are (from, to, how many) of the smoothed samples while it stands at `stands_at`. `places` are thresholds
    that could be; `chatter[u][l]` is how many crossings an hour there would be, up to a million, with the upper one
    at place u and the lower one at place l ≤ u. `peak` is the smoothed noise from end to end; `advised` the (above,
    below) around the middle of the present two that are twice as far apart.
    """

    unit: str
    stands_at: float
    bins: tuple[tuple[float, float, int], ...]
    places: tuple[float, ...]
    chatter: tuple[tuple[int, ...], ...]
    now_an_hour: int
    per_count: float
    peak: float
    peak_counts: int
    band: float
    advised: tuple[float, float]


def noise_peak(part: Analogue, reading: Measure, board: Board) -> tuple[float, int]:
    """The smoothed noise from end to end where the thresholds are, in the reading's unit and in counts."""
    at_mv = mv_in(part, board, reading.unit, (reading.above + reading.below) / 2)
    samples = smoothed_samples(part, reading, board, at_mv)
    counts = max(samples) - min(samples)
    return counts * _per_count(part, board, reading), counts


def _per_count(part: Analogue, board: Board, reading: Measure) -> float:
    """What one count is in the reading's unit, near its upper threshold."""
    at_mv = mv_in(part, board, reading.unit, reading.above)
    bits = board.analogue.bits if board.analogue else 10
    step_mv = (board.analogue.reference_mv if board.analogue else board.logic_mv) / (1 << bits)
    ends = [said_in(part, board, reading.unit, at_mv + side * step_mv) for side in (-2, -1, 1, 2)]
    return abs(ends[2] - ends[1]) / 2 or abs(ends[3] - ends[0]) / 4 or 1e-6


def smoothed_samples(part: Analogue, reading: Measure, board: Board, at_mv: float) -> list[int]:
    """Smoothed counts while the pin stands at a voltage, noise included; the first ones, which fill the smoother, left
    out."""
    return list(_smoothed(reading.smooth, reading.over, part.noise_mv, board, round(at_mv, 3)))


@lru_cache(maxsize=64)
def _smoothed(method: str, over: int, peak_mv: int, board: Board, at_mv: float) -> tuple[int, ...]:
    rng = stream("noise study")
    smoother = Smoother(method, over)
    taken = [smoother.take(counts_of(at_mv + noise_mv(rng, peak_mv), board) or 0) for _ in range(SAMPLES + 4 * over)]
    return tuple(taken[4 * over :])


def crossings(samples: list[int], upper: list[int], lower: list[int], falling: bool) -> list[int]:
    """How often each pair of thresholds is crossed by the samples, either way, once it has settled."""
    counts = np.array(samples, dtype=np.int64)
    up, down = np.array(upper), np.array(lower)
    if falling:
        counts, up, down = -counts, -up, -down
    accepted = counts[0] >= up
    total = np.zeros(len(up), dtype=np.int64)
    for count in counts.tolist():
        beyond = np.where(accepted, count >= down, count >= up)
        total += beyond != accepted
        accepted = beyond
    return [int(value) for value in total]


@dataclass(frozen=True)
class ThresholdFacts:
    """What there is to say of a part's thresholds. `peak` is the smoothed noise from end to end, in the reading's unit;
    `standing` and `at_the_line` are crossings an hour where it usually stands, and with the pin at the upper one."""

    peak: float
    peak_counts: int
    standing: int
    at_the_line: int
    advised: tuple[float, float]


@lru_cache(maxsize=256)
def threshold_facts(part: Analogue, reading: Measure, board: Board) -> ThresholdFacts:
    """The same for the same part, reading and board: an edit elsewhere costs nothing."""
    peak, counts = noise_peak(part, reading, board)
    return ThresholdFacts(
        peak=peak,
        peak_counts=counts,
        standing=chatter(part, reading, board, pin_mv(part, board, rest_value(part))),
        at_the_line=chatter(part, reading, board, mv_in(part, board, reading.unit, reading.above)),
        advised=advised_band(part, reading, board),
    )


def chatter(part: Analogue, reading: Measure, board: Board, at_mv: float) -> int:
    """Crossings an hour while the pin stands at a voltage, dwell included."""
    upper, lower, falling = threshold_counts(part, reading, board)
    line = Threshold(upper, lower, falling, reading.dwell_us // 1000)
    samples = smoothed_samples(part, reading, board, at_mv)
    line.accepted = samples[0] <= upper if falling else samples[0] >= upper
    step_ms = reading.sample_us // 1000
    times = sum(line.step(number * step_ms, count) != 0 for number, count in enumerate(samples))
    return an_hour(times, reading.sample_us)


def an_hour(times: int, sample_us: int, samples: int = SAMPLES) -> int:
    """So many crossings in so many samples, as a rate an hour."""
    return round(times * 3_600_000_000 / (samples * sample_us))


@lru_cache(maxsize=64)
def noise_study(part: Analogue, reading: Measure, board: Board) -> NoiseStudy:
    """The noise where the part usually stands, and what thresholds around it would do."""
    unit = reading.unit
    stands = said_in(part, board, unit, pin_mv(part, board, rest_value(part)))
    falling = unit == "own" and falls(part, board)
    samples = smoothed_samples(part, reading, board, pin_mv(part, board, rest_value(part)))
    per_count = _per_count(part, board, reading)
    peak, peak_counts = noise_peak(part, reading, board)
    low, high = _window(part, board, reading, stands, max(peak, 4 * per_count))
    places = [low + (high - low) * n / (POINTS - 1) for n in range(POINTS)]
    lines = [round(said_in(part, board, "counts", mv_in(part, board, unit, place))) for place in places]
    pairs = [(up, down) for up in range(POINTS) for down in range(up + 1)]
    table = crossings(samples, [lines[up] for up, _ in pairs], [lines[down] for _, down in pairs], falling)
    rows: list[list[int]] = [[] for _ in range(POINTS)]
    for (up, _), times in zip(pairs, table, strict=True):
        rows[up].append(min(an_hour(times, reading.sample_us), 1_000_000))
    return NoiseStudy(
        unit=unit,
        stands_at=stands,
        bins=_bins(part, board, unit, samples, per_count),
        places=tuple(places),
        chatter=tuple(map(tuple, rows)),
        now_an_hour=chatter(part, reading, board, pin_mv(part, board, rest_value(part))),
        per_count=per_count,
        peak=peak,
        peak_counts=peak_counts,
        band=reading.above - reading.below,
        advised=advised_band(part, reading, board),
    )


def digits_of(per_count: float) -> int:
    """Places behind the point in which one count can just be told from the next."""
    return min(max(0, -int(np.floor(np.log10(per_count))) + 1), 6) if per_count < 1 else 0


def advised_band(part: Analogue, reading: Measure, board: Board) -> tuple[float, float]:
    """(above, below) around the middle of the present two, `ENOUGH` times the noise apart, within the scale."""
    peak, _ = noise_peak(part, reading, board)
    per_count = _per_count(part, board, reading)
    wide = max(ENOUGH * peak, 2 * per_count)
    if wide <= reading.above - reading.below <= 2 * wide:
        return reading.above, reading.below  # it fits: taken again, the advice moves nothing
    middle, half = (reading.above + reading.below) / 2, wide / 2
    # Rounded outwards to what the sensor can tell, so that the band is never narrower than asked.
    scale = 10 ** digits_of(per_count)
    least, most = scale_ends(reading.unit, board)
    above = min(math.ceil(round((middle + half) * scale, 6)) / scale, most)
    return above, max(math.floor(round((middle - half) * scale, 6)) / scale, least)


def _window(part: Analogue, board: Board, reading: Measure, stands: float, peak: float) -> tuple[float, float]:
    """What of the scale is looked at: where it stands and where the thresholds are, with room around."""
    ends = [said_in(part, board, reading.unit, pin_mv(part, board, value)) for value in range_of(part)]
    least = min(stands, reading.below) - 2.5 * peak
    most = max(stands, reading.above) + 2.5 * peak
    return max(least, min(ends)), min(most, max(*ends, reading.above))


def _bins(
    part: Analogue, board: Board, unit: str, samples: list[int], per_count: float
) -> tuple[tuple[float, float, int], ...]:
    """A bar for each count, or for several where there are too many."""
    least, most = min(samples), max(samples)
    wide = max(1, -(-(most - least + 1) // 30))
    bars = []
    for begin in range(least, most + 1, wide):
        many = sum(begin <= count < begin + wide for count in samples)
        ends = (said_in(part, board, unit, mv_in(part, board, "counts", edge)) for edge in (begin, begin + wide))
        left, right = sorted(ends)
        bars.append((left, right, many))
    return tuple(bars)
