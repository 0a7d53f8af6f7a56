"""The program, compiled with the system's compiler, does what the engine said it would."""

from __future__ import annotations

import json
import re
import tempfile
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.on_host import NO_SHRINK, SHARP, AsTheEngine, plainly, run_sketch
from tests.core.pace_benches import PRESS, STATES, TRANSITIONS, bench_of, with_hold
from tests.core.pace_benches import task as a_task
from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.boards import boards
from viva_tick.core.document import CAUSE_EVENTS, Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.emit import sketch
from viva_tick.core.engine import Kind, PlainEngine, SkippingEngine
from viva_tick.demo import ORDER, demo_bench


def _on_dip(data: dict[str, Any]) -> Bench:
    """The same on the board whose loader leaves the cause as it is."""
    data["board"] = "dip-8bit-5v"
    pins = [pin.id for pin in boards()["dip-8bit-5v"].pins if "digital" in pin.can]
    data["inputs"][0]["pin"], data["outputs"][0]["pin"] = pins[:2]
    return bench_from_data(data)


class SketchRunsAsTheEngineDoes(AsTheEngine):
    def test_every_demo_with_plain_functions(self) -> None:
        for name in ORDER:
            bench = plainly(demo_bench(name))
            text = sketch(bench)
            boards_own = {"Serial", "Wire", *re.findall(r"\bServo (\w+)", text)}
            self.assertLessEqual({*re.findall(r"(\w+)\.\w+\(", text)}, boards_own)
            with self.subTest(bench=name):
                self.assert_same(bench, bench.scenarios[0])

    @settings(max_examples=8 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(st.one_of(benches(), sensed_benches(watchdog=False)))
    def test_random_benches_with_plain_functions(self, made: tuple[Bench, Scenario]) -> None:
        self.assert_same(plainly(made[0]), made[1])

    def test_every_demo_and_scenario(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for scenario in bench.scenarios:
                with self.subTest(bench=name, scenario=scenario.name):
                    self.assert_same(bench, scenario)

    @settings(max_examples=10 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_random_benches(self, made: tuple[Bench, Scenario]) -> None:
        self.assert_same(*made)

    @settings(max_examples=10 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(sensed_benches(watchdog=False))
    def test_random_benches_with_every_kind_of_input(self, made: tuple[Bench, Scenario]) -> None:
        self.assert_same(*made)

    @settings(max_examples=10 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_random_benches_kept_with_delays(self, made: tuple[Bench, Scenario]) -> None:
        firmware = made[0].firmware.model_copy(update={"school": "delays"})
        self.assert_same(made[0].model_copy(update={"firmware": firmware}), made[1], 1_000)

    def test_the_watchdog_acts_when_the_engines_does(self) -> None:
        # A press at 0.25 s makes the lamp hold the loop for 0.7 s; −1 is a call of its handler, −2 a reset.
        for dog in (
            {"mode": "reset"},
            {"mode": "reset", "feed": "start"},
            {"mode": "interrupt"},
            {"mode": "interrupt-reset"},
            {"mode": "interrupt-reset", "timeout_us": 500_000, "cause": "kept"},
            {"mode": "reset", "feed": "interrupt"},
            {"mode": "reset", "also": ["wait"]},
            {"mode": "reset", "feed": "task", "feed_task": "work"},
            {"mode": "interrupt", "feed": "task", "feed_task": "work", "off_at_start": False, "cause": "stored"},
            {"mode": "reset", "feed": "reports"},
            {"mode": "interrupt-reset", "feed": "reports"},
            {"mode": "reset", "feed": "action"},
        ):
            with self.subTest(**dog), tempfile.TemporaryDirectory() as folder:
                tasks = [a_task("work", 100, 500)]
                bench = with_hold(700, watchdog={"timeout_us": 250_000, **dog}, tasks=tasks, length_ms=1_500)
                written = run_sketch(bench, bench.scenarios[0], Path(folder))
                trace = SkippingEngine().run(bench, bench.scenarios[0]).trace
                for kind, number in ((Kind.BARK, -1), (Kind.RESET, -2)):
                    engine = [at for signal in trace.signals if signal.kind is kind for at in signal.times_us]
                    double = [at for at, _ in written.get(number, [])]
                    self.assertEqual(len(double), len(engine))
                    for wanted, got in zip(engine, double, strict=True):
                        self.assertLess(abs(wanted - got), 100)

    def test_a_watchdog_left_on_bites_until_the_supply_goes(self) -> None:
        # From 0.5 s on every 16 ms, to the end or until the plug is pulled at 0.7 s: the reset pin does not end it.
        for cause, resets in (("off", 14), ("pin", 63)):
            dog = {"mode": "reset", "timeout_us": 250_000, "off_at_start": False}
            bench = with_hold(700, watchdog=dog, length_ms=1_500)
            upset = {"kind": cause, "at_us": 700_000, "for_us": 1_000}
            data = bench_data(bench)
            data["scenarios"][0]["upsets"] = [upset]
            upset_bench = bench_from_data(data)
            scenario = upset_bench.scenarios[0]
            with self.subTest(cause):
                self.assert_same(upset_bench, scenario)
                run = SkippingEngine().run(upset_bench, scenario)
                self.assertEqual(len(run.trace.signal(Kind.RESET).times_us), resets)

    def test_it_sleeps_as_the_engine_does(self) -> None:
        # A blink and presses between which it sleeps: the counter stands still but where a timer wakes it.
        blink = {"kind": "blink", "on_us": 30_000, "off_us": 50_000}
        states = [STATES[0], {"id": "on", "name": "On", "drives": {"lamp": blink}}]
        transitions = [*TRANSITIONS, {"source": "on", "on": {"kind": "timeout", "after_us": 400_000}, "target": "off"}]
        presses = [(200, 60), (700, 60), (1_500, 30), (1_900, 20), (2_600, 200)]
        for sleep, guard in (
            ({"wakes": "watchdog", "every_us": 32_000}, {}),
            ({"wakes": "watchdog", "every_us": 30_000}, {"mode": "reset", "timeout_us": 64_000}),
            ({"wakes": "watchdog", "every_us": 16_000}, {"mode": "interrupt", "timeout_us": 16_000}),
            ({"wakes": "timer", "every_us": 20_000}, {"mode": "reset", "timeout_us": 16_000}),
            ({"wakes": "timer", "every_us": 7_000}, {"mode": "interrupt-reset", "timeout_us": 250_000}),
            ({"wakes": "pin", "awake_us": 50_000}, {}),
            ({"wakes": "pin", "awake_us": 90_000}, {"mode": "reset", "timeout_us": 500_000}),
        ):
            with self.subTest(sleep=sleep, guard=guard):
                cleaned = (
                    {"method": "none"}
                    if sleep["wakes"] == "watchdog"
                    else {"method": "rest-first", "interval_us": 9_000}
                )
                debounce = {"button": cleaned}
                bench = bench_of(3_000, presses, states, transitions, sleep=sleep, watchdog=guard, debounce=debounce)
                self.assert_same(bench, bench.scenarios[0], 100)
                runs = [engine().run(bench, bench.scenarios[0]) for engine in (PlainEngine, SkippingEngine)]
                self.assertEqual(runs[0], runs[1])
                self.assertGreater(len(runs[0].trace.signal(Kind.OUTPUT, "lamp").times_us), 4)

    def test_a_cause_that_the_loader_clears_is_never_heard_and_a_mark_is(self) -> None:
        # A hang of 0.7 s resets the board; "told" switches the lamp on as it starts again.
        for board, told_by, mode, heard in (
            ("mid-8bit-5v", "flag", "reset", False),
            ("mid-8bit-5v", "mark", "reset", True),
            ("mid-8bit-5v", "mark", "interrupt-reset", True),
            ("mid-8bit-5v", "flag", "interrupt-reset", False),
            ("dip-8bit-5v", "flag", "reset", True),
        ):
            with self.subTest(board=board, told_by=told_by, mode=mode):
                dog = {"mode": mode, "timeout_us": 250_000, "told_by": told_by, "cause": "kept"}
                bench = with_hold(900, watchdog=dog, board="mid-8bit-5v", length_ms=2_000)
                data = bench_data(bench)
                machine = data["firmware"]["machines"][0]
                machine["states"].append(
                    {"id": "told", "name": "Told", "drives": {"lamp": {"kind": "steady", "on": True}}}
                )
                machine["transitions"].append({"source": "off", "on": {"kind": "watchdog-reset"}, "target": "told"})
                bench = (
                    bench_from_data({**data, "board": board, "inputs": [{**data["inputs"][0], "pin": "D2"}]})
                    if board == "mid-8bit-5v"
                    else _on_dip(data)
                )
                run = SkippingEngine().run(bench, bench.scenarios[0])
                self.assertEqual("told" in run.trace.signal(Kind.STATE, "toggle").values, heard)
                if bench.the_board.program:
                    self.assert_same(bench, bench.scenarios[0])

    def test_why_the_board_started_is_told_and_a_restart_keeps_what_is_kept(self) -> None:
        # Three presses: the first two restart the board; then it is upset, and hangs.
        causes = [*CAUSE_EVENTS]
        at_ms = {"pin": 1_000, "dip": 1_400, "power": 1_800}
        for board, told_by in (
            ("mid-8bit-5v", "flag"),
            ("mid-8bit-5v", "mark"),
            ("clear-8bit-5v", "flag"),
            ("clear-8bit-5v", "mark"),
        ):
            shows = {"lamp": {"kind": "steady", "on": True}}
            hold = {"lamp": {"kind": "pulse", "length_us": 700_000, "blocking": True}}
            states = [{"id": "off", "name": "Off"}, {"id": "asked", "name": "Asked"}]
            states += [{"id": one, "name": one, "drives": shows} for one in causes]
            states.append({"id": "hang", "name": "Hang", "drives": hold})
            add = {"do": "add", "variable": "count", "number": 1}
            transitions = [
                {
                    "source": one,
                    "on": PRESS,
                    "target": "hang",
                    "guards": [{"kind": "compare", "variable": "count", "sign": ">=", "number": 2}],
                }
                for one in ("off", *causes)
            ]
            transitions += [
                {"source": one, "on": PRESS, "target": "asked", "actions": [add, {"do": "restart"}]}
                for one in ("off", *causes)
            ]
            transitions += [
                {"source": "off", "on": {"kind": event}, "target": cause} for cause, event in CAUSE_EVENTS.items()
            ]
            dog = {"mode": "reset", "timeout_us": 250_000, "told_by": told_by}
            bench = bench_of(
                3_500, [(300, 60), (600, 60), (2_300, 60)], states, transitions, watchdog=dog,
                variables=[{"id": "count", "name": "Count"}], keeps=[{"of": "count", "where": "store"}],
            )  # fmt: skip
            data = bench_data(bench)
            if board == "clear-8bit-5v":  # a loader that leaves the cause as it is
                own = bench.the_board.model_dump(mode="json") | {"id": board, "loader_clears_cause": False}
                data |= {"board": board, "own_board": own}
            kinds = {"pin": "pin", "dip": "dip", "power": "off"}
            data["scenarios"][0]["upsets"] = [{"kind": kinds[one], "at_us": at * 1000} for one, at in at_ms.items()]
            bench = bench_from_data(data)
            with self.subTest(board=board, told_by=told_by):
                runs = [engine().run(bench, bench.scenarios[0]) for engine in (PlainEngine, SkippingEngine)]
                self.assertEqual(runs[0], runs[1])
                trace = runs[0].trace
                resets = trace.signal(Kind.RESET)
                self.assertEqual(resets.values, ["software", "software", "pin", "dip", "power", "watchdog"])
                self.assertEqual([at // 1000 for at in resets.times_us[2:5]], [*at_ms.values()])
                known = {"mid-8bit-5v": {"software"}, "clear-8bit-5v": set(causes)}[board]
                taken_for = {one: one for one in known}
                if told_by == "mark":  # written before each feed, it stands when the pin is pulled
                    taken_for |= {"watchdog": "watchdog", "pin": taken_for.get("pin", "watchdog")}
                heard = [state for state in trace.signal(Kind.STATE, "toggle").values if state in causes]
                self.assertEqual(heard, [taken_for[one] for one in ("power", *resets.values) if one in taken_for])
                self.assertEqual(trace.signal(Kind.VALUE, "count").values[-1], 2)
                self.assert_same(bench, bench.scenarios[0], 200)

    @settings(max_examples=6 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches(watchdog=False, tasks=False), st.sampled_from(["shared-ignore", "shared-rest", "shared-interrupt"]))
    def test_random_benches_whose_inputs_share_what_cleans_them(self, made: tuple[Bench, Scenario], how: str) -> None:
        data = bench_data(made[0])
        waits = {"in-a": 5_000, "in-b": 12_000}
        data["firmware"]["debounce"] = {one: {"method": how, "interval_us": us} for one, us in waits.items()}
        bench = bench_from_data(data)
        self.assertEqual(*(engine().run(bench, bench.scenarios[0]) for engine in (PlainEngine, SkippingEngine)))
        self.assert_same(bench, bench.scenarios[0])

    def test_what_is_shared_loses_what_each_would_have_counted(self) -> None:
        # The first is held from 200 to 600 ms, the second tapped at 300 and 400.
        def counted(method: str) -> dict[str, int]:
            two = [("one", "D2"), ("two", "D3")]
            parts = [{"kind": "button", "id": i, "name": i, "pin": p, "contact": SHARP} for i, p in two]
            taps = [("one", 200, 400), ("two", 300, 50), ("two", 400, 50)]
            rows = [{"kind": "press", "input": i, "at_us": at * 1000 + 5, "hold_us": us * 1000} for i, at, us in taps]
            how = {"method": method, "interval_us": 20_000}
            bench = bench_from_data({
                "version": 4, "name": "Two", "board": "mid-8bit-5v", "inputs": parts,
                "firmware": {"debounce": {i: how for i, _ in two}},
                "scenarios": [{"name": "run", "length_us": 900_000, "stimuli": rows}],
            })  # fmt: skip
            trace = SkippingEngine().run(bench, bench.scenarios[0]).trace
            return {i: trace.signal(Kind.EVENT, i).values.count("press") for i, _ in two}

        self.assertEqual(counted("rest-first"), {"one": 1, "two": 2})
        self.assertEqual(counted("interrupt"), {"one": 1, "two": 2})
        self.assertEqual(counted("shared-rest"), {"one": 1, "two": 1})  # both as they read the same, from 300 on
        self.assertEqual(counted("shared-interrupt"), {"one": 3, "two": 0})

    def test_names_that_a_compiler_would_trip_over(self) -> None:
        text = """{"version": 1, "name": "Odd \\\\", "note": "ends in \\\\",
          "inputs": [{"id": "switch", "name": "new \\\\", "pin": "D2"}, {"id": "a-1", "name": "x", "pin": "D3"}],
          "outputs": [{"id": "a1", "name": "int", "pin": "D8"}, {"id": "loop", "name": "*/", "pin": "A0"}],
          "firmware": {"machines": [
            {"id": "b1", "name": "//", "initial": "a", "states": [{"id": "a", "name": "a"}, {"id": "a-1", "name": "b"},
              {"id": "a1", "name": "c", "drives": {"loop": {"kind": "steady", "on": true}}}],
              "transitions": [{"source": "a", "on": {"kind": "press", "input": "switch"}, "target": "a1"}]},
            {"id": "b-1", "name": "two", "initial": "a", "states": [{"id": "a", "name": "a"}]}]},
          "scenarios": [{"name": "s", "length_us": 100000}]}"""
        bench = bench_from_data(json.loads(text))
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual(run_sketch(bench, bench.scenarios[0], Path(folder)), {8: [(65400, 0)], 14: [(65400, 0)]})

    def test_what_outlives_a_reset_is_kept_where_the_board_has_a_place_for_it(self) -> None:
        for board, keeps in (("mid-8bit-5v", True), ("radio-32bit-3v3", False)):
            where = [{"of": "toggle"}, {"of": "count", "where": "store", "when": "every", "every_us": 5_000_000}]
            variables = [{"id": "count", "name": "Count"}]
            text = sketch(bench_of(board=board, keeps=where, variables=variables))
            for word in ("EEPROM.get", "KEPT_MARK", "keep_toggle_state();", "count_value_kept_at) >= 5000UL"):
                self.assertEqual(word in text, keeps, (board, word))
            self.assertEqual(text.count("this program does not: use your board's own calls"), 0 if keeps else 2)

    def test_it_blocks_only_where_the_bench_asks_for_it(self) -> None:
        data = bench_data(demo_bench("print-timer"))
        self.assertIn("delay(", sketch(bench_from_data(data)))
        data["firmware"]["machines"][0]["states"][3]["drives"]["beeper"]["blocking"] = False
        self.assertNotIn("delay(", sketch(bench_from_data(data)))
