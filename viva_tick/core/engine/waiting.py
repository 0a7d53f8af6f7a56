"""Where a pass stands and waits: a look again at a contact, a drive kept with delays, a state's time, sleep."""

from __future__ import annotations

from ..clock import MASK, US_PER_MS
from ..drives.steady import SteadyCourse
from .guarding import NEVER
from .sensed import SensedSlot
from .sensed.encoder import EncoderSlot
from .slots import InputSlot, OutputSlot
from .working import WorkingBoard


class WaitingBoard(WorkingBoard):
    """`read_us` is what a reading costs; `sleep_us` how long it sleeps after a pass, 0 for not at all; `stands`: the
    counter stands still meanwhile."""

    read_us: int
    sleep_us: int
    stands: bool
    by_tick: bool
    outputs: list[OutputSlot]
    inputs: list[InputSlot]
    sensed: dict[str, SensedSlot]
    awake_ms: int
    pin_us: int
    woke_ms: int
    moves_seen: int

    def until_a_pin(self, clock_us: int) -> int:
        """How long it sleeps now, where a pin wakes it: not before nothing has moved for a while."""
        self.note_moves(clock_us)
        if (self.now_ms - self.woke_ms) & MASK < self.awake_ms:
            return 0
        return max(min(self.next_move_us, self.length_us) - clock_us, 0)

    @property
    def encoders(self) -> list[EncoderSlot]:
        """Those that are read."""
        return [slot for slot in self.sensed.values() if isinstance(slot, EncoderSlot)]

    @property
    def next_move_us(self) -> int:
        """When a pin of a contact or an encoder next changes."""
        return min([*(slot.next_us for slot in self.inputs), *(one.next_us for one in self.encoders)], default=NEVER)

    def note_moves(self, clock_us: int) -> None:
        """Whether a pin has changed: then it stays awake for a while."""
        for slot in self.inputs:
            slot.catch_up(clock_us)
        encoders = self.encoders
        for encoder in encoders:
            encoder.catch_up(clock_us)
        moves = sum(len(slot.levels.times_us) for slot in self.inputs) + sum(one.moves for one in encoders)
        if moves != self.moves_seen:
            self.moves_seen, self.woke_ms = moves, self.now_ms

    def rest(self, clock_us: int) -> int:
        """Asleep, or until the loop's next turn: when the next pass begins."""
        if self.sleep_us or self.awake_ms:
            self.pin_us = self.until_a_pin(clock_us) if self.awake_ms else 0
            asleep_us = self.sleep_us or self.pin_us
            if self.by_tick:  # it ends as the counter counts
                asleep_us -= (clock_us - self.counter_zero_us) % US_PER_MS
            if asleep_us:
                clock_us += asleep_us
                self.begin_anew(clock_us)  # asleep, nothing feeds it: it is off, or wakes the board
                if self.stands:
                    self.counter_zero_us += asleep_us
        return self.give_way(self.processor.next_pass(clock_us)) if self.processor else clock_us

    def stand_by(self, output: OutputSlot, clock_us: int, now_ms: int) -> int:
        """Run a drive that holds the pass, to its end: the instant after it. Interlocked, it waits its turn."""
        course = output.pending
        if course is None or (output.rivals and not output.level and output.rival_holds(now_ms)):
            return clock_us
        output.pending = None
        if course.hz != output.hz:
            output.hz = course.hz
            output.pitch.add(clock_us, output.hz)
        for level, us in course.waits:
            if level != output.level:
                output.put(level, clock_us, self.counter(clock_us))
            clock_us = self.held_up(clock_us, us, f"drive {output.id}")
        level = course.update(now_ms)
        if level != output.level:
            output.put(level, clock_us, self.counter(clock_us))
        output.course = SteadyCourse(level)
        if course.again:  # and so on, in the next pass
            output.pending = course
        output.changed_ms = self.counter(clock_us)  # a dead time is counted from when the loop goes on
        output.ever = True
        return clock_us

    def second_look(self, slot: InputSlot, clock_us: int) -> tuple[int, int]:
        """Stand still for the interval and read again: the instant after it, and what was read."""
        clock_us = self.held_up(clock_us, slot.wait_us, f"debounce {slot.cleaned.of}") + self.read_us
        slot.catch_up(clock_us)
        if slot.level != slot.reading:
            slot.reading = slot.level
            slot.readings.add(clock_us, slot.level)
        return clock_us, slot.level

    def until_let_go(self, slot: InputSlot, clock_us: int) -> int:
        """Stand still until the contact is let go and the interval after it; the release is an event of the pass that
        follows."""
        what = f"debounce {slot.cleaned.of}"
        poll_us = max(self.read_us, 1)
        pressed = True
        while pressed:
            while pressed and clock_us < self.length_us:
                # It reads over and over; only the first reading after a change can differ.
                ahead_us = min(slot.next_us, self.length_us) - clock_us
                clock_us = self.held_up(clock_us, max(-(-ahead_us // poll_us), 1) * poll_us, what)
                slot.catch_up(clock_us)
                pressed = slot.level == slot.active
            if not slot.both_edges:
                break
            clock_us = self.held_up(clock_us, slot.wait_us, what) + self.read_us
            slot.catch_up(clock_us)
            pressed = slot.level == slot.active and clock_us < self.length_us
        if slot.level != slot.reading:
            slot.reading = slot.level
            slot.readings.add(clock_us, slot.level)
        slot.stepper.believed = False
        slot.let_go, slot.owed = not slot.acts_late, slot.acts_late
        return clock_us

    def stand_for_machines(self, clock_us: int) -> int:
        """Kept with delays: a state's time is stood out in it, before anything else is looked at; not where a blink
        that goes on holds each pass already."""
        if any(output.pending is not None and output.pending.again for output in self.outputs):
            return clock_us
        for mslot in self.machines:
            running = mslot.running
            if running.machine.waits[running.state]:
                left_ms = [
                    wait_ms - (self.counter(clock_us) - since_ms & MASK)
                    for since_ms, wait_ms, way in running.waiting()
                    if not way.guards
                ]
                if left_ms and min(left_ms) > 0:
                    clock_us = self.held_up(clock_us, min(left_ms) * US_PER_MS, f"machine {mslot.id}")
        return clock_us
