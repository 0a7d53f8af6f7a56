"""What the kernel's tasks have for the loop: flags, and what is in queues."""

from __future__ import annotations

from ...program import Program, Stage
from ..blocking import Blocking
from ..host import BoardHost
from ..living import LiveProcessor
from .base import Due, StageRunner


class SignalStage(StageRunner):
    """In each pass one of each that a machine listens for is taken, if it is there."""

    def __init__(self, program: Program, host: BoardHost, blocking: Blocking) -> None:
        self.host, self.blocking = host, blocking
        self.heard = [block.of for block in program.of(Stage.SIGNAL)]

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        processor = self.blocking.processor
        if isinstance(processor, LiveProcessor):
            for ident in self.heard:
                if processor.taken(ident, clock_us):
                    self.host.clock_us = clock_us
                    self.host.tell(("taken", ident, ""))
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`."""
        processor = self.blocking.processor
        if isinstance(processor, LiveProcessor) and any(map(processor.kernel.holds, self.heard)):
            return start_us
        return horizon_us
