"""What a recipe is: it asks for an input and an output, and becomes an ordinary machine."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..document import Bench, InputPart, Machine, OutputPart


@dataclass(frozen=True)
class Recipe:
    """A ready machine. `make(id, input, output)` builds it."""

    id: str
    title: str
    sentence: str
    make: Callable[[str, InputPart, OutputPart], Machine]


def free_id(wanted: str, taken: set[str]) -> str:
    """`wanted`, or with the first number behind it that makes it new; at most 40 characters."""
    wanted = wanted[:36].rstrip("-")
    if wanted not in taken:
        return wanted
    return next(name for number in range(2, 10_000) if (name := f"{wanted}-{number}") not in taken)


def machine_from(recipe: Recipe, bench: Bench, input_id: str, output_id: str) -> Machine:
    """The recipe's machine for two parts of a bench, under an id of its own. KeyError for unknown parts."""
    taken = {machine.id for machine in bench.firmware.machines}
    source, driven = bench.input(input_id), bench.output(output_id)
    return recipe.make(free_id(f"{driven.id}-{recipe.id}", taken), source, driven)
