"""What is chosen, each once more: by a plain computation, or by a property that must hold."""

from __future__ import annotations

import json
import unittest
from bisect import bisect_right
from typing import Any

import networkx
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.finding_cases import CASES, SPOKEN, with_parts
from tests.core.hazard_cases import HAZARD_CASES
from tests.core.pace_benches import READY_US, bench_of
from tests.core.pace_benches import task as a_task
from tests.core.pace_cases import PACE_CASES, REST, between, body, do
from tests.depth import DEPTH
from viva_tick.core.debounce import METHODS, PRESS
from viva_tick.core.document import Bench, Machine, Turns, bench_data
from viva_tick.core.document.parts import Commands
from viva_tick.core.document.scenario import Command, SetTo
from viva_tick.core.exploring.analysis import rounds, traps
from viva_tick.core.guard import choose
from viva_tick.core.guard.choose import healthy_us
from viva_tick.core.guard.hangs import instants
from viva_tick.core.hand import PEOPLE
from viva_tick.core.hand.doing import a_round
from viva_tick.core.kernel.standing import as_steps
from viva_tick.core.readers.quadrature import ERROR, GRAY, Quadrature, move
from viva_tick.core.record.cards import Line
from viva_tick.core.study import study
from viva_tick.core.sweep.turning import decoded
from viva_tick.demo import demo_bench

DOG = {"mode": "reset", "timeout_us": 250_000}

RELAY = {"kind": "relay", "loads": ["mains"], "hold": "up"}

EVERY_CASE: list[tuple[str, Bench]] = [
    *((code, bench) for code, bench, _ in (*CASES, *PACE_CASES)),
    *((code, bench) for code, bench, _, _ in HAZARD_CASES),
]


