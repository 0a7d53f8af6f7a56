"""What a drive says of itself: how it is drawn, what can be set of it, how a program starts it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

Reads = Literal["time", "percent", "number", "hz", "choice", "contact-or-sensor", "variable", "text"]


@dataclass(frozen=True)
class Setting:
    """One figure of a drive: the field's name in the document (with steps), what it reads, what it is called where it
    is set, and its choices (value, words) where it has any."""

    field: str
    value: Any
    reads: Reads
    label: str
    choices: tuple[tuple[Any, str], ...] = ()


@dataclass(frozen=True)
class Drawn:
    """The course of a drive, drawn small. `rows` are (percent, µs, field, label) one after another, to scale, with a
    handle for each field (empty: none) where its time ends; then it `goes_on`, or stays at `rest`. `slope` (percents at
    equal distances) is a line through them instead of steps, `wave` a note, `follows` something that moves; one without
    rows stays at `rest`. `words` say it where the drawing
    cannot; `picked` are outputs of a row, those that are on."""

    rows: tuple[tuple[int, int, str, str], ...] = ()
    goes_on: bool = False
    rest: int = 0
    slope: tuple[int, ...] = ()
    wave: bool = False
    follows: bool = False
    words: str = ""
    picked: tuple[bool, ...] = ()


@dataclass(frozen=True)
class Offer:
    """A drive as it is offered for an output: a word, what it is called, its value in the document."""

    word: str
    words: str
    value: dict[str, Any] = field(hash=False)


@dataclass(frozen=True)
class Started:
    """How a C++ program starts a drive: the output's method and what it is given, ms and percent; fields that are set
    after it. "@table" and "@followed" stand for the drive's own table of levels, and for the number of what it
    follows."""

    method: str
    given: tuple[str, ...] = ()
    fields: tuple[tuple[str, str], ...] = ()


def whole_ms(us: int) -> str:
    """A time as C++ has it."""
    return f"{us // 1000}UL"
