"""Boards as data, and pins for every part: against the published steps, and against brute force."""

from __future__ import annotations

import itertools
import tempfile
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.on_host import run_sketch
from tests.core.test_engine import push_bench
from tests.depth import DEPTH
from viva_tick.core.boards import Board, boards
from viva_tick.core.document import Bench, Wiring, bench_data, bench_from_data, board_from_text, board_text
from viva_tick.core.document.parts import Button, Display, Lamp, LightSensor
from viva_tick.core.edits import apply_patch
from viva_tick.core.electrics import circuit_of
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.kinds import KINDS
from viva_tick.core.pins import NoFit, Room, arrival_patch, assign, move_patch, unfit, worth
from viva_tick.core.study import study
from viva_tick.demo import ORDER, demo_bench


class Boards(unittest.TestCase):
    def test_six_classes_whose_data_hold_together(self) -> None:
        self.assertEqual(len(boards()), 6)
        for board in boards().values():
            ids = [pin.id for pin in board.pins]
            self.assertEqual(len(ids), len(set(ids)), board.id)
            self.assertEqual(board_from_text(board_text(board)), board)
            for need in ("bus-data", "bus-clock", "serial-in", "serial-out"):
                self.assertLessEqual(sum(need in pin.can for pin in board.pins), 1, (board.id, need))
            self.assertLess(board.low_below_share, board.high_from_share)
            self.assertLess(board.pin_ua.design, board.pin_ua.absolute + 1)
            self.assertEqual(sorted(board.watchdog_steps_us), list(board.watchdog_steps_us))
            self.assertEqual(board.analogue is None, not any("analogue" in pin.can for pin in board.pins), board.id)
            if board.program and board.program.watchdog_header:
                self.assertEqual(len(board.program.watchdog_steps), len(board.watchdog_steps_us))

    def test_the_watchdog_steps_of_the_8_bit_class_are_powers_of_two(self) -> None:
        # DS40002061B, watchdog chapter (from memory): 2^11 to 2^20 cycles of nominally 128 kHz, named to two digits.
        for step_us, power in zip(boards()["mid-8bit-5v"].watchdog_steps_us, range(11, 21), strict=True):
            self.assertAlmostEqual(step_us, 2**power / 128_000 * 1e6, delta=0.025 * step_us)

    def test_a_pull_that_the_pin_does_not_have_holds_nothing(self) -> None:
        data = bench_data(push_bench("none", 0))
        data["board"], data["inputs"][0]["pin"], data["outputs"][0]["pin"] = "radio-32bit-3v3", "P35", "P16"
        bench = bench_from_data(data)
        self.assertEqual(circuit_of(bench.contacts[0], bench.the_board).held, ())
        level = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.LEVEL, "button")
        self.assertGreater(len(level.values), 20)


def small_board(pins: list[list[str]]) -> Board:
    data = boards()["mid-8bit-5v"].model_dump()
    data["pins"] = [{"id": f"D{n}", "code": str(n), "can": ["digital", *can]} for n, can in enumerate(pins)]
    return Board.model_validate(data)


ABILITIES = ("serial-in", "input-only", "no-pull", "boot-strapping", "bus-data", "bus-clock", "analogue", "dimmable")
KINDS_OF_PART = ("contact", "lamp", "dimmed", "sensor", "display")
pin_lists = st.lists(st.lists(st.sampled_from(ABILITIES), max_size=3, unique=True), min_size=1, max_size=6)
part_lists = st.lists(
    st.tuples(st.sampled_from(KINDS_OF_PART), st.sampled_from(["internal-up", "up"]), st.integers(0, 5)),
    min_size=1,
    max_size=4,
)


def bench_of(parts: list[tuple[str, str, int]]) -> Bench:
    inputs: list[Button | LightSensor] = []
    outputs: list[Lamp | Display] = []
    for n, (kind, pull, at) in enumerate(parts):
        pin = f"D{at}"
        if kind == "contact":
            inputs.append(Button(id=f"i{n}", name=f"I{n}", pin=pin, wiring=Wiring(pull=pull)))  # type: ignore[arg-type]
        elif kind == "sensor":
            inputs.append(LightSensor(id=f"i{n}", name=f"I{n}", pin=pin))
        elif kind == "display":
            outputs.append(Display(id=f"o{n}", name=f"O{n}", data=pin, clock=f"D{(at + 1) % 6}"))
        else:
            outputs.append(Lamp(id=f"o{n}", name=f"O{n}", pin=pin, dimmed=kind == "dimmed"))
    return Bench(name="b", inputs=tuple(inputs), outputs=tuple(outputs))


