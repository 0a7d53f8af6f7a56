"""Text: what is put together, what it takes to write it, and that engine, skipping engine and program show the same."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core import on_host
from tests.core.builder import build
from tests.core.on_host import NO_SHRINK, run_sketch
from tests.depth import DEPTH
from tests.random_benches import shown_benches
from viva_tick.core.document import Bench, Scenario
from viva_tick.core.document.parts import Display
from viva_tick.core.emit.cpp import sketch_files
from viva_tick.core.engine import Kind, PlainEngine, Run, SkippingEngine
from viva_tick.core.program import program_of
from viva_tick.core.showing import changed_span, row_start, set_up_us, write_us
from viva_tick.core.texts import longest, pieces, written

LCD = Display(id="lcd", name="Lcd", data="A4", clock="A5")


class Texts(unittest.TestCase):
    def test_what_a_text_shows(self) -> None:
        held = {"score": 7, "low": -3, "game": "Über", "level": 50}
        bounds = {"score": (0, 9), "low": (-5, 5), "level": (0, 100)}
        for text, columns, shown in (
            ("Score {score}", 16, "Score 7"),
            ("Score {score:3}!", 16, "Score   7!"),
            ("{low}{low:2}", 16, "-3-3"),
            ("{level:bar 8}|", 16, "####    |"),
            ("{score:bar 4}", 16, "### "),
            ("{low:bar 5}", 16, "#    "),
            ("{game}: {score}", 16, "?ber: 7"),
            ("{game:6}|", 16, "?ber  |"),
            ("a text that is too long", 8, "a text t"),
            ("", 8, ""),
            ("5 °C", 8, "5 ?C"),
        ):
            with self.subTest(text):
                self.assertEqual(written(pieces(text), held.__getitem__, bounds.__getitem__, columns), shown)
        self.assertEqual(longest(pieces("Score {score:3} {level:bar 8}"), lambda name: 5), 6 + 5 + 1 + 8)

    def test_what_means_nothing_is_refused_with_a_sentence(self) -> None:
        for text in ("{", "}", "{}", "{Score}", "{score:}", "{score:bar}", "{a}}", "{score:bar 8", "{a b}"):
            with self.subTest(text), self.assertRaises(ValueError) as caught:
                pieces(text)
            self.assertRegex(str(caught.exception), r"no place for a number|no partner")

    def test_the_bus_by_hand(self) -> None:
        # 100 kHz: an address and six bytes of nine bits, a start and a stop: 65 bits of 10 µs.
        self.assertEqual(LCD.character_us, 650)
        self.assertEqual([write_us(LCD, many) for many in (0, 1, 16)], [0, 1_300, 11_050])
        # 50 + 4 × 5 + 2 ms; four halves of 38 bits; four commands.
        self.assertEqual(set_up_us(LCD), 72_000 + 4 * 380 + 4 * 650)
        self.assertEqual([row_start(row, 20) for row in range(4)], [0, 64, 20, 84])
        self.assertEqual(changed_span("Score 1 ", "Score 2 "), (6, 1))
        self.assertEqual(changed_span("abc", "abc"), (0, 0))

    @given(st.text("ab ", min_size=6, max_size=6), st.text("ab ", min_size=6, max_size=6))
    def test_nothing_outside_the_span_differs(self, before: str, after: str) -> None:
        first, many = changed_span(before, after)
        self.assertEqual(before[:first] + after[first : first + many] + before[first + many :], after)


class Written(unittest.TestCase):
    def assert_shown(self, bench: Bench, scenario: Scenario, run: Run, said: dict[int, list[tuple[int, int]]]) -> None:
        """What a display understood of the bus, character by character, and what went over the serial line."""
        end_us = run.trace.length_us - 30_000  # a line that is being written as the run ends
        for line in bench.text_lines:
            if (Kind.TEXT, line.id) not in run.trace:
                continue
            signal = run.trace.signal(Kind.TEXT, line.id)
            rows = list(zip(signal.times_us, signal.values, strict=True))
            if not isinstance(line.part, Display):
                sent = "".join(chr(letter) for at, letter in said.get(-3, []))
                mine = "".join(f"{text}\n" for at, text in rows[1:])
                self.assertTrue(sent.startswith(mine) or mine.startswith(sent), (sent, mine))
                self.assertLess(abs(len(mine) - len(sent)), 82)
                continue
            start = row_start(line.row, line.columns)
            base = -1000 - 256 * line.part.address - start
            seen = sorted(
                (at, place, letter) for place in range(line.columns) for at, letter in said.get(base - place, [])
            )
            for (at, text), (until, _) in zip(rows, [*rows[1:], (end_us, "")], strict=True):
                if at >= end_us or until - at < 40_000:
                    continue
                shown = [" "] * line.columns
                for when, place, letter in seen:
                    if when <= at + 15_000:
                        shown[place] = chr(letter)
                self.assertEqual("".join(shown).rstrip(), text, (line.id, at))

    @settings(max_examples=6 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(shown_benches())
    def test_program_and_engine_show_the_same(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        with tempfile.TemporaryDirectory() as folder:
            said = run_sketch(bench, scenario, Path(folder))
        self.assert_shown(bench, scenario, SkippingEngine().run(bench, scenario), said)
        on_host.AsTheEngine().assert_same(bench, scenario, 700)

    @settings(max_examples=20 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(shown_benches())
    def test_skipping_changes_nothing(self, made: tuple[Bench, Scenario]) -> None:
        runs = [engine().run(*made) for engine in (PlainEngine, SkippingEngine)]
        self.assertEqual(runs[0].trace.to_bytes(), runs[1].trace.to_bytes())
        if program_of(made[0]).displays:
            first = runs[0].trace.signal(Kind.PASS).times_us
            ready_us = runs[0].boots[0][1]
            self.assertTrue(not first or first[0] == ready_us + set_up_us(program_of(made[0]).displays[0]))

    @settings(max_examples=2 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(shown_benches())
    def test_it_builds_for_the_board(self, made: tuple[Bench, Scenario]) -> None:
        with tempfile.TemporaryDirectory() as folder:
            build(sketch_files(made[0]), "mid-8bit-5v", Path(folder))


if __name__ == "__main__":
    unittest.main()
