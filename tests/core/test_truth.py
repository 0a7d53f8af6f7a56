"""A finding is true, and a mend never makes things worse: what was once said wrongly, each with its bench."""

from __future__ import annotations

import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from tests.core.finding_cases import (
    BUTTON,
    KEYS,
    LEVEL,
    OFF,
    ON,
    SHORT_TAP,
    SPOKEN,
    bench_with,
    turned,
    two_buttons,
    with_parts,
)
from tests.core.hazard_cases import BLINK, MAINS_RELAY, drives
from tests.core.on_host import run_sketch
from tests.core.pace_benches import PRESS, STATES, bench_of
from tests.core.test_findings import found, mended
from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.emit import wires
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.findings import Severity
from viva_tick.core.guard import hang_rows, hang_tests
from viva_tick.core.kinds import KINDS
from viva_tick.core.study import study
from viva_tick.demo import ORDER, demo_bench


def said(bench: Bench, code: str) -> str:
    return found(bench)[code].sentence


def spoken(names: int, heard: list[str], active: int, say: int) -> Bench:
    machine = turned("p0", "command", heard[0])
    machine["transitions"] += [
        {"source": "a", "on": {"kind": "command", "input": "p0", "of": one}, "target": "b"} for one in heard[1:]
    ]
    part = {**SPOKEN, "names": [f"w{n}" for n in range(1, names + 1)], "active_most": active}
    return with_parts(
        part, machines=[machine], stimuli=[{"kind": "command", "input": "p0", "at_us": 200_000, "number": say}]
    )


class OnceFalse(unittest.TestCase):
    def test_what_was_said_and_was_not_so(self) -> None:
        asleep = {
            "sleep": {"wakes": "watchdog", "every_us": 16_000},
            "watchdog": {"mode": "interrupt", "timeout_us": 16_000},
        }
        slow = ("/firmware/loop/tail_delay_us", 40_000)
        for code, bench in (
            ("pace.blocking", bench_with(SHORT_TAP, method="look-again", interval_ms=10)),
            ("guard.too-short", bench_of(**asleep)),
            ("guard.never-resets", bench_of(**asleep)),
            ("clean.none", bench_with(slow, method="none", interval_ms=0)),
            ("clean.command-inactive", spoken(80, ["w1", "w3", "w5"], 7, 1)),
            ("wire.all-pins", with_parts({"kind": "lamp", "pin": "D8", "resistor_ohm": 0})),
            ("wire.supply-over", with_parts({"kind": "lamp", "pin": "D8", "resistor_ohm": 0})),
            ("pace.baud", bench_of(serial={"theirs": 115_200}, tasks=[{"id": "t", "name": "T", "period_us": 500_000, "run_us": 9, "does": "print", "characters": 9}])),
            ("behave.limit-stays", bench_of(limits={"lamp": {"longest_us": 9_000_000}}, states=[STATES[0], {"id": "on", "name": "On", "drives": {"lamp": {"kind": "pulse", "length_us": 90_000}}}])),
        ):  # fmt: skip
            with self.subTest(code=code):
                self.assertNotIn(code, found(bench))
        self.assertIn("pace.blocking", found(two_buttons("look-again")), "another button is lost")
        self.assertIn("clean.command-inactive", found(spoken(80, ["w1", "w9"], 7, 1)))

    def test_words(self) -> None:
        bare = with_parts({"kind": "lamp", "pin": "D8", "resistor_ohm": 0})
        self.assertIn("Only the pin limits its current", said(bare, "wire.lamp-bare"))
        self.assertNotIn(" A ", json.dumps([one.data() for one in study(bare, bare.scenarios[0]).findings]))
        low = with_parts(
            {"kind": "solid-state", "pin": "P4", "active_level": "low", "trigger_mv": 4_000, "loads": ["nothing"]},
            board="radio-32bit-3v3",
        )
        self.assertIn("never quite switches off", found(low)["wire.trigger"].title)
        for words in ("local code", "Ten minutes"):
            for name in ORDER:
                bench = demo_bench(name)
                text = json.dumps(
                    [one.data() for scenario in bench.scenarios for one in study(bench, scenario).findings]
                )
                self.assertNotIn(words, text)

    def test_a_hang_too_near_the_end_to_tell_is_not_counted(self) -> None:
        bench = bench_of(watchdog={"mode": "reset", "timeout_us": 8_000_000}, length_ms=3_000, presses=[(200, 60)])
        for row in hang_rows(bench, hang_tests(bench, bench.scenarios[0], 5)):
            if row.fault.id == "stuck":
                self.assertEqual((row.verdict, row.recovered), ("reset", row.runs))

    def test_a_wire_that_comes_off_is_a_fault(self) -> None:
        bench = with_parts({**LEVEL, "stands_at": 90.0}, BUTTON)
        runs = {(one.fault.kind, one.fault.of) for one in hang_tests(bench, bench.scenarios[0], 1)}
        self.assertLessEqual({("off", "p0"), ("off", "p1")}, runs)


