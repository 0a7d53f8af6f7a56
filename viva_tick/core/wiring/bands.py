"""The colour bands of resistors: IEC 60062:2016, table 1. Two digits and 5 % where the value has no more, else
three and 1 %."""

from __future__ import annotations

from decimal import Decimal

DIGITS = ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")
TIMES = {-3: "pink", -2: "silver", -1: "gold"} | dict(enumerate(DIGITS))
TOLERANCES = {"5": "gold", "1": "brown"}  # percent


def bands(ohm: float) -> tuple[str, ...]:
    """The colours from the end that is nearer to a band. ValueError for a value with more than three digits, or that no
    band can say."""
    digits = Decimal(repr(float(ohm))).normalize().as_tuple()
    numbers, power = list(digits.digits), int(digits.exponent)
    if digits.sign or not any(numbers) or len(numbers) > 3:
        raise ValueError(f"{ohm:g} Ω has no colour bands: three digits at most.")
    wanted = 2 if len(numbers) <= 2 else 3
    while len(numbers) < wanted:
        numbers.append(0)
        power -= 1
    if power not in TIMES:
        raise ValueError(f"{ohm:g} Ω has no colour bands: it is too small or too large.")
    tolerance = TOLERANCES["5" if wanted == 2 else "1"]
    return (*(DIGITS[number] for number in numbers), TIMES[power], tolerance)
