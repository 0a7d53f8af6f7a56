"""What machines, variables and chords are called in the sketch, and what of a bench they look at."""

from __future__ import annotations

from ..document import Bench, DrawFor, IfContact, Machine, TakeLevel
from ..drives import Follow
from .names import pascals, snake


def chord_name(one: str, other: str) -> str:
    """What a chord is called in the sketch."""
    return f"{snake(one)}_with_{snake(other)}"


def variable_name(ident: str) -> str:
    """What a variable is called in the sketch."""
    return f"{snake(ident)}_value"


class MachineNames:
    """What a machine and its states are called in the sketch."""

    def __init__(self, machine: Machine, enum: str) -> None:
        self.enum = enum
        self.base = snake(machine.id)
        self.var = f"{self.base}_state"
        self.since = f"{self.base}_since"
        self.enter = f"enter_{self.base}"
        self.leave = f"leave_{self.base}"
        self.step = f"step_{self.base}"
        self.settle = f"settle_{self.base}"
        self.states = {
            ident: f"{enum}::{name}" for ident, name in pascals([state.id for state in machine.states]).items()
        }
        edges = (t.on.input for t in machine.transitions if t.on.kind in ("press", "release"))
        self.inputs = list(dict.fromkeys(edges))


def machine_names(bench: Bench) -> dict[str, MachineNames]:
    """Names for every machine of the bench, by id."""
    enums = pascals([machine.id for machine in bench.firmware.machines])
    return {machine.id: MachineNames(machine, enums[machine.id]) for machine in bench.firmware.machines}


def looked_at(bench: Bench) -> set[str]:
    """Contacts whose belief is looked at, by a guard or by an output that follows."""
    found = set()
    for machine in bench.firmware.machines:
        for way in machine.transitions:
            found |= {guard.input for guard in way.guards if isinstance(guard, IfContact)}
        found |= {drive.input for _, _, drive in machine.drives if isinstance(drive, Follow)}
    return found & {line.id for line in bench.contacts}


def counts_wanted(bench: Bench) -> set[str]:
    """Analogue parts whose last count is looked at."""
    found = set()
    for machine in bench.firmware.machines:
        found |= {action.input for _, action in machine.actions if isinstance(action, TakeLevel)}
        found |= {drive.input for _, _, drive in machine.drives if isinstance(drive, Follow)}
    return found & set(bench.firmware.readings)


def rolls(bench: Bench) -> bool:
    """Whether chance has a part in it."""
    return any(
        any(isinstance(action, DrawFor) for _, action in machine.actions)
        or any(getattr(way.on, "until_us", None) for way in machine.transitions)
        for machine in bench.firmware.machines
    )