class OnceSilent(unittest.TestCase):
    def test_a_word_beyond_those_that_are_loaded_is_not_recognised(self) -> None:
        for number, heard in ((7, True), (8, False)):
            bench = spoken(8, [f"w{number}"], 7, number)
            run = SkippingEngine().run(bench, bench.scenarios[0])
            self.assertEqual(run.trace.signal(Kind.STATE, "turned").values[-1] == "b", heard)
        mend = found(spoken(8, ["w8"], 7, 8))["clean.command-inactive"]
        after = mended(spoken(8, ["w8"], 7, 8), mend)
        self.assertEqual(
            SkippingEngine().run(after, after.scenarios[0]).trace.signal(Kind.STATE, "turned").values[-1], "b"
        )

    def test_a_typed_number_is_heard_by_model_and_program_alike(self) -> None:
        on = [
            {**state, "drives": {"p1": drive}}
            for state, drive in (({"id": "a", "name": "A"}, OFF), ({"id": "b", "name": "B"}, ON))
        ]
        machine = {**turned("p0", "command", "up"), "states": on}
        typed = {"kind": "commands", "pin": "D0", "source": "typed", "names": ["up"]}
        say = [{"kind": "command", "input": "p0", "at_us": 200_000, "number": 1}]
        for ending in ("none", "lf", "crlf"):
            data = bench_data(with_parts(typed, {"kind": "lamp", "pin": "D8"}, machines=[machine], stimuli=say))
            data["firmware"]["serial"]["ending"] = ending
            bench = bench_from_data(data)
            lamp = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.OUTPUT, "p1").values[-1]
            with tempfile.TemporaryDirectory() as folder:
                written = run_sketch(bench, bench.scenarios[0], Path(folder))[8][-1][1]
            self.assertEqual((lamp, written), (int(ending != "none"),) * 2, ending)

    def test_a_two_way_switch_floats_between_its_throws(self) -> None:
        flip = [{"kind": "set", "input": "p0", "at_us": 200_000, "pressed": True}]
        slide = {
            "kind": "slide-switch",
            "pin": "D4",
            "other_throw": "wired",
            "contact": {"kind": "model", "switch": "logic-signal"},
        }
        turns = {}
        for pull in ("none", "internal-up"):
            bench = with_parts({**slide, "wiring": {"pull": pull}}, stimuli=flip)
            level = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.LEVEL, "p0")
            turns[pull] = [at for at in level.times_us if 200_000 <= at < 202_500]
        self.assertGreater(len(turns["none"]), len(turns["internal-up"]))


