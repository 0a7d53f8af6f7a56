"""Figures that a person is shown, each against what was worked out by hand, or by somebody else's program."""

from __future__ import annotations

import unittest
from itertools import pairwise
from typing import Any

import networkx
import numpy as np

from tests.core.pace_benches import READY_US, bench_of, with_hold
from tests.core.pace_benches import task as a_task
from tests.core.test_each import lit, panel, transition
from viva_tick.core.boards import boards
from viva_tick.core.contacts import bounce_figures
from viva_tick.core.debounce import METHODS
from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.emit import wires
from viva_tick.core.engine import Kind, PlainEngine, Run, SkippingEngine
from viva_tick.core.exploring import explore
from viva_tick.core.kinds import KINDS
from viva_tick.core.pace import anatomy, longest_unread_us, serial_wait_us
from viva_tick.core.pins import Room, arrival_patch
from viva_tick.core.program import Stage, program_of
from viva_tick.core.sweep.advice import sweep_input
from viva_tick.core.sweep.decide import decide
from viva_tick.core.sweep.turning import decoded
from viva_tick.core.timing import answers


def ran(bench: Bench) -> Run:
    """Its scenario's run, the same by both engines."""
    plain, skipping = (engine().run(bench, bench.scenarios[0]) for engine in (PlainEngine, SkippingEngine))
    assert plain == skipping
    return skipping


