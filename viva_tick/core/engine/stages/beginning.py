"""The loop itself takes its time; a fault that was put into the run does what it does."""

from __future__ import annotations

from ...clock import MASK, NEVER
from ...program import Program
from ..blocking import Blocking
from ..clock import Pass
from ..faults import HELD_BY, Fault
from ..sensed.measure import MeasureSlot
from ..watchdog import Reset
from .base import Due, StageRunner
from .reading import ReadStage
from .tasks import TaskStage

OUTSIDE = ("closed", "off", "welded")  # faults of contacts, wires, relays: nothing in the firmware


class BaseStage(StageRunner):
    """The loop itself takes its time, and faults do what they do. `dues_us`: when each is next; `frozen_ms`: where the
    millisecond counter stands still, None where it counts."""

    def __init__(
        self,
        program: Program,
        this: Pass,
        blocking: Blocking,
        reading: ReadStage,
        tasks: TaskStage,
        faults: tuple[Fault, ...],
        length_us: int,
    ) -> None:
        self.this, self.blocking, self.reading, self.tasks = this, blocking, reading, tasks
        self.base_us = reading.before_us
        self.faults = [one for one in faults if one.kind not in OUTSIDE]
        self.dues_us = [one.at_us for one in self.faults]
        self.frozen_ms: int | None = None
        self.length_us = length_us
        for one in faults:
            if one.kind == "off" and isinstance(broken := reading.sensed.get(one.of), MeasureSlot):
                broken.offs.append((one.at_us, one.over_us))

    def go_on_with(self, fresh: BaseStage) -> None:
        """The faults of one that has not begun; those that are in already stand as they do."""
        self.faults = fresh.faults
        self.dues_us += fresh.dues_us[len(self.dues_us) :]

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        self.frozen_ms = None

    def end_by_reset(self, at_us: int) -> None:
        """A reset ends what was in the firmware by then."""
        for place, one in enumerate(self.faults):
            if one.kind == "starve" and one.at_us <= at_us:
                self.dues_us[place] = NEVER

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        clock_us += self.base_us
        if self.faults:
            for place, fault in enumerate(self.faults):
                if self.this.started_us >= self.dues_us[place]:
                    clock_us = self._go_wrong(place, fault, clock_us)
            if self.frozen_ms is not None:
                self.this.now_ms = self.frozen_ms
        return clock_us

    def _go_wrong(self, place: int, fault: Fault, clock_us: int) -> int:
        """A fault that is due by now; the instant after what it does in this pass."""
        hold = self.blocking.hold
        over_us = fault.over_us
        if fault.kind in ("stuck", "counter", "dip") or clock_us >= over_us:
            self.dues_us[place] = NEVER
        if fault.kind == "dip":
            raise Reset(clock_us, "dip")
        if fault.kind == "counter":
            self.frozen_ms = self.this.now_ms
        elif fault.kind == "stuck":
            clock_us = hold(clock_us, max(min(over_us, self.length_us) - clock_us, 0), HELD_BY["stuck"])
        elif fault.kind == "storm" and clock_us < over_us:
            clock_us = hold(clock_us, max(over_us - clock_us, 0), HELD_BY["storm"], works=True)
        elif fault.kind == "bus" and clock_us < over_us and self._samples_now(fault.of):
            clock_us = hold(clock_us, min(over_us, self.length_us) - clock_us, HELD_BY["bus"])
        elif fault.kind == "starve" and clock_us < over_us:
            clock_us = hold(clock_us, fault.by_us, HELD_BY["starve"], works=True)
        return clock_us

    def _samples_now(self, of: str) -> bool:
        """Whether that sensor, or that task's, is sampled in this pass."""
        now_ms = self.this.now_ms
        slot = self.reading.sensed.get(of)
        if isinstance(slot, MeasureSlot):
            return now_ms - slot.last_ms & MASK >= slot.sample_ms
        return any(task.id == of and task.due(now_ms) for task in self.tasks.tasks)

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`."""
        for place, one in enumerate(self.faults):
            if self.dues_us[place] > start_us:
                horizon_us = min(horizon_us, self.dues_us[place])
            elif one.kind == "starve":
                return start_us
        return horizon_us
