"""One bench for each kind of thing that a program is made of: what happens when, by hand; both engines; the program."""

from __future__ import annotations

import tempfile
import unittest
from itertools import pairwise
from pathlib import Path
from typing import Any

from tests.core import on_host
from viva_tick.core.debounce import METHODS
from viva_tick.core.document import Bench, Press, bench_from_data
from viva_tick.core.drives import DRIVES
from viva_tick.core.engine import Kind, PlainEngine, SkippingEngine
from viva_tick.core.program import idle_pass_us

LAMPS = ("D9", "D10", "D5", "D6", "D11", "A0", "A1", "A2", "A3", "A4", "A5")  # the first five can be dimmed
BUTTONS = ("D2", "D3", "D4", "D7", "D8", "D12", "D13", "A5")
ON, OFF = {"kind": "steady", "on": True}, {"kind": "steady", "on": False}


def transition(source: str, on: dict[str, Any] | str, target: str, **more: Any) -> dict[str, Any]:
    """A transition; an event in words is one of the button b0, a number of milliseconds a timeout."""
    if isinstance(on, str):
        on = {"kind": "timeout", "after_us": int(on) * 1000} if on.isdigit() else {"kind": on, "input": "b0"}
    return {"source": source, "on": on, "target": target, **more}


def lit(*transitions: dict[str, Any], on: Any = ON) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """A lamp of two states; without a way back it goes off after 20 ms."""
    back = [] if any(one["source"] == "on" for one in transitions) else [transition("on", "20", "off")]
    return [{"id": "off", "name": "Off", "lamp": OFF}, {"id": "on", "name": "On", "lamp": on}], [*transitions, *back]


def panel(
    lamps: list[tuple[list[dict[str, Any]], list[dict[str, Any]]]],
    presses: list[tuple[int, int]],
    methods: tuple[dict[str, Any], ...] = ({"method": "none"},),
    length_ms: int = 2_000,
    counter_start_ms: int = 0,
    **firmware: Any,
) -> Bench:
    """As many buttons as methods, all pressed at (ms, for ms); as many lamps as machines, each driven by its own."""
    inputs, outputs, machines = [], [], []
    for number, _ in enumerate(methods):
        contact = {"kind": "model", "switch": "logic-signal"}
        inputs.append(
            {"kind": "button", "id": f"b{number}", "name": f"B{number}", "pin": BUTTONS[number], "contact": contact}
        )
    for number, (states, transitions) in enumerate(lamps):
        outputs.append({"kind": "lamp", "id": f"l{number}", "name": f"L{number}", "pin": LAMPS[number]})
        rows = []
        for state in states:
            kept = {key: value for key, value in state.items() if key != "lamp"}
            rows.append({**kept, "drives": {f"l{number}": state["lamp"]} if "lamp" in state else {}})
        machines.append(
            {
                "id": f"m{number}",
                "name": f"M{number}",
                "initial": rows[0]["id"],
                "states": rows,
                "transitions": transitions,
            }
        )
    stimuli = [
        {"kind": "press", "input": f"b{number}", "at_us": at * 1000, "hold_us": held * 1000}
        for number, _ in enumerate(methods) for at, held in presses
    ]  # fmt: skip
    debounce = {f"b{number}": method for number, method in enumerate(methods)}
    scenario = {"name": "run", "length_us": length_ms * 1000, "stimuli": stimuli, "counter_start_ms": counter_start_ms}
    data = {"version": 4, "name": "Panel", "board": "mid-8bit-5v", "inputs": inputs, "outputs": outputs}
    firmware = {"debounce": debounce, "machines": machines, **firmware}
    return bench_from_data({**data, "firmware": firmware, "scenarios": [scenario]})