class OnceHarmful(unittest.TestCase):
    def test_the_step_of_a_watchdog(self) -> None:
        hazard = bench_of(lamp={"loads": ["mains"], "hold": "down"})
        after = mended(hazard, found(hazard)["guard.none"])
        self.assertEqual(after.firmware.watchdog.timeout_us, 1_000_000, "the longest that 2 s allow")

    def test_the_longest_time_is_asked_for_and_suggested_by_load(self) -> None:
        for loads, seconds in (
            (["motion"], 30),
            (["light"], 10),
            (["heat"], 1_800),
            (["mains"], 600),
            (["mains", "motion"], 30),
        ):
            bench = bench_of(lamp={"loads": loads, "hold": "down"})
            asked = found(bench)["behave.for-ever"].asks
            assert asked is not None
            self.assertEqual(asked.suggested_us, seconds * 1_000_000)

    def test_threshold_advice_stops_when_it_fits(self) -> None:
        for noise in (20, 60, 200):
            bench = with_parts({**LEVEL, "stands_at": 50.0, "noise_mv": noise}, above=50.0, below=50.0)
            seen = set()
            for _ in range(4):
                finding = next(
                    (
                        one
                        for code, one in found(bench).items()
                        if code in ("clean.chatter", "clean.no-hysteresis", "clean.thin-hysteresis")
                    ),
                    None,
                )
                if finding is None or not finding.patch:
                    break
                bench = mended(bench, finding)
                reading = bench.firmware.readings["p0"]
                seen.add((reading.above, reading.below))  # type: ignore[union-attr]
            self.assertEqual(len(seen), 1, "taken once, it fits")

    def test_a_threshold_out_of_reach_comes_back_with_a_band(self) -> None:
        bench = with_parts({**LEVEL, "noise_mv": 100}, above=5_000.0, below=4_000.0)
        after = mended(bench, found(bench)["clean.unreachable"])
        self.assertLessEqual(
            {"clean.no-hysteresis", "clean.thin-hysteresis", "clean.chatter"} & set(found(after)), set()
        )

    def test_an_interval_longer_than_a_tap_is_never_mended_with_a_longer_one(self) -> None:
        for tap_ms in (20, 30, 40, 60):
            bench = bench_with(
                ("/inputs/0/contact/switch", "worn-button"),
                ("/scenarios/0/stimuli/0/hold_us", tap_ms * 1000),
                interval_ms=tap_ms + 10,
            )
            finding = found(bench).get("clean.too-long")
            if finding and finding.patch:
                self.assertLess(finding.patch[0]["value"]["interval_us"], tap_ms * 1000)

    def test_keys_are_never_advised_no_wait_at_all(self) -> None:
        for scan in (1_000, 10_000, 40_000, 100_000):
            bench = with_parts({**KEYS, "diodes": True}, scan_us=scan, interval_us=0)
            finding = found(bench).get("clean.keys-wait")
            if finding:
                waits = [one["value"] for one in finding.patch if str(one["path"]).endswith("interval_us")]
                self.assertTrue(all(waits), finding.mend)

    def test_what_follows_a_dial_is_not_replaced(self) -> None:
        state = {"id": "a", "name": "A", "drives": {"p1": {"kind": "follow", "input": "p0"}}}
        machine = {"id": "m", "name": "M", "initial": "a", "states": [state], "transitions": []}
        bench = with_parts(
            BUTTON,
            {"kind": "lamp", "pin": "D9", "at_rest": "on"},
            machines=[machine],
        )
        finding = found(bench)["behave.rest-state"]
        self.assertEqual((finding.patch, finding.mend), ((), ""))

    def test_every_press_becomes_a_click(self) -> None:
        guards = [[{"kind": "compare", "variable": "n", "sign": sign, "number": 3}] for sign in ("<", ">=")]
        transitions = [{"source": "off", "on": PRESS, "target": "on", "guards": one} for one in guards]
        transitions.append({"source": "off", "on": {**PRESS, "kind": "hold"}, "target": "on"})
        bench = bench_of(transitions=transitions, variables=[{"id": "n", "name": "N", "most": 5}])
        kinds = [
            transition.on.kind
            for transition in mended(bench, found(bench)["behave.press-first"]).firmware.machines[0].transitions
        ]
        self.assertEqual(kinds, ["click", "click", "hold"])

    def test_grounds_and_the_wire_list_agree(self) -> None:
        for opto, own, joined in ((True, True, False), (True, False, True), (False, True, True)):
            relay = {
                "kind": "relay",
                "pin": "D4",
                "opto": opto,
                "own_supply": own,
                "grounds_joined": False,
                "loads": ["nothing"],
            }
            rows = wires(with_parts(relay))
            grounds = any({row.from_end, row.to_end} == {"Its own supply −", "Board GND"} for row in rows)
            self.assertEqual(grounds, own and joined)
            self.assertEqual("wire.grounds" in found(with_parts(relay)), own and joined)


