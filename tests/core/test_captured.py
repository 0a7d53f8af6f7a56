"""Captures of several channels: written by another library, read here, held against the bench that they came from."""

from __future__ import annotations

import io
import unittest
from itertools import accumulate
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from vcd import VCDWriter

from tests.depth import DEPTH
from viva_tick.core.document import Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.formats import EdgesError, table_signals
from viva_tick.core.told import aligned, causes, clock_of, compared, is_capture, read_channels
from viva_tick.demo import demo_bench

BEGINS_US = 100_000  # set-up is done by then
Rows = list[tuple[int, str, int]]


def pins(
    bench: Bench, scenario: Scenario, names: dict[str, str], ppm: float = 0.0, seed: int = 0
) -> tuple[dict[str, int], Rows]:
    """What an instrument sees at the pins of a board that runs the bench with another clock: (level as it begins,
    changes) by the channels' names."""
    run = SkippingEngine().run(bench, scenario, seed=seed)
    begins: dict[str, int] = {}
    rows: Rows = []
    ends = {one.id: one.active_level for one in bench.channels}
    for of, name in names.items():
        signal = run.trace.signal(Kind.OUTPUT if of in ends else Kind.LEVEL, of)
        flips = ends.get(of) == "low"
        before = 0
        for at_us, value in zip(signal.times_us, signal.values, strict=True):
            level = max(value, 0) ^ flips
            if at_us < BEGINS_US:
                before = level
            else:
                rows.append((round((at_us - BEGINS_US) * (1 + ppm / 1e6)), name, level))
        begins[name] = before
    return begins, sorted(rows)


def as_vcd(begins: dict[str, int], rows: Rows) -> str:
    out = io.StringIO()
    with VCDWriter(out, timescale="1 us") as writer:
        signals = {
            name: writer.register_var("analyser", name, "wire", size=1, init=level) for name, level in begins.items()
        }
        for at_us, name, level in rows:
            writer.change(signals[name], at_us, level)
    return out.getvalue()


def as_table(begins: dict[str, int], rows: Rows, delimiter: str, volts: float, unit: str) -> str:
    """A row for each change, a little noise on volts; with a comma in numbers where the semicolon parts them."""
    levels = dict(begins)
    lines = [delimiter.join([f"Time ({unit})", *levels])]
    scale = {"s": 1e6, "ms": 1e3, "us": 1.0}[unit]
    for at_us in sorted({0, *(at for at, _, _ in rows)}):
        levels |= {name: level for at, name, level in rows if at == at_us}
        cells = [
            f"{at_us / scale:.7f}",
            *(f"{level * volts + 0.003 * volts:.4f}" if volts > 1 else str(level) for level in levels.values()),
        ]
        lines.append(delimiter.join(cell.replace(".", ",") if delimiter == ";" else cell for cell in cells))
    return "\n".join(lines)


NAMED = {
    "foot-pedal": "D4",
    "safelight-switch": "D5",
    "focus-lamp": "Focus_lamp",
    "safelight": "D9",
    "beeper": "beeper",
}


