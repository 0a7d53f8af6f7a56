"""The program in C11 for any board: the program, its helper types, and a header that says what a layer must have; with
the layer for the boards that there is one for, and an empty one to fill in for the others."""

from __future__ import annotations

from pathlib import Path

from ..document import Bench
from ..program import in_its_school
from ..tree.c import CWriter
from ..tree.nodes import Module
from .assembled import Assembled, assembled, in_one_loop
from .files import Emitted, File
from .hardware import C_CALLS, C_METHODS, CLASSES, GIVEN, c_words
from .parted import FIRST, parted
from .warnings import Warnings
from .yours import TOP, place

LAYERS = Path(__file__).parent / "layers"


def can_c(bench: Bench) -> bool:
    """Any board has some compiler of C."""
    return True


def c_files(bench: Bench, said: Warnings = ()) -> Emitted:
    """The program, its helpers, the header and the layer."""
    whole = in_its_school(bench)
    found = assembled(whole, in_one_loop(whole), c_words(whole.the_board), said)
    return Emitted((*_written(found), File("", (LAYERS / "hardware.h").read_text(), "hardware.h")), found.notes)


def _written(found: Assembled) -> tuple[File, ...]:
    layout = found.layout
    helpers, own = parted(layout)
    writer = CWriter(Module((*helpers.parts, *own.parts)), C_CALLS, C_METHODS, {"Servo": "hw_servo"}, GIVEN, CLASSES)
    # A wait that feeds is of the program where what it feeds is: the helpers are told of it then.
    waits = bool(layout.early) and "stand_still" in own.functions
    first = (*FIRST, *(["stand_still"] if waits else []))
    feeds = waits or "stand_still" in helpers.functions
    early = "".join(line if waits else f"static inline {line}" for line in layout.early) if feeds else ""
    top = "\n".join([*place(TOP), ""])
    head = "\n".join(f"// {line}".rstrip() for line in found.head)
    text = f'{head}\n#include "hardware.h"\n#include "helpers.h"\n{top}\n{writer.program(own.parts, first)}'
    helping = writer.helpers(helpers.parts)
    guard = "// What the program is made of: the same in every bench's.\n#ifndef HELPERS_H\n#define HELPERS_H\n"
    return (
        File(".c", text),
        File("", f'{guard}#include "hardware.h"\n{early}\n{helping.strip()}\n#endif\n', "helpers.h"),
    )