class Assignment(unittest.TestCase):
    @settings(max_examples=150 * DEPTH, deadline=None)
    @given(pin_lists, part_lists)
    def test_it_is_as_good_as_the_best_of_all(self, pins: list[list[str]], parts: list[tuple[str, str, int]]) -> None:
        board, bench = small_board(pins), bench_of(parts)
        # What is on the bus shares its lines: one choice for each line, the later part's wish counting.
        wishes = {claim.bus or claim.where: worth(claim, board) for claim in bench.claims}
        worths = list(wishes.values())
        best = None
        for chosen in itertools.permutations([pin.id for pin in board.pins], len(worths)):
            if all(pin in mine for pin, mine in zip(chosen, worths, strict=True)):
                total = sum(mine[pin] for pin, mine in zip(chosen, worths, strict=True))
                best = total if best is None else max(best, total)
        try:
            found = assign(bench.claims, board)
        except NoFit as error:
            self.assertIsNone(best)
            self.assertTrue(error.names)
            return
        given = {claim.bus or claim.where: found[claim.where] for claim in bench.claims}
        self.assertEqual(len(set(given.values())), len(given))
        self.assertEqual(sum(mine[given[node]] for node, mine in wishes.items()), best)

    def test_every_demo_moves_to_every_board_that_has_the_pins_and_back(self) -> None:
        moves = 0
        for name in ORDER:
            bench = demo_bench(name)
            for board in boards().values():
                try:
                    patch = move_patch(bench, board)
                except NoFit:
                    lacking = board.analogue is None and any("analogue" in claim.needs for claim in bench.claims)
                    self.assertTrue(lacking or len(bench.claims) > len(board.pins) - 3, (name, board.id))
                    continue
                moved = apply_patch(bench, patch)
                moves += 1
                self.assertEqual(moved.board, board.id)
                self.assertEqual(len({claim.pin for claim in moved.claims}), len(moved.claims))
                for claim in moved.claims:
                    pin = board.pin(claim.pin)
                    assert pin is not None
                    self.assertIsNone(unfit(claim, pin))
                self.assertEqual(apply_patch(moved, move_patch(moved, bench.the_board)).board, bench.board)
            self.assertEqual(move_patch(bench, bench.the_board), [])
        self.assertGreater(moves, 18)

    def test_a_board_copied_before_its_calls_stood_in_its_file_has_them(self) -> None:
        for ident in ("mid-8bit-5v", "small-8bit-5v"):
            data = boards()[ident].model_dump(mode="json") | {"id": "mine"}
            for name in ("watchdog", "timer", "sleep", "store"):
                del data["program"][name]
            self.assertEqual(Board.model_validate(data).program, boards()[ident].program)
            data = boards()[ident].model_dump(mode="json") | {"id": "mine"}
            for bit in ("power_bit", "dip_bit", "pin_bit"):
                del data["program"]["watchdog"][bit]
            self.assertEqual(Board.model_validate(data).program, boards()[ident].program)

    def test_every_kind_of_part_arrives_sound_on_every_board_that_can_carry_it(self) -> None:
        # What the board or the kind itself makes unavoidable; anything else would be a part that arrives badly wired.
        known = {"wire.hazard", "clean.unneeded", "wire.pull-enable", "wire.starts-analogue", "wire.no-cut-out", "wire.ghosts",
                 "wire.relay-supply", "wire.over-volts", "wire.trigger", "wire.serial", "wire.boot-strapping",
                 "wire.reset", "wire.pin-over", "wire.over-scale", "wire.all-pins", "wire.base-weak", "guard.none",
                 "wire.unsaid", "wire.no-stop", "wire.fails-closed", "wire.start-current", "clean.reference", "wire.gate-low",
                 "wire.lamp-pull", "wire.boot-high"}  # fmt: skip
        for board in boards().values():
            for kind in KINDS.values():
                empty = Bench(name="b", board=board.id)
                arrived = arrival_patch(Room.of(empty), kind)
                if arrived is None:
                    self.assertIn(board.id, ("computer-3v3", "small-8bit-5v", "dip-8bit-5v"), kind.id)
                    continue
                bench = apply_patch(empty, arrived[1])
                codes = {finding.code for finding in study(bench, None).findings}
                if kind.id == "open-wire":  # that is what it is for
                    self.assertIn("wire.floating", codes)
                    codes.remove("wire.floating")
                self.assertLessEqual(codes, known, (board.id, kind.id))
                if board.id == "mid-8bit-5v":
                    harmless = {"wire.hazard", "clean.unneeded", "wire.no-cut-out", "wire.ghosts", "wire.relay-supply"}
                    harmless |= {"guard.none", "clean.reference", "wire.unsaid", "wire.no-stop", "wire.fails-closed"}
                    self.assertLessEqual(codes, harmless, kind.id)
                    twice = arrival_patch(Room.of(bench), kind)
                    if twice:
                        both = apply_patch(bench, twice[1])
                        pins = [claim.pin for claim in both.claims if not claim.bus]
                        self.assertEqual(len(pins), len(set(pins)), kind.id)

    def test_too_many_parts_for_a_board_are_named(self) -> None:
        bench = bench_of([("lamp", "up", n) for n in range(7)])
        with self.assertRaisesRegex(NoFit, "no suitable pin left for O"):
            move_patch(bench, boards()["small-8bit-5v"])

    def test_sketches_for_the_other_boards_compile(self) -> None:
        bench = demo_bench("bicycle-lamp")
        for board in boards().values():
            if board.program is None:
                continue
            moved = apply_patch(bench, move_patch(bench, board))
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
