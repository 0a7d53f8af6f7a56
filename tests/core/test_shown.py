"""What is shown or chosen, each once more: by a plain computation, by a property that must hold, or by the table that
it was taken from."""

from __future__ import annotations

import json
import math
import unittest
from bisect import bisect_right
from dataclasses import replace
from itertools import pairwise
from typing import Any

import eseries
import networkx
import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.core.finding_cases import CASES, LEVEL, SPOKEN, with_parts
from tests.core.hazard_cases import HAZARD_CASES
from tests.core.pace_benches import PRESS as PRESSED
from tests.core.pace_benches import READY_US, bench_of, with_hold
from tests.core.pace_benches import task as a_task
from tests.core.pace_cases import PACE_CASES, REST, between, body, do
from tests.depth import DEPTH
from viva_tick.core.arithmetic import SUMS, first_values, problem, said, worked
from viva_tick.core.arithmetic.times import crossings_a_s
from viva_tick.core.contacts import source_bouncer
from viva_tick.core.debounce import METHODS, PRESS
from viva_tick.core.document import Bench, Machine, Turns, bench_data
from viva_tick.core.document.parts import Commands
from viva_tick.core.document.scenario import Command, SetTo
from viva_tick.core.edits import apply_patch
from viva_tick.core.edits import words as edit_words
from viva_tick.core.electrics.series import E12, E24
from viva_tick.core.emit import TARGETS
from viva_tick.core.emit.warnings import talks
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.exploring.analysis import rounds, traps
from viva_tick.core.findings.serial import BAUDS
from viva_tick.core.findings.switching import CARRIES_UA
from viva_tick.core.formats import read_capture, reader_for
from viva_tick.core.formats.streams import HYSTERESIS
from viva_tick.core.guard import choose
from viva_tick.core.guard.choose import healthy_us
from viva_tick.core.guard.hangs import fault_at, hang_run, instants
from viva_tick.core.hand import PEOPLE
from viva_tick.core.hand.doing import a_round
from viva_tick.core.kernel.standing import as_steps
from viva_tick.core.live import happened, next_pass
from viva_tick.core.pace.anatomy import anatomy, longest_of
from viva_tick.core.program import idle_pass_us
from viva_tick.core.readers.quadrature import ERROR, GRAY, Quadrature, move
from viva_tick.core.record.cards import Line
from viva_tick.core.report import study_lines
from viva_tick.core.study import study
from viva_tick.core.sweep.turning import decoded
from viva_tick.core.switches import SWITCH_CLASSES
from viva_tick.core.timing.compare import difference
from viva_tick.core.told import Otherness, aligned, pins_vcd
from viva_tick.core.told.board import other_bench
from viva_tick.demo import ORDER, demo_bench

DOG = {"mode": "reset", "timeout_us": 250_000}
RELAY = {"kind": "relay", "loads": ["mains"], "hold": "up"}
EVERY_CASE: list[tuple[str, Bench]] = [
    *((code, bench) for code, bench, _ in (*CASES, *PACE_CASES)),
    *((code, bench) for code, bench, _, _ in HAZARD_CASES),
]


