"""Loop styles: with delays everything that takes time holds the loop, and only another style cures that."""

from __future__ import annotations

import unittest

from tests.core.pace_benches import PRESS, STATES, TRANSITIONS, bench_of, rows, task
from viva_tick.core.document import bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Budget, Kind, PlainEngine, SkippingEngine
from viva_tick.core.pace import in_school, school_run
from viva_tick.core.program import under
from viva_tick.core.study import study
from viva_tick.core.timing import answers


class Schools(unittest.TestCase):
    def test_with_delays_a_press_is_lost_that_the_counter_sees(self) -> None:
        blink = {"kind": "blink", "on_us": 200_000, "off_us": 200_000, "times": 3}
        states = [
            {"id": "off", "name": "Off", "drives": {"lamp": {"kind": "steady", "on": False}}},
            {"id": "on", "name": "On", "drives": {"lamp": blink}},
        ]
        bench = bench_of(states=states, presses=[(200, 100), (600, 100), (2_500, 100)], length_ms=3_000)
        scenario = bench.scenarios[0]
        lost = {name: school_run(name, in_school(bench, scenario, name)[1]) for name in ("delays", "counter", "kernel")}  # type: ignore[arg-type]
        self.assertEqual([lost[name].missed for name in ("delays", "counter", "kernel")], [1, 0, 0])
        self.assertGreater(lost["delays"].longest_pass_us, 1_200_000)

    def test_with_delays_a_state_stands_its_time_out(self) -> None:
        transitions = [
            {"source": "off", "on": PRESS, "target": "on"},
            {"source": "on", "on": {"kind": "timeout", "after_us": 700_000}, "target": "off"},
        ]
        bench = bench_of(transitions=transitions, presses=[(200, 100), (500, 100)], length_ms=2_000)
        run, said = in_school(bench, bench.scenarios[0], "delays")
        self.assertEqual(next(what for _, what in rows(run, Kind.BLOCKED))[1], "machine toggle")
        self.assertEqual(len(said.tallies["button"].missed_us), 1)
        self.assertEqual(round(said.on_us["lamp"] / 10_000), 70)

    def test_with_delays_a_blink_without_an_end_holds_each_pass(self) -> None:
        for_ever = {"kind": "blink", "on_us": 100_000, "off_us": 150_000}
        states = [{"id": "off", "name": "Off", "drives": {"lamp": for_ever}}, {"id": "on", "name": "On", "drives": {"lamp": {"kind": "steady", "on": True}}}]  # fmt: skip
        presses = [(350, 60), (900, 400)]
        for back in (False, True):  # with a time of its own, the blink is what the loop stands in
            transitions = [TRANSITIONS[0], *([{"source": "off", "on": {"kind": "timeout", "after_us": 1_800_000}, "target": "on"}] if back else [])]  # fmt: skip
            bench = bench_of(states=states, transitions=transitions, presses=presses, length_ms=3_000)
            run, said = in_school(bench, bench.scenarios[0], "delays")
            self.assertEqual(
                {us for _, (us, what) in rows(run, Kind.BLOCKED) if what == "drive lamp"}, {100_000, 150_000}
            )
            self.assertEqual(len(said.tallies["button"].missed_us), 1)
            self.assertEqual(in_school(bench, bench.scenarios[0], "counter")[1].tallies["button"].missed_us, ())
            self.assertGreaterEqual(said.longest_pass_us, 250_000)

    def test_letting_it_run_beside_cures_in_every_loop_style(self) -> None:
        blink = {"kind": "blink", "on_us": 200_000, "off_us": 200_000, "times": 3, "blocking": True}
        tap = [(200, 100), (600, 100), (2_500, 100)]
        print_ = task("say", 6_000, 100, does="print", characters=1000)
        for bench in (
            bench_of(states=[STATES[0], {"id": "on", "name": "On", "drives": {"lamp": blink}}], presses=tap, length_ms=3_000),
            bench_of(states=[STATES[0], {"id": "on", "name": "On", "drives": {"lamp": {**blink, "blocking": False}}}], presses=tap, length_ms=3_000),
            bench_of(transitions=[*TRANSITIONS, {"source": "on", "on": {"kind": "timeout", "after_us": 900_000}, "target": "off"}], presses=tap, length_ms=3_000),
            bench_of(tasks=[print_], serial={"baud": 2_000}, presses=[(1_000, 100)], length_ms=9_000),
        ):  # fmt: skip
            for school in ("delays", "counter"):
                there = under(bench, school)
                for _ in range(6):
                    found = [one for one in study(there, there.scenarios[0]).findings if one.code == "pace.blocking"]
                    if not found:
                        break
                    self.assertTrue(found[0].patch, found[0].title)
                    there = apply_patch(there, [dict(operation) for operation in found[0].patch])
                said = study(there, there.scenarios[0])
                self.assertEqual(found, [])
                assert said.answers is not None
                self.assertEqual(said.answers.tallies["button"].missed_us, (), (bench.firmware.machines, school))

    def test_a_long_print_is_found_as_blocking(self) -> None:
        say = task("say", 6_000, 100, does="print", characters=1000, blocking=True)
        bench = bench_of(tasks=[say], serial={"baud": 2_000}, presses=[(7_000, 100)], length_ms=9_000)
        for school in ("delays", "counter"):
            there = under(bench, school)
            found = [one for one in study(there, there.scenarios[0]).findings if one.code == "pace.blocking"]
            self.assertIn("4.68 s", dict(found[0].numbers)["wait"])

    def test_with_delays_idle_passes_are_jumped_over(self) -> None:
        bench = under(bench_of(presses=[(200, 100), (90_000, 100)], length_ms=100_000), "delays")
        run = SkippingEngine().run(bench, bench.scenarios[0], budget=Budget(passes=3_000))
        self.assertIsNone(run.stopped)

    def test_a_run_that_stopped_early_judges_nothing_after_its_end(self) -> None:
        so = [{"kind": "on", "output": "lamp", "from_us": 1_000_000, "to_us": 1_500_000},
              {"kind": "state", "machine": "toggle", "state": "on", "at_us": 1_500_000},
              {"kind": "count", "of": "lamp", "what": "on", "times": 2}]  # fmt: skip
        data = bench_data(bench_of(presses=[(200, 100), (1_200, 100)], loop={"tail_delay_us": 1_000}))
        data["scenarios"][0]["expects"] = so
        bench = bench_from_data(data)
        for passes, missed, reached in ((100, 0, 0), (60_000, 0, 3)):
            run = PlainEngine().run(bench, bench.scenarios[0], budget=Budget(passes=passes))
            said = answers(bench, run)
            self.assertEqual(run.stopped is None, passes == 60_000)
            self.assertEqual(len(said.tallies["button"].missed_us), missed)
            self.assertEqual(sum(one.reached for one in said.expected), reached)
            self.assertEqual(all(one.met for one in said.expected), passes == 100)


if __name__ == "__main__":
    unittest.main()
