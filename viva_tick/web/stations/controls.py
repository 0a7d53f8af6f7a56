"""One thing that can be set on a screen, as data: where it is in the document, what it is now, what it could be."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

Options = tuple[tuple[Any, str], ...]


@dataclass(frozen=True)
class Control:
    """One thing that can be set: at `path`, now `value`. With `options` it is a row of choices, or a list where
    `menu`; else a field that is read as `reads`, with `unit` behind it."""

    label: str
    path: str
    value: Any
    options: Options = ()
    menu: bool = False
    reads: str = "int"
    unit: str = ""
    wide: bool = False
    adds: bool = False  # nothing may be there yet


Row = list[Control]
