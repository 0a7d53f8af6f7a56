"""The processor under a kernel whose tasks wait for each other: followed as the run goes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..clock import NEVER
from ..document import Bench
from ..kernel import run_us
from ..kernel.live import LOOP_ID, MOST_EVENTS, LiveKernel, TooMuch
from .trace import Kind, Recording
from .watchdog import Exhausted

KINDS = {"stands": Kind.STANDS, "fill": Kind.FILL, "lost": Kind.LOST, "round": Kind.JOB}


class LiveProcessor:
    """See `shared.Processor`, which is worked out beforehand; this one goes along with the loop, whose machines signal
    and are signalled."""

    until_us = NEVER

    def __init__(self, bench: Bench, length_us: int) -> None:
        self.bench, self.length_us = bench, length_us
        self.loop_us = bench.firmware.kernel.loop_us
        self.zero_us = 0
        self.tasks = tuple(
            task.model_copy(update={"run_us": run_us(bench, task)}) for task in bench.firmware.tasks
        )  # with what they print
        # What the firmware does for the kernel: a pass of the loop, or of what a task owns: the instant after it.
        self.run_loop: Callable[[int], int] = lambda clock_us: clock_us
        self.run_owned: Callable[[str, int], int] = lambda owner, clock_us: clock_us
        self.recorded: dict[tuple[Kind, str], Recording] = {}
        self.kernel = self._anew()
        between = bench.firmware.kernel.between
        named = [(Kind.STANDS, one.id) for one in between.bodies]
        named += [(Kind.STANDS, task.id) for task in bench.firmware.tasks]
        named += [(Kind.FILL, queue.id) for queue in between.queues]
        self.recorded = {name: Recording(*name) for name in named}  # in the order of the document

    def _anew(self) -> LiveKernel:
        until_us = max(self.length_us - self.zero_us, 1)
        kernel = LiveKernel(self.bench.firmware.kernel, self.tasks, self._record, until_us)
        kernel.run_foreign = self._run
        return kernel

    def _run(self, ident: str, at_us: int) -> tuple[int, int]:
        """See `LiveKernel.run_foreign`."""
        clock_us = at_us + self.zero_us
        if ident != LOOP_ID:
            return self.run_owned(ident, clock_us) - self.zero_us, 0
        clock_us = self.run_loop(clock_us)
        return clock_us - self.zero_us, self.next_pass(clock_us) - self.zero_us

    def _record(self, what: str, of: str, at_us: int, value: Any) -> None:
        kind = KINDS[what]
        recording = self.recorded.setdefault((kind, of), Recording(kind, of))
        recording.add(at_us + self.zero_us, (value, 0, 0) if kind is Kind.JOB else value)

    def begin(self, ready_us: int) -> int:
        """See `Processor.begin`."""
        self.zero_us = ready_us
        self.kernel = self._anew()
        self.kernel.begin()
        return ready_us

    def back(self, clock_us: int) -> tuple[int, int]:
        """See `Processor.back`."""
        return self._come(clock_us, None)

    def rest(self, clock_us: int) -> tuple[int, int]:
        """The loop waits for its next pass: when it has the processor then, and when it is taken from it next."""
        return self._come(clock_us, self.next_pass(clock_us))

    def _come(self, clock_us: int, until_us: int | None) -> tuple[int, int]:
        kernel, zero_us = self.kernel, self.zero_us
        try:
            if until_us is None:
                at_us = kernel.back(clock_us - zero_us)
            else:
                at_us = kernel.rest(clock_us - zero_us, until_us - zero_us)
        except TooMuch:
            raise Exhausted(kernel.clock_us + zero_us, f"{MOST_EVENTS:,} events of the kernel") from None
        return at_us + zero_us, self.next_us

    @property
    def next_us(self) -> int:
        """When the processor is taken next from who has it."""
        return self.kernel.next_us + self.zero_us

    def signal(self, ident: str, clock_us: int) -> int:
        """The loop gives a flag, puts one into a queue, starts a timer: when it is taken from the processor next."""
        self.kernel.signal(ident, clock_us - self.zero_us)
        return self.next_us

    def taken(self, ident: str, clock_us: int) -> bool:
        """Whether the loop has taken a flag, or one out of a queue."""
        return self.kernel.taken(ident, clock_us - self.zero_us)

    @property
    def idle_until_us(self) -> int:
        """Until when nobody but the loop has anything to do."""
        return self.kernel.idle_until_us + self.zero_us

    def beat_us(self, idle_us: int) -> int:
        """See `Processor.beat_us`."""
        return -(-idle_us // self.loop_us) * self.loop_us if self.loop_us else idle_us

    def off_beat(self, start_us: int) -> bool:
        """See `Processor.off_beat`."""
        return bool(self.loop_us and (start_us - self.zero_us) % self.loop_us)

    def next_pass(self, clock_us: int) -> int:
        """See `Processor.next_pass`."""
        if not self.loop_us:
            return clock_us
        return self.zero_us + -(-(clock_us - self.zero_us) // self.loop_us) * self.loop_us

    def fed_us(self, task: str, clock_us: int) -> int:
        """See `Processor.fed_us`."""
        begun_us = self.kernel.begun_us(task)
        return begun_us + self.zero_us if begun_us >= 0 else -NEVER

    def jobs(self, boots: list[tuple[int, int]], length_us: int) -> list[Recording]:
        """Everything that was recorded: rounds of bodies in the order in which they began."""
        return self.recordings

    @property
    def recordings(self) -> list[Recording]:
        """What it records."""
        return list(self.recorded.values())