class Captured(unittest.TestCase):
    def bench(self) -> Bench:
        data = bench_data(demo_bench("print-timer"))
        data["firmware"]["debounce"]["foot-pedal"] = {"method": "rest-first", "interval_us": 25_000}
        return bench_from_data(data)

    def test_the_same_board_does_the_same_whatever_the_file(self) -> None:
        bench = self.bench()
        begins, rows = pins(bench, bench.scenario("One print"), NAMED)
        for text in (
            as_vcd(begins, rows),
            as_table(begins, rows, ",", 1, "s"),
            as_table(begins, rows, ";", 5, "ms"),
            as_table(begins, rows, "\t", 3.3, "us"),
        ):
            self.assertTrue(is_capture(text), text[:80])
            capture = read_channels(text, bench)
            self.assertEqual({one.signal.of for one in capture.channels if one.signal}, set(NAMED))
            self.assertEqual({one.by for one in capture.channels}, {"name"})
            found = compared(bench, capture.rows, "Captured", touched=True)
            assert found is not None
            self.assertEqual([one.sentence for one in found.differences], [])
            self.assertGreaterEqual(found.agree, 5)
            self.assertEqual(causes(bench, capture, found), [])

    def test_a_slow_clock_and_another_bounce_are_found_and_one_is_mended(self) -> None:
        bench = self.bench()
        data = bench_data(bench)
        data["inputs"][0]["contact"] = {"kind": "model", "switch": "worn-button"}
        real = bench_from_data(data)
        scenario = real.scenario("A test strip").model_copy(
            update={"stimuli": bench.scenario("One print").stimuli, "length_us": 9_000_000}
        )
        for seed in range(40):  # until it bounces for longer than the model ever does
            begins, rows = pins(real, scenario, NAMED, ppm=4_800, seed=seed)
            capture = read_channels(as_vcd(begins, rows), bench)
            if max(one.longest_us for one in capture.bounces) > 12_000:
                break
        found = compared(bench, capture.rows, "Captured", touched=True)
        assert found is not None
        said = causes(bench, capture, found)
        self.assertRegex(" ".join(one.words for one in said), r"clock is 4,[78]\d\d ppm slow")
        bounced = next((one for one in said if one.patch), None)
        assert bounced is not None, said
        mended = apply_patch(bench, bounced.patch)
        self.assertEqual(mended.contact("foot-pedal").contact.kind, "capture")
        again = read_channels(as_vcd(begins, rows), mended)
        self.assertEqual([one for one in causes(mended, again, found) if one.patch], [])

    def test_channels_are_taken_for_what_somebody_says_or_for_what_is_left(self) -> None:
        bench = self.bench()
        begins, rows = pins(bench, bench.scenario("One print"), NAMED)
        other = {"D4": "CH0", "D5": "D5", "Focus_lamp": "CH2", "D9": "D9", "beeper": "beeper"}
        text = as_vcd(
            {other[name]: level for name, level in begins.items()},
            [(at, other[name], level) for at, name, level in rows],
        )
        taken = {one.name.rpartition(".")[2]: one for one in read_channels(text, bench).channels}
        self.assertIsNone(taken["CH2"].signal)  # the lamp, or the heater
        said = {"analyser.CH2": "output focus-lamp", "analyser.CH0": "cleaned foot-pedal"}
        taken = {one.name: one for one in read_channels(text, bench, said).channels}
        for name, of in (("analyser.CH2", "focus-lamp"), ("analyser.CH0", "foot-pedal")):
            signal = taken[name].signal
            assert signal is not None
            self.assertEqual((taken[name].by, signal.of), ("you", of))
        self.assertIsNone(read_channels(text, bench, {"analyser.D5": ""}).channels[1].signal)

    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(
        st.lists(st.integers(100_000, 1_500_000), min_size=8, max_size=80),
        st.integers(-5_000_000, 5_000_000),
        st.integers(-20_000, 20_000),
        st.integers(0, 200),
        st.randoms(use_true_random=False),
    )
    def test_offset_and_drift_are_found_again(
        self, gaps: list[int], offset: int, ppm: int, jitter: int, rng: Any
    ) -> None:
        at = list(accumulate(gaps))
        pairs = [(float(one), offset + one * (1 + ppm / 1e6) + rng.uniform(-jitter, jitter)) for one in at]
        wrong = [(one, other + 300_000.0) for one, other in pairs[: len(pairs) // 8]]  # an eighth are of something else
        found = aligned([*wrong, *pairs[len(wrong) :]])
        assert found is not None
        span_s = (max(at) - min(at)) / 1e6
        self.assertAlmostEqual(found.ppm, ppm, delta=2 + 8 * jitter / span_s)
        where = max(at)
        self.assertAlmostEqual(
            found.offset_us + where * (1 + found.ppm / 1e6), offset + where * (1 + ppm / 1e6), delta=2 + 4 * jitter
        )

    def test_a_clock_is_told_only_where_times_agree(self) -> None:
        self.assertEqual(round(clock_of([(100_480, 100_000), (200_960, 200_000), (10, 5)]) or 0), 4_800)
        for spans in (
            [],
            [(100_480.0, 100_000.0)],
            [(100_010.0, 100_000.0)] * 4,
            [(90_000.0, 100_000.0), (120_000.0, 100_000.0)],
        ):
            self.assertIsNone(clock_of(spans), spans)

    def test_what_cannot_be_read_is_said_with_its_line(self) -> None:
        bench = self.bench()
        for text, said in (
            ("t,a\n0,0\n1,x\n", "Line 3, column 2: “x” is not a number"),
            ("t,a\n0,0\n2,1\n1,0\n", "Line 4: its time is before the line above it"),
            ("t,a\n0,0\n1,0\n", "No channel of this file ever changes"),
            ("t,a\n0,0\n9e9,1\n", "longer than a week"),
            (
                "$timescale 1 us $end $var wire 1 ! a $end $enddefinitions $end\n#0\n0!\n#5\nq!\n",
                "Line 5, column 1: “q!” is no change of a signal",
            ),
        ):
            with self.subTest(said), self.assertRaisesRegex(EdgesError, said):
                read_channels(text, bench)
        self.assertEqual(table_signals("0;0,5;1\n1;4,5;1\n2;0,5;0\n")["channel 1"], [(0.0, 0), (1e6, 1), (2e6, 0)])
        self.assertFalse(is_capture("1250000,state,lamp-mode,2\n1260000,state,lamp-mode,1"))


if __name__ == "__main__":
    unittest.main()
