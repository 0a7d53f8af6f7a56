"""The laws that findings and sums both go by, in plain numbers: volts, amperes, ohms, farads, seconds."""

from __future__ import annotations

import math

KELVIN = 273.15
COPPER = 1.724e-8  # Ω·m at 20 °C (IEC 60028, from memory)
COPPER_PER_K = 0.00393  # of it, for each degree (IEC 60028, from memory)


def current(volts: float, ohm: float) -> float:
    """Through a resistor (Ohm’s law)."""
    return volts / ohm


def series_ohm(supply: float, drop: float, wanted: float) -> float:
    """The resistor that leaves a current to something with a drop of its own; 0 where nothing is left for it."""
    return max(supply - drop, 0.0) / wanted


def divided(supply: float, upper: float, lower: float) -> float:
    """The voltage between two resistors that nothing loads."""
    return supply * lower / (upper + lower)


def beside(one: float, other: float) -> float:
    """Two resistors side by side."""
    return one * other / (one + other) if one and other else 0.0


def charge_s(ohm: float, farad: float, start: float, target: float, at: float) -> float:
    """How long a capacitor takes through a resistor from one voltage towards another until it passes a third."""
    if (at - start) * (target - start) <= 0 or abs(target - start) <= abs(at - start):
        return math.inf
    return ohm * farad * math.log((target - start) / (target - at))


def wire_ohm(metres: float, square_mm: float, celsius: float = 20.0) -> float:
    """Copper, there and back."""
    return 2 * metres * COPPER * (1 + COPPER_PER_K * (celsius - 20)) / (square_mm * 1e-6)


def thermistor_ohm(at_25: float, beta: float, celsius: float) -> float:
    """R = R25 · e^(B (1/T − 1/T25)), absolute temperatures."""
    return at_25 * math.exp(beta * (1 / (celsius + KELVIN) - 1 / (25 + KELVIN)))


def thermistor_celsius(at_25: float, beta: float, ohm: float) -> float:
    """The other way round."""
    return 1 / (1 / (25 + KELVIN) + math.log(ohm / at_25) / beta) - KELVIN
