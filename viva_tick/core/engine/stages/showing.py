"""Lines of text are written: on a display over its bus, or over the serial line."""

from __future__ import annotations

from ...clock import MASK
from ...document import TextLine
from ...document.parts import Display
from ...drives import Text
from ...program import Program, Stage
from ...showing import changed_span, write_us
from ...texts import Piece, pieces, written
from ..blocking import Blocking
from ..clock import Counter, Pass
from ..host import BoardHost
from ..trace import Kind, Recording
from .base import Due, StageRunner
from .tasks import TaskStage


class LineSlot:
    """A line of text: what it was asked to show, what stands there. `values` are those of what it names, as they were
    written last."""

    __slots__ = ("display", "every_ms", "id", "line", "pending", "since_ms", "stands", "text", "texts", "values")

    def __init__(self, line: TextLine) -> None:
        self.id, self.line = line.id, line
        self.display = line.part if isinstance(line.part, Display) else None
        self.texts = Recording(Kind.TEXT, line.id)
        self.begin()

    def begin(self) -> None:
        """Set-up is done: nothing is shown, and nothing was asked for."""
        self.pending: Text | None = None
        self.text: tuple[Piece, ...] | None = None
        self.every_ms = self.since_ms = 0
        self.stands = " " * self.line.columns if self.display else ""
        self.values: list[int | str] = []


class ShowStage(StageRunner):
    """`lines` by id, in list order. What goes over the serial line goes into the tasks' transmit buffer."""

    def __init__(
        self, program: Program, this: Pass, counter: Counter, blocking: Blocking, host: BoardHost, tasks: TaskStage
    ) -> None:
        self.this, self.counter, self.blocking, self.host, self.tasks = this, counter, blocking, host, tasks
        self.lines = {block.of: LineSlot(block.subject) for block in program.of(Stage.SHOW)}
        self.order = list(self.lines.values())
        self.look_us = program.bench.costs.drive
        self.names = {
            machine.id: {state.id: state.name for state in machine.states}
            for machine in program.bench.firmware.machines
        }
        host.lines = self.lines

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        for line in self.order:
            line.begin()
            line.texts.add(ready_us, "")

    def _value(self, of: str) -> int | str:
        names = self.names.get(of)
        if names is None:
            return self.host.held[of]
        running = self.host.machines[of].running
        return names[running.machine.names[running.state]]

    def _bounds(self, of: str) -> tuple[int, int]:
        one = self.host.variables[of]
        return one.least, one.most

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        now_ms = self.this.now_ms
        for line in self.order:
            clock_us += self.look_us
            if clock_us >= self.blocking.taken_us:
                clock_us = self.blocking.give_way(clock_us)
            if line.pending is not None:
                line.text, line.every_ms = pieces(line.pending.text), line.pending.every_us // 1000
                line.pending, line.since_ms = None, now_ms
            elif line.text is None:
                continue
            elif line.every_ms:
                if (now_ms - line.since_ms) & MASK < line.every_ms:
                    continue
                line.since_ms = (line.since_ms + line.every_ms) & MASK
            elif self._values(line.text) == line.values:
                continue
            clock_us = self._write(line, line.text, clock_us)
        return clock_us

    def _values(self, text: tuple[Piece, ...]) -> list[int | str]:
        return [self._value(piece.of) for piece in text if not isinstance(piece, str)]

    def _write(self, line: LineSlot, text: tuple[Piece, ...], clock_us: int) -> int:
        """Write a line anew: the instant after it."""
        line.values = self._values(text)
        shown = written(text, self._value, self._bounds, line.line.columns)
        if line.display is None:
            line.texts.add(clock_us, shown)
            return self.tasks.write(clock_us, len(shown) + 1, f"text {line.id}")
        shown = shown.ljust(line.line.columns)
        _, many = changed_span(line.stands, shown)
        if not many:
            return clock_us
        line.stands = shown
        clock_us = self.blocking.hold(clock_us, write_us(line.display, many), f"text {line.id}", works=True)
        line.texts.add(clock_us, shown.rstrip())
        return clock_us

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """See `StageRunner.quiet_until`. What a line shows changes only in passes in which something happens."""
        for line in self.order:
            if line.pending is not None:
                return start_us
            if line.every_ms and line.text is not None:
                dues.append((line.since_ms, line.every_ms))
        return horizon_us

    @property
    def recordings(self) -> list[Recording]:
        """See `StageRunner.recordings`."""
        return [line.texts for line in self.order]
