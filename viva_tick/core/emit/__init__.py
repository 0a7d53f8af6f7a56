"""What leaves the bench for the workbench: code for the board, the wire list, the cautions.

A new target is a new file here and a name in the row below.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..document import Bench
from .sketch import can_sketch, sketch
from .warnings import Warnings, warning_lines
from .wires import Wire, wires


@dataclass(frozen=True)
class Target:
    """Something the bench can be turned into."""

    id: str
    name: str
    suffix: str
    emit: Callable[[Bench, Warnings], str]
    can: Callable[[Bench], bool]


TARGETS: dict[str, Target] = {
    target.id: target for target in (Target("sketch", "Sketch (C++)", ".ino", sketch, can_sketch),)
}

__all__ = ["TARGETS", "Target", "Warnings", "Wire", "sketch", "warning_lines", "wires"]