class Gathered(unittest.TestCase):
    def test_one_short_interval_is_one_card(self) -> None:
        bench = demo_bench("print-timer")
        hurry = bench.scenario("Next sheet in a hurry")
        cards = study(bench, hurry).findings
        cause = next(one for one in cards if one.code == "clean.too-short")
        self.assertIn("clean.counted", [one.code for one in cause.lines])
        self.assertIn("behave.unexpected", [one.code for one in cause.lines])
        self.assertNotIn("clean.counted", [one.code for one in cards])
        self.assertEqual(cause.severity, Severity.MUST)

    def test_one_blocking_beep_is_one_card(self) -> None:
        states = [
            STATES[0],
            {"id": "on", "name": "On", "drives": {"lamp": {"kind": "pulse", "length_us": 700_000, "blocking": True}}},
        ]
        bench = bench_of(states=states, presses=[(200, 100), (500, 100)], taps={"button": {"respond_us": 50_000}})
        cards = {one.code: one for one in study(bench, bench.scenarios[0]).findings}
        lines = {one.code for one in cards["pace.blocking"].lines}
        self.assertEqual(lines, {"clean.counted", "pace.promised"})
        self.assertFalse(lines & set(cards))

    def test_cautions_come_first_and_their_words(self) -> None:
        bench = with_parts(MAINS_RELAY, BUTTON)
        self.assertEqual(study(bench, None).findings[0].code, "wire.hazard")
        for load in ("mains", "heat", "motion", "light", "energy", "battery", "current", "wet"):
            self.assertTrue(said(with_parts({**MAINS_RELAY, "loads": [load]}), "wire.hazard"))
        self.assertNotIn("wire.hazard", found(with_parts({**MAINS_RELAY, "loads": ["nothing"]})))

    def test_how_grave(self) -> None:
        grave, slow = Severity.MUST, {**BLINK, "on_us": 9_000_000, "off_us": 9_000_000}
        rows: list[tuple[str, Bench, Severity]] = [
            ("wire.unheld", with_parts({**MAINS_RELAY, "hold": "none"}), grave),
            ("wire.unheld", with_parts({**MAINS_RELAY, "hold": "none", "loads": ["light"]}), Severity.LOOK),
            ("wire.held-on", with_parts({**MAINS_RELAY, "hold": "up"}), grave),
            ("wire.dims-mains", with_parts({"kind": "lamp", "pin": "D9", "fed": "module", "dimmed": True, "hold": "down", "loads": ["mains"]}), grave),
            ("wire.reset", with_parts({"kind": "lamp", "pin": "P5", "loads": ["nothing"]}, board="small-8bit-5v"), Severity.NOTE),
            ("wire.reset", with_parts({**BUTTON, "pin": "P5"}, board="small-8bit-5v"), grave),
            ("wire.pull-strong", bench_with(("/inputs/0/wiring/pull", "up"), ("/inputs/0/wiring/pull_ohm", 680), ("/inputs/0/metal", "silver")), Severity.NOTE),
            ("pace.drift", bench_of(tasks=[{"id": "t", "name": "T", "period_us": 500_000, "run_us": 100, "keeps": "now"}]), Severity.NOTE),
            ("behave.for-ever", bench_of(lamp={"loads": ["mains"], "hold": "down"}), grave),
        ]  # fmt: skip
        for code, bench, severity in rows:
            with self.subTest(code=code):
                self.assertEqual(found(bench)[code].severity, severity)
        self.assertNotIn("behave.fast-relay", found(drives(MAINS_RELAY, slow)))

    def test_parts_are_found_by_what_people_call_them(self) -> None:
        for word, kind in (
            ("fan", "fan"),
            ("ventilator", "fan"),
            ("pump", "pump"),
            ("transistor", "load"),
            ("dc", "fan"),
        ):
            hits: list[Any] = [one.id for one in KINDS.values() if word in f"{one.name} {one.words}".lower().split()]
            self.assertIn(kind, hits, word)


if __name__ == "__main__":
    unittest.main()
