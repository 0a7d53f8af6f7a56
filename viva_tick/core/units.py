"""Quantities in words: the unit and the digits a person wants."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal

MINUS = "−"


def plain(value: float) -> str:
    """A number as a person writes it, exactly: never 1.23457e+06, no zeros behind the last digit."""
    if abs(value) >= 1e15 or 0 < abs(value) < 1e-12:  # no figure of a bench; told as it is
        return f"{value:.6g}"
    exact = Decimal(repr(value))
    return f"{exact.quantize(Decimal(1)) if exact == exact.to_integral_value() else exact.normalize():f}"


def short(value: float, digits: int = 6) -> str:
    """The same to so many digits that count."""
    return plain(float(f"{value:.{digits}g}"))


def ms(us: int) -> str:
    """Milliseconds, with as many digits as help: 0.04 ms, 2.1 ms, 320 ms; seconds from 1000 ms on: 1.076 s, 12.5 s."""
    value = us / 1000
    if abs(round(value)) >= 1000:
        said = f"{us / 1_000_000:.1f}" if abs(value) >= 10_000 else f"{us / 1_000_000:.3f}"
        return f"{said.rstrip('0').rstrip('.')} s"
    if abs(value) >= 100 or us % 1000 == 0:
        return f"{value:.0f} ms"
    return f"{value:.1f} ms" if abs(value) >= 1 else f"{value:.2f} ms"


def fine(us: int) -> str:
    """The same, below a millisecond in whole microseconds: 7 µs, 1.5 ms."""
    return f"{us} µs" if abs(us) < 1000 else ms(us)


def signed_ms(us: int) -> str:
    """The same with its sign."""
    return f"{'+' if us >= 0 else MINUS}{ms(abs(us))}"


def at_s(us: int) -> str:
    """An instant of a run in seconds, to the millisecond."""
    return f"{us / 1_000_000:.3f} s"


def _digits(value: float) -> str:
    return f"{value:.0f}" if value >= 100 else f"{value:.1f}".removesuffix(".0") if value >= 10 else f"{value:.2g}"


def ohms(value: float) -> str:
    """A resistance: 330 Ω, 10 kΩ, 2.2 MΩ."""
    for size, unit in ((1_000_000, "MΩ"), (1_000, "kΩ")):
        if value >= size:
            return f"{value / size:.3g} {unit}"
    return f"{value:.3g} Ω"


def amps(ua: float) -> str:
    """A current given in µA: 0.25 mA, 9.1 mA, 5 A."""
    if ua >= 1_000_000:
        return f"{_digits(ua / 1_000_000)} A"
    return f"{_digits(ua / 1000)} mA" if ua >= 100 else f"{_digits(ua)} µA"


def volts(mv: float) -> str:
    """A voltage given in mV, to a hundredth of a volt."""
    return f"{round(mv / 1000, 2) + 0.0:.2f} V"


def span(least: float, most: float, words: Callable[[float], str]) -> str:
    """A range in words, or one value where both ends read the same: 0.1–0.25 mA, 5.00 V."""
    low, high = words(least), words(most)
    if low == high:
        return high
    digits, _, unit = high.partition(" ")
    return f"{low.removesuffix(' ' + unit)}–{digits} {unit}"


def counted(number: int, word: str) -> str:
    """A number of things: 1 state, 3 states."""
    return f"{number:,} {word}{'' if number == 1 else 'es' if word.endswith('s') else 's'}"
