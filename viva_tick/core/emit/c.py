"""The program in C11 for any board: the program, its helper types, and a header that says what a layer must have; with
the layer for the boards that there is one for, and an empty one to fill in for the others."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

from ..document import Bench
from ..program import in_its_school
from ..tree.c import CWriter
from ..tree.nodes import Declare, Enum, Function, Module, Name, Part, Struct, Within, inside
from ..tree.reading import read
from .assembled import Assembled, assembled, in_one_loop
from .files import Emitted, File
from .hardware import C_CALLS, C_METHODS, CLASSES, GIVEN, THINGS, c_words
from .warnings import Warnings

LAYERS = Path(__file__).parent / "layers"
FIRST = ("setup", "loop")


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
    helpers = read("\n".join([*layout.helpers, *layout.helping]), THINGS)
    types = {part.ident for part in helpers.parts if isinstance(part, Struct | Enum)}
    own = read("\n".join([*layout.types, "".join(layout.values), *layout.functions]), {*THINGS, *types})
    helpers, own = pruned(helpers, own)
    whole = Module((*helpers.parts, *own.parts))
    writer = CWriter(whole, C_CALLS, C_METHODS, {"Servo": "hw_servo"}, GIVEN, CLASSES)
    # A wait that feeds is of the program where what it feeds is: the helpers are told of it then.
    waits = bool(layout.early) and "stand_still" in own.functions
    first = (*FIRST, *(["stand_still"] if waits else []))
    head = "\n".join(f"// {line}".rstrip() for line in found.head)
    text = f'{head}\n#include "hardware.h"\n#include "helpers.h"\n\n{writer.program(own.parts, first)}'
    helping = writer.helpers(helpers.parts)
    feeds = waits or "stand_still" in helpers.functions
    early = "".join(line if waits else f"static inline {line}" for line in layout.early) if feeds else ""
    guard = "// What the program is made of: the same in every bench's.\n#ifndef HELPERS_H\n#define HELPERS_H\n"
    return (
        File(".c", text),
        File("", f'{guard}#include "hardware.h"\n{early}\n{helping.strip()}\n#endif\n', "helpers.h"),
    )


def pruned(helpers: Module, own: Module) -> tuple[Module, Module]:
    """Both without the functions, and the variables, that nothing leads to from set-up and the loop."""
    parts = {name: part for module in (helpers, own) for part in module.parts for name in _names(part)}
    wanted: set[str] = set()
    left = [
        *FIRST,
        *(name for name, part in parts.items() if isinstance(part, Function) and (part.macro or part.plain_c)),
    ]
    while left:
        name = left.pop()
        if name in wanted or name not in parts:
            continue
        wanted.add(name)
        left += _mentions([parts[name]])
    kept = (tuple(one for part in module.parts if (one := _kept(part, wanted))) for module in (helpers, own))
    first, second = kept
    return Module(first), Module(second)


def _names(part: Part) -> tuple[str, ...]:
    if isinstance(part, Function | Struct | Enum):
        own = part.ident
        return (own, *(value for value, _ in part.values)) if isinstance(part, Enum) and not part.own else (own,)
    return tuple(one.ident for one in part.names) if isinstance(part, Declare) else ()


def _kept(part: Part, wanted: set[str]) -> Part | None:
    if isinstance(part, Declare):
        names = tuple(one for one in part.names if one.ident in wanted)
        return replace(part, names=names) if names else None
    if isinstance(part, Function | Struct | Enum):
        return part if any(name in wanted for name in _names(part)) else None
    return part


def _mentions(parts: Iterable[Part]) -> set[str]:
    found = set()
    for part in parts:
        for node in inside(part):
            match node:
                case Name(ident):
                    found.add(ident)
                case Within(of, _):
                    found.add(of)
            for kind in (getattr(node, "type", None), getattr(node, "gives", None)):
                if kind is not None:
                    found.add(kind.name)
    return found
