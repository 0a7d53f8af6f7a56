"""What leaves the bench for the workbench: code for the board, the wire list, the cautions.

A new target is a writer of its language, a new file here which makes files and notes of a bench, and a name in the row
below.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..document import Bench
from .c import c_files, can_c
from .cpp import can_sketch, kernel_files, sketch, sketch_files
from .files import Emitted, File
from .kernel import can_kernel, why_none
from .python import can_computer, can_small, computer_files, small_files
from .warnings import Warnings, warning_lines
from .wires import Wire, wires
from .yours import kept


@dataclass(frozen=True)
class Target:
    """Something the bench can be turned into: its name, what is said of it, what it asks of a board where it cannot."""

    id: str
    name: str
    sentence: str
    emit: Callable[[Bench, Warnings], Emitted]
    can: Callable[[Bench], bool]
    asks: str


TARGETS: dict[str, Target] = {
    target.id: target
    for target in (
        Target(
            "cpp", "C++", "set-up and loop, for the board's own builder", sketch_files, can_sketch,
            "its board's builder takes no set-up and loop",
        ),
        Target(
            "kernel", "C++, tasks", "by the calls of the kernel that the builder brings", kernel_files, can_kernel,
            "the bench does not run under a kernel",
        ),
        Target(
            "micropython", "Python", "for the small runtime of the language on the board", small_files, can_small,
            "no small runtime of Python is made for its board",
        ),
        Target(
            "python", "Python", "for the computer's own Python and its pins", computer_files, can_computer,
            "its board is no computer",
        ),
        Target("c", "C", "C11, over a header of what the board must do", c_files, can_c, ""),
    )
}  # fmt: skip


def targets_of(bench: Bench) -> list[Target]:
    """The targets that the bench can be turned into; first the one that does what the strip shows."""
    found = [target for target in TARGETS.values() if target.can(bench)]
    return sorted(found, key=lambda target: target.id != "kernel")


def why_not(target: Target, bench: Bench) -> str:
    """Why a bench is not turned into a target, as a sentence; empty where it is."""
    if target.can(bench):
        return ""
    if target.id == "kernel" and bench.firmware.school == "kernel":
        return why_none(bench)
    return f"There is no {target.name} program of this kind: {target.asks}."


__all__ = [
    "TARGETS",
    "Emitted",
    "File",
    "Target",
    "Warnings",
    "Wire",
    "kept",
    "sketch",
    "targets_of",
    "warning_lines",
    "why_none",
    "why_not",
    "wires",
]
