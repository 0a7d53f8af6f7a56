"""A program's two parts as trees: what is this bench's own, and the types and functions that any bench's may have."""

from __future__ import annotations

import re
from dataclasses import replace

from ..tree.nodes import Declare, Enum, Function, Module, Part, Raw, Struct
from ..tree.reading import read_pieces
from ..tree.simpler import with_voids, without_unread
from .hardware import THINGS
from .layout import Layout

FIRST = ("setup", "loop")  # what a reader looks for, and what the board's side calls


def parted(layout: Layout) -> tuple[Module, Module]:
    """(helpers, own): only what set-up and the loop lead to; of the functions those first that a reader looks for."""
    first = read_pieces([*layout.helpers, *layout.helping], THINGS)
    types = {part.ident for part in first if isinstance(part, Struct | Enum)}
    second = read_pieces([*layout.types, "".join(layout.values), *layout.functions], {*THINGS, *types})
    helpers, own = pruned(Module(first), Module(second))
    own = with_voids(without_unread(own, helpers))
    functions = [part for part in own.parts if isinstance(part, Function)]
    functions.sort(key=lambda one: FIRST.index(one.ident) if one.ident in FIRST else len(FIRST))
    return helpers, Module((*(part for part in own.parts if not isinstance(part, Function)), *functions))


def pruned(helpers: Module, own: Module) -> tuple[Module, Module]:
    """Both without the functions, and the variables, that nothing leads to from set-up and the loop."""
    parts = {name: part for module in (helpers, own) for part in module.parts for name in _names(part)}
    wanted: set[str] = set()
    called = (name for name, part in parts.items() if isinstance(part, Function) and (part.macro or part.plain_c))
    placed = (word for part in own.parts if isinstance(part, Raw) for word in re.findall(r"\w+", part.text))
    left = [*FIRST, *called, *placed]
    while left:
        name = left.pop()
        if name in wanted or name not in parts:
            continue
        wanted.add(name)
        left += parts[name].mentions
    kept = (tuple(one for part in module.parts if (one := _kept(part, wanted))) for module in (helpers, own))
    first, second = kept
    return Module(first), Module(second)


def _names(part: Part) -> tuple[str, ...]:
    if isinstance(part, Function) and part.macro:
        return (f"{part.ident} {part.takes[0].type.name}",)
    if isinstance(part, Function | Struct | Enum):
        own = part.ident
        return (own, *(value for value, _ in part.values)) if isinstance(part, Enum) and not part.own else (own,)
    return tuple(one.ident for one in part.names) if isinstance(part, Declare) else ()


def _kept(part: Part, wanted: set[str]) -> Part | None:
    if isinstance(part, Declare):
        names = tuple(one for one in part.names if one.ident in wanted)
        return part if len(names) == len(part.names) else replace(part, names=names) if names else None
    if isinstance(part, Function | Struct | Enum):
        return part if any(name in wanted for name in _names(part)) else None
    return part