class Tables(unittest.TestCase):
    def test_series_are_those_of_iec_60063(self) -> None:
        for series, name in ((E12, eseries.E12), (E24, eseries.E24)):
            self.assertEqual(list(series), [round(one) for one in eseries.series(name)])

    def test_wires_carry_what_iec_60335_1_table_11_gives_them(self) -> None:
        table = {0.5: 3, 0.75: 6, 1.0: 10, 1.5: 16, 2.5: 25}
        self.assertEqual(dict(CARRIES_UA), {area: amps * 1_000_000 for area, amps in table.items()})

    def test_bauds_and_how_wide_a_band_is(self) -> None:
        self.assertEqual(BAUDS, (*(9_600 * k for k in (1, 2, 4, 6, 12)), 250_000, 500_000, 1_000_000))
        bench = with_parts({**LEVEL, "stands_at": 20.0, "noise_mv": 100}, above=50.0, below=48.7654)
        (told,) = [one for one in study(bench, None).findings if one.code == "clean.thin-hysteresis"]
        self.assertEqual(dict(told.numbers)["hysteresis"].split()[0], f"{50 - 48.7654:.3g}")
        far = with_parts({**LEVEL, "least": 1.23456, "most": 98.7654}, above=5_000.0, below=4_000.0)
        (told,) = [one for one in study(far, None).findings if one.code == "clean.unreachable"]
        self.assertEqual(dict(told.numbers)["reaches"].split()[:3], ["1.235", "to", "98.77"])

    def test_through_a_base_and_through_a_wire(self) -> None:
        base = SUMS["base"]
        found = worked(base, first_values(base) | {"U_p": 5.0, "R_E": 1_000.0}).values
        self.assertAlmostEqual(found["I_pin"], (5 - 0.7) / 1_000)
        wire = SUMS["wire"]
        for area, allowed in ((100.0, True), (100.5, False)):
            self.assertEqual(problem(wire, first_values(wire) | {"A": area}) == "", allowed)

    def test_the_kernels_task_that_feeds_the_watchdog_feeds_it(self) -> None:
        tasks = [a_task("work", 50, 2_000, priority=3)]
        dog = {"mode": "reset", "timeout_us": 120_000, "feed": "task", "feed_task": "work"}
        for bench in (
            bench_of(school="kernel", tasks=tasks, watchdog=dog), with_hold(333, school="kernel", tasks=tasks, watchdog=dog)
        ):  # fmt: skip
            run = SkippingEngine().run(bench, bench.scenarios[0])
            self.assertEqual(run.trace.signal(Kind.RESET).times_us, [])

    def test_a_task_that_is_changed_is_called_by_its_name(self) -> None:
        bench = bench_of(tasks=[a_task("one", 50, 2_000), a_task("two", 70, 2_000)])
        patch: Any = [{"op": "replace", "path": "/firmware/tasks/1/period_us", "value": 90_000}]
        self.assertRegex(edit_words(bench, apply_patch(bench, patch), patch), "^Two: .*90 ms")

    def test_what_a_machine_signals_is_given_as_a_task_gives_it(self) -> None:
        has = {"flags": [{"id": "jobs", "name": "Jobs"}, {"id": "done", "name": "Done"}], "mutexes": []}
        work = body("first", do("take", "jobs"), do("give", "done"))
        signalled = [
            {"source": "off", "on": PRESSED, "target": "on", "actions": [{"do": "signal", "of": "jobs"}]},
            {"source": "on", "on": {"kind": "taken", "signal": "done"}, "target": "off"},
        ]
        bench = between(work, has=has, transitions=signalled, board="two-core-32bit-3v3")
        text = "\n".join(file.text for file in TARGETS["kernel"].emit(bench, []).files)
        self.assertIn("xSemaphoreGive(", text)
        self.assertNotIn("FromISR", text)

    def test_contacts_bounce_as_their_class_says(self) -> None:
        # (fewest, most) bounces of a press and the longest it takes, of FACTS: a few ms, 10 to 20 ms, hundreds of ms.
        for name, fewest, most, longest_us in (
            ("small-button", 0, 5, 4_000), ("worn-button", 2, 9, 18_000), ("foot-pedal", 2, 6, 10_500),
            ("toggle-switch", 1, 5, 6_200), ("relay-contact", 1, 4, 5_000), ("float-contact", 2, 10, 420_000),
            ("encoder-contacts", 0, 4, 2_500), ("logic-signal", 0, 0, 0),
        ):  # fmt: skip
            bouncer = source_bouncer(name)
            bursts = [bouncer.burst(True, number) for number in range(3_000)]
            with self.subTest(name):
                self.assertEqual(min(map(len, bursts)), 2 * fewest)
                self.assertEqual(max(map(len, bursts)), 2 * most)
                ends = [burst[-1] for burst in bursts if burst]
                self.assertLessEqual(max(ends, default=0), longest_us * 1.01)
                self.assertGreaterEqual(max(ends, default=0), longest_us * 0.98)
        self.assertEqual(len(SWITCH_CLASSES), 8)

    def test_times_in_words(self) -> None:
        for seconds, words in ((600, "10 min"), (119, "119 s"), (7_200, "2 h"), (172_800, "2 days"), (5_400, "90 min"),
                               (63_115_200, "2 years"), (0.02, "20 ms")):  # fmt: skip
            self.assertEqual(said(seconds, "s", 3), words)
        one = SUMS["hysteresis"]
        values = first_values(one) | {"b": 0.5, "U_pp": 0.01, "band": 0.005}
        rate = crossings_a_s(0.005, 0.01 / 6, 0.5)
        self.assertLess(rate, 1)
        self.assertAlmostEqual(worked(one, values).values["every"], 1 / rate)


