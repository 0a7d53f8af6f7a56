"""The machines step in list order, each against all that the pass has seen."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from ...clock import MASK, US_PER_MS, as_kept, until_wait
from ...document import Timekeeping
from ...machines import RunningMachine
from ...program import Program, Stage
from ..blocking import Blocking
from ..clock import Counter, Pass
from ..host import BoardHost
from ..slots import MachineSlot
from ..trace import Recording
from .base import Due, StageRunner


def _as_timed(keeping: Timekeeping, int_bits: int, since_ms: int, wait_ms: int) -> int:
    """A machine's wait, as it comes out in a firmware that keeps time so."""
    wait_ms = as_kept(wait_ms, keeping.product == "int", int_bits)
    return until_wait(since_ms, wait_ms) if keeping.compares == "until" else wait_ms


class MachineStage(StageRunner):
    """`machines` by id, in list order; `host` is what they ask of the board."""

    def __init__(self, program: Program, this: Pass, counter: Counter, blocking: Blocking, host: BoardHost) -> None:
        self.this, self.counter, self.blocking, self.host = this, counter, blocking, host
        self.machines: dict[str, MachineSlot] = {}
        self.step_us = program.bench.costs.step
        keys = program.keys
        keeping = program.timekeeping
        for block in program.of(Stage.MACHINE):
            running = RunningMachine(program.machines[block.of], host)
            if keeping.compares == "until" or keeping.product == "int":
                running.as_timed = partial(_as_timed, keeping, program.board.int_bits)
            heard = program.heard[block.of]
            slot = self.machines[block.of] = MachineSlot(running, tuple(keys[name] for name in heard))
            for name in heard:
                host.listeners.setdefault(name, []).append((slot, keys[name]))
        self.order = list(self.machines.values())
        host.machines = self.machines
        for ident, output in host.outputs.items():
            if ident in program.ends_heard:
                output.ends = partial(host.tell, ("ended", ident, ""))
        self.looks_around = program.looks_around
        self.with_delays = program.bench.firmware.school == "delays"

    def reset(self, at_us: int) -> None:
        """Power is switched on, or the board resets."""
        for slot in self.order:
            slot.states.add(at_us, None)

    def enter(self, ready_us: int, now_ms: int, remembered: Callable[[str], Any]) -> None:
        """Set-up: each machine enters its first state, or the one that was kept."""
        self.host.begin(ready_us, remembered)
        for slot in self.order:
            slot.waiting.clear()
        for slot in self.order:
            slot.running.begin(now_ms, remembered(slot.id))

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        this, blocking, host, step_us = self.this, self.blocking, self.host, self.step_us
        events, now_ms = this.events, this.now_ms
        this.changed = False
        for slot in self.order:
            clock_us += step_us
            if clock_us >= blocking.taken_us:
                clock_us = blocking.give_way(clock_us)
            running = slot.running
            state = running.state
            if events or slot.waiting or running.machine.always[state]:
                host.clock_us = clock_us
                slot.step(events, now_ms)
            elif running.machine.waits[state]:  # by far the most passes that matter to it
                host.clock_us = clock_us
                running.clock(now_ms)
            else:
                continue
            if host.outbox and host.post is not None:
                clock_us = host.post(clock_us)
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`."""
        if self.this.changed and self.looks_around:
            return start_us
        for slot in self.order:
            if slot.waiting:
                return start_us
            running = slot.running
            if running.machine.waits[running.state]:
                now_ms = self.counter.at(start_us)
                for since_ms, wait_ms, transition in running.waiting():
                    if self.with_delays and not transition.guards:
                        return start_us  # this pass stands its time out
                    # One whose time has come may wait for its guards, which nothing changes in an idle pass.
                    come = transition.guards and (now_ms - since_ms) & MASK >= wait_ms
                    if not come or running.open_transition((transition,)):
                        dues.append((since_ms, wait_ms))
        return horizon_us

    @property
    def recordings(self) -> list[Recording]:
        """See `StageRunner.recordings`."""
        return [one for slot in self.order for one in (slot.states, slot.transitions)] + list(
            self.host.numbers.values()
        )


class StandStage(StageRunner):
    """Kept with delays: a state's time is stood out in it, before anything else is looked at; not where a blink that
    goes on holds each pass already."""

    def __init__(self, machines: MachineStage, counter: Counter, blocking: Blocking) -> None:
        self.machines, self.counter, self.blocking = machines, counter, blocking

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        outputs = self.machines.host.outputs.values()
        if any(output.pending is not None and output.pending.again for output in outputs):
            return clock_us
        for slot in self.machines.order:
            running = slot.running
            if running.machine.waits[running.state]:
                left_ms = [
                    wait_ms - (self.counter.at(clock_us) - since_ms & MASK)
                    for since_ms, wait_ms, transition in running.waiting()
                    if not transition.guards
                ]
                if left_ms and min(left_ms) > 0:
                    clock_us = self.blocking.hold(clock_us, min(left_ms) * US_PER_MS, f"machine {slot.id}")
        return clock_us