def changes(run: Run, of: str, kind: Kind = Kind.OUTPUT) -> list[tuple[int, Any]]:
    """(ms, value) from 100 ms on."""
    signal = run.trace.signal(kind, of)
    return [(at // 1000, value) for at, value in zip(signal.times_us, signal.values, strict=True) if at >= 100_000]


class Watchdog(unittest.TestCase):
    def test_a_hold_of_333_ms_under_each_mode_and_each_place(self) -> None:
        # Pressed at 250 ms; the watchdog bites 120 ms after the last feed, which is the pass before the press.
        held, bitten, called = [(250, 1), (583, 0)], [(250, 1), (370, -1), (435, 0)], [(250, 1), (490, -1), (555, 0)]
        work = {"tasks": [a_task("work", 10, 10)], "feed_task": "work"}
        for mode, feed, rows, barks in (
            ("off", "end", held, 0), ("reset", "end", bitten, 0), ("reset", "start", bitten, 0),
            ("interrupt", "end", held, 2), ("interrupt-reset", "end", called, 1), ("reset", "interrupt", held, 0),
            ("reset", "task", bitten, 0), ("reset", "wait", held, 0),
        ):  # fmt: skip
            with self.subTest(mode=mode, feed=feed):
                fed = {"feed": "end", "also": ["wait"]} if feed == "wait" else {"feed": feed}
                more: dict[str, Any] = {"mode": mode, "timeout_us": 120_000, **fed}
                if feed == "task":
                    more["feed_task"] = "work"
                bench = with_hold(333, watchdog=more, tasks=work["tasks"])
                run = ran(bench)
                found = changes(run, "lamp")
                self.assertEqual([level for _, level in found[: len(rows)]], [level for _, level in rows])
                for (at, _), (wanted, _) in zip(found, rows, strict=False):
                    self.assertLessEqual(abs(at - wanted), 11 if feed == "task" else 1)
                signals = [one for one in run.trace.signals if one.kind is Kind.BARK]
                self.assertEqual(sum(len(one.times_us) for one in signals), barks)

    def test_what_a_pass_would_have_done_after_the_reset_never_happened(self) -> None:
        # Each output takes 50 ms of a pass; set-up feeds, and the watchdog bites 120 ms after it: two come on.
        lamps = [lit(transition("on", "press", "off")) for _ in range(3)]
        lamps = [([states[1], states[0]], transitions) for states, transitions in lamps]  # each begins on
        bench = panel(lamps, [], length_ms=250, measured={"drive": 50_000},
                      watchdog={"mode": "reset", "timeout_us": 120_000, "feed": "end"})  # fmt: skip
        run = ran(bench)
        cost = bench.costs
        first_us = READY_US + cost.base + cost.read + 3 * cost.step
        self.assertEqual(run.trace.signal(Kind.RESET).times_us[0], READY_US + 120_000)
        for number in range(3):
            signal = run.trace.signal(Kind.OUTPUT, f"l{number}")
            rows = [(at, level) for at, level in zip(signal.times_us, signal.values, strict=True) if at < 250_000]
            on = [at for at, level in rows if level == 1]
            self.assertEqual(on[:1], [first_us + 50_000 * (number + 1)] if number < 2 else [])

    def test_after_a_reset_a_machine_looks_at_a_sensor_as_it_is_read_anew(self) -> None:
        # The level is above all the time, and sampled every 40 ms; the reset comes at 370 ms, set-up is done at 435.4.
        data = bench_data(with_hold(333, watchdog={"mode": "reset", "timeout_us": 120_000, "feed": "end"}))
        level = {"kind": "voltage-sensor", "id": "cell", "name": "Cell", "pin": "A0", "stands_at": 4.0, "noise_mv": 0}
        reading = {"kind": "measure", "unit": "volts", "above": 3.0, "below": 2.0, "sample_us": 40_000}
        looks = [
            transition("low", {"kind": "always"}, "high", guards=[{"kind": "level", "input": "cell", "above": True}])
        ]
        states = [{"id": name, "name": name} for name in ("low", "high")]
        data["inputs"].append(level)
        data["firmware"]["readings"] = {"cell": reading}
        data["firmware"]["machines"].append(
            {"id": "gauge", "name": "G", "initial": "low", "states": states, "transitions": looks}
        )
        rows = changes(ran(bench_from_data(data)), "gauge", Kind.STATE)
        wanted = [(105, "high"), (370, None), (435, "low"), (475, "high")]
        self.assertEqual([state for _, state in rows], [state for _, state in wanted])
        self.assertTrue(all(abs(at - when) <= 1 for (at, _), (when, _) in zip(rows, wanted, strict=True)), rows)

    def test_left_on_it_bites_in_set_up_where_that_takes_longer_than_its_shortest_step(self) -> None:
        for board in ("mid-8bit-5v", "small-8bit-5v", "dip-8bit-5v"):
            for off in (True, False):
                with self.subTest(board=board, off=off):
                    the = boards()[board]
                    pins = [pin.id for pin in the.pins if "digital" in pin.can]
                    data = bench_data(with_hold(333, watchdog={
                        "mode": "reset", "timeout_us": 120_000, "feed": "end", "off_at_start": off}))  # fmt: skip
                    data["board"], data["inputs"][0]["pin"], data["outputs"][0]["pin"] = board, pins[0], pins[1]
                    data["inputs"][0]["wiring"] = {"pull": "up"}
                    run = ran(bench_from_data(data))
                    first, *rest = run.trace.signal(Kind.RESET).times_us
                    step_us = min(the.watchdog_steps_us)
                    bites = not off and step_us < the.start_up_us + the.set_up_us
                    self.assertEqual(bool(rest), bites)
                    if bites:
                        self.assertEqual({later - before for before, later in pairwise((first, *rest))}, {step_us})


class Passes(unittest.TestCase):
    def test_a_print_waits_for_what_the_buffer_does_not_hold(self) -> None:
        # 90 characters, 64 of them in the buffer: 26 of 10 bits each at 9600 baud.
        bench = bench_of(tasks=[a_task("say", 500, 0, does="print", characters=90)])
        self.assertEqual(serial_wait_us(bench, 90), round(26 * 10e6 / 9600))
        said = answers(bench, ran(bench))
        self.assertEqual(said.longest_pass_why, "serial say")
        self.assertLessEqual(abs(said.longest_pass_us - program_of(bench).idle_us - 26 * 10e6 / 9600), 60)
        block = next(one for one in anatomy(bench).blocks if one.of == "say")
        self.assertEqual(block.longest_us - block.usual_us, round(26 * 10e6 / 9600))

    def test_from_contact_to_output_is_from_the_touch_to_the_end_of_the_pass_that_reads_it(self) -> None:
        presses = [(300, 50), (707, 50), (1111, 50)]
        bench = bench_of(presses=presses, loop={"tail_delay_us": 10_000})
        cost, period_us = bench.costs, program_of(bench).idle_us
        reads_us = cost.base + cost.read
        lags = []
        for at, _ in presses:
            passes = -(-(at * 1000 - READY_US - reads_us) // period_us)
            lags.append(READY_US + passes * period_us + reads_us + cost.step + cost.drive - at * 1000)
        found = answers(bench, ran(bench)).to_output_us["button"]
        assert found is not None
        self.assertEqual((found.least, found.most), (min(lags), max(lags)))

    def test_a_ramp_that_holds_the_loop_climbs_every_10_ms(self) -> None:
        ramp = {"kind": "ramp", "start": 0, "end": 100, "time_us": 100_000, "blocking": True}
        run = ran(panel([lit(transition("off", "press", "on"), transition("on", "500", "off"), on=ramp)], [(300, 50)]))
        rows = [(at, level) for at, level in changes(run, "l0", Kind.DUTY) if level][:10]
        self.assertEqual([level for _, level in rows], [10, 20, 30, 40, 50, 60, 70, 80, 90, 100])
        self.assertTrue(all(abs(at - 310 - 10 * n) <= 1 for n, (at, _) in enumerate(rows)), rows)
        held = run.trace.signal(Kind.BLOCKED).values
        self.assertEqual(sum(us for us, what in held if what == "drive l0"), 100_000)

    def test_the_stages_stand_in_one_order_and_add_up(self) -> None:
        bench = bench_of(tasks=[a_task("low", 50, 1, priority=2), a_task("high", 50, 1, priority=7)],
                         loop={"tail_delay_us": 3_000}, sleep={"wakes": "timer", "every_us": 20_000},
                         watchdog={"mode": "reset", "feed": "start", "also": ["end"]})  # fmt: skip
        program, cost = program_of(bench), bench.costs
        self.assertEqual(
            [(block.stage, block.of) for block in program.blocks],
            [(Stage.FEED, ""), (Stage.BASE, ""), (Stage.READ, "button"), (Stage.MACHINE, "toggle"), (Stage.TASK, "high"),
             (Stage.TASK, "low"), (Stage.DRIVE, "lamp"), (Stage.TAIL, ""), (Stage.GUARD, ""), (Stage.SLEEP, "")],
        )  # fmt: skip
        working = cost.base + cost.read + cost.step + 2 * cost.task + cost.drive
        self.assertEqual((program.working_us, program.idle_us), (working, working + 23_000))

    def test_under_a_kernel_an_input_goes_unread_for_a_period_a_response_and_what_a_pass_may_take_more(self) -> None:
        work = [a_task("work", 9, 2_500, priority=5)]
        bench = with_hold(20, tasks=work, school="kernel", kernel={"loop_us": 2_000})
        parts = anatomy(bench)
        # The loop's job may begin as the task does: it is done when both are, switches, and a tick of jitter included.
        found = longest_unread_us(bench, parts)
        assert found is not None
        self.assertEqual(parts.longest_us - parts.usual_us, 20_000)
        least_us = 2_000 + 2_500 + program_of(bench).working_us + 20_000
        self.assertLessEqual(least_us, found)
        self.assertLess(found, least_us + 2_500)

    def test_an_output_follows_a_variable_from_its_least_to_its_most(self) -> None:
        adds = {"do": "add", "variable": "n", "number": 25}
        states = [{"id": "a", "name": "A", "lamp": {"kind": "follow-variable", "variable": "n"}}]
        transitions = [transition("a", "press", "a", actions=[adds])]
        numbers = [{"id": "n", "name": "N", "least": -50, "most": 50, "begins": -50}]
        bench = panel([(states, transitions)], [(at, 50) for at in (300, 500, 700, 900)], variables=numbers)
        levels = [level for at, level in changes(ran(bench), "l0", Kind.DUTY) if at >= 200]
        self.assertEqual(levels, [25, 50, 75, 100])


class Cleaning(unittest.TestCase):
    def test_how_an_encoder_is_missed(self) -> None:
        # Its contacts change every millisecond: 0, 1, 3, 2, 0…, 80 changes to the right.
        times = [-1, *(1_000 * n for n in range(1, 81))]
        states = [(0, 1, 3, 2)[n % 4] for n in range(81)]
        reading = bench_from_data({
            "version": 4, "name": "b", "inputs": [{"kind": "encoder", "id": "dial", "name": "D", "a": "D2", "b": "D3"}],
            "firmware": {"readings": {"dial": {"kind": "turns", "counts_a_step": 1}}}}).firmware.readings["dial"]  # fmt: skip
        for pass_us, wanted in (
            (0, (80, 0, 0)), (500, (80, 0, 0)), (2_000, (0, 0, 40)), (3_000, (0, 26, 1)), (5_000, (16, 0, 0))
        ):  # fmt: skip
            with self.subTest(pass_us=pass_us):
                found = decoded(times, states, reading, pass_us, 0)  # type: ignore[arg-type]
                self.assertLessEqual(max(abs(a - b) for a, b in zip(found, wanted, strict=True)), 1, found)

    def captured(self, **more: Any) -> Bench:
        """A button that bounces so: 3.9 ms touching, 3.9 apart, 0.8 touching, 1.2 apart, then touching; let go it bounces
        once, for half a millisecond."""
        edges, at, level = [(0, 1)], 10_000, 0
        for us in (0, 3_900, 3_900, 800, 1_200, 200_000, 300, 500, 200_000):
            at += us
            edges.append((at, level))
            level = 1 - level
        data = bench_data(bench_of(presses=[(at, 80) for at in range(300, 60_000, 200)], length_ms=60_500, **more))
        data["captures"] = [{"id": "c", "name": "C", "edges": [{"at_us": at, "level": value} for at, value in edges]}]
        data["inputs"][0]["contact"] = {"kind": "capture", "capture": "c"}
        return bench_from_data(data)

    def test_a_capture_s_figures_and_where_its_windows_begin(self) -> None:
        bench = self.captured()
        gaps = np.diff([0, 3_900, 7_800, 8_600, 9_800])  # from edge to edge
        figures = bounce_figures(bench, bench.contacts[0])
        self.assertEqual((figures.longest_gap_us, figures.longest_settle_us), (gaps.max(), gaps.sum()))
        self.assertEqual((figures.press_settle_us, figures.release_settle_us), (9_800, 800))
        # What waits for rest must accept neither the first touch nor the gap after it; what ignores after an act must
        # outlast all of it. A wait of n counts of the counter can be over after n − 1 ms and a little.
        for method, least_us in (("rest-first", 3_900), ("act-ignore", 9_800)):
            swept = sweep_input(bench, "button", method, 40)
            clean = [int(us) for us, bad in zip(swept.interval_us, swept.doubled, strict=True) if not bad]
            bound_us = -(-least_us // 1_000) * 1_000 + 1_000
            self.assertEqual(min(clean), min(us for us in swept.interval_us if us >= bound_us), method)
            self.assertLess(max(us for us in swept.interval_us if us < min(clean)), bound_us)

    def test_what_is_advised_in_a_slow_loop_counts_right_in_the_engine(self) -> None:
        for tail_us in (1_000, 15_000, 30_000):
            bench = self.captured(loop={"tail_delay_us": tail_us})
            decision = decide(bench, "button", program_of(bench).idle_us)
            standing = [one for one in decision.choices.values() if one.stands and not METHODS[one.method].blocks]
            self.assertTrue(standing)
            for choice in standing:
                assert choice.advice is not None
                data = bench_data(bench)
                setting = {"method": choice.method, "interval_us": choice.advice.advised_us, "sample_us": 1000}
                data["firmware"]["debounce"] = {"button": setting}
                cleaned = bench_from_data(data)
                with self.subTest(tail_us=tail_us, **setting):
                    tally = answers(cleaned, SkippingEngine().run(cleaned, cleaned.scenarios[0])).tallies["button"]
                    self.assertEqual((len(tally.missed_us), len(tally.doubled_us)), (0, 0))
                    self.assertEqual(tally.made, 299)


class Machines(unittest.TestCase):
    def test_what_can_be_reached_is_what_networkx_reaches_by_as_few_steps(self) -> None:
        # Two machines that hear two buttons: their product as a graph, made here from the document alone.
        rings = [(5, "b0"), (4, "b1")]
        lamps = []
        for size, button in rings:
            states = [{"id": f"s{n}", "name": f"S{n}", "lamp": {"kind": "steady", "on": n == 3}} for n in range(size)]
            press, release = ({"kind": kind, "input": button} for kind in ("press", "release"))
            transitions = [transition(f"s{n}", press, f"s{(n + 1) % (size - 1)}") for n in range(size - 1)]
            lamps.append(
                (
                    states,
                    [
                        *transitions,
                        transition("s1", release, "s3"),
                        transition("s2", {"kind": "press", "input": "b0"}, "s0"),
                    ],
                )
            )
        bench = panel(lamps, [], methods=({"method": "none"},) * 2)
        machines = bench.firmware.machines
        graph = networkx.DiGraph()
        rows = [
            {
                (one.source, one.on.kind, getattr(one.on, "input", "")): one.target
                for one in reversed(machine.transitions)
            }
            for machine in machines
        ]  # of two transitions for one event the upper counts
        causes = sorted({key[1:] for row in rows for key in row})
        for first in machines[0].states:
            for second in machines[1].states:
                at = (first.id, second.id)
                for cause in causes:
                    graph.add_edge(
                        at, tuple(row.get((state, *cause), state) for row, state in zip(rows, at, strict=True))
                    )
        lengths = networkx.single_source_shortest_path_length(graph, ("s0", "s0"))
        found = explore(program_of(bench), machines)
        self.assertEqual((found.standings, found.whole), (len(lengths), True))
        for place, machine in enumerate(machines):
            for state in machine.states:
                nearest = min((n for at, n in lengths.items() if at[place] == state.id), default=None)
                path = found.paths.get((machine.id, state.id))
                self.assertEqual(None if path is None else len(path), nearest, (machine.id, state.id))


class Wires(unittest.TestCase):
    def test_every_kind_of_part_is_wired_to_each_of_its_pins_once(self) -> None:
        for kind in KINDS.values():
            with self.subTest(kind.id):
                arrived = arrival_patch(Room.of(Bench(name="b")), kind)
                assert arrived is not None
                bench = apply_patch(Bench(name="b"), arrived[1])
                rows = wires(bench)
                board = {f"Board {end}" for end in ("GND", "+ supply", *(claim.pin for claim in bench.claims))}
                for claim in bench.claims:
                    if "serial-in" in claim.needs:
                        continue
                    mine = [row for row in rows if f"Board {claim.pin}" in (row.from_end, row.to_end)]
                    to_rail = [row for row in mine if {row.from_end, row.to_end} <= board]  # what holds it
                    self.assertEqual((len(mine) - len(to_rail), len(to_rail) < 2), (1, True), claim.pin)
                    self.assertTrue(all(row.note.startswith("through") for row in to_rail), to_rail)
                    rails = {row.to_end for row in to_rail if "holds" not in row.note}  # of a divider: the other end
                    rails &= {row.from_end for row in rows if "Board" not in row.to_end}
                    self.assertEqual(rails, set())
                ends = [(row.from_end, row.to_end) for row in rows]
                self.assertEqual(len(ends), len({frozenset(pair) for pair in ends}))
                self.assertTrue(all(one and other and one != other for one, other in ends))
                if kind.id not in ("matrix", "commands"):  # the one has no ground, the other the computer's
                    self.assertIn("Board GND", {end for pair in ends for end in pair})


if __name__ == "__main__":
    unittest.main()
