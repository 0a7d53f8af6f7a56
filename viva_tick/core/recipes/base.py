"""What a recipe is: it asks for an input and an output, and becomes an ordinary machine."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..document import Bench, Channel, ContactLine, Machine, State, Transition
from ..document.firmware import Event
from ..drives import Steady


@dataclass(frozen=True)
class Recipe:
    """A ready machine. `make(id, input, output)` builds it."""

    id: str
    title: str
    sentence: str
    make: Callable[[str, ContactLine, Channel], Machine]


def free_id(wanted: str, taken: set[str]) -> str:
    """`wanted`, or with the first number behind it that makes it new; at most 40 characters."""
    wanted = wanted[:36].rstrip("-")
    if wanted not in taken:
        return wanted
    return next(name for number in range(2, 10_000) if (name := f"{wanted}-{number}") not in taken)


def machine_from(recipe: Recipe, bench: Bench, input_id: str, output_id: str) -> Machine:
    """The recipe's machine for two parts of a bench, under an id of its own. KeyError for unknown parts."""
    taken = {machine.id for machine in bench.firmware.machines}
    source, driven = bench.contact(input_id), bench.channel(output_id)
    return recipe.make(free_id(f"{driven.id.replace('.', '-')}-{recipe.id}", taken), source, driven)


def on_and_off(machine_id: str, name: str, driven: Channel, turn_on: Event, turn_off: Event) -> Machine:
    """Two states, off first, that drive one output; an event leads there, another leads back."""
    return Machine(
        id=machine_id,
        name=f"{driven.name} {name}"[:60],
        initial="off",
        states=(
            State(id="off", name="Off", drives={driven.id: Steady(on=False)}),
            State(id="on", name="On", drives={driven.id: Steady(on=True)}),
        ),
        transitions=(
            Transition(source="off", on=turn_on, target="on"),
            Transition(source="on", on=turn_off, target="off"),
        ),
    )
