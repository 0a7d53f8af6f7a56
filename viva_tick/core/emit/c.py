"""The program in C11 for any board: the program, its helper types, and a header that says what a layer must have; with
the layer for the boards that there is one for, and an empty one to fill in for the others."""

from __future__ import annotations

import re
from collections.abc import Collection
from pathlib import Path

from ..boards import Board
from ..document import Bench
from ..program import in_its_school
from ..tree.c import CWriter
from ..tree.nodes import Module
from .assembled import Assembled, assembled, in_one_loop
from .files import Emitted, File, slug
from .hardware import C_CALLS, C_METHODS, CLASSES, GIVEN, c_words
from .parted import FIRST, parted
from .style import in_style, narrow
from .warnings import Warnings
from .yours import TOP, place

PIN_NAMES = "enum { A0 = 14, A1, A2, A3, A4, A5, A6, A7 };"
STRICT = ("-std=c11", "-Wall", "-Wextra", "-pedantic")
CALLED = re.compile(r"\b(hw_\w+)\(")
LAYERS = Path(__file__).parent / "layers"


def can_c(bench: Bench) -> bool:
    """Any board has some compiler of C."""
    return True


def c_files(bench: Bench, said: Warnings = ()) -> Emitted:
    """The program, its helpers, the header and the layer."""
    whole = in_its_school(bench)
    found = assembled(whole, in_one_loop(whole), c_words(whole.the_board), said)
    own = LAYERS / f"{whole.board}.c"
    notes = list(found.notes)
    written = _written(found)
    layer = (own if own.exists() else LAYERS / "empty.c").read_text()
    header = (LAYERS / "hardware.h").read_text().replace(PIN_NAMES, _pin_names(whole.the_board), 1)
    if not own.exists():
        called = {name for file in written for name in CALLED.findall(file.text)}
        layer, header = only(layer, called), only(header, called)
        many = len({*CALLED.findall(header)})
        notes.append(
            f"The layer between program and board is an empty one: fill its {many} functions in for your board. They "
            "are what this bench's program calls, and no others."
        )
    files = (*written, narrow(File("", header, "hardware.h")), narrow(File("", layer, "layer.c")))
    return Emitted((*files, *projects(whole)), tuple(notes))


def only(text: str, called: Collection[str]) -> str:
    """A header, or an empty layer, with those of its functions that are called; what is said of none of them goes."""
    kept = []
    for passage in text.split("\n\n"):
        lines = [(line, CALLED.findall(line)) for line in passage.split("\n")]
        if not any(names for line, names in lines if not line.startswith("//")):
            kept.append(passage)
            continue
        left = [line for line, names in lines if line.startswith("//") or not names or names[0] in called]
        if any(CALLED.search(line) for line in left if not line.startswith("//")):
            kept.append("\n".join(left))
    return "\n\n".join(kept)


def _pin_names(board: Board) -> str:
    """Names for the pins that a board calls by letters, A0 and the like: A from 14 on, as it has fewer others."""
    rows = [pin.code for pin in board.pins if not pin.code.isdigit()]
    names = [f"{code} = {(14 if code.startswith('A') else 0) + int(code[1:])}" for code in rows if code[1:].isdigit()]
    return f"enum {{ {', '.join(names)} }};" if names else ""


def projects(bench: Bench) -> tuple[File, ...]:
    """Files for the common build tools: which part it is, and which compiler, is said as they are called."""
    name = slug(bench.name)
    make = (
        f"# make CC=your-compiler PART=-mmcu=your-part: what your compiler is told of the part on the board.\n"
        f"CC ?= cc\nPART ?=\nCLOCK ?= {bench.the_board.clock_hz}UL\n"
        f"CFLAGS ?= -std=c11 -Os -Wall -Wextra\n\n"
        f"{name}.elf: {name}.c layer.c helpers.h hardware.h\n"
        f"\t$(CC) $(PART) -DF_CPU=$(CLOCK) $(CFLAGS) {name}.c layer.c -o $@\n"
    )
    cmake = (
        f"cmake_minimum_required(VERSION 3.16)\nproject({name} C)\nset(CMAKE_C_STANDARD 11)\n"
        f'set(PART "" CACHE STRING "What your compiler is told of your part, as -mmcu=your-part")\n'
        f"add_executable({name} {name}.c layer.c)\n"
        f"target_compile_options({name} PRIVATE ${{PART}} -Os -Wall -Wextra)\n"
        f"target_link_options({name} PRIVATE ${{PART}})\n"
        f"target_compile_definitions({name} PRIVATE F_CPU={bench.the_board.clock_hz}UL)\n"
    )
    return File("", make, "Makefile"), File("", cmake, "CMakeLists.txt")


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
    helped = f'{guard}#include "hardware.h"\n{early}\n{helping.strip()}\n#endif\n'
    files = (File(".c", text), File("", helped, "helpers.h"))
    return tuple(in_style(file, found.style) for file in files)
