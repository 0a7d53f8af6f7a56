"""Quantities as people type them: 4k7, 330, 12 mA, 2,2 MΩ, 100n, 20 ms, 5 %; and back, with the prefix that suits."""

from __future__ import annotations

import math
import re

PREFIXES = {
    "p": 1e-12,
    "n": 1e-9,
    "u": 1e-6,
    "µ": 1e-6,
    "μ": 1e-6,
    "m": 1e-3,
    "": 1.0,
    "k": 1e3,
    "K": 1e3,
    "M": 1e6,
    "G": 1e9,
}
SAID = ((1e9, "G"), (1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"), (1e-12, "p"))
# Units as they may be typed, and what they are of the sum's own.
OTHERS = {
    "Ω": {"ohm": 1.0, "ohms": 1.0, "R": 1.0, "Ω": 1.0}, "s": {"s": 1.0, "sec": 1.0, "min": 60.0, "h": 3600.0},
    "Ah": {"Ah": 1.0}, "m": {"m": 1.0, "cm": 0.01},
    "Hz": {"Hz": 1.0}, "Bd": {"Bd": 1.0, "baud": 1.0}, "d": {"d": 1.0, "days": 1.0},
    "°C": {"°C": 1.0, "C": 1.0, "°": 1.0}, "%": {"%": 1.0}, "mm²": {"mm²": 1.0, "mm2": 1.0, "qmm": 1.0},
}  # fmt: skip
PLAIN = {"Bd", "", "°C", "%", "mm²", "bits", "d", "K", "/s", "dB"}  # no prefix stands before these
TYPED = re.compile(r"^\s*([-+−]?[0-9]*[.,]?[0-9]+(?:[eE][-+]?[0-9]+)?)\s*(.*?)\s*$")
BETWEEN = re.compile(r"^\s*([0-9]+)\s*([pnuµμmkKMGR])\s*([0-9]+)\s*(.*?)\s*$")


class NotAQuantity(ValueError):
    """What was typed is no quantity of that unit; says why."""


def quantity(text: str, unit: str) -> float:
    """A number in the unit. Raises `NotAQuantity`."""
    text = text.replace("\u2126", "Ω")
    if found := BETWEEN.match(text):  # 4k7, 4R7
        scale = 1.0 if found[2] == "R" else PREFIXES[found[2]]
        rest = found[4]
        if not rest or rest in (unit, *OTHERS.get(unit, ())):
            return float(f"{found[1]}.{found[3]}") * scale
    typed = TYPED.match(text)
    if typed is None:
        raise NotAQuantity(f"“{text.strip()[:20]}” is not a number.")
    value = float(typed[1].replace(",", ".").replace("−", "-"))
    return value * _scale(typed[2], unit)


def _scale(said: str, unit: str) -> float:
    units = {unit: 1.0, **OTHERS.get(unit, {})}
    if said in units:
        return units[said]
    if not said:
        return 1.0
    if unit in PLAIN and unit not in ("", "bits", "Bd"):
        raise NotAQuantity(f"“{said[:12]}” is not {unit}.")
    for name in sorted({*units, ""}, key=len, reverse=True):
        prefix = said.removesuffix(name) if name else said
        if prefix + name == said and prefix in PREFIXES:
            return PREFIXES[prefix] * units.get(name, 1.0)
    raise NotAQuantity(f"“{said[:12]}” is not {unit or 'a plain number'}.")


def said(value: float, unit: str, digits: int = 3) -> str:
    """A quantity in words: 4.7 kΩ, 12 mA, 0.3 %."""
    if math.isinf(value):
        return "never" if unit == "s" else "without end"
    if math.isnan(value):
        return "–"
    if unit == "s" and abs(value) >= 120:
        for seconds, name in ((31_557_600, "years"), (86_400, "days"), (3600, "h"), (60, "min")):
            if abs(value) >= 2 * seconds or name == "min":
                return f"{_plain(value / seconds, digits)} {name}"
    if unit == "d" and abs(value) >= 730:
        return f"{_plain(value / 365.25, digits)} years"
    if unit in PLAIN or value == 0:
        return f"{_plain(value, digits)} {unit if unit != 'd' else 'days'}".rstrip()
    size, prefix = next((row for row in SAID if abs(value) >= row[0] * 0.9995), SAID[-1])
    return f"{_plain(value / size, digits)} {prefix}{unit}"


def _plain(value: float, digits: int) -> str:
    text = f"{value:.{digits}g}"
    if "e" in text:
        return f"{value:,.0f}"
    return f"{float(text):,.10f}".rstrip("0").rstrip(".")
