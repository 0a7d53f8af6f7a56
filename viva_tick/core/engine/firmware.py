"""A board that runs a bench's program: boot, one pass, a reset.

A pass runs the stages of the program in their order (`program.blocks`), each with its cost. The millisecond counter is
read once, as the pass begins. Both engines run this; they differ in which passes they run one by one.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from ..clock import MASK, NEVER, US_PER_MS
from ..contacts import ContactCourse
from ..document import CAUSE_EVENTS, Bench, Scenario, touches
from ..electrics import level_changes
from ..program import Stage, program_of
from .blocking import Blocking
from .clock import Counter, Pass
from .faults import Fault
from .host import BoardHost
from .living import LiveProcessor
from .memory import SUPPLY, Memory
from .sensed import EncoderSlot, ListenSlot, sensed_slots
from .shared import Processor
from .stages import (
    BaseStage,
    ChordStage,
    DriveStage,
    Due,
    FeedStage,
    GuardStage,
    KeepStage,
    MachineStage,
    ReadStage,
    RestartStage,
    ShowStage,
    SignalStage,
    SleepStage,
    StageRunner,
    StandStage,
    TailStage,
    TaskStage,
    TraceStage,
    TurnStage,
    WaitStage,
    YieldStage,
)
from .trace import Kind, Recording
from .upsets import Upsets
from .watchdog import Reset, Watchdog


def _signal(processor: LiveProcessor, blocking: Blocking, ident: str, clock_us: int) -> None:
    """A machine signals the kernel, which may take the processor from the loop for it."""
    blocking.taken_us = processor.signal(ident, clock_us)


def _processor(bench: Bench, working_us: int, length_us: int) -> Processor | LiveProcessor | None:
    """Under a kernel; with tasks that wait for each other it goes along with the run."""
    if bench.firmware.school != "kernel":
        return None
    live = bench.firmware.kernel.between.used
    return LiveProcessor(bench, length_us) if live else Processor(bench, working_us, length_us)


class _Owned(StageRunner):
    """A stage that runs for those that are one owner's, `mine`."""

    def __init__(self, stage: Any, mine: list[Any]) -> None:
        self.stage, self.mine = stage, mine

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        every, self.stage.order = self.stage.order, self.mine
        try:
            return int(self.stage.run(clock_us))
        finally:
            self.stage.order = every


