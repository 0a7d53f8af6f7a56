"""What outlives a reset is written, in the pass."""

from __future__ import annotations

from ...clock import US_PER_MS
from ...document import Keep
from ...program import Program, Stage
from ..blocking import Blocking
from ..clock import Pass
from ..memory import Memory
from ..trace import Recording
from .base import Due, StageRunner


class KeepStage(StageRunner):
    """In the order: on change, each pass, every so often. A reset in the middle of writing leaves what was there."""

    def __init__(self, program: Program, this: Pass, memory: Memory, blocking: Blocking) -> None:
        self.this, self.memory, self.blocking = this, memory, blocking
        self.keeps: list[Keep] = [block.subject for block in program.of(Stage.KEEP)]

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        self.memory.begin(now_ms)

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        memory = self.memory
        for keep in self.keeps:
            if memory.to_be_saved(keep, self.this.now_ms):
                took_us = memory.takes_us(keep)
                if keep.where != "store":
                    clock_us += took_us
                elif took_us:
                    clock_us = self.blocking.stand(clock_us, took_us, "keeping", works=True)
                memory.save(keep, clock_us)
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`. What is kept on change changes in no idle pass."""
        for keep in self.keeps:
            if keep.when == "feed":
                return start_us
            if keep.when == "every":
                dues.append((self.memory.written_ms[keep.of], keep.every_us // US_PER_MS))
        return horizon_us

    @property
    def recordings(self) -> list[Recording]:
        """See `StageRunner.recordings`."""
        return [self.memory.writes]
