"""What leaves the bench for the workbench: code for the board, the wire list, the cautions.

A new target is a new file here, which makes files and notes of a bench, and a name in the row below.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..document import Bench
from .cpp import can_sketch, kernel_files, sketch, sketch_files
from .files import Emitted, File
from .kernel import can_kernel, why_none
from .warnings import Warnings, warning_lines
from .wires import Wire, wires


@dataclass(frozen=True)
class Target:
    """Something the bench can be turned into."""

    id: str
    name: str
    emit: Callable[[Bench, Warnings], Emitted]
    can: Callable[[Bench], bool]


TARGETS: dict[str, Target] = {
    target.id: target
    for target in (
        Target("program", "One loop", sketch_files, can_sketch),
        Target("kernel", "Tasks of a kernel", kernel_files, can_kernel),
    )
}

__all__ = ["TARGETS", "Emitted", "File", "Target", "Warnings", "Wire", "sketch", "warning_lines", "why_none", "wires"]
