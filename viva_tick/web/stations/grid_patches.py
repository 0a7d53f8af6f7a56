"""What each control of a machine's grid does to the document."""

from __future__ import annotations

from typing import Any

from ...core.document import Bench, Channel, Group, Machine, State, TextLine
from ...core.document.parts import Servo
from ..patches import Patch, add, put, take_out
from .cells import column_name
from .columns import Column
from .removals import unexpect

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

    def column(self, name: str) -> Patch:
        """A column more, empty."""
        return add(f"{self.at}/columns/-", name)

    def drive_too(self, channel: Channel | Group | TextLine | Servo) -> Patch:
        """A column for an output that no state drives yet."""
        return self.column(f"output {channel.id}")

    def _columns(self, kept: list[str]) -> Patch:
        return put(f"{self.at}/columns", kept) if kept != list(self.machine.columns) else Patch()

    def _transitions_out(self, places: list[int]) -> Patch:
        return Patch(one for place in reversed(places) for one in take_out(f"{self.at}/transitions/{place}"))

    def column_out(self, column: Column) -> Patch:
        """A column goes, with every transition in it."""
        rows = enumerate(self.machine.transitions)
        gone = self._transitions_out([place for place, one in rows if column_name(one.on) == column.name])
        for state in self.machine.states:
            if column.name in state.ignores:
                gone += self.unignore(state, column.name)
        return gone + self._columns([one for one in self.machine.columns if one != column.name])

    def output_out(self, output: str) -> Patch:
        """No state drives an output any more."""
        gone = Patch(one for state in self.machine.states for one in self.undrive(state, output))
        return gone + self._columns([one for one in self.machine.columns if one != f"output {output}"])

    def transition(self, state: State, column: Column, to: str) -> Patch:
        """A transition from a state on an event; it is no longer ignored there."""
        heard = self.unignore(state, column.name) if column.name in state.ignores else Patch()
        return heard + add(f"{self.at}/transitions/-", {"source": state.id, "on": column.event, "target": to})

    def leads_to(self, place: int, to: str) -> Patch:
        """A transition leads elsewhere."""
        return put(f"{self.at}/transitions/{place}/target", to)

    def no_transition(self, place: int) -> Patch:
        """A transition goes; its column stays, even where it was the last in it."""
        name = column_name(self.machine.transitions[place].on)
        others = [column_name(one.on) for number, one in enumerate(self.machine.transitions) if number != place]
        stays = name == "timeout" or name in others or name in self.machine.columns
        return self._transitions_out([place]) + (Patch() if stays else self.column(name))

    def ignore(self, state: State, name: str) -> Patch:
        """A state ignores an event on purpose."""
        return put(f"{self._state_at(state)}/ignores", [*state.ignores, name])

    def unignore(self, state: State, name: str) -> Patch:
        """It is not said any more that a state ignores an event on purpose."""
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
