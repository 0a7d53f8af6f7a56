"""What a machine asks of the board that it runs on (`machines.Host`), and a drive of it (`drives.World`)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from ..document import EventName
from ..drives import FULL, OFF, Angle, Drive, Text
from ..machines import Dice, RunningMachine
from ..program import Program
from .clock import Pass
from .sensed import SensedSlot
from .slots import InputSlot, MachineSlot, OutputSlot
from .trace import Kind, Recording


class BoardHost:
    """Contacts, other inputs, outputs, machines and variables by id. `clock_us` is the instant at which a machine
    steps; `held` is what the variables hold, `numbers` what of that is recorded."""

    def __init__(
        self,
        program: Program,
        this: Pass,
        contacts: dict[str, InputSlot],
        sensed: dict[str, SensedSlot],
        outputs: dict[str, OutputSlot],
        seed: int,
    ) -> None:
        firmware = program.bench.firmware
        self.this, self.contacts, self.sensed, self.outputs = this, contacts, sensed, outputs
        self.machines: dict[str, MachineSlot] = {}
        self.lines: dict[str, Any] = {}  # what shows text
        self.servos: dict[str, Any] = {}
        self.outbox: list[tuple[str, tuple[int, ...]]] = []  # bytes for modules
        self.signals: Callable[[str, int], None] | None = None  # the kernel, where there is one to signal
        self.restarts = False  # at the end of the pass
        self.feeds: Callable[[int], None] | None = None  # the watchdog, where actions feed it
        self.post: Callable[[int], int] | None = None  # sends them: the instant after it
        self.listeners: dict[EventName, list[tuple[MachineSlot, int]]] = {}
        self.around = {
            (machine.id, state.id): state.parent for machine in firmware.machines for state in machine.states
        }
        self.variables = {one.id: one for one in firmware.variables}
        self.held = {one.id: one.begins for one in firmware.variables}
        self.numbers = {one.id: Recording(Kind.VALUE, one.id) for one in firmware.variables}
        self.seed = seed
        self.dice = Dice(seed)
        self.clock_us = 0

    def begin(self, ready_us: int, remembered: Callable[[str], Any]) -> None:
        """Set-up: the variables begin, or hold what was kept; the row of chance begins anew."""
        self.dice = Dice(self.seed)
        self.clock_us = ready_us
        self.restarts = False
        self.this.changed = True
        for ident, variable in self.variables.items():
            value = remembered(ident)
            self.held[ident] = variable.begins if value is None else variable.held(value)
            self.numbers[ident].add(ready_us, self.held[ident])

    def tell(self, name: EventName) -> None:
        """Tell every machine that listens."""
        for slot, key in self.listeners.get(name, ()):
            slot.waiting.add(key)

    def now_is(self, of: str) -> Any:
        """What a variable holds, or the place of the state that a machine is in."""
        return self.held[of] if of in self.held else self.machines[of].running.state

    def pressed(self, input_id: str) -> bool:
        """See `Host.pressed`."""
        return self.contacts[input_id].down

    def above(self, input_id: str, of: str) -> bool:
        """See `Host.above`."""
        slot = self.sensed.get(input_id)
        return slot is not None and slot.is_above(of)

    def standing(self, machine_id: str, state_id: str) -> bool:
        """See `Host.standing`."""
        running = self.machines[machine_id].running
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
            self.this.changed = True
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

    def feed(self) -> None:
        """See `Host.feed`."""
        if self.feeds is not None:
            self.feeds(self.clock_us)

    def signal(self, ident: str) -> None:
        """See `Host.signal`."""
        if self.signals is not None:
            self.signals(ident, self.clock_us)

    def restart(self) -> None:
        """See `Host.restart`."""
        self.restarts = True

    def send(self, input_id: str, codes: tuple[int, ...]) -> None:
        """See `Host.send`. They go out once the machine has stepped."""
        self.outbox.append((input_id, codes))

    def start(self, output_id: str, drive: Drive) -> None:
        """See `Host.start`."""
        if isinstance(drive, Text):
            self.lines[output_id].pending = drive
        elif isinstance(drive, Angle):
            self.servos[output_id].pending = drive
        else:
            self.outputs[output_id].pending = drive.course(self)

    def moved(self, machine: RunningMachine, left: Sequence[int], entered: Sequence[int], transition: int) -> None:
        """See `Host.moved`."""
        slot = self.machines[machine.machine.id]
        self.this.changed = True
        names = machine.machine.names
        slot.states.add(self.clock_us, names[machine.state])
        slot.transitions.add(self.clock_us, transition)
        if self.listeners:
            for state in left:
                self.tell(("left", slot.id, names[state]))
            for state in entered:
                self.tell(("entered", slot.id, names[state]))

    def input_level(self, input_id: str) -> int:
        """See `World.input_level`."""
        if (contact := self.contacts.get(input_id)) is not None:
            return FULL if contact.down else OFF
        slot = self.sensed.get(input_id)
        count, full = slot.last_count() if slot else (0, 1)
        return FULL * count // full

    def variable_value(self, variable_id: str) -> int:
        """See `World.variable_value`."""
        return self.held[variable_id]

    def variable_level(self, variable_id: str) -> int:
        """See `World.variable_level`."""
        variable = self.variables[variable_id]
        span = variable.most - variable.least
        return FULL * (self.held[variable_id] - variable.least) // span if span else FULL