class Firmware:
    """Put together from its parts, each of which knows only what it is given. Times are µs since power-on."""

    def __init__(
        self,
        bench: Bench,
        courses: dict[str, ContactCourse],
        scenario: Scenario,
        seed: int,
        faults: tuple[Fault, ...] = (),
    ) -> None:
        program = self.program = program_of(bench)
        bench, board = program.bench, program.board
        length_us = self.length_us = scenario.length_us
        self.this, self.counter = Pass(), Counter()
        processor = _processor(bench, program.working_us, length_us)
        self.watchdog = Watchdog(program)
        self.upsets = Upsets(scenario)
        self.blocking = Blocking(self.watchdog, self.upsets, processor)
        levels = {
            line.id: level_changes(line, board, courses[line.id], length_us, seed, touches(scenario, line.id))
            for line in bench.contacts
        }
        common = (self.this, self.counter, self.blocking)
        self.reading = ReadStage(program, *common, levels, sensed_slots(program, scenario, seed))
        self.driving = DriveStage(program, *common)
        self.host = BoardHost(
            program, self.this, self.reading.contacts, self.reading.sensed, self.driving.outputs, seed
        )
        self.machines = MachineStage(program, *common, self.host)
        self.memory = Memory(program, self.host.now_is)
        self.watchdog.handler = self.memory.save_in_handler
        self.tasks = TaskStage(program, *common)
        self.showing = ShowStage(program, *common, self.host, self.tasks)
        self.turning = TurnStage(program, *common, self.host)
        self.tracing = TraceStage(program, self.this, self.host, self.tasks)
        self._connect()
        self.beginning = BaseStage(program, self.this, self.blocking, self.reading, self.tasks, faults, length_us)
        self.sleeping = SleepStage(program, *common, self.reading, length_us)
        stages = self._stages()
        self.stages = [stages[stage] for stage in program.stages]
        self.passes = Recording(Kind.PASS)
        self.boots: list[tuple[int, int]] = []
        shared = self._shares()
        self._runs: list[StageRunner] = [
            _Owned(stage, shared[""][stage]) if stage in shared[""] else stage for stage in self.stages
        ]
        if isinstance(processor, LiveProcessor):
            processor.run_loop = self._loop_between
            processor.run_owned = partial(self._owned, shared)
        self._quiet = [stage for stage in self.stages if type(stage).quiet_until is not StageRunner.quiet_until]
        idle_us = program.idle_us
        self.beat_us = processor.beat_us(idle_us) if processor else self.sleeping.beat_us(idle_us)
        self.weight = max(1, program.size // 16)
        self._never_idle = self.watchdog.guards and idle_us > self.watchdog.timeout_us
        self._recordings = [
            *(self.watchdog.blocked, self.watchdog.barks),
            *(processor.recordings if isinstance(processor, LiveProcessor) else ()),
            *(one for stage in (self.memory_stage, *self.stages) for one in stage.recordings),
        ]

    def _connect(self) -> None:
        """What numbers from outside set, and what goes out to modules."""
        host = self.host
        listening: dict[str, ListenSlot] = {}
        for ident, slot in self.reading.sensed.items():
            if isinstance(slot, EncoderSlot):
                slot.counter = self.counter.at
            if isinstance(slot, ListenSlot):
                listening[ident] = slot
                if slot.reading.into is not None:
                    slot.take = partial(self._take, slot.reading.into)

        host.post = partial(self._post, listening)
        if "action" in self.program.bench.firmware.watchdog.places:
            host.feeds = self.watchdog.feed
        processor = self.blocking.processor
        if isinstance(processor, LiveProcessor):
            host.signals = partial(_signal, processor, self.blocking)
        self.watchdog.called = partial(host.tell, ("watchdog-bark", "", ""))

    def _post(self, listening: dict[str, ListenSlot], clock_us: int) -> int:
        """Send what waits in the outbox."""
        for ident, codes in self.host.outbox:
            clock_us = self.tasks.write(clock_us, len(codes), f"serial {ident}")
            if ident in listening:
                listening[ident].told(-(-self.tasks.line.idle_ns // 1000), codes)
        self.host.outbox.clear()
        return clock_us

    def _take(self, variable: str, clock_us: int, number: int) -> None:
        """A number has come for a variable."""
        self.host.clock_us = clock_us
        self.host.put(variable, number)

    def _stages(self) -> dict[Stage, StageRunner]:
        """What runs each stage."""
        program, this, blocking = self.program, self.this, self.blocking
        self.memory_stage = KeepStage(program, this, self.memory, blocking)
        self.chords = ChordStage(program, this, self.reading.contacts)
        return {
            Stage.FEED: FeedStage(self.watchdog),
            Stage.BASE: self.beginning,
            Stage.READ: self.reading,
            Stage.CHORD: self.chords,
            Stage.SIGNAL: SignalStage(program, self.host, blocking),
            Stage.MACHINE: self.machines,
            Stage.TASK: self.tasks,
            Stage.KEEP: self.memory_stage,
            Stage.DRIVE: self.driving,
            Stage.TURN: self.turning,
            Stage.SHOW: self.showing,
            Stage.TRACE: self.tracing,
            Stage.WAIT: WaitStage(this, blocking, program.bench.costs.read, self.length_us),
            Stage.STAND: StandStage(self.machines, self.counter, blocking),
            Stage.TAIL: TailStage(blocking, program.tail_us),
            Stage.GUARD: GuardStage(self.watchdog, self.upsets),
            Stage.RESTART: RestartStage(self.host, program.board.restart_us),
            Stage.SLEEP: self.sleeping,
            Stage.YIELD: YieldStage(blocking),
        }

    def _shares(self) -> dict[str, dict[Any, list[Any]]]:
        """By owner (none: the loop), what of the stages that are shared out is its own."""
        stages = {
            Stage.READ: self.reading, Stage.CHORD: self.chords, Stage.MACHINE: self.machines,
            Stage.DRIVE: self.driving, Stage.TURN: self.turning, Stage.SHOW: self.showing,
        }  # fmt: skip
        owners = {block.owner for block in self.program.blocks if block.owner}
        found: dict[str, dict[Any, list[Any]]] = {owner: {} for owner in ("", *sorted(owners))}
        if not owners:
            return found
        for kind, stage in stages.items():
            blocks = self.program.of(kind)
            for owner, mine in found.items():
                one: Any = stage
                mine[one] = [slot for slot, block in zip(one.order, blocks, strict=True) if block.owner == owner]
        return found

    def _between(self, clock_us: int, runs: Callable[[int], int]) -> int:
        """A pass of its own, in the middle of another."""
        saved, host_us = self.this.saved(), self.host.clock_us
        self.this.begin(clock_us, self.counter.at(clock_us))
        if isinstance(processor := self.blocking.processor, LiveProcessor):
            self.blocking.taken_us = processor.next_us
        clock_us = runs(clock_us)
        self.this.restore(saved)
        self.host.clock_us = host_us
        return clock_us

    def _owned(self, shared: dict[str, dict[Any, list[Any]]], owner: str, clock_us: int) -> int:
        """A task of the kernel reads its inputs, steps its machines, drives its outputs: the instant after it."""

        def run(at_us: int) -> int:
            for stage in self.stages:
                if mine := shared.get(owner, {}).get(stage):
                    at_us = _Owned(stage, mine).run(at_us)
            return at_us

        return self._between(clock_us, run)

    def _loop_between(self, clock_us: int) -> int:
        """A pass of the loop, while a task below it is at its own."""

        def run(at_us: int) -> int:
            for stage in self._runs[:-1]:  # all but the wait for its next turn
                at_us = stage.run(at_us)
            return at_us

        after_us = self._between(clock_us, run)
        self.passes.put_in(clock_us, (after_us - clock_us, 1))
        return after_us

    @property
    def recorded(self) -> dict[tuple[Kind, str], Recording]:
        """What is recorded of outputs, machines and lines of text, by kind and id."""
        found = [one for output in self.driving.order for one in (output.values,)]
        found += [*self.machines.recordings, *self.showing.recordings]
        return {(one.kind, one.of): one for one in found}

    @property
    def changes(self) -> int:
        """How many changes have been recorded so far."""
        return sum(len(one.times_us) for one in self._recordings)

    def go_on_with(self, fresh: Firmware, since_us: int) -> None:
        """From an instant on what is done comes from one that has not begun; before it both have the same."""
        self.length_us = fresh.length_us
        for stage, other in zip(self.stages, fresh.stages, strict=True):
            if hasattr(stage, "length_us"):
                stage.length_us = other.length_us  # type: ignore[attr-defined]
        for contact, new in zip(self.reading.contacts.values(), fresh.reading.contacts.values(), strict=True):
            contact.follow_slot(new, since_us)
        for slot, other_slot in zip(self.reading.sensed.values(), fresh.reading.sensed.values(), strict=True):
            slot.go_on_with(other_slot, since_us)
        self.upsets.go_on_with(fresh.upsets, since_us)
        self.beginning.go_on_with(fresh.beginning)

    def boot(self, reset: Reset, counter_start_ms: int) -> int:
        """Start up and set up after a reset, the first of which is that power is switched on; answers when the first
        pass begins. Every pin floats meanwhile."""
        board, watchdog, began_us = self.program.board, self.watchdog, reset.at_us
        takes_us = board.start_up_us + board.set_up_us
        floats_us = began_us + reset.off_us  # every pin, whatever else befalls the board before it has started
        left_on = False  # a watchdog that reset the board stays on until set-up, whatever else resets it, or no supply
        while True:
            if reset.cause in SUPPLY:
                watchdog.marked = False
            self.memory.forget(reset.cause)
            at_us = reset.at_us + reset.off_us
            left_on = reset.cause == "watchdog" or (left_on and reset.cause not in SUPPLY)
            if left_on:
                at_us = watchdog.bites_again(at_us, takes_us, self.length_us, self.upsets.next_us)
            if self.upsets.next_us >= at_us + takes_us:
                break
            reset = self.upsets.take()  # before it had started
            watchdog.resets.add(reset.at_us, reset.cause)
        cause = reset.cause
        watchdog.switch_off()
        for unit in (self.driving, self.machines, self.reading):
            unit.reset(floats_us)
        self.counter.zero_us = at_us + board.start_up_us
        self.counter.start_ms = counter_start_ms
        ready_us = self.counter.zero_us + board.set_up_us
        self.boots.append((began_us, ready_us))
        now_ms = self.counter.at(ready_us)
        self.this.begin(ready_us, now_ms)
        self._set_up(ready_us, now_ms, cause)
        ready_us += self.program.displays_us  # the last that set-up does
        watchdog.feed(ready_us)
        watchdog.marked = False
        if processor := self.blocking.processor:
            self.blocking.taken_us = processor.begin(ready_us)
            ready_us = self.blocking.give_way(ready_us)
        return ready_us

    def _set_up(self, ready_us: int, now_ms: int, cause: str) -> None:
        """What set-up does: outputs as they rest, inputs as they begin, machines in their first states."""
        units = (
            self.beginning,
            self.driving,
            self.memory_stage,
            self.tasks,
            self.turning,
            self.showing,
            self.chords,
            self.reading,
        )
        for unit in units:
            unit.begin(ready_us, now_ms)
        self.machines.enter(ready_us, now_ms, self.memory.remembered)
        self.memory.begun()
        self.host.tell(("boot", "", ""))
        if known := self.watchdog.taken_for(cause):
            self.host.tell((CAUSE_EVENTS[known], "", ""))
        self.sleeping.begin(ready_us, now_ms)
        self.tracing.begin(ready_us, now_ms)

    def one_pass(self, start_us: int) -> int:
        """Run the pass that begins at `start_us`; answers when the next one begins. Raises `Reset`."""
        self.this.begin(start_us, self.counter.at(start_us))
        clock_us = start_us
        for stage in self._runs:
            clock_us = stage.run(clock_us)
        if clock_us > self.upsets.next_us:
            self.upsets.come()
        # Until a pin wakes it there is nothing to read: that is not a long pass.
        took_us = clock_us - start_us - self.sleeping.pin_us
        if self.passes.times_us and self.passes.times_us[-1] > start_us:  # others came between
            self.passes.put_in(start_us, (took_us, 1))
        else:
            self.passes.add_passes(start_us, took_us, 1)
        return clock_us

    def idle_passes(self, start_us: int, end_us: int) -> int:
        """How many passes from the one that begins at `start_us`, none beginning at or after `end_us`, are certain
        to change nothing; 0 where that cannot be told."""
        if self._never_idle:
            return 0
        horizon_us = end_us
        if self.blocking.processor is not None:  # as long as nobody takes the processor
            horizon_us = min(horizon_us, self.blocking.taken_us - self.beat_us)
            if isinstance(self.blocking.processor, LiveProcessor):  # nobody else has anything to do
                horizon_us = min(horizon_us, self.blocking.processor.idle_until_us - self.beat_us)
        if not self.watchdog.fed:  # nothing feeds it in an idle pass
            horizon_us = min(horizon_us, self.watchdog.bites_us - self.beat_us + 1)
        if horizon_us <= start_us:
            return 0
        beat_us, upset_us = self.beat_us, self.upsets.next_us
        if upset_us - beat_us < horizon_us:  # compared by hand: this runs between any two passes
            horizon_us = upset_us - beat_us + 1
        dues: list[Due] = []
        for stage in self._quiet:
            horizon_us = stage.quiet_until(start_us, horizon_us, dues)
            if horizon_us <= start_us:
                return 0
        if dues and self.beginning.frozen_ms is None:
            zero_us = self.counter.zero_us
            ticks = (start_us - zero_us) // US_PER_MS
            now_ms, least_ms = self.counter.start_ms + ticks, NEVER
            for since_ms, wait_ms in dues:
                left_ms = wait_ms - ((now_ms - since_ms) & MASK)
                if left_ms < least_ms:
                    least_ms = left_ms
            due_us = zero_us + (ticks + least_ms if least_ms > 0 else ticks) * US_PER_MS
            if due_us < horizon_us:
                horizon_us = due_us
        return -((start_us - horizon_us) // beat_us) if horizon_us > start_us else 0

    def skip(self, start_us: int, count: int) -> int:
        """Take `count` idle passes as run; answers when the next one begins."""
        self.passes.add_passes(start_us, self.beat_us, count)
        next_us = start_us + count * self.beat_us
        if self.watchdog.fed:
            self.watchdog.go_on(next_us)
        return next_us

    def followed_until(self, length_us: int) -> int:
        """Until when the run can go: to its end, or as long as the kernel is followed."""
        processor = self.blocking.processor
        return length_us if processor is None else min(length_us, processor.zero_us + processor.until_us)

    def cut_off(self, reset: Reset) -> None:
        """The board resets inside the last pass: what was recorded for later never happened."""
        for one in self._recordings:
            one.forget_after(reset.at_us)
        began_us = self.this.started_us
        self.passes.add_passes(began_us, reset.at_us - began_us, 1)
        self.watchdog.resets.add(reset.at_us, reset.cause)
        self.beginning.end_by_reset(reset.at_us)
