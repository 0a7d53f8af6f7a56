"""Machines against other people's: the order of leaving, acting and entering, nesting and history against sismic, flat
machines against transitions, on machines and events at random; exploring against brute force."""

from __future__ import annotations

import unittest
from collections import deque
from typing import Any

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from sismic.interpreter import Interpreter
from transitions import Machine as Flat

from tests.core.machine_benches import EVENTS, MANY, bench_with, leaf, statechart
from tests.core.pace_benches import bench_of
from tests.depth import DEPTH
from tests.random_benches import benches
from viva_tick.core.document import Bench, DocumentError, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.exploring import Abstract, explore, play, related
from viva_tick.core.machines import RunningMachine, compile_machine, event_keys
from viva_tick.core.program import program_of
from viva_tick.demo import ORDER, demo_bench


class AgainstOthers(unittest.TestCase):
    @MANY
    @given(bench_with(), st.lists(st.sampled_from(EVENTS), max_size=25))
    def test_nesting_history_guards_and_actions_against_sismic(self, bench: Bench, row: list[Any]) -> None:
        machine = bench.firmware.machines[0]
        host = Abstract(bench, [])
        keys = event_keys(bench)
        mine = RunningMachine(compile_machine(machine, keys), host)
        mine.begin(0)
        theirs = Interpreter(statechart(bench))
        theirs.execute()
        for event in [None, *row]:
            if event is not None:
                mine.fire(keys[event], 0)
                theirs.queue(".".join(event[:2]))
                theirs.execute()
            self.assertEqual(mine.machine.names[mine.state], leaf(theirs, machine))
            self.assertEqual(host.held, {name: theirs.context[name] for name in host.held})

    @MANY
    @given(bench_with(flat=True), st.lists(st.sampled_from(EVENTS), max_size=30))
    def test_flat_machines_against_transitions(self, bench: Bench, row: list[Any]) -> None:
        machine = bench.firmware.machines[0]
        keys = event_keys(bench)
        mine = RunningMachine(compile_machine(machine, keys), Abstract(bench, []))
        mine.begin(0)
        model = type("Model", (), {})()
        theirs = Flat(model, [s.id for s in machine.states], initial=machine.initial, ignore_invalid_triggers=True)
        for transition in machine.transitions:
            theirs.add_transition("_".join(transition.on.name[:2]), transition.source, transition.target)  # type: ignore[union-attr]
        for event in row:
            mine.fire(keys[event], 0)
            if (name := "_".join(event[:2])) in theirs.events:
                model.trigger(name)
            self.assertEqual(mine.machine.names[mine.state], model.state)

    @MANY
    @given(bench_with())
    def test_exploring_against_brute_force(self, bench: Bench) -> None:
        machine = bench.firmware.machines[0]
        keys = event_keys(bench)
        compiled = compile_machine(machine, keys)

        def after(row: tuple[Any, ...]) -> tuple[Any, ...]:
            host = Abstract(bench, [])
            mine = RunningMachine(compiled, host)
            mine.begin(0)
            for event in row:
                mine.fire(keys[event], 0)
            return mine.state, tuple(sorted(mine.kept.items())), tuple(host.held.items())

        # Every row of events, shortest first, as long as it leads to something that was not seen yet.
        seen: dict[Any, tuple[Any, ...]] = {after(()): ()}
        queue = deque([()])
        while queue and len(seen) < 400:
            row = queue.popleft()
            for event in EVENTS:
                to = after((*row, event))
                if to not in seen:
                    seen[to] = (*row, event)
                    queue.append((*row, event))
        shortest: dict[str, int] = {}
        for (state, _, _), row in seen.items():
            name = compiled.names[state]
            shortest[name] = min(shortest.get(name, 999), len(row))
        found = explore(program_of(bench), [machine])
        if not queue:
            mine = {state: len(path) for (_, state), path in found.paths.items() if not machine.insides(state)}
            self.assertEqual(mine, shortest)

    def test_pairs_of_outputs_are_found_in_both_ways_of_exploring(self) -> None:
        bench = demo_bench("print-timer")
        data = bench_data(bench)
        pair = ("focus-lamp", "safelight")
        flat = explore(program_of(bench), bench.firmware.machines, [pair])
        data["firmware"]["machines"][0]["transitions"][0]["guards"] = [{"kind": "contact", "input": "foot-pedal"}]
        whole = explore(program_of(guarded := bench_from_data(data)), guarded.firmware.machines, [pair])
        self.assertTrue(flat.whole and whole.whole)
        self.assertEqual(flat.together[pair][1][:2], whole.together[pair][1][:2])
        self.assertEqual(len(flat.together[pair][0]), 2)
        stopped = explore(program_of(bench), bench.firmware.machines, report=lambda found: False)
        self.assertFalse(stopped.whole)


