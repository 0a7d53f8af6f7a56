"""The firmware model: what it is made of, boot, one pass.

A pass runs its blocks in order, each with its cost: read the inputs in list order, step the machines in list
order, run the tasks that are due, update the drives, wait where a debounce method blocks, tail delay. The
millisecond counter is read once, as the pass begins. Both engines run this class; they differ in which passes
they run one by one.
"""

from __future__ import annotations

from functools import partial
from typing import Any

from ..clock import MASK, US_PER_MS, as_kept, until_wait
from ..contacts import ContactCourse
from ..debounce import PRESS, RELEASE
from ..document import AlwaysEvent, Bench, ContactLine, Gestures, Scenario, Timekeeping, TimeoutEvent
from ..drives import OFF
from ..electrics import level_changes
from ..gestures import GESTURES, Recogniser, chords_wanted, wanted_by
from ..machines import Dice, EventName, RunningMachine, compile_machine, event_keys, heard_by
from .costs import idle_pass_us, working_pass_us
from .faults import Fault
from .guarding import NEVER, Reset
from .idling import IdlingBoard
from .sensed import SensedSlot, sensed_slot
from .sensed.measure import MeasureSlot
from .shared import Processor
from .slots import ChordSlot, InputSlot, MachineSlot, OutputSlot
from .tasks import SerialOut, TaskSlot
from .trace import Kind, Tape


def _order(bench: Bench, contacts: list[InputSlot], sensed: dict[str, SensedSlot]) -> list[InputSlot | SensedSlot]:
    """The slots in the order in which a pass reads them."""
    waiting = iter(contacts)
    return [next(waiting) if isinstance(one, ContactLine) else sensed[one.id] for one in bench.readers]


def _as_timed(keeping: Timekeeping, int_bits: int, since_ms: int, wait_ms: int) -> int:
    """A machine's wait, as it comes out in a firmware that keeps time so."""
    wait_ms = as_kept(wait_ms, keeping.product == "int", int_bits)
    return until_wait(since_ms, wait_ms) if keeping.compares == "until" else wait_ms


def looks_around(bench: Bench) -> bool:
    """Whether a machine looks at what another changes, so that the pass after a change may be one in which it moves."""
    ways = [way for machine in bench.firmware.machines for way in machine.transitions]
    return any(
        way.guards or isinstance(way.on, AlwaysEvent) or (isinstance(way.on, TimeoutEvent) and way.on.variable)
        for way in ways
    )


