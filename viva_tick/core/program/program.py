"""The program that a bench describes, for whoever runs it, adds it up, or writes it down."""

from __future__ import annotations

import threading
from functools import cached_property

from ..boards import Board
from ..clock import US_PER_MS
from ..document import AlwaysEvent, Bench, EventName, Timekeeping, TimeoutEvent
from ..document.parts import Display, KeyMatrix
from ..gestures import Wanted, chords_wanted, wanted_by
from ..machines import CompiledMachine, compile_machine, event_keys, heard_by
from ..showing import set_up_us
from .blocks import Block, Stage, blocks_of
from .schools import in_its_school


class Program:
    """A bench's program, worked out as it is asked for. `bench` is as its loop style has it (`in_its_school`)."""

    def __init__(self, bench: Bench) -> None:
        self.bench = in_its_school(bench)

    @property
    def board(self) -> Board:
        """What it runs on."""
        return self.bench.the_board

    @property
    def timekeeping(self) -> Timekeeping:
        """How it takes times."""
        return self.bench.firmware.timekeeping

    @cached_property
    def blocks(self) -> tuple[Block, ...]:
        """The blocks of a pass, in order."""
        return blocks_of(self.bench)

    def of(self, stage: Stage) -> tuple[Block, ...]:
        """The blocks of one stage, in order."""
        return tuple(block for block in self.blocks if block.stage is stage)

    @cached_property
    def stages(self) -> tuple[Stage, ...]:
        """The stages that the pass has, in order."""
        return tuple(dict.fromkeys(block.stage for block in self.blocks))

    @cached_property
    def idle_us(self) -> int:
        """How long a pass takes that has nothing to do; what belongs to tasks of the kernel is not of it."""
        return sum(block.takes_us for block in self.blocks if not block.owner)

    @cached_property
    def asleep_us(self) -> int:
        """How much of that it sleeps; 0 where a pin wakes it."""
        return sum(block.takes_us for block in self.of(Stage.SLEEP))

    @cached_property
    def working_us(self) -> int:
        """What such a pass takes of the processor: neither its delay nor its sleep."""
        return self.idle_us - self.asleep_us - self.tail_us

    @property
    def tail_us(self) -> int:
        """The delay at the end of the loop."""
        return self.bench.firmware.loop.tail_delay_us

    @cached_property
    def size(self) -> int:
        """How much a pass looks at: its blocks, and the crossings of keys."""
        keys = [part for _, part in self.bench.sensed if isinstance(part, KeyMatrix)]
        return len(self.blocks) + sum(len(part.rows) * len(part.columns) for part in keys)

    @cached_property
    def keys(self) -> dict[EventName, int]:
        """The number of every event."""
        return event_keys(self.bench)

    @cached_property
    def heard(self) -> dict[str, tuple[EventName, ...]]:
        """By machine, the raised events that it listens to."""
        return heard_by(self.bench)

    @cached_property
    def machines(self) -> dict[str, CompiledMachine]:
        """Every machine in tables, by id, in the order of the pass."""
        return {one.id: compile_machine(one, self.keys, self.bench) for one in self.bench.firmware.machines}

    @cached_property
    def gestures(self) -> dict[str, Wanted]:
        """By contact, what is told apart of its gestures."""
        return wanted_by(self.bench)

    @cached_property
    def chords(self) -> list[tuple[str, str]]:
        """Pairs of contacts that are listened for together."""
        return chords_wanted(self.bench)

    @cached_property
    def longest_ms(self) -> dict[str, int]:
        """By output, how long it may be on at a time."""
        return {ident: limit.longest_us // US_PER_MS for ident, limit in self.bench.firmware.limits.items()}

    @cached_property
    def displays(self) -> tuple[Display, ...]:
        """The displays that a line of text is written on, in order: set-up sets them up."""
        parts = {block.subject.part.id: block.subject.part for block in self.of(Stage.SHOW)}
        return tuple(part for part in parts.values() if isinstance(part, Display))

    @cached_property
    def displays_us(self) -> int:
        """How long that takes, at the end of set-up."""
        return sum(set_up_us(part) for part in self.displays)

    @cached_property
    def ends_heard(self) -> frozenset[str]:
        """The outputs whose drives' ends a machine listens for."""
        return frozenset(name[1] for names in self.heard.values() for name in names if name[0] == "ended")

    @cached_property
    def looks_around(self) -> bool:
        """Whether a machine looks at what another changes, so that the pass after a change may be one in which it
        moves."""
        transitions = [transition for machine in self.bench.firmware.machines for transition in machine.transitions]
        return any(
            transition.guards
            or isinstance(transition.on, AlwaysEvent)
            or (isinstance(transition.on, TimeoutEvent) and transition.on.variable)
            for transition in transitions
        )


class _Last(threading.local):
    """Each thread's own: an edit asks many times of one very bench."""

    asked: Bench | None = None
    program: Program | None = None


_LAST = _Last()


def program_of(bench: Bench) -> Program:
    """The program of a bench; the same one for as long as the same thread asks for the same bench."""
    last = _LAST
    if last.program is None or (last.asked is not bench and last.program.bench is not bench):
        last.asked, last.program = bench, Program(bench)
    return last.program


def idle_pass_us(bench: Bench) -> int:
    """How long a pass of a bench takes that has nothing to do."""
    return program_of(bench).idle_us


def asleep_us(bench: Bench) -> int:
    """How long it sleeps after each pass; 0 for not at all, or until a pin wakes it."""
    return program_of(bench).asleep_us


def working_pass_us(bench: Bench) -> int:
    """What an idle pass takes of the processor: neither its delay nor its sleep."""
    return program_of(bench).working_us
