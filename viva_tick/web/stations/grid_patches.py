"""What each control of a machine's grid does to the document."""

from __future__ import annotations

from typing import Any

from ...core.document import Bench, Channel, Machine, State
from ..patches import Patch, add, put, take_out
from .chosen import unexpect
from .columns import Column, new_transition

FIRST_LIMIT_US = 600_000_000
FIRST_DEAD_US = 500_000


class GridPatches:
    """The patches of one machine, which stands at `at` in the document."""

    def __init__(self, bench: Bench, machine: Machine, at: str) -> None:
        self.bench, self.machine, self.at = bench, machine, at

    def _state_at(self, state: State) -> str:
        return f"{self.at}/states/{self.machine.states.index(state)}"

    def state(self, value: dict[str, Any]) -> Patch:
        """Another state."""
        return add(f"{self.at}/states/-", value)

    def drive(self, state: State, output: str, value: dict[str, Any]) -> Patch:
        """A state drives an output so."""
        return (put if output in state.drives else add)(f"{self._state_at(state)}/drives/{output}", value)

    def undrive(self, state: State, output: str) -> Patch:
        """A state leaves an output as it was."""
        return take_out(f"{self._state_at(state)}/drives/{output}") if output in state.drives else Patch()

    def drive_too(self, channel: Channel) -> Patch:
        """The first state drives an output that no state drives yet, as it rests."""
        first = self.machine.state(self.machine.initial)
        return self.drive(first, channel.id, {"kind": "steady", "on": channel.at_rest == "on"})

    def transition(self, state: State, heard: dict[str, Any], to: State) -> Patch:
        """A transition from a state on an event."""
        return add(f"{self.at}/transitions/-", {"source": state.id, "on": heard, "target": to.id})

    def listen_to(self, column: Column) -> Patch:
        """The transition that a new column begins with."""
        return add(f"{self.at}/transitions/-", new_transition(self.bench, self.machine, column))

    def leads_to(self, place: int, to: State) -> Patch:
        """A transition leads elsewhere."""
        return put(f"{self.at}/transitions/{place}/target", to.id)

    def no_transition(self, place: int) -> Patch:
        """A transition goes."""
        return take_out(f"{self.at}/transitions/{place}")

    def let_pass(self, state: State, name: str) -> Patch:
        """A state lets an event pass on purpose."""
        return put(f"{self._state_at(state)}/ignores", [*state.ignores, name])

    def unpass(self, state: State, name: str) -> Patch:
        """It is not said any more that a state lets an event pass."""
        return put(f"{self._state_at(state)}/ignores", [one for one in state.ignores if one != name])

    def limit(self, output: str) -> Patch:
        """An output may be on for so long at most."""
        return add(f"/firmware/limits/{output}", {"longest_us": FIRST_LIMIT_US})

    def unlimit(self, output: str) -> Patch:
        """It may be on for as long as it likes."""
        return take_out(f"/firmware/limits/{output}")

    def lock(self, one: str, other: str) -> Patch:
        """Two outputs are never on together."""
        return add("/firmware/interlocks/-", {"one": one, "other": other, "dead_us": FIRST_DEAD_US})

    def unlock(self, place: int) -> Patch:
        """Two outputs may be on together."""
        return take_out(f"/firmware/interlocks/{place}")

    @property
    def machine_out(self) -> Patch:
        """The machine goes, with what is expected of it."""
        return unexpect(self.bench, self.machine.id) + take_out(self.at)
