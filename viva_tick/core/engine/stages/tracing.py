"""What has changed in a pass is said on the serial line: `time_us,what,of,value`, a line a change."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from ...program import Program
from ..clock import Pass
from ..host import BoardHost
from ..slots import InputSlot
from .base import Due, StageRunner
from .tasks import TaskStage


def _is_down(contact: InputSlot) -> int:
    return int(contact.down)


class TraceStage(StageRunner):
    """Contacts as they are accepted, states by their places, outputs in percent; nothing has been said after a boot."""

    def __init__(self, program: Program, this: Pass, host: BoardHost, tasks: TaskStage) -> None:
        self.this, self.tasks = this, tasks
        self.rows: list[tuple[str, Callable[[], int]]] = []
        for ident, contact in host.contacts.items():
            self.rows.append((f"cleaned,{ident}", partial(_is_down, contact)))
        for machine in program.bench.firmware.machines:
            running = host.machines[machine.id].running
            self.rows.append((f"state,{machine.id}", partial(getattr, running, "state")))
        for ident, output in host.outputs.items():
            self.rows.append((f"output,{ident}", partial(getattr, output, "level")))
        self.told: list[int] = []

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        self.told = [-1] * len(self.rows)

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        for place, (what, value_of) in enumerate(self.rows):
            value = value_of()
            if value != self.told[place]:
                self.told[place] = value
                row = f"{self.this.now_ms}000,{what},{value}\n"
                clock_us = self.tasks.write(clock_us, len(row), "trace")
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`: what changes after it in a pass it says in the next."""
        same = all(value_of() == told for (_, value_of), told in zip(self.rows, self.told, strict=True))
        return horizon_us if same else start_us
