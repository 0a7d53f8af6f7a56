"""Two contacts pressed together."""

from __future__ import annotations

from ...clock import US_PER_MS
from ...document import Gestures
from ...program import Program, Stage
from ..clock import Pass
from ..slots import ChordSlot, InputSlot
from .base import StageRunner


class ChordStage(StageRunner):
    """`chords` in the order of the machines."""

    def __init__(self, program: Program, this: Pass, contacts: dict[str, InputSlot]) -> None:
        gestures = program.bench.firmware.gestures
        self.this = this
        self.order = [
            ChordSlot(
                program.keys["chord", one, other],
                (contacts[one], contacts[other]),
                gestures.get(one, Gestures()).together_us // US_PER_MS,
            )
            for one, other in (block.subject for block in program.of(Stage.CHORD))
        ]

    def begin(self, ready_us: int, now_ms: int) -> None:
        """See `StageRunner.begin`."""
        for chord in self.order:
            chord.reset()

    def run(self, clock_us: int) -> int:
        """See `StageRunner.run`."""
        edges = self.this.edges
        for chord in self.order:
            if chord.step(self.this.now_ms, (edges.get(chord.of[0], 0), edges.get(chord.of[1], 0))):
                chord.slots[0].events.add(clock_us, f"chord {chord.of[1]}")
                self.this.events.append(chord.key)
        return clock_us
