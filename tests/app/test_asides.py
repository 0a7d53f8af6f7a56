"""Figures and words that other tests come by without looking at them: each by hand, where a single fault in it went
unnoticed."""

from __future__ import annotations

import re
import unittest
from xml.etree.ElementTree import fromstring

from tests.app.client import AppCase
from tests.core.finding_cases import BUTTON, DIAL, with_parts
from tests.core.pace_benches import READY_US, bench_of, run_of
from tests.core.test_findings import found
from viva_tick.core.boards import boards
from viva_tick.core.document import DocumentError, bench_data, bench_from_data, board_from_data
from viva_tick.core.edits import apply_patch, words
from viva_tick.core.electrics import levels
from viva_tick.core.electrics.pin import pull_window
from viva_tick.core.exploring import produced_events
from viva_tick.core.pace import anatomy, counted
from viva_tick.core.wiring import steps
from viva_tick.demo import ORDER, demo_bench
from viva_tick.store import open_database
from viva_tick.web.doings import to_expect
from viva_tick.web.drawings.wiring import step_drawing


class Wiring(unittest.TestCase):
    def test_each_wire_is_drawn_from_its_own_pads_in_its_colour_to_its_number(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for step in steps(bench):
                drawn = fromstring(step_drawing(bench.the_board, step.title, step.wires, ()))
                pads = {one.text: one.get("x") for one in drawn.iter("text") if "pad-text" in str(one.get("class"))}
                self.assertEqual({*pads}, {pin.id for pin in bench.the_board.pins} | {"GND", "+"})
                lines = [one for one in drawn.iter("path") if "lay-line" in str(one.get("class"))]
                ends = [float(str(one.get("cy"))) for one in drawn.iter("circle")]
                for wire, line, y in zip(step.wires, lines, ends, strict=True):
                    with self.subTest(name, wire=wire):
                        said = [end for end in (wire.from_end, wire.to_end) if end.startswith("Board ")]
                        rails = {"Board GND": "GND", "Board + supply": "+"}
                        wanted = [float(str(pads[rails.get(end, end[6:])])) for end in said]
                        found = re.findall(r"M([\d.]+) [\d.]+ V", str(line.get("d")))
                        self.assertEqual([float(x) for x in found], wanted)
                        self.assertIn(f"is-wire-{wire.colour or 'grey'}", str(line.get("class")))
                        self.assertTrue(str(line.get("d")).endswith(f" {y:g}") or not said)


class Electric(unittest.TestCase):
    def test_leakage_bounds_a_pull_by_what_is_left_to_the_threshold(self) -> None:
        board = boards()["mid-8bit-5v"].model_copy(
            update={"high_from_share": 0.7, "low_below_share": 0.2, "leak_na": 1_000_000}
        )
        for rail, ohm in (("supply", 1_500), ("ground", 1_000)):  # 5 V × 0.3 and 5 V × 0.2 over 1 mA
            window = pull_window(rail, 10_000, 10, board)
            self.assertAlmostEqual(window.most_ohm, ohm)
            self.assertEqual(window.most_by, "leakage")

    def test_a_contact_that_rests_closed_floats_while_it_is_pressed(self) -> None:
        for normally in ("open", "closed"):
            wiring = {"pull": "none", "normally": normally}
            bench = with_parts({**BUTTON, "wiring": wiring})
            self.assertTrue(levels.floats(bench.contacts[0], bench.the_board), normally)

    def test_what_switches_is_held_on_and_a_small_lamp_may_be(self) -> None:
        relay = {"kind": "relay", "pin": "D4", "active_level": "high", "hold": "up", "loads": ["nothing"]}
        self.assertIn("wire.held-on", found(with_parts(relay)))
        self.assertNotIn("wire.held-on", found(with_parts({"kind": "lamp", "pin": "D4", "hold": "up"})))


class Checked(unittest.TestCase):
    def test_keys_are_counted_against_crossings(self) -> None:
        part = {"kind": "matrix", "rows": ["D2", "D3"], "columns": ["D4", "D5", "D6"], "keys": ["1", "2", "3", "4"]}
        with self.assertRaisesRegex(DocumentError, "4 keys for 6 crossings"):
            with_parts(part)

    def test_a_boards_pulls_stand_the_right_way_round(self) -> None:
        data = boards()["mid-8bit-5v"].model_dump(mode="json")
        with self.assertRaisesRegex(DocumentError, "50000 Ω to 20000 Ω is the wrong way round"):
            board_from_data({**data, "pull_up_ohm": [50_000, 20_000]})
        self.assertEqual(board_from_data({**data, "pull_up_ohm": [20_000, 20_000]}).pull_up_ohm, (20_000, 20_000))


class Said(unittest.TestCase):
    def test_the_state_at_the_end_is_the_last_one(self) -> None:
        bench = bench_of(1_500, [(300, 100)])
        (_, patch) = next(row for row in to_expect(bench, bench.scenarios[0], run_of(bench)) if "at the end" in row[0])
        self.assertEqual((patch[0]["value"]["state"], patch[0]["value"]["at_us"]), ("on", 1_499_000))

    def test_what_the_counter_has_to_reach(self) -> None:
        blink = {"kind": "blink", "on_us": 700_000, "off_us": 300_000}
        bench = bench_of(states=[{"id": "off", "name": "Off", "drives": {"lamp": blink}}, {"id": "on", "name": "On"}])
        self.assertIn(("Lamp", "blinks", 700), [(one.name, one.what, one.ms) for one in counted(bench)])

    def test_a_number_that_is_changed_and_taken_out_in_one_edit(self) -> None:
        bench = bench_of(variables=[{"id": "count", "name": "Count"}])
        patch = [
            {"op": "replace", "path": "/firmware/variables/0/name", "value": "Tally"},
            {"op": "remove", "path": "/firmware/variables/0"},
        ]
        self.assertTrue(words(bench, apply_patch(bench, patch), patch))

    def test_what_is_kept_is_one_block_however_much_it_is(self) -> None:
        variables = [{"id": name, "name": name.title()} for name in ("one", "two")]
        keeps = [{"of": name, "where": "store", "when": "every", "every_us": 5_000_000} for name in ("one", "two")]
        blocks = [block.kind for block in anatomy(bench_of(variables=variables, keeps=keeps)).blocks]
        self.assertEqual(blocks.count("keep"), 1)

    def test_what_is_not_read_gives_no_event(self) -> None:
        unread = bench_data(with_parts(DIAL))
        ident = unread["inputs"][0]["id"]
        for reading, gives in (({}, False), ({ident: {"kind": "turns"}}, True)):
            unread["firmware"]["readings"] = reading
            events = produced_events(bench_from_data(unread))
            self.assertEqual(("step", ident, "") in events, gives)
            self.assertIn(("boot", "", ""), events)

    def test_a_reset_is_the_last_that_is_recorded_of_its_pass(self) -> None:
        dog = {"mode": "reset", "timeout_us": 16_000}
        run = run_of(bench_of(300, loop={"tail_delay_us": 30_000}, watchdog=dog))
        self.assertEqual(run.boots[1][0], READY_US + 16_000)


class Files(AppCase):
    def test_runs_go_out_as_what_they_are(self) -> None:
        for kind, type_, begins in (("csv", "text/csv", "time_us,kind"), ("vcd", "text/plain", "$")):
            answer = self.client.get(f"/benches/1/run.{kind}")
            self.assertEqual(answer.mimetype, type_)
            self.assertTrue(answer.text.startswith(begins))

    def test_a_fresh_database_is_opened_so_that_what_is_saved_outlives_a_power_cut(self) -> None:
        engine = open_database(self.app.extensions["database"].parent / "fresh.sqlite")
        with engine.connect() as connection:
            said = {
                name: connection.exec_driver_sql(f"PRAGMA {name}").scalar()
                for name in ("journal_mode", "foreign_keys", "synchronous", "busy_timeout")
            }
        engine.dispose()
        self.assertEqual(said, {"journal_mode": "wal", "foreign_keys": 1, "synchronous": 2, "busy_timeout": 10_000})


if __name__ == "__main__":
    unittest.main()