class Passes(unittest.TestCase):
    def test_the_blocks_of_the_longest_pass_add_up_to_it(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for scenario in bench.scenarios:
                run = SkippingEngine().run(bench, scenario)
                if bench.firmware.school == "kernel" or run.stopped:
                    continue
                begun_us, anatomy = longest_of(bench, run)
                signal = run.trace.signal(Kind.PASS)
                longest = max(length for length, _ in signal.values)
                self.assertEqual(signal.values[signal.times_us.index(begun_us)][0], longest)
                self.assertEqual(sum(block.usual_us for block in anatomy.blocks), idle_pass_us(bench))

    def test_a_fault_is_a_block_of_its_own_that_no_usual_pass_has(self) -> None:
        bench = bench_of()
        run = hang_run(bench, bench.scenarios[0], fault_at(bench, "starve", "", 400_000))
        _, anatomy = longest_of(bench, run)
        (block,) = [one for one in anatomy.blocks if one.kind == "fault"]
        self.assertEqual((block.usual_us, block.longest_us), (0, 200_000))

    def test_a_watchdog_that_ends_a_hold_leaves_it_in_the_trace_up_to_its_bite(self) -> None:
        bench = with_hold(333, watchdog={"mode": "reset", "timeout_us": 120_000})
        run = SkippingEngine().run(bench, bench.scenarios[0])
        (bite_us,) = run.trace.signal(Kind.RESET).times_us
        blocked = run.trace.signal(Kind.BLOCKED)
        self.assertIn(bite_us, [at + one[0] for at, one in zip(blocked.times_us, blocked.values, strict=True)])


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


class Told(unittest.TestCase):
    def test_how_far_instants_lie_from_the_clocks_line(self) -> None:
        rng = np.random.default_rng(3)
        pairs = [(t * 1_000.0, t * 1_000.1 + 70 + rng.normal(0, 9)) for t in range(200)]
        clock = aligned(pairs)
        assert clock is not None
        left = [abs(v - (1 + clock.ppm / 1e6) * t - clock.offset_us) for t, v in pairs]
        self.assertAlmostEqual(clock.jitter_us, float(np.median(left)), places=6)
        self.assertAlmostEqual(clock.ppm, 100, delta=20)

    def test_another_switch_in_any_contact_of_a_simulated_board(self) -> None:
        bench = demo_bench("print-timer")
        for line in bench.contacts:
            other = other_bench(bench, Otherness(switches={line.id: "worn-button"}))
            self.assertEqual(getattr(other.contact(line.id).contact, "switch", ""), "worn-button")
            rest = [one.id for one in bench.contacts if other.contact(one.id).contact != one.contact]
            self.assertEqual(rest, [line.id])

    def test_the_pin_that_toggles_at_each_pass_runs_by_the_boards_clock(self) -> None:
        bench = demo_bench("print-timer")
        run = SkippingEngine().run(bench, bench.scenarios[0])
        from_us = run.boots[0][1]
        texts = [pins_vcd(bench, run, ppm, from_us, passes=True, only=frozenset({"D8"})) for ppm in (0.0, 20_000.0)]
        rows = []
        for text in texts:
            reader = reader_for(text)
            assert reader is not None
            found = {name.rpartition(".")[2]: at for name, (at, _) in reader.feed(text, True).items()}
            rows.append((found["D8"], found["pass"]))
        for place in (0, 1):
            self.assertEqual(len(rows[0][place]), len(rows[1][place]))
            for at_ns, later_ns in list(zip(rows[0][place], rows[1][place], strict=True))[::97]:
                self.assertLess(abs(later_ns - 1.02 * at_ns), 2_000)
        self.assertGreater(len(rows[0][1]), 10_000)

    def test_what_is_printed_for_each_sensed_part(self) -> None:
        seen = 0
        for name in ORDER:
            bench = demo_bench(name)
            for scenario in bench.scenarios:
                done = study(bench, scenario, mends=False)
                assert done.answers is not None
                lines = list(study_lines(bench, done))
                for _, part in bench.sensed:
                    if tally := done.answers.sensed.get(part.id):
                        plain = f"{part.name}: made {tally.made}, counted {tally.counted}"
                        seen += 1
                        self.assertIn(
                            plain + (f", wrong {tally.wrong}" if tally.wrong else ""), [x.strip() for x in lines]
                        )
        self.assertGreater(seen, 2)

    def test_what_happened_is_each_change_once_and_the_next_pass_is_the_next(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            run = SkippingEngine().run(bench, bench.scenarios[0])
            told = {(one.at_us, one.words) for one in happened(bench, run)}
            for channel in bench.channels:
                signal = run.trace.signal(Kind.OUTPUT, channel.id)
                stood = None
                for at_us, value in zip(signal.times_us, signal.values, strict=True):
                    if value < 0:
                        continue
                    words = f"{channel.name} {'on' if value > 0 else 'off'}"
                    changed = stood is not None and (value > 0) != stood
                    self.assertEqual((at_us, words) in told, changed, (name, words, at_us))
                    stood = value > 0
            if name == "print-timer":
                passes = run.trace.signal(Kind.PASS)
                rows = zip(passes.times_us, passes.values, strict=True)
                begun = [at_us + n * length_us for at_us, (length_us, many) in rows for n in range(many)]
                self.assertEqual(begun, sorted(begun))
                for at_us in range(0, run.trace.length_us, 9_973):
                    after = bisect_right(begun, at_us)
                    self.assertEqual(next_pass(run, at_us), begun[after] if after < len(begun) else None)

    def test_a_change_is_told_from_half_a_millisecond_on(self) -> None:
        bench = demo_bench("print-timer")
        before = study(bench, bench.scenarios[0], mends=False).answers
        assert before is not None
        for more_us, told in ((499, False), (500, True), (-499, False), (-500, True)):
            after = replace(before, longest_pass_us=before.longest_pass_us + more_us)
            self.assertEqual("longest pass" in difference(bench, before, after), told)
            wait = before.waits["foot-pedal"]
            assert wait is not None
            other = {**before.waits, "foot-pedal": replace(wait, median=wait.median + more_us)}
            self.assertEqual("wait on Foot pedal" in difference(bench, before, replace(before, waits=other)), told)
        for more_us, told in ((49_999, False), (50_000, True)):
            on = {**before.on_us, "safelight": before.on_us["safelight"] - more_us}
            self.assertEqual("Safelight on" in difference(bench, before, replace(before, on_us=on)), told)
        self.assertEqual(difference(bench, before, before), "nothing this scenario shows")

    def test_serial_line_and_quiet_outputs(self) -> None:
        talking = a_task("says", 500, 0, does="print", characters=4)
        for firmware, speaks in (({}, False), ({"serial": {"traces": True}}, True), ({"tasks": [talking]}, True)):
            self.assertEqual(talks(bench_of(**firmware)), speaks)
        idle = anatomy(bench_of(states=[{"id": one, "name": one} for one in ("off", "on")]))
        self.assertEqual([one.longest_us - one.usual_us for one in idle.blocks if one.of == "lamp"], [0])
        for name in ORDER:
            bench = demo_bench(name)
            held = {channel.id: 0 for channel in bench.channels}
            for machine in bench.firmware.machines:
                for _, output, drive in bench.drives_of(machine):
                    held[output] = max(held.get(output, 0), drive.blocks_us)
            found = {block.of: block for block in anatomy(bench).blocks if block.of in held}
            for ident, block in found.items():
                self.assertEqual(block.longest_us - block.usual_us, held[ident], (name, ident))

    def test_what_never_ends(self) -> None:
        self.assertEqual((said(math.inf, "s"), said(math.inf, "Ω")), ("never", "without end"))


class Captured(unittest.TestCase):
    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(st.lists(st.integers(0, 50), min_size=4, max_size=60))
    @example([25, 0, 50, 50, 0])
    @example([25, 50, 0, 24, 50])
    def test_volts_are_levels_with_hysteresis(self, tenths: list[int]) -> None:
        volts = [0.35 + one / 10 for one in tenths]
        low, high = min(volts), max(volts)
        band, middle = (high - low) * HYSTERESIS / 2, (low + high) / 2
        sure = [1 if one >= middle + band else 0 if one <= middle - band else None for one in volts]
        level = next((one for one in sure if one is not None), 0)
        levels = []
        for one in sure:
            level = level if one is None else one
            levels.append(level)
        changes = [n for n, (one, other) in enumerate(pairwise(levels)) if one != other]
        text = "time (us),v\n" + "\n".join(f"{1_000 * n},{one!r}" for n, one in enumerate(volts))
        if high - low < 1 or not changes:
            return  # too flat
        reader = reader_for(text + "\n")
        assert reader is not None
        ((at_ns, streamed),) = reader.feed(text + "\n", True).values()
        self.assertEqual(
            (at_ns[1:], streamed[1:]), ([1_000_000 * (n + 1) for n in changes], [levels[n + 1] for n in changes])
        )
        edges = read_capture(text).edges[1:]
        self.assertEqual([edge.level for edge in edges], [levels[n + 1] for n in changes])
        gaps = np.diff([edge.at_us for edge in edges]).tolist()
        self.assertEqual(gaps, [1_000 * gap for gap in np.diff(changes).tolist()])