class NothingBesides(unittest.TestCase):
    def test_a_reset_is_a_beginning_where_the_watchdog_makes_one(self) -> None:
        transitions = [{"source": "off", "on": {"kind": "watchdog-reset"}, "target": "on"}]
        for mode, reached in (("off", False), ("interrupt", False), ("reset", True), ("interrupt-reset", True)):
            bench = bench_of(transitions=transitions, watchdog={"mode": mode})
            self.assertEqual(
                ("toggle", "on") in explore(program_of(bench), bench.firmware.machines).paths, reached, mode
            )

    def test_what_a_machine_raises_as_it_begins_is_heard_by_those_after_it(self) -> None:
        data = bench_data(bench_of(transitions=[]))
        first = data["firmware"]["machines"][0]
        transition = {"source": "off", "on": {"kind": "entered", "machine": "toggle", "state": "off"}, "target": "on"}
        after = {**first, "id": "after", "name": "After", "transitions": [transition]}
        for row in ([first, after], [after, first]):
            data["firmware"]["machines"] = row
            bench = bench_from_data(data)
            entered = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.STATE, "after").values
            self.assertEqual(entered[-1], "on")
            self.assertIn(("after", "on"), explore(program_of(bench), bench.firmware.machines).paths)

    @settings(max_examples=40 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck),
              phases=[Phase.explicit, Phase.generate])  # fmt: skip
    @given(benches())
    def test_a_run_enters_only_states_that_exploring_found(self, made: tuple[Bench, Any]) -> None:
        bench, scenario = made
        # Exploring takes a reset for a new beginning: what outlives one is not followed.
        bench = bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"keeps": ()})})
        trace = SkippingEngine().run(bench, scenario).trace
        for machine in bench.firmware.machines:
            found = explore(program_of(bench), related(bench, [machine]), bound=4_000)
            if found.whole:
                entered = set(trace.signal(Kind.STATE, machine.id).values) - {None}
                self.assertLessEqual(entered, {state for ident, state in found.paths if ident == machine.id})


class Refused(unittest.TestCase):
    def test_what_machines_name_must_be_there_and_make_sense(self) -> None:
        for path, value, says in (
            ("transitions/3/on", {"kind": "timeout", "after_us": 1000, "variable": "tenths", "unit_us": 86_400_000_000}, "more than 7 days"),
            ("transitions/3/on", {"kind": "timeout", "after_us": 1000, "variable": "nobody"}, "no variable “nobody”"),
            ("transitions/3/on", {"kind": "timeout", "after_us": 2000, "until_us": 1000}, "ends before it begins"),
            ("transitions/3/on", {"kind": "entered", "machine": "lamp-mode", "state": "x"}, "no state “x”"),
            ("transitions/0/guards", [{"kind": "contact", "input": "bath-probe"}], "no input “bath-probe”"),
            ("transitions/0/guards", [{"kind": "level", "input": "foot-pedal"}], "not an analogue part"),
            ("transitions/0/guards", [{"kind": "range", "variable": "tenths", "least": 3, "most": 2}], "less than the least"),
            ("transitions/0/actions", [{"do": "random", "variable": "tenths", "least": 3, "most": 2}], "less than the least"),
            ("transitions/0/actions", [{"do": "copy", "variable": "tenths", "other": "x"}], "no variable “x”"),
            ("states/0/parent", "dark", "not another state"),
            ("states/4/parent", "dark", None),
            ("states/5/parent", "strip-dark", "is inside a state itself"),
            ("states/4/starts_in", "dark", "not a state inside"),
            ("states/1/drives/focus-lamp", {"kind": "blink", "on_us": 1000, "off_us": 1000, "blocking": True}, "needs an end"),
            ("states/1/drives/focus-lamp", {"kind": "burst", "on_us": 1000, "off_us": 1000, "rest_us": 1000, "times": 0}, "at least one flash"),
            ("states/1/drives/focus-lamp", {"kind": "blink", "on_us": 1000, "off_us": 1000, "for_us": 86_400_000_000, "blocking": True}, "5,000 flashes"),
            ("states/1/drives/focus-lamp", {"kind": "follow", "input": "beeper"}, "no contact and no analogue"),
        ):  # fmt: skip
            with self.subTest(path=path, value=str(value)):
                patch = [{"op": "replace", "path": f"/firmware/machines/0/{path}", "value": value}]
                with self.assertRaises(DocumentError) as refused:
                    apply_patch(demo_bench("print-timer"), patch)
                self.assertIn(says or "one level", str(refused.exception))


class Played(unittest.TestCase):
    def test_the_shortest_way_to_every_state_of_the_demos_leads_there(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            data = bench_data(bench)
            for part in data["inputs"]:  # hands that are sure, commands that are understood
                if "hit_percent" in part:
                    part["hit_percent"] = 100
                if part.get("contact", {}).get("kind") == "model":
                    part["contact"]["switch"] = "logic-signal"
            bench = bench_from_data(data)
            for machine in bench.firmware.machines:
                for (ident, state), path in explore(program_of(bench), [machine]).paths.items():
                    row = play(bench, path, "See")
                    made = apply_patch(bench, [{"op": "add", "path": "/scenarios/-", "value": row}])
                    trace = SkippingEngine().run(made, made.scenarios[-1]).trace
                    with self.subTest(bench=name, state=f"{ident} {state}"):
                        leaves = {state, *(one.id for one in machine.insides(state))}
                        self.assertTrue(leaves & set(trace.signal(Kind.STATE, ident).values))


if __name__ == "__main__":
    unittest.main()