class Chosen(unittest.TestCase):
    def test_faults_come_at_instants_spread_over_what_follows_set_up(self) -> None:
        bench = bench_of()
        scenario = bench.scenarios[0]
        for many in (1, 7, 20):
            found = instants(bench, scenario, many)
            room_us = scenario.length_us - READY_US
            for place, at_us in enumerate(found):
                self.assertLess(abs(at_us - READY_US - (place + 0.5) * room_us / many), 1_001)
            self.assertEqual(found[0], READY_US + room_us // (2 * many))
            self.assertEqual(found, sorted(found))

    def test_a_first_press_is_heard_at_once_by_what_acts_at_once(self) -> None:
        self.assertEqual(METHODS["act-ignore"].make(50_000, 1_000).step(5, True), PRESS)

    def test_a_hand_puts_a_switch_over_and_back_in_turn(self) -> None:
        bench = demo_bench("print-timer")
        seen = 0
        for number in range(12):
            scenario, _ = a_round(bench, PEOPLE["practised"], number)
            done = [
                one.pressed for one in scenario.stimuli if isinstance(one, SetTo) and one.input == "safelight-switch"
            ]
            self.assertEqual(done, [n % 2 == 0 for n in range(len(done))])
            seen += len(done)
        self.assertGreater(seen, 12)

    @settings(max_examples=100 * DEPTH, deadline=None)
    @given(st.lists(st.tuples(st.integers(0, 5), st.integers(0, 5)), max_size=12))
    def test_traps_and_rounds_are_what_a_library_of_graphs_finds(self, edges: list[tuple[int, int]]) -> None:
        states = [{"id": f"s{n}", "name": f"S{n}"} for n in range(6)]
        ways = [{"source": f"s{a}", "on": {"kind": "always"}, "target": f"s{b}"} for a, b in edges]
        data = {"id": "m", "name": "M", "initial": "s0", "states": states, "transitions": ways}
        machine = Machine.model_validate_json(json.dumps(data))
        graph = networkx.DiGraph()
        graph.add_nodes_from(state.id for state in machine.states)
        graph.add_edges_from((one.source, one.target) for one in machine.transitions)
        reach = networkx.descendants(graph, machine.initial)
        wanted = {
            frozenset(part)
            for part in networkx.strongly_connected_components(graph)
            if 1 < len(part) < len(reach) and part <= reach
            and all(to in part for one in part for to in graph.successors(one))
        }  # fmt: skip
        self.assertEqual(set(traps(machine, list(machine.transitions))), wanted)
        wanted_rounds = {frozenset(row) for row in networkx.simple_cycles(graph)}
        self.assertEqual({frozenset(one.source for one in row) for row in rounds(machine)}, wanted_rounds)

    def test_what_a_finding_points_to_is_the_part_that_it_names(self) -> None:
        many = 0
        for code, bench in EVERY_CASE:
            data = bench_data(bench)
            firmware = bench.firmware
            parts = {one.id for one in bench.parts} | {one.id for one in firmware.machines}
            parts |= {one.id for one in firmware.tasks} | {one.id for one in firmware.kernel.between.bodies}
            for finding in study(bench, bench.scenarios[0] if bench.scenarios else None, mends=False).findings:
                here: Any = data
                thing = None  # the outermost that has an id
                for step in finding.pointer.strip("/").split("/"):
                    here = here[int(step)] if isinstance(here, list) and step.isdigit() else dict(here).get(step, {})
                    if isinstance(here, dict) and "id" in here:
                        thing = here
                        break
                    if not isinstance(here, dict | list):
                        break
                if thing is not None and finding.part.partition(".")[0] in parts:
                    with self.subTest(code, found=finding.code):
                        within = (
                            f"{finding.pointer} {thing} {data['firmware']['rows']}"  # a machine may drive it in a row
                        )
                        self.assertRegex(within, rf"['/]{finding.part.partition('.')[0]}\b")
                    many += 1
        self.assertGreater(many, 300)

    def test_where_no_step_is_safe_the_first_says_how_much_to_shorten(self) -> None:
        work = {"tasks": [a_task("work", 2_000, 300_000)]}
        bench = bench_of(lamp=RELAY, watchdog={**DOG, "hazard_us": 1_000}, **work)
        found = choose(bench)
        self.assertFalse(found.best or [step for step in found.steps if step.safe])
        room_us = found.steps[0].soonest_us * 100 // (100 + bench.firmware.watchdog.margin_percent)
        self.assertEqual(found.by_us, healthy_us(bench) - room_us)

    def test_each_pair_of_tasks_that_can_wait_for_each_other_is_told_once(self) -> None:
        for code, bench in EVERY_CASE:
            if code in ("pace.deadlock", "pace.unguarded"):  # of those that are tried
                told = [one for one in study(bench, None).findings if one.code == code]
                self.assertEqual(len({(one.part, one.sentence) for one in told}), len(told))
        later = (
            body("first", REST, do("work", us=2_000, uses="log")),
            body("second", do("work", us=2_000, uses="log"), REST),
        )
        (free,) = [one for one in study(between(*later), None).findings if one.code == "pace.unguarded"]
        self.assertEqual((free.part, free.pointer.split("/")[-4:]), ("first", ["0", "steps", "1", "uses"]))
        two = [do("take", one) for one in ("a", "b", "a", "b")]
        twice = [*two[:2], do("give", "b"), do("give", "a")] * 2
        other = [do("take", "b"), do("take", "a"), do("give", "a"), do("give", "b")] * 2
        bench = between(body("first", *twice, REST), body("second", *other, REST))
        told = [one for one in study(bench, None).findings if one.code == "pace.deadlock"]
        self.assertEqual(len(told), 1, [one.sentence for one in told])

    def test_a_hand_says_only_what_is_listened_for(self) -> None:
        numbers = set()
        bench = with_parts({**SPOKEN, "names": ["up", "down", "stop"]}, names=["", "down", "stop"])
        for number in range(20):
            scenario, _ = a_round(bench, PEOPLE["practised"], number)
            numbers |= {one.number for one in scenario.stimuli if isinstance(one, Command)}
        part = next(one for one in bench.inputs if isinstance(one, Commands))
        self.assertEqual(numbers, {part.number(1), part.number(2)})

    def test_a_turn_is_one_step_along_the_gray_code(self) -> None:
        for before, one in enumerate(GRAY):
            for now, other in enumerate(GRAY):
                self.assertEqual(move(one, other), {0: 0, 1: 1, 2: ERROR, 3: -1}[(now - before) % 4])

    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(
        st.lists(st.tuples(st.integers(50, 9_000), st.sampled_from([1, 1, 1, -1, 2])), min_size=1, max_size=40),
        st.integers(80, 5_000), st.integers(0, 4_999), st.sampled_from([0, 1_000, 4_000]), st.sampled_from([1, 2, 4]),
    )  # fmt: skip
    def test_a_dial_that_is_looked_at_is_what_looking_at_every_pass_comes_to(
        self, moves: list[tuple[int, int]], pass_us: int, phase_us: int, least_us: int, counts: int
    ) -> None:
        phase_us %= pass_us
        reading = Turns(counts_a_step=counts, least_us=least_us)
        times, states, at_us, place = [-1], [0], 0, 0
        for gap_us, step in moves:
            at_us, place = at_us + gap_us, place + step
            times.append(at_us)
            states.append(GRAY[place % 4])
        plain = Quadrature(counts, reading.reversed, least_us // 1_000)
        plain.see(0)
        steps = [
            plain.see(states[bisect_right(times, now_us) - 1], now_us // 1_000)
            for now_us in range(phase_us or pass_us, at_us + 4 * pass_us + 20_000, pass_us)
        ]
        wanted = (sum(one > 0 for one in steps), sum(one < 0 for one in steps), plain.errors)
        self.assertEqual(decoded(times, states, reading, pass_us, phase_us), wanted)

    def test_a_task_holds_what_it_shares_and_nothing_else(self) -> None:
        for shares, words in (("", ["Next", "Work"]), ("bus", ["Next", "Take", "Work", "Give", "Work"])):
            data = a_task("t", 50, 3_000, holds_us=1_000, shares=shares)
            task = bench_of(tasks=[data], school="kernel").firmware.tasks[0]
            steps = as_steps(task)
            self.assertEqual([type(step).__name__ for step in steps], words)
            self.assertEqual(sum(getattr(step, "us", 0) for step in steps), 3_000)

    def test_a_number_at_its_limit_is_right(self) -> None:
        line = Line("x", "power", "measure", "5 V", "V", 4.75, 5.25, "low", "high")
        for value, words in ((4.75, ""), (5.25, ""), (4.74, "low"), (5.26, "high")):
            self.assertEqual(line.judged(value), words)