class Each(unittest.TestCase):
    assert_same = on_host.AsTheEngine.assert_same

    def changes(self, bench: Bench, more_us: int = 0) -> list[list[tuple[int, int]]]:
        """(ms, level) of each lamp from 100 ms on, the same in both engines and, within a pass, in the program."""
        runs = [engine().run(bench, bench.scenarios[0]) for engine in (PlainEngine, SkippingEngine)]
        self.assertEqual(runs[0], runs[1])
        if bench.firmware.school != "kernel":
            self.assert_same(bench, bench.scenarios[0], more_us)
        found = []
        for channel in bench.channels:
            signal = runs[0].trace.signal(Kind.OUTPUT, channel.id)
            rows = zip(signal.times_us, signal.values, strict=True)
            found.append([(at // 1000, level) for at, level in rows if at >= 100_000])
        return found

    def assert_when(self, bench: Bench, wanted: list[list[int]], more_us: int = 0, slack_ms: int = 2) -> None:
        """Every lamp changes at these instants (ms), on first, within two milliseconds."""
        found = self.changes(bench, more_us)
        for number, (rows, times) in enumerate(zip(found, wanted, strict=True)):
            with self.subTest(lamp=number, found=rows):
                self.assertEqual([level for _, level in rows], [(n + 1) % 2 for n in range(len(rows))])
                self.assertEqual(len(rows), len(times))
                for (at, _), time in zip(rows, times, strict=True):
                    self.assertLessEqual(abs(at - time), slack_ms)
        if bench.firmware.school != "kernel":
            self.assert_alone(bench, wanted, slack_ms)

    def assert_alone(self, bench: Bench, wanted: list[list[int]], slack_ms: int) -> None:
        """So does the program when no engine tells it anything: levels as the presses make them, passes of its own, each
        up to a pass late; in the same order, and within two passes more."""
        scenario, pass_us = bench.scenarios[0], idle_pass_us(bench)
        lines = [on_host.numbers(bench, scenario, pass_us)]
        for contact in bench.contacts:
            active = int(contact.active_level == "high")
            rows = [(0, 1 - active)]
            for press in scenario.stimuli:
                if isinstance(press, Press) and press.input == contact.id:
                    rows += [(press.at_us, active), (press.at_us + press.hold_us, 1 - active)]
            lines.append(on_host.record("L", [on_host.code(contact.pin), len(rows)], rows))
        with tempfile.TemporaryDirectory() as folder:
            written = on_host.written_by(on_host.compiled(bench, scenario, Path(folder)), lines)
        order = sorted((time, number) for number, times in enumerate(wanted) for time in times)
        seen = []
        for number, (channel, times) in enumerate(zip(bench.channels, wanted, strict=True)):
            rows = [(at, int(level != 0)) for at, level in written.get(on_host.code(channel.pin), [])]
            found = [at for at, _ in on_host.merged(rows) if at >= 100_000]
            with self.subTest("alone", lamp=number, found=found):
                self.assertEqual(len(found), len(times))
                for at, time in zip(found, times, strict=True):
                    self.assertLessEqual(abs(at - time * 1000), slack_ms * 1000 + 2 * pass_us)
            seen += [(at, number) for at in found]
        close_us = 2_000 * slack_ms + 4 * pass_us
        for (one, first), (other, second) in pairwise(order):
            if (other - one) * 1000 > close_us:
                of = {number: [at for at, lamp in seen if lamp == number] for number in (first, second)}
                self.assertLess(of[first][wanted[first].index(one)], of[second][wanted[second].index(other)])

    def follow(self, number: int) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
        """A lamp that is on while a button is accepted pressed."""
        return lit(
            *(
                transition(a, {"kind": kind, "input": f"b{number}"}, b)
                for a, kind, b in (("off", "press", "on"), ("on", "release", "off"))
            )
        )

    def test_methods(self) -> None:
        # A press from 300 to 500 ms. What acts at once; what waits for 20 ms of rest, or for samples that agree.
        at_once, after = [300, 500], [320, 520]
        quiet = {
            "interrupt": (50, at_once), "none": (0, at_once), "act-ignore": (50, at_once), "rest-first": (20, after),
            "shared-ignore": (50, at_once), "shared-rest": (20, after), "count-samples": (20, after), "history": (20, after),
        }  # fmt: skip
        # These hold the loop: told after the second look, or as it is let go, which comes with a wait of its own.
        held = {
            "fixed-delay": (50, at_once), "look-again": (20, after), "look-press": (20, [320, 500]),
            "look-release": (20, [520, 520]),
        }  # fmt: skip
        alone = {"shared-interrupt": (50, at_once)}  # among others it gives the press to the first
        self.assertEqual({*quiet, *held, *alone}, set(METHODS))
        methods = tuple({"method": name, "interval_us": wait * 1000} for name, (wait, _) in quiet.items())
        bench = panel([self.follow(n) for n in range(len(quiet))], [(300, 200)], methods)
        self.assert_when(bench, [times for _, times in quiet.values()], slack_ms=3)
        for name, (wait, times) in (held | alone).items():
            with self.subTest(method=name):
                bench = panel([self.follow(0)], [(300, 200)], ({"method": name, "interval_us": wait * 1000},))
                self.assert_when(bench, [times])

    def test_gestures(self) -> None:
        kinds = {
            "press": [300, 1000, 1200, 2000, 2200, 2400, 3000], "release": [380, 1080, 1250, 2080, 2250, 2460, 4050],
            "click": [680], "double": [1550], "triple": [2460], "hold": [3600], "repeat": [3800, 4000],
            "long-release": [4050],
        }  # fmt: skip
        times = {"b0": {"window_us": 300_000, "hold_us": 600_000, "repeat_us": 200_000, "quicken": False}}
        presses = [(300, 80), (1000, 80), (1200, 50), (2000, 80), (2200, 50), (2400, 60), (3000, 1050)]
        bench = panel([lit(transition("off", kind, "on")) for kind in kinds], presses, length_ms=5_000, gestures=times)
        self.assert_when(bench, [[at + more for at in told for more in (0, 20)] for told in kinds.values()])

    def test_a_chord(self) -> None:
        chord = {"kind": "chord", "input": "b0", "of": "b1"}
        bench = panel([lit(transition("off", chord, "on"))], [(300, 80)], ({"method": "none"}, {"method": "none"}))
        self.assert_when(bench, [[300, 320]])

    def test_drives(self) -> None:
        steps = [{"percent": 100, "us": 50_000}, {"percent": 0, "us": 30_000}, {"percent": 30, "us": 40_000}]
        drives: list[tuple[dict[str, Any], list[int]]] = [
            ({"kind": "level", "percent": 40}, [300]),
            ({"kind": "ramp", "start": 0, "end": 100, "time_us": 300_000}, [303]),
            ({"kind": "follow", "input": "b0"}, [300, 1300]),
            ({"kind": "follow-variable", "variable": "n"}, [300]),
            ({"kind": "sequence", "steps": steps, "rounds": 1}, [300, 350, 380]),  # it stays as it ends
            ({"kind": "blink", "on_us": 100_000, "off_us": 50_000, "times": 3}, [300, 400, 450, 550, 600, 700]),
            ({"kind": "burst", "on_us": 30_000, "off_us": 20_000, "times": 2, "rest_us": 100_000, "rounds": 2},
             [300, 330, 350, 380, 480, 510, 530, 560]),
            ({"kind": "pulse", "length_us": 70_000}, [300, 370]),
            ({"kind": "tone", "hz": 440, "length_us": 90_000}, [300, 390]),
            (ON, [300]),
            ({"kind": "blink-rate", "variable": "n", "unit_us": 10_000}, [300, 900, 1_500]),
        ]  # fmt: skip
        single = {one.model_fields["kind"].default for one in DRIVES if not (one.writes or one.for_group or one.turns)}
        self.assertEqual({drive["kind"] for drive, _ in drives}, single)
        put = [{"do": "set", "variable": "n", "number": 60}]
        lamps = [
            lit(transition("off", "press", "on", actions=put), transition("on", "900000", "off"), on=drive)
            for drive, _ in drives
        ]
        variables = [{"id": "n", "name": "N", "most": 100}]
        bench = panel(lamps, [(300, 1000)], variables=variables)
        self.assert_when(bench, [times for _, times in drives], slack_ms=4)
        trace = PlainEngine().run(bench, bench.scenarios[0]).trace
        levels = [set(trace.signal(Kind.DUTY, f"l{number}").values) - {0, 100} for number in (0, 3, 4)]
        self.assertEqual(levels, [{40}, {60}, {30}])
        for drive, times in drives[4:8]:  # those that can hold the loop instead
            for school in ("counter", "delays"):
                with self.subTest(drive=drive["kind"], school=school):
                    waits = lit(
                        transition("off", "press", "on"),
                        transition("on", "900000", "off"),
                        on={**drive, "blocking": True},
                    )
                    self.assert_when(panel([waits], [(300, 50)], school=school), [times], more_us=1_000)

    def test_guards_and_actions(self) -> None:
        n, at = "n", "b0"
        guards: list[tuple[str, dict[str, Any], bool]] = [
            *(("press", {"kind": "compare", "variable": n, "sign": sign, "number": number}, holds)
              for sign, number, holds in (("<", 6, True), ("<=", 4, False), ("=", 5, True), ("!=", 5, False), (">=", 5, True), (">", 5, False))),
            ("press", {"kind": "compare", "variable": n, "sign": ">", "other": "m"}, True),
            ("release", {"kind": "contact", "input": at, "pressed": False}, True),
            ("release", {"kind": "contact", "input": at}, False),
            ("press", {"kind": "range", "variable": n, "least": 5, "most": 7}, True),
        ]  # fmt: skip
        variables = [{"id": "n", "name": "N", "begins": 5}, {"id": "m", "name": "M", "begins": 4}]
        lamps = [lit(transition("off", event, "on", guards=[guard])) for event, guard, _ in guards]
        told = {"press": [300, 320], "release": [400, 420]}
        wanted = [told[event] if holds else [] for event, _, holds in guards]
        self.assert_when(panel(lamps, [(300, 100)], variables=variables), wanted)

        # A press sets n to 5, copies it to m, takes 2 off m, draws d from 7 to 7; w wraps from 9 to 1, s stops at 3.
        actions = [
            {"do": "set", "variable": "n", "number": 5}, {"do": "copy", "variable": "m", "other": "n"},
            {"do": "add", "variable": "m", "number": -2}, {"do": "random", "variable": "d", "least": 7, "most": 7},
            {"do": "add", "variable": "w", "number": 4}, {"do": "add", "variable": "s", "number": 9},
        ]  # fmt: skip
        variables = [{"id": name, "name": name, "most": 9} for name in ("n", "m", "d")]
        variables += [
            {"id": "w", "name": "w", "most": 9, "begins": 7, "ends": "wrap"},
            {"id": "s", "name": "s", "most": 3},
        ]
        reached = [("m", 3), ("d", 7), ("w", 1), ("s", 3), ("n", 4)]
        lamps = [lit(transition("off", "press", "on", actions=actions))]
        lamps += [
            lit(transition("off", {"kind": "reached", "variable": of, "value": value}, "on")) for of, value in reached
        ]
        bench = panel(lamps, [(300, 100)], variables=variables)
        self.assert_when(bench, [[300, 320]] * 5 + [[]])

    def test_what_machines_tell_each_other_and_times(self) -> None:
        there = {"kind": "in", "machine": "m0", "state": "on"}
        long = lit(transition("off", "press", "on"), transition("on", "100", "off"))
        gone = {"kind": "timeout", "after_us": 150_000, "until_us": 150_000}
        times_n = {"kind": "timeout", "after_us": 1000, "variable": "n", "unit_us": 40_000}
        inside = [{"id": "off", "name": "Off", "lamp": OFF}, {"id": "on", "name": "On"},
                  {"id": "one", "name": "One", "parent": "on", "lamp": ON}, {"id": "two", "name": "Two", "parent": "on", "lamp": OFF}]  # fmt: skip
        transitions = [
            transition("off", "press", "on"),
            transition("one", "30", "two"),
            transition("two", "30", "one"),
            transition("on", "200", "off"),
        ]
        lamps = [
            long,
            lit(transition("off", {"kind": "entered", "machine": "m0", "state": "on"}, "on")),
            lit(transition("off", {"kind": "left", "machine": "m0", "state": "on"}, "on")),
            lit(transition("off", {"kind": "always"}, "on", guards=[there]), transition("on", {"kind": "always"}, "off", guards=[{**there, "there": False}])),
            lit(transition("off", "press", "on"), transition("on", gone, "off")),
            lit(transition("off", "press", "on"), transition("on", times_n, "off")),
            (inside, transitions),
        ]  # fmt: skip
        bench = panel(lamps, [(300, 50)], variables=[{"id": "n", "name": "N", "begins": 3}])
        rows = [300, 330, 360, 390, 420, 450, 480, 500]
        self.assert_when(
            bench, [[300, 400], [300, 320], [400, 420], [300, 400], [300, 450], [300, 420], rows], slack_ms=8
        )

    def test_time_kept_rightly_and_wrongly(self) -> None:
        wrap = (1 << 32) - 500
        one = lit(transition("off", "press", "on"), transition("on", "1000", "off"))
        for compares, times in (("since", [300, 1300]), ("until", [])):  # until: a sum that has wrapped is past at once
            with self.subTest(compares=compares):
                keeping = {"compares": compares, "product": "long"}
                self.assert_when(panel([one], [(300, 50)], counter_start_ms=wrap, timekeeping=keeping), [times])
        long = lit(transition("off", "press", "on"), transition("on", "33000", "off"))
        for product, times in (("long", [300, 33_300]), ("int", [300])):  # 33 000 does not go into 16 bits
            with self.subTest(product=product):
                keeping = {"compares": "since", "product": product}
                self.assert_when(
                    panel([long], [(300, 50)], length_ms=34_000, timekeeping=keeping, loop={"tail_delay_us": 1_000}),
                    [times],
                    slack_ms=3,
                )

    def test_tasks(self) -> None:
        rows = [
            {"keeps": keeps, "late": late, "blocking": blocking}
            for keeps, late in (("last", "catch-up"), ("last", "run-late"), ("last", "skip"), ("now", "catch-up"))
            for blocking in (True, False)
        ]  # fmt: skip
        tasks = [
            {
                "id": f"t{n}",
                "name": f"T{n}",
                "period_us": 50_000 + 7_000 * n,
                "run_us": 1_500,
                "slice_us": 500,
                **row,
                "offset_us": (None, 20_000, 400_000)[n % 3],
            }  # one period, less, more
            for n, row in enumerate(rows)
        ]
        tasks.append(
            {
                "id": "say",
                "name": "Say",
                "period_us": 300_000,
                "run_us": 0,
                "does": "print",
                "characters": 90,
                "blocking": False,
            }
        )
        late = lit(
            transition("off", "press", "on"),
            transition("on", "900000", "off"),
            on={"kind": "pulse", "length_us": 333_000, "blocking": True},
        )
        bench = panel([self.follow(0), late], [(300, 50), (900, 80)], tasks=tasks)
        # The second press and the first release fall into the wait of the first; the tasks come late and catch up.
        self.changes(bench, 14_000)

    def test_the_kernel(self) -> None:
        work = [{"id": "work", "name": "Work", "period_us": 9_000, "run_us": 2_500, "priority": 5}]
        work.append({"id": "low", "name": "Low", "period_us": 20_000, "run_us": 3_000, "priority": 1})
        for kernel, more in (
            ({"loop_us": 2_000}, {}),
            ({"loop_us": 0}, {}),
            ({"loop_us": 2_000}, {"sleep": {"wakes": "pin", "awake_us": 40_000}, "loop": {"tail_delay_us": 1_000}}),
        ):
            with self.subTest(kernel=kernel, more=more):
                bench = panel(
                    [self.follow(0)], [(300, 60), (700, 90)], tasks=work, school="kernel", kernel=kernel, **more
                )
                self.assert_when(bench, [[300, 360, 700, 790]], slack_ms=6)


if __name__ == "__main__":
    unittest.main()
