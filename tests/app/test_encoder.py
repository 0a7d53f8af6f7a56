"""What turning an encoder to the right means, in every place that says or shows it."""

from __future__ import annotations

import itertools
import re
import tempfile
import unittest
from bisect import bisect_right
from pathlib import Path

from tests.core.finding_cases import with_parts
from tests.core.on_host import run_sketch
from viva_tick.core.boards import boards
from viva_tick.core.document import Bench
from viva_tick.core.engine import Kind, Signal, SkippingEngine
from viva_tick.core.readers import A_BIT, B_BIT, Quadrature
from viva_tick.web.drawings.readings import phase_figure
from viva_tick.web.drawings.sensing import encoder_figures

# Right, written out by hand: A leads B. Closed contacts of (A, B), from detent to detent.
RIGHT = ((0, 0), (1, 0), (1, 1), (0, 1), (0, 0))


def at_instant(signal: Signal, at_us: int) -> int:
    """What a signal is at an instant."""
    return int(signal.values[bisect_right(signal.times_us, at_us) - 1])


def fall(path: str) -> float:
    """Where a drawn level first falls."""
    start, *moves = re.findall(r"[MHV][\d. ]+", path)
    x, y = (float(number) for number in start[1:].split())
    for move in moves:
        if move[0] == "V" and float(move[1:]) > y:
            return x
        x, y = (float(move[1:]), y) if move[0] == "H" else (x, float(move[1:]))
    raise AssertionError(path)


class RightIsALeadsB(unittest.TestCase):
    """One meaning in drawing, course, model and program, held against the sequence above."""

    def turned(self, clicks: int, read_by: str) -> Bench:
        machine = {
            "id": "m", "name": "M", "initial": "off",
            "states": [{"id": "off", "name": "Off", "drives": {"p1": {"kind": "steady", "on": False}}},
                       {"id": "on", "name": "On", "drives": {"p1": {"kind": "steady", "on": True}}}],
            "transitions": [{"source": "off", "on": {"kind": "step", "input": "p0"}, "target": "on"},
                            {"source": "on", "on": {"kind": "back", "input": "p0"}, "target": "off"}],
        }  # fmt: skip
        dial = {"kind": "encoder", "a": "D2", "b": "D3", "read_by": read_by, "switch": "logic-signal"}
        turns = [{"kind": "turn", "input": "p0", "at_us": 200_000, "over_us": 80_000, "clicks": clicks}]
        return with_parts(dial, {"kind": "lamp", "pin": "D8"}, machines=[machine], stimuli=turns)

    def test_course_model_and_program(self) -> None:
        for read_by, clicks in itertools.product(("polling", "interrupt"), (1, -1)):
            bench = self.turned(clicks, read_by)
            run = SkippingEngine().run(bench, bench.scenarios[0])
            ends = {end: run.trace.signal(Kind.CONTACT, f"p0.{end}") for end in "ab"}
            times = sorted({at for signal in ends.values() for at in signal.times_us if at >= 200_000})
            states = [(0, 0), *(tuple(at_instant(ends[end], at) for end in "ab") for at in times)]
            self.assertEqual(states, list(RIGHT if clicks > 0 else reversed(RIGHT)))
            self.assertEqual(run.trace.signal(Kind.COUNT, "p0").values[-1], clicks)
            self.assertEqual(run.trace.signal(Kind.STATE, "m").values[-1], "on" if clicks > 0 else "off")
            with tempfile.TemporaryDirectory() as folder:
                written = run_sketch(bench, bench.scenarios[0], Path(folder))
            self.assertEqual(written[8][-1][1], int(clicks > 0))

    def test_table(self) -> None:
        decoder = Quadrature(4)
        steps = [decoder.see(A_BIT * a + B_BIT * b) for a, b in RIGHT]
        self.assertEqual(steps, [0, 0, 0, 0, 1])

    def test_drawings(self) -> None:
        part = self.turned(1, "polling").inputs[0]
        reading = self.turned(1, "polling").firmware.readings["p0"]
        for figure in (encoder_figures(part, "/inputs/0", boards()["mid-8bit-5v"])[-1], phase_figure(part, reading)):
            paths = re.findall(r'<path[^>]*d="(M[^"]*)"', str(figure.svg))
            falls = [fall(path) for path in paths if path.count(" V") >= 2][:2]
            self.assertLess(falls[0], falls[1], "A is drawn first, and falls first")


if __name__ == "__main__":
    unittest.main()
