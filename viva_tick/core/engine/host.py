"""What a machine asks of the board that it runs on (`machines.Host`), and a drive of it (`drives.World`)."""

from __future__ import annotations

from collections.abc import Sequence

from ..document import EventName, Variable
from ..drives import FULL, OFF, Drive
from ..machines import Dice, RunningMachine
from .sensed import SensedSlot
from .slots import InputSlot, MachineSlot, OutputSlot
from .trace import Tape


class BoardHost:
    """Inputs, outputs, machines and variables by id; the firmware fills it. `stirred`: in this pass something changed
    that a machine may look at."""

    by_id: dict[str, InputSlot]
    sensed: dict[str, SensedSlot]
    by_output: dict[str, OutputSlot]
    by_machine: dict[str, MachineSlot]
    around: dict[tuple[str, str], str | None]
    listeners: dict[EventName, list[tuple[MachineSlot, int]]]
    variables: dict[str, Variable]
    held: dict[str, int]
    numbers: dict[str, Tape]
    dice: Dice
    stirred: bool
    clock_us: int

    def tell(self, name: EventName) -> None:
        """Tell every machine that listens."""
        for slot, key in self.listeners.get(name, ()):
            slot.waiting.add(key)

    def pressed(self, input_id: str) -> bool:
        """See `Host.pressed`."""
        return self.by_id[input_id].down

    def above(self, input_id: str) -> bool:
        """See `Host.above`."""
        slot = self.sensed.get(input_id)
        return slot is not None and slot.is_above()

    def standing(self, machine_id: str, state_id: str) -> bool:
        """See `Host.standing`."""
        running = self.by_machine[machine_id].running
        now = running.machine.names[running.state]
        return state_id in (now, self.around[machine_id, now])

    def value(self, variable_id: str) -> int:
        """See `Host.value`."""
        return self.held[variable_id]

    def put(self, variable_id: str, value: int) -> None:
        """See `Host.put`."""
        value = self.variables[variable_id].held(value)
        if value != self.held[variable_id]:
            self.held[variable_id] = value
            self.numbers[variable_id].add(self.clock_us, value)
            self.stirred = True
            self.tell(("reached", variable_id, str(value)))

    def scaled(self, input_id: str, variable_id: str) -> int:
        """See `Host.scaled`."""
        variable = self.variables[variable_id]
        slot = self.sensed.get(input_id)
        count, full = slot.last_count() if slot else (0, 1)
        return variable.least + count * (variable.most - variable.least) // full

    def roll(self, least: int, most: int) -> int:
        """See `Host.roll`."""
        return self.dice.roll(least, most)

    def start(self, output_id: str, drive: Drive) -> None:
        """See `Host.start`."""
        self.by_output[output_id].pending = drive.course(self)

    def moved(self, machine: RunningMachine, left: Sequence[int], entered: Sequence[int], way: int) -> None:
        """See `Host.moved`."""
        slot = self.by_machine[machine.machine.id]
        self.stirred = True
        names = machine.machine.names
        slot.states.add(self.clock_us, names[machine.state])
        slot.ways.add(self.clock_us, way)
        if self.listeners:
            for state in left:
                self.tell(("left", slot.id, names[state]))
            for state in entered:
                self.tell(("entered", slot.id, names[state]))

    def input_level(self, input_id: str) -> int:
        """See `World.input_level`."""
        if (contact := self.by_id.get(input_id)) is not None:
            return FULL if contact.down else OFF
        slot = self.sensed.get(input_id)
        count, full = slot.last_count() if slot else (0, 1)
        return FULL * count // full

    def variable_level(self, variable_id: str) -> int:
        """See `World.variable_level`."""
        variable = self.variables[variable_id]
        span = variable.most - variable.least
        return FULL * (self.held[variable_id] - variable.least) // span if span else FULL
