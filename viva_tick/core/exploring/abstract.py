"""What exploring is made of: causes, what was found, and what stands in for the board while machines are explored."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from ..document import Bench, EventName, Machine
from ..drives import Drive
from ..machines import CompiledMachine, RunningMachine
from ..program import Program

DRAWS = 8


Cause = tuple[str, str, str]  # an event's name; or "timeout", the machine, the place of the transition


PASS: Cause = ("pass", "", "")  # nothing but a pass: what waits to be heard is heard


Report = Callable[[int], bool]  # told how many are found; answers whether to go on


@dataclass(frozen=True)
class Explored:
    """What was found. `paths` leads, by (machine, state), to each state by the fewest causes; `together` is the
    shortest way to both outputs of a pair being on, with the states they are on in; `both_open` that to two transitions
    of a machine, by their places, whose guards hold at once; `whole` is false where the bound or a stop ended it."""

    standings: int
    whole: bool
    paths: dict[tuple[str, str], tuple[Cause, ...]]
    together: dict[tuple[str, str], tuple[tuple[Cause, ...], tuple[str, ...]]] = field(default_factory=dict)
    both_open: dict[tuple[str, int, int], tuple[Cause, ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class Wish:
    """What is to be explored: machines of a program, what can come, and the outputs that are watched."""

    program: Program
    machines: Sequence[Machine]
    causes: list[Cause]
    watch: list[str]

    @cached_property
    def tables(self) -> list[CompiledMachine]:
        """The machines as tables."""
        return [self.program.machines[machine.id] for machine in self.machines]


class Abstract:
    """Stands in for the board: no time, no pins; what is on and what the variables hold."""

    def __init__(self, bench: Bench, watch: Sequence[str]) -> None:
        self.variables = {one.id: one for one in bench.firmware.variables}
        self.around = {
            (machine.id, state.id): state.parent for machine in bench.firmware.machines for state in machine.states
        }
        self.watch = {output: place for place, output in enumerate(watch)}
        self.held = {one.id: one.begins for one in bench.firmware.variables}
        self.down: frozenset[str] = frozenset()
        self.up: frozenset[str] = frozenset()
        self.on = [False] * len(watch)
        self.effect: dict[int, bool] = {}
        self.running: dict[str, RunningMachine] = {}
        self.listeners: dict[
            EventName, list[tuple[set[int], int]]
        ] = {}  # what waits for each that hears it, its number
        self.entered: set[tuple[str, str]] = set()  # also what was only gone through
        self.falls = 0  # which of its first numbers chance falls on
        self.rolled = 0  # how many it could have fallen on

    def pressed(self, input_id: str) -> bool:
        """See `Host.pressed`."""
        return input_id in self.down

    def above(self, input_id: str, of: str) -> bool:
        """See `Host.above`."""
        return f"{input_id} {of}" in self.up

    def standing(self, machine_id: str, state_id: str) -> bool:
        """See `Host.standing`. A machine that is not explored is taken to be anywhere: in its first state."""
        running = self.running.get(machine_id)
        if running is None:
            return False
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
            self.say(("reached", variable_id, str(value)))

    def scaled(self, input_id: str, variable_id: str) -> int:
        """See `Host.scaled`."""
        one = self.variables[variable_id]
        return self.roll(one.least, one.most)

    def roll(self, least: int, most: int) -> int:
        """See `Host.roll`."""
        self.rolled = max(self.rolled, min(most - least + 1, DRAWS))
        return least + min(self.falls, most - least)

    def feed(self) -> None:
        """See `Host.feed`."""

    def restart(self) -> None:
        """See `Host.restart`. What comes then is where exploring begins."""

    def signal(self, ident: str) -> None:
        """See `Host.signal`."""

    def send(self, input_id: str, codes: tuple[int, ...]) -> None:
        """See `Host.send`."""

    def start(self, output_id: str, drive: Drive) -> None:
        """See `Host.start`."""
        if (place := self.watch.get(output_id)) is not None:
            self.on[place] = self.effect[place] = drive.ever_on

    def moved(self, machine: RunningMachine, left: Sequence[int], entered: Sequence[int], transition: int) -> None:
        """See `Host.moved`."""
        names, ident = machine.machine.names, machine.machine.id
        self.entered.update((ident, names[state]) for state in entered)
        if self.listeners:
            for state in left:
                self.say(("left", ident, names[state]))
            for state in entered:
                self.say(("entered", ident, names[state]))

    def say(self, name: EventName) -> None:
        """Tell every machine that listens."""
        for waiting, key in self.listeners.get(name, ()):
            waiting.add(key)
