"""Contacts and other inputs are read in list order, and cleaned."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ...debounce import PRESS, RELEASE
from ...document import ContactLine
from ...gestures import GESTURES, Recogniser
from ...program import Program, Stage
from ..blocking import Blocking
from ..clock import Counter, Pass
from ..sensed import SensedSlot
from ..slots import InputSlot
from ..trace import Recording
from .base import Due, StageRunner


def _slot(program: Program, number: int, line: ContactLine, levels: Iterator[tuple[int, int]]) -> InputSlot:
    slot = InputSlot(number, line, program.bench.debounce(line.id), levels)
    slot.latency_us = program.board.interrupt_latency_us
    if wanted := program.gestures.get(line.id):
        slot.gestures = Recogniser(wanted)
        slot.gesture_keys = {kind: program.keys[kind, line.id, ""] for kind in GESTURES}
    return slot


class ReadStage(StageRunner):
    """`contacts` by id, in list order; `sensed` the other inputs by id; `order` all of them as a pass reads them."""

    def __init__(
        self,
        program: Program,
        this: Pass,
        counter: Counter,
        blocking: Blocking,
        levels: dict[str, Iterator[tuple[int, int]]],
        sensed: dict[str, SensedSlot],
    ) -> None:
        lines = program.bench.contacts
        self.this, self.counter, self.blocking = this, counter, blocking
        self.contacts = {line.id: _slot(program, number, line, levels[line.id]) for number, line in enumerate(lines)}
        self.one_handler = [slot for slot in self.contacts.values() if slot.one_handler]
        self.sensed = sensed
        self.order: list[InputSlot | SensedSlot] = []
        for block in program.of(Stage.READ):
            if isinstance(block.subject, ContactLine):
                self.order.append(self.contacts[block.of])
            else:
                sensed[block.of].idle_us = block.takes_us
                self.order.append(sensed[block.of])
        self.read_us = program.bench.costs.read
        self.before_us = sum(block.takes_us for block in program.of(Stage.BASE))  # from a pass's beginning to here

    def reset(self, at_us: int) -> None:
        """Power is switched on, or the board resets: nothing is accepted."""
        for slot in self.contacts.values():
            slot.reset()
            slot.cleaned.add(at_us, None)

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        common: dict[str, Any] = {}
        for slot in self.contacts.values():
            slot.cleaned.add(ready_us, 0)
            slot.stepper.join(common)
            if slot.interrupts:
                slot.catch_up(ready_us)  # edges before set-up call nothing
                slot.counter = self.counter.at
        for sensed in self.sensed.values():
            sensed.begin(ready_us, now_ms)

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        this, blocking, read_us = self.this, self.blocking, self.read_us
        now_ms, events = this.now_ms, this.events
        for slot in self.order:
            if clock_us >= blocking.taken_us:
                clock_us = blocking.give_way(clock_us)
            if type(slot) is not InputSlot:
                clock_us = slot.read(clock_us, now_ms, events)
                continue
            clock_us += read_us
            if slot.rests and slot.next_us > clock_us:
                continue
            if slot.one_handler:
                self._call_the_handler(clock_us)
            if slot.next_us <= clock_us:
                slot.catch_up(clock_us)
            if slot.level != slot.reading:
                slot.reading = slot.level
                slot.readings.add(clock_us, slot.level)
            edge = 0
            if slot.let_go:
                slot.let_go = False
                edge = RELEASE
            elif slot.press_pending:
                slot.press_pending, slot.let_go = False, True
                edge = PRESS
            else:
                if slot.looks and slot.reading == slot.active:
                    clock_us = self._look_again(slot, clock_us)
                edge = slot.stepper.step(now_ms, slot.reading == slot.active)
                if edge and slot.acts_late:
                    this.waits.append(slot)
                    edge = 0
            if edge:
                self._edge(slot, edge, clock_us)
            if slot.gestures is not None:
                for kind in slot.gestures.step(now_ms, edge):
                    slot.events.add(clock_us, kind)
                    events.append(slot.gesture_keys[kind])
        return clock_us

    def _call_the_handler(self, clock_us: int) -> None:
        """Edges of the pins that have one handler call it in their order, whichever pin is read now."""
        while (first := min(self.one_handler, key=lambda slot: slot.next_us)).next_us <= clock_us:
            first.take_one()

    def _edge(self, slot: InputSlot, edge: int, clock_us: int) -> None:
        """A contact is accepted pressed, or let go."""
        this, pressed = self.this, edge == PRESS
        slot.down = pressed
        slot.cleaned.add(clock_us, 1 if pressed else 0)
        slot.events.add(clock_us, "press" if pressed else "release")
        this.events.append(slot.key if pressed else slot.key + 1)
        if (slot.wait_us and not slot.looks) or (slot.looks and pressed and not slot.acts_late):
            this.waits.append(slot)
        this.edges[slot.cleaned.of] = edge

    def _look_again(self, slot: InputSlot, clock_us: int) -> int:
        """Stand still for the interval and read again: the instant after it."""
        clock_us = self.blocking.hold(clock_us, slot.wait_us, f"debounce {slot.cleaned.of}") + self.read_us
        slot.catch_up(clock_us)
        if slot.level != slot.reading:
            slot.reading = slot.level
            slot.readings.add(clock_us, slot.level)
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`."""
        offset_us = self.before_us
        for slot in self.order:
            if type(slot) is not InputSlot:
                quiet_us = slot.quiet_before(offset_us)
                if quiet_us < horizon_us:  # compared by hand: this runs between any two passes
                    if quiet_us <= start_us:
                        return start_us
                    horizon_us = quiet_us
                offset_us += slot.idle_us
                if due := slot.due():
                    dues.append(due)
                continue
            offset_us += self.read_us
            if slot.rests:
                if slot.next_us - offset_us < horizon_us:
                    horizon_us = slot.next_us - offset_us
                    if horizon_us <= start_us:
                        return start_us
                continue
            if (
                slot.reading < 0
                or slot.reading != slot.level
                or slot.let_go
                or slot.press_pending
                or (slot.looks and slot.reading == slot.active)
            ):
                return start_us
            # The first sample at or after the change is the first that can see it.
            if slot.next_us - offset_us < horizon_us:
                horizon_us = slot.next_us - offset_us
                if horizon_us <= start_us:
                    return start_us
            slot.rests = slot.alone  # as if its passes were idle: `due` answers for the steps that are left out
            if due := slot.stepper.due():
                slot.rests = False
                dues.append(due)
            if slot.gestures is not None and (due := slot.gestures.due()):
                slot.rests = False
                dues.append(due)
        return horizon_us

    def catch_up(self, end_us: int) -> None:
        """Take what has happened at the pins up to an instant."""
        for slot in self.contacts.values():
            slot.catch_up(end_us)
        for sensed in self.sensed.values():
            sensed.catch_up(end_us)

    @property
    def recordings(self) -> list[Recording]:
        """See `StageRunner.recordings`."""
        found = [one for slot in self.contacts.values() for one in (slot.readings, slot.cleaned, slot.events)]
        return found + [one for sensed in self.sensed.values() for one in sensed.recordings]
