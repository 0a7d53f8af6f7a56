"""Boards as data, and pins for every part: against the published steps, and against brute force."""

from __future__ import annotations

import itertools
import tempfile
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_emit import run_sketch
from tests.core.test_engine import push_bench
from viva_tick.core.boards import Board, boards
from viva_tick.core.document import Bench, InputPart, OutputPart, Wiring, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.electrics import effective
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.pins import NoFit, assign, move_patch, unfit, worth
from viva_tick.demo import ORDER, demo_bench

KNOWN = {
    "digital", "dimmable", "analogue", "interrupt", "serial", "bus", "lamp", "input-only", "no-pull", "boot-strapping",
    "reset", "starts-analogue", "radio-shared",
}  # fmt: skip


class Boards(unittest.TestCase):
    def test_six_classes_whose_data_hold_together(self) -> None:
        self.assertEqual(len(boards()), 6)
        for board in boards().values():
            ids = [pin.id for pin in board.pins]
            self.assertEqual(len(ids), len(set(ids)), board.id)
            self.assertLessEqual({ability for pin in board.pins for ability in pin.can}, KNOWN)
            self.assertLess(board.low_below_share, board.high_from_share)
            self.assertLess(board.pin_ua.design, board.pin_ua.absolute + 1)
            self.assertEqual(sorted(board.watchdog_steps_us), list(board.watchdog_steps_us))
            self.assertEqual(board.analogue is None, not any("analogue" in pin.can for pin in board.pins), board.id)
            if board.sketch and board.sketch.watchdog_header:
                self.assertEqual(len(board.sketch.watchdog_steps), len(board.watchdog_steps_us))

    def test_the_watchdog_steps_of_the_8_bit_class_are_powers_of_two(self) -> None:
        # DS40002061B, watchdog chapter (from memory): 2^11 to 2^20 cycles of nominally 128 kHz, named to two digits.
        for step_us, power in zip(boards()["mid-8bit-5v"].watchdog_steps_us, range(11, 21), strict=True):
            self.assertAlmostEqual(step_us, 2**power / 128_000 * 1e6, delta=0.025 * step_us)

    def test_a_pull_that_the_pin_does_not_have_holds_nothing(self) -> None:
        data = bench_data(push_bench("none", 0))
        data["board"], data["inputs"][0]["pin"], data["outputs"][0]["pin"] = "radio-32bit-3v3", "P35", "P16"
        bench = bench_from_data(data)
        self.assertEqual(effective(bench.inputs[0], boards()[bench.board]).pull, "none")
        level = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.LEVEL, "button")
        self.assertGreater(len(level.values), 20)


def small_board(pins: list[list[str]]) -> Board:
    data = boards()["mid-8bit-5v"].model_dump()
    data["pins"] = [{"id": f"D{n}", "code": str(n), "can": ["digital", *can]} for n, can in enumerate(pins)]
    return Board.model_validate(data)


ABILITIES = ("serial", "input-only", "no-pull", "boot-strapping", "bus", "lamp")
pin_lists = st.lists(st.lists(st.sampled_from(ABILITIES), max_size=2, unique=True), min_size=1, max_size=6)
part_lists = st.lists(
    st.tuples(st.booleans(), st.sampled_from(["internal-up", "up"]), st.integers(0, 5)), min_size=1, max_size=4
)


def bench_of(parts: list[tuple[bool, str, int]]) -> Bench:
    inputs = [
        InputPart(id=f"i{n}", name=f"I{n}", pin=f"D{at}", wiring=Wiring(pull=pull))  # type: ignore[arg-type]
        for n, (is_input, pull, at) in enumerate(parts)
        if is_input
    ]
    outputs = [
        OutputPart(id=f"o{n}", name=f"O{n}", pin=f"D{at}") for n, (is_input, _, at) in enumerate(parts) if not is_input
    ]
    return Bench(name="b", inputs=tuple(inputs), outputs=tuple(outputs))


class Assignment(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(pin_lists, part_lists)
    def test_it_is_as_good_as_the_best_of_all(self, pins: list[list[str]], parts: list[tuple[bool, str, int]]) -> None:
        board, bench = small_board(pins), bench_of(parts)
        worths = [worth(part, board) for part in bench.parts]
        best = None
        for chosen in itertools.permutations([pin.id for pin in board.pins], len(worths)):
            if all(pin in mine for pin, mine in zip(chosen, worths, strict=True)):
                total = sum(mine[pin] for pin, mine in zip(chosen, worths, strict=True))
                best = total if best is None else max(best, total)
        try:
            found = assign(bench, board)
        except NoFit as error:
            self.assertIsNone(best)
            self.assertTrue(error.names)
            return
        self.assertEqual(len(set(found.values())), len(found))
        self.assertEqual(sum(mine[found[part.id]] for part, mine in zip(bench.parts, worths, strict=True)), best)

    def test_every_demo_moves_to_every_board_that_has_the_pins_and_back(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for board in boards().values():
                if len(bench.parts) > len(board.pins):
                    self.assertRaises(NoFit, move_patch, bench, board.id)
                    continue
                moved = apply_patch(bench, move_patch(bench, board.id))
                self.assertEqual(moved.board, board.id)
                self.assertEqual(len({part.pin for part in moved.parts}), len(moved.parts))
                for part in moved.parts:
                    pin = board.pin(part.pin)
                    assert pin is not None
                    self.assertIsNone(unfit(part, pin))
                self.assertEqual(apply_patch(moved, move_patch(moved, bench.board)).board, bench.board)
            self.assertEqual(move_patch(bench, bench.board), [])

    def test_too_many_parts_for_a_board_are_named(self) -> None:
        bench = bench_of([(False, "up", n) for n in range(7)])
        with self.assertRaisesRegex(NoFit, "no suitable pin left for O"):
            move_patch(bench, "small-8bit-5v")

    def test_sketches_for_the_other_boards_compile(self) -> None:
        bench = demo_bench("bicycle-lamp")
        for board in boards().values():
            if board.sketch is None:
                continue
            moved = apply_patch(bench, move_patch(bench, board.id))
            data = bench_data(moved)
            if board.pull_down_ohm:
                data["inputs"][0]["wiring"] |= {"pull": "internal-down", "contact_to": "supply"}
                data["inputs"][0]["active_level"] = "high"
            moved = bench_from_data(data)
            with tempfile.TemporaryDirectory() as folder:
                written = run_sketch(moved, moved.scenarios[0], Path(folder))
            lamp = SkippingEngine().run(moved, moved.scenarios[0]).trace.signal(Kind.OUTPUT, "rear-lamp")
            self.assertEqual(len(next(iter(written.values()))), len(lamp.values) - 1)


if __name__ == "__main__":
    unittest.main()
