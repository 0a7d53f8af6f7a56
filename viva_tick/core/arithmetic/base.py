"""What a sum is: what it asks, what it gives, how, where that is from, and an example that holds it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import product
from math import isfinite

Values = dict[str, float]


@dataclass(frozen=True)
class Ask:
    """A quantity that is asked for: its letter in the formula, in words, its unit, what it is at first, how far (share)
    it may be off, and its bounds."""

    id: str
    label: str
    unit: str
    first: float
    off: float = 0.0
    least: float = 0.0
    most: float = 1e12


@dataclass(frozen=True)
class Give:
    """A quantity that comes out; `words` where it is said by name and not by number."""

    id: str
    label: str
    unit: str


@dataclass(frozen=True)
class Sum:
    """One sum. `work` gives every `Give`, and may give words beside them under other names: "note" is shown; `formulas`
    are typeset; `example` are values and what must come of them, from a source that is named."""

    id: str
    title: str
    group: str
    says: str
    asks: tuple[Ask, ...]
    gives: tuple[Give, ...]
    formulas: tuple[str, ...]
    work: Callable[[Values], dict[str, float | str]]
    source: str
    example: tuple[Values, Values]
    drawing: str
    use: str = ""


@dataclass(frozen=True)
class Worked:
    """What came out: by name the number, the least and the most of it over all corners, and words."""

    values: Values
    corners: dict[str, tuple[float, float]]
    note: str


def first_values(one: Sum) -> Values:
    """What it begins with."""
    return {ask.id: ask.first for ask in one.asks}


def problem(one: Sum, values: Values) -> str:
    """Why values will not do, as a sentence; empty where they will."""
    from .quantity import said

    for ask in one.asks:
        value = values[ask.id]
        if not isfinite(value) or not ask.least <= value <= ask.most:
            return f"{ask.label}: from {said(ask.least, ask.unit)} to {said(ask.most, ask.unit)}."
    return ""


def worked(one: Sum, values: Values) -> Worked:
    """The sum, with its corners: each of what may be off at its least and its most, in every combination."""
    found = one.work(values)
    numbers = {give.id: float(found[give.id]) for give in one.gives if not isinstance(found.get(give.id), str)}
    loose = [ask for ask in one.asks if ask.off and values[ask.id]]
    corners: dict[str, tuple[float, float]] = {}
    bought = {name: value for name, value in numbers.items() if name.endswith("_E")}  # one is bought, whatever is off
    if loose:
        rows = []
        for signs in product((-1, 1), repeat=len(loose)):
            moved = {ask.id: values[ask.id] * (1 + sign * ask.off) for ask, sign in zip(loose, signs, strict=True)}
            rows.append(one.work({**values, **bought, **moved}))
        for name in numbers.keys() - bought.keys():
            ends = [float(row[name]) for row in [*rows, found]]
            if min(ends) != max(ends):
                corners[name] = (min(ends), max(ends))
    return Worked(numbers, corners, str(found.get("note", "")))
