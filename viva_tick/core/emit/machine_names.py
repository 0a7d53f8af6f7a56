"""What machines, variables and chords are called in the sketch, and what of a bench they look at."""

from __future__ import annotations

from ..document import Bench, IfContact, Machine, RandomFor, TakeLevel
from ..drives import Follow
from .names import fresh, pascals, snake

# What the variables of a part end with.
ENDS = ("clean", "code", "count", "down", "edge", "gestures", "keys", "level", "out", "steps")


def chord_name(one: str, other: str) -> str:
    """What a chord is called in the sketch."""
    return f"{snake(one)}_with_{snake(other)}"


def variable_name(ident: str) -> str:
    """What a variable is called in the sketch."""
    return f"{snake(ident)}_value"


class MachineNames:
    """What a machine and its states are called in the sketch; of a state with others in it by its id: since when it
    stands, the state kept in it, what enters and what leaves it."""

    def __init__(self, machine: Machine, enum: str, taken: set[str]) -> None:
        self.enum = enum
        self.base = snake(machine.id)
        self.var = fresh(f"{self.base}_state", taken)
        self.since = fresh(f"{self.base}_since", taken)
        self.enter = fresh(f"enter_{self.base}", taken)
        self.leave = fresh(f"leave_{self.base}", taken)
        self.step = fresh(f"step_{self.base}", taken)
        self.settle = fresh(f"settle_{self.base}", taken)
        around = [state.id for state in machine.states if machine.insides(state.id)]
        self.since_in, self.kept_in, self.enter_around, self.leave_around = (
            {ident: fresh(f"{name}_{snake(ident)}", taken) for ident in around}
            for name in (self.since, f"{self.base}_kept", self.enter, self.leave)
        )
        self.states = {
            ident: f"{enum}::{name}" for ident, name in pascals([state.id for state in machine.states]).items()
        }
        edges = (t.on.input for t in machine.transitions if t.on.kind in ("press", "release"))
        self.inputs = list(dict.fromkeys(edges))


def machine_names(bench: Bench) -> dict[str, MachineNames]:
    """Names for every machine of the bench, by id."""
    enums = pascals([machine.id for machine in bench.firmware.machines])
    parts = {part.id for part in bench.parts}
    parts |= {line.id for line in bench.contacts} | {channel.id for channel in bench.channels}
    taken = {f"{snake(ident)}_{end}" for ident in parts for end in ENDS}
    taken |= {f"{snake(machine.id)}_state_kept_at" for machine in bench.firmware.machines}
    return {machine.id: MachineNames(machine, enums[machine.id], taken) for machine in bench.firmware.machines}


def looked_at(bench: Bench) -> set[str]:
    """Contacts whose belief is looked at, by a guard or by an output that follows."""
    found = set()
    for machine in bench.firmware.machines:
        for transition in machine.transitions:
            found |= {guard.input for guard in transition.guards if isinstance(guard, IfContact)}
        found |= {drive.input for _, _, drive in machine.drives if isinstance(drive, Follow)}
    every = {line.id for line in bench.contacts}
    return every if bench.firmware.serial.traces else found & every


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
        any(isinstance(action, RandomFor) for _, action in machine.actions)
        or any(getattr(transition.on, "until_us", None) for transition in machine.transitions)
        for machine in bench.firmware.machines
    )