class Firmware(IdlingBoard):
    """The state of a board that runs a bench's firmware. Times are µs since power-on."""

    def __init__(
        self,
        bench: Bench,
        courses: dict[str, ContactCourse],
        scenario: Scenario,
        seed: int,
        fault: Fault | None = None,
    ) -> None:
        length_us = scenario.length_us
        board = bench.the_board
        costs = bench.costs
        firmware = bench.firmware
        self.board = board
        self.inputs = [
            InputSlot(
                number, part, bench.debounce(part.id), level_changes(part, board, courses[part.id], length_us, seed)
            )
            for number, part in enumerate(bench.contacts)
        ]
        keys = event_keys(bench)
        self.sensed = {
            part.id: found for at, part in bench.sensed if (found := sensed_slot(bench, at, part, keys, scenario, seed))
        }
        broken = self.sensed.get(fault.of) if fault and fault.kind == "off" else None
        if isinstance(broken, MeasureSlot) and fault:
            broken.off_us = fault.at_us
        self.order = _order(bench, self.inputs, self.sensed)
        by_id = self.by_id = {slot.cleaned.of: slot for slot in self.inputs}
        for ident, wanted in wanted_by(bench).items():
            by_id[ident].gestures = Recogniser(wanted)
            by_id[ident].gesture_keys = {kind: keys[kind, ident, ""] for kind in GESTURES}
        self.chords = [
            ChordSlot(
                keys["chord", one, other],
                (by_id[one], by_id[other]),
                bench.firmware.gestures.get(one, Gestures()).together_us // US_PER_MS,
            )
            for one, other in chords_wanted(bench)
        ]
        heard = heard_by(bench)
        self.machines = [
            MachineSlot(
                RunningMachine(compile_machine(machine, keys), self), tuple(keys[name] for name in heard[machine.id])
            )
            for machine in firmware.machines
        ]
        self.listeners: dict[EventName, list[tuple[MachineSlot, int]]] = {}
        for mslot in self.machines:
            for name in heard[mslot.id]:
                self.listeners.setdefault(name, []).append((mslot, keys[name]))
        self.by_machine = {one.id: one for one in self.machines}
        self.around = {
            (machine.id, state.id): state.inside for machine in firmware.machines for state in machine.states
        }
        self.lively = looks_around(bench)
        self.stirred = True
        self.variables = {one.id: one for one in firmware.variables}
        self.held = {one.id: one.begins for one in firmware.variables}
        self.numbers = {one.id: Tape(Kind.VALUE, one.id) for one in firmware.variables}
        self.seed, self.serial = seed, firmware.serial
        self.now_ms = self.clock_us = 0
        keeping = firmware.timekeeping
        slots = [TaskSlot(task, keeping, board.int_bits) for task in firmware.tasks]
        self.job_tapes = [slot.jobs for slot in slots]
        self.tasks = sorted(slots, key=lambda slot: -next(t.priority for t in firmware.tasks if t.id == slot.id))
        if keeping.compares == "until" or keeping.product == "int":
            for mslot in self.machines:
                mslot.running.as_timed = partial(_as_timed, keeping, board.int_bits)
        limits = {ident: limit.longest_us // US_PER_MS for ident, limit in firmware.limits.items()}
        self.outputs = [OutputSlot(part, limits.get(part.id, 0)) for part in bench.channels]
        self.by_output = {slot.id: slot for slot in self.outputs}
        for lock in firmware.interlocks:
            one, other = self.by_output[lock.one], self.by_output[lock.other]
            one.lock_with(other, lock.dead_us // US_PER_MS)
            other.lock_with(one, lock.dead_us // US_PER_MS)
        self.passes = Tape(Kind.PASS)
        self.guard(bench)
        self.pass_us, self.read_us, self.step_us = costs.base, costs.read, costs.step
        self.task_us, self.drive_us = costs.task, costs.drive
        self.tail_us = firmware.loop.tail_delay_us
        sleep = firmware.sleep
        self.woke_ms = self.moves_seen = 0
        self.sleep_us = 0
        if sleep:
            by_watchdog = sleep.wakes == "watchdog"
            self.sleep_us = board.watchdog_step_us(sleep.each_us) if by_watchdog else sleep.each_us
        self.pin_us = 0  # asleep until a pin, in the pass that has just been
        self.awake_ms = sleep.awake_us // US_PER_MS if sleep and sleep.wakes == "pin" else 0
        self.stands = bool(sleep and sleep.stands)  # the counter stands still meanwhile
        self.delays = firmware.school == "delays"
        self.processor: Processor | None = None
        if firmware.school == "kernel":
            self.processor = Processor(bench, working_pass_us(bench), length_us)
            self.tasks = []
        self.taken_us = NEVER
        self.fault = fault
        self.fault_us = fault.at_us if fault and fault.kind not in ("closed", "off", "welded") else NEVER
        self.frozen: int | None = None
        self.idle_us = idle_pass_us(bench)
        self.length_us = length_us
        self.disturbed = self.processor is not None or fault is not None or (self.guarded and not self.fed)
        self.lingers = self.delays or self.tail_us > 0
        self.rests = sleep is not None or self.processor is not None
        too_long = self.guarded and self.idle_us > self.timeout_us
        self.never_idle = (self.stands and not self.awake_ms) or too_long
        self.by_tick = bool(sleep and sleep.wakes == "timer" and self.processor is None)
        self.beat_us = self.processor.beat_us(self.idle_us) if self.processor else self.idle_us
        if self.by_tick:  # it wakes as the counter counts
            self.beat_us = ((self.idle_us - self.sleep_us) // US_PER_MS + self.sleep_us // US_PER_MS) * US_PER_MS
        for slot in self.inputs:
            slot.latency_us = board.interrupt_latency_us
        self._tapes = [self.blocked, self.barks, self.writes, *self.job_tapes, *self.numbers.values()]
        for mslot in self.machines:
            self._tapes += [mslot.states, mslot.ways]
        for output in self.outputs:
            self._tapes += [output.values, output.duty, output.pitch, output.cuts]
        for slot in self.inputs:
            self._tapes += [slot.readings, slot.cleaned, slot.events]
        for sensed in self.sensed.values():
            self._tapes += sensed.tapes
        self.boots: list[tuple[int, int]] = []
        self.pass_started_us = 0
        self.counter_zero_us = 0
        self.counter_start = 0

    @property
    def changes(self) -> int:
        """How many changes have been recorded so far."""
        return sum(len(tape.times_us) for tape in self._tapes)

    def counter(self, at_us: int) -> int:
        """The millisecond counter at an instant."""
        return (self.counter_start + (at_us - self.counter_zero_us) // US_PER_MS) & MASK

    def boot(self, at_us: int, counter_start_ms: int, cause: str = "") -> int:
        """Start up and set up from `at_us`; answers when the first pass begins. Every pin floats meanwhile. `cause` is
        that of the reset; none: power was switched on."""
        self.forget(cause)
        self.barked = False
        self.frozen = None
        self.bites_us = NEVER
        began_us = at_us
        for output in self.outputs:
            if not output.values.values or output.values.values[-1] != output.unset:
                output.values.add(at_us, output.unset)
        for machine in self.machines:
            machine.states.add(at_us, None)
        for slot in self.inputs:
            slot.reset()
            slot.cleaned.add(at_us, None)
        if cause == "watchdog":
            # Not turned off, it bites again before set-up is done, and again.
            while self.stays_on_us < self.board.start_up_us + self.board.set_up_us and at_us < self.length_us:
                at_us += self.stays_on_us
                self.resets.add(at_us, "watchdog")
        self.counter_zero_us = at_us + self.board.start_up_us
        self.counter_start = counter_start_ms
        ready_us = self.counter_zero_us + self.board.set_up_us
        self.boots.append((began_us, ready_us))
        now_ms = self.counter(ready_us)
        for output in self.outputs:
            output.level = OFF
        for output in self.outputs:
            output.begin(now_ms)
            if output.unset != (1 if output.level else 0):  # otherwise it is as it was held until now
                output.values.add(ready_us, 1 if output.level else 0)
        self.now_ms = now_ms
        self.written_ms = dict.fromkeys(self.kept_bytes, now_ms)
        self.dice = Dice(self.seed)  # a reset begins the row of chance anew
        self.line = SerialOut(self.serial)  # what was in its buffer is lost
        self.clock_us = ready_us
        self.stirred = True
        for ident, variable in self.variables.items():
            value = self.remembered(ident) if self.keeps else None
            self.held[ident] = variable.begins if value is None else variable.held(value)
            self.numbers[ident].add(ready_us, self.held[ident])
        for machine in self.machines:
            machine.waiting.clear()
        for machine in self.machines:
            machine.running.begin(now_ms, self.remembered(machine.id) if self.keeps else None)
        for keep in self.keeps:  # what is there already is not written
            self.kept.setdefault((keep.where, keep.of), self.now_is(keep.of))
        self.tell(("boot", "", ""))
        if cause == "watchdog" and (self.marked if self.by_mark else self.flag_lives):
            self.tell(("watchdog-reset", "", ""))
        for task in self.tasks:
            task.begin(now_ms)
        common: dict[str, Any] = {}
        for chord in self.chords:
            chord.reset()
        for slot in self.inputs:
            slot.cleaned.add(ready_us, 0)
            slot.stepper.join(common)
            if slot.interrupts:
                slot.catch_up(ready_us)  # edges before set-up call nothing
                slot.counter = self.counter
        for sensed in self.sensed.values():
            sensed.begin(ready_us, now_ms)
        self.feed(ready_us)
        self.marked = False
        if self.awake_ms:
            self.moves_seen = -1
            self.note_moves(ready_us)
        if self.processor:
            self.taken_us = self.processor.begin(ready_us)
            ready_us = self.give_way(ready_us)
        return ready_us

    def one_pass(self, start_us: int) -> int:
        """Run the pass that begins at `start_us`; answers when the next one begins. Raises `Reset`."""
        now_ms = (self.counter_start + (start_us - self.counter_zero_us) // US_PER_MS) & MASK
        self.pass_started_us = start_us
        if self.feed_at_start:
            self.feed(start_us)
        clock_us = start_us + self.pass_us
        if self.fault is not None:
            if start_us >= self.fault_us:
                clock_us = self.go_wrong(clock_us, now_ms)
            if self.frozen is not None:
                now_ms = self.frozen
        events: list[int] = []
        waits: list[InputSlot] = []
        edges: dict[str, int] = {}
        taken_us, read_us = self.taken_us, self.read_us
        for slot in self.order:
            if clock_us >= taken_us:
                clock_us = self.give_way(clock_us)
                taken_us = self.taken_us
            if type(slot) is not InputSlot:
                clock_us = slot.read(clock_us, now_ms, events)
                continue
            clock_us += read_us
            if slot.next_us <= clock_us:
                slot.catch_up(clock_us)
            reading = slot.level
            if reading != slot.reading:
                slot.reading = reading
                slot.readings.add(clock_us, reading)
            if slot.let_go:
                slot.let_go = False
                edge = RELEASE
            elif slot.owed:
                slot.owed, slot.let_go = False, True
                edge = PRESS
            else:
                if slot.looks and reading == slot.active:
                    clock_us, reading = self.second_look(slot, clock_us)
                edge = slot.stepper.step(now_ms, reading == slot.active)
                if edge and slot.acts_late:
                    waits.append(slot)
                    edge = 0
            if edge:
                pressed = edge == PRESS
                slot.down = pressed
                slot.cleaned.add(clock_us, 1 if pressed else 0)
                slot.events.add(clock_us, "press" if pressed else "release")
                events.append(slot.key if pressed else slot.key + 1)
                if (slot.wait_us and not slot.looks) or (slot.looks and pressed and not slot.acts_late):
                    waits.append(slot)
                edges[slot.cleaned.of] = edge
            if slot.gestures is not None:
                for kind in slot.gestures.step(now_ms, edge):
                    slot.events.add(clock_us, kind)
                    events.append(slot.gesture_keys[kind])
        for chord in self.chords:
            if chord.step(now_ms, (edges.get(chord.of[0], 0), edges.get(chord.of[1], 0))):
                chord.slots[0].events.add(clock_us, f"chord {chord.of[1]}")
                events.append(chord.key)
        self.now_ms = now_ms
        self.stirred = False
        step_us, drive_us = self.step_us, self.drive_us
        taken_us = self.taken_us  # a look again at a contact may have given it away
        for mslot in self.machines:
            clock_us += step_us
            if clock_us >= taken_us:
                clock_us = self.give_way(clock_us)
                taken_us = self.taken_us
            running = mslot.running
            if events or mslot.waiting or running.machine.moves[running.state]:
                self.clock_us = clock_us
                mslot.step(events, now_ms)
        for task in self.tasks:
            clock_us += self.task_us
            if task.left_us or task.letters or task.due(now_ms):
                clock_us = self.job(task, clock_us, now_ms)
        if self.keeps_late:
            clock_us = self.save_all(clock_us)
        taken_us = self.taken_us
        for output in self.outputs:
            clock_us += drive_us
            if clock_us >= taken_us:
                clock_us = self.give_way(clock_us)
                taken_us = self.taken_us
            if output.pending is not None:
                if output.pending.waits:
                    clock_us = self.stand_by(output, clock_us, now_ms)
                    taken_us = self.taken_us
                    continue
                output.course, output.pending = output.pending, None
                output.spent = False
                level = output.course.begin(now_ms)
                if output.course.hz != output.hz:
                    output.hz = output.course.hz
                    output.pitch.add(clock_us, output.hz)
            elif output.course.still and not output.guarded:
                continue
            else:
                level = output.course.update(now_ms)
            if output.guarded:
                level, cut = output.allowed(level, now_ms)
                if cut != output.cut:
                    output.cut = cut
                    output.cuts.add(clock_us, cut)
            if level != output.level:
                output.put(level, clock_us, now_ms)
        for slot in waits:
            if slot.looks:
                clock_us = self.until_let_go(slot, clock_us)
            else:
                clock_us = self.held_up(clock_us, slot.wait_us, f"debounce {slot.cleaned.of}")
        if self.lingers:
            if self.delays:
                clock_us = self.stand_for_machines(clock_us)
            clock_us += self.tail_us
            if self.feed_in_waits and self.tail_us:
                self.feed(clock_us)
        if clock_us > self.bites_us:
            clock_us = self.bitten(clock_us, clock_us, "")
        if self.feed_at_end:
            self.bites_us = clock_us + self.timeout_us
            self.barked = False
            self.marked = self.mode == "reset"
        if self.rests:
            clock_us = self.rest(clock_us)
        # Until a pin wakes it there is nothing to read: that is not a long pass.
        self.passes.add_passes(start_us, clock_us - start_us - self.pin_us, 1)
        return clock_us

    def cut_off(self, reset: Reset) -> None:
        """The board resets inside the last pass: what was recorded for later never happened."""
        at_us = reset.at_us
        for tape in self._tapes:
            while tape.times_us and tape.times_us[-1] > at_us:
                tape.times_us.pop()
                tape.values.pop()
        self.passes.add_passes(self.pass_started_us, at_us - self.pass_started_us, 1)
        self.resets.add(at_us, reset.cause)
        if self.fault and self.fault.kind == "starve":
            self.fault_us = NEVER  # what was in the firmware is over
