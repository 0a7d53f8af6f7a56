"""Documents in, documents out, and why not: a pointer and a sentence for each fault. Patches, and what they say."""

from __future__ import annotations

import json
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from unittest.mock import patch

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from jsonschema import Draft202012Validator

from tests.depth import DEPTH
from tests.random_benches import benches
from viva_tick.core.document import (
    Bench,
    DocumentError,
    Scenario,
    bench_data,
    bench_from_data,
    bench_from_text,
    bench_text,
)
from viva_tick.core.document import schema as bench_schema
from viva_tick.core.edits import apply_patch, words
from viva_tick.core.recipes import RECIPES, machine_from
from viva_tick.demo import ORDER, demo_bench, demo_text

DOCS = Path(__file__).parents[2] / "docs"
TIMER = demo_bench("print-timer")
LAMP = "/firmware/machines/0"
PUBLISHED = Draft202012Validator(json.loads((DOCS / "bench.schema.json").read_text()))


def leaves(data: Any) -> Iterator[tuple[Any, Any]]:
    """(what holds it, its key) of every value in a document."""
    for key, value in data.items() if isinstance(data, dict) else enumerate(data):
        yield data, key
        if isinstance(value, dict | list):
            yield from leaves(value)


def problems(change: Any) -> dict[str, str]:
    data = json.loads(demo_text("print-timer"))
    change(data)
    try:
        bench_from_data(data)
    except DocumentError as error:
        return {problem.pointer: problem.sentence for problem in error.problems}
    return {}


def put(path: str, value: Any) -> Any:
    def change(data: Any) -> None:
        *steps, last = path.strip("/").split("/")
        for step in steps:
            data = data[int(step)] if isinstance(data, list) else data[step]
        data[int(last) if isinstance(data, list) else last] = value

    return change


class Refusals(unittest.TestCase):
    def test_each_fault_has_its_pointer_and_its_sentence(self) -> None:
        for path, value, pointer, word in (
            ("/version", 5, "/version", "reads versions 1 to 4"),
            ("/version", True, "/version", "reads versions 1 to 4"),
            ("/name", "", "/name", "empty"),
            ("/outputs/0/id", "lamp\n", "/outputs/0/id", "will not do"),
            ("/name", "two\nlines", "/name", "control characters"),
            ("/colour", "red", "/colour", "not a field"),
            ("/board", "other", "/board", "is not known"),
            ("/inputs/0/pin", "D99", "/inputs/0/pin", "no pin"),
            ("/inputs/0/wiring/pull_ohm", 0, "/inputs/0/wiring/pull_ohm", "too small"),
            ("/inputs/0/wiring/pull", "sideways", "/inputs/0/wiring/pull", "will not do"),
            ("/inputs/0/contact", {"kind": "model", "switch": "odd"}, "/inputs/0/contact/switch", "not known"),
            ("/inputs/0/contact", {"kind": "capture", "capture": "gone"}, "/inputs/0/contact/capture", "no capture"),
            ("/inputs/0/contact", {"kind": "dream"}, "/inputs/0/contact", "kind"),
            ("/inputs/0/kind", "lever", "/inputs/0", "not known"),
            ("/inputs/2/a", "D99", "/inputs/2/a", "no pin"),
            ("/inputs/3/high", {"value": 0.0, "ohm": 1.0}, "/inputs/3/high", "must differ"),
            ("/outputs/0/paired_with", "nobody", "/outputs/0/paired_with", "no input"),
            ("/outputs/1/id", "time-dial-push", "/outputs/1/id", "taken"),
            ("/own_board", {}, "/own_board/id", "missing"),
            ("/inputs/1/id", "foot-pedal", "/inputs/1/id", "taken"),
            ("/outputs/0/id", "foot-pedal", "/outputs/0/id", "taken"),
            ("/firmware/debounce/foot-pedal/interval_us", 1500, "/firmware/debounce/foot-pedal/interval_us", "whole"),
            ("/firmware/debounce/foot-pedal/interval_us", "5", "/firmware/debounce/foot-pedal/interval_us", "will not do"),
            ("/firmware/debounce/foot-pedal/interval_us", 2_000_000, "/firmware/debounce/foot-pedal/interval_us", "most"),
            ("/firmware/debounce/foot-pedal/method", "magic", "/firmware/debounce/foot-pedal/method", "not known"),
            ("/firmware/debounce/ghost", {}, "/firmware/debounce/ghost", "no input"),
            (LAMP + "/initial", "nowhere", LAMP + "/initial", "not a state"),
            (LAMP + "/transitions/0/target", "x", LAMP + "/transitions/0/target", "not a state"),
            (LAMP + "/transitions/0/on/input", "x", LAMP + "/transitions/0/on/input", "no input"),
            (LAMP + "/states/0/drives/x", {"kind": "steady", "on": True}, LAMP + "/states/0/drives/x", "no output"),
            (LAMP + "/states/3/drives/beeper/length_us", 1, LAMP + "/states/3/drives/beeper/length_us", "whole"),
            ("/scenarios/0/stimuli/0/input", "x", "/scenarios/0/stimuli/0/input", "no input"),
            ("/scenarios/0/stimuli/0/at_us", 2_600_000, "/scenarios/0/stimuli/0/at_us", "after the scenario's end"),
            ("/scenarios/1/name", "One print", "/scenarios/1/name", "taken"),
        ):  # fmt: skip
            with self.subTest(path=path, value=value):
                found = problems(put(path, value))
                self.assertIn(pointer, found)
                self.assertIn(word, found[pointer])

    def test_a_power_law_begins_above_zero(self) -> None:
        light = {"kind": "light-sensor", "id": "l", "name": "L", "pin": "A0", "law": "power"}
        for value, good in ((0.5, True), (0.0, False)):
            part = {**light, "low": {"value": value, "ohm": 100_000.0}, "high": {"value": 100.0, "ohm": 1_000.0}}
            data = {"version": 4, "name": "x", "inputs": [part]}
            if good:
                bench_from_data(data)
            else:
                with self.assertRaisesRegex(DocumentError, "power law"):
                    bench_from_data(data)

    def test_every_fault_is_named_at_once(self) -> None:
        def change(data: Any) -> None:
            data["inputs"][0]["pin"] = "D99"
            data["scenarios"][0]["stimuli"][0]["input"] = "x"

        self.assertEqual(len(problems(change)), 2)

    @settings(max_examples=200 * DEPTH, deadline=None)
    @given(
        st.one_of(
            st.text(max_size=60),
            st.recursive(st.none() | st.booleans() | st.integers() | st.text(), st.lists).map(json.dumps),
        )
    )
    def test_rubbish_is_refused_and_never_a_traceback(self, text: str) -> None:
        with self.assertRaises(DocumentError):
            bench_from_text(text)

    def test_what_json_forgives_is_not_forgiven(self) -> None:
        for text in ('{"version": 1, "name": "x", "note": NaN}', "[" * 100_000, '{"version": 1,}', ""):
            with self.assertRaises(DocumentError):
                bench_from_text(text)


class Copies(unittest.TestCase):
    def test_nothing_worked_out_of_a_bench_outlives_its_fields(self) -> None:
        bench = demo_bench("print-timer")
        claims, drives = bench.claims, bench.firmware.machines[0].drives
        self.assertTrue(bench.contacts and bench.channels and claims and drives)
        bare = bench.model_copy(update={"inputs": (), "outputs": ()})
        self.assertFalse(bare.contacts or bare.channels or bare.sensed or bare.claims)
        still = bench.firmware.machines[0].model_copy(update={"states": (), "transitions": ()})
        self.assertFalse(still.drives or still.actions or still.driven)
        self.assertEqual((bench.claims, bench.firmware.machines[0].drives), (claims, drives))
        self.assertEqual(bench, bench_from_data(bench_data(bench)))  # one has worked things out, the other has not


class RoundTrips(unittest.TestCase):
    @settings(max_examples=60 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_a_document_read_back_is_the_same(self, made: tuple[Bench, Scenario]) -> None:
        self.assertEqual(bench_from_text(bench_text(made[0])), made[0])

    @patch("viva_tick.core.edits.patch.MOST_BYTES", 400_000)
    @patch("viva_tick.core.document.load.MOST_BYTES", 400_000)
    def test_a_bench_that_can_be_made_can_be_opened_again(self) -> None:
        edges = [{"at_us": 5_000 * n, "level": n % 2} for n in range(2_000)]
        bench = demo_bench("print-timer")
        for names in ("abcdef", "g"):
            captures = [{"id": name, "name": "Worn", "edges": edges} for name in names]
            adds = [{"op": "add", "path": "/captures/-", "value": capture} for capture in captures]
            if names == "g":
                with self.assertRaisesRegex(DocumentError, "larger than 4 MB"):
                    apply_patch(bench, adds)
            else:
                bench = apply_patch(bench, adds)
        text = bench_text(bench)  # the largest that can be made, byte for byte
        self.assertGreater(len(text), 400_000)
        self.assertEqual(bench_text(bench_from_text(text)), text)
        larger = json.loads(text)
        larger["captures"].append({"id": "more", "name": "More", "edges": edges})
        with self.assertRaisesRegex(DocumentError, "larger than 4 MB"):
            bench_from_text(json.dumps(larger))
        with self.assertRaisesRegex(DocumentError, "over 40 MB"):
            bench_from_text(" " * 40_000_001)

    def test_a_document_of_version_1_is_brought_up(self) -> None:
        old = {
            "version": 1, "name": "Old",
            "inputs": [{"id": "b", "name": "B", "pin": "D2", "legs": "joined", "magnet_mm": 3, "speed_mm_s": 9},
                       {"id": "m", "name": "M", "kind": "magnet", "pin": "D3", "legs": "across", "magnet_mm": 3}],
            "outputs": [{"id": "l", "name": "L", "pin": "D8", "load": "mains", "coil_ua": 1},
                        {"id": "r", "name": "R", "kind": "relay", "pin": "D9", "coil_ua": 1, "resistor_ohm": 1, "drop_mv": 1}],
        }  # fmt: skip
        kept = json.dumps(old)
        bench = bench_from_data(old)
        self.assertEqual(json.dumps(old), kept, "what was given is left alone")
        parts = [part.model_dump() for part in bench.parts]
        self.assertEqual([part["kind"] for part in parts], ["button", "magnet", "lamp", "relay"])
        self.assertEqual((parts[1]["magnet_mm"], parts[2]["fed"], parts[3]["coil_ua"]), (3, "module", 1))
        self.assertEqual([part["loads"] for part in parts[2:]], [("mains",), ()])
        self.assertEqual(bench_from_text(bench_text(bench)), bench)

    def test_a_document_of_version_2_says_what_it_switches_as_a_set(self) -> None:
        relays = [
            {"id": "a", "name": "A", "pin": "D6", "load": "heat"},
            {"id": "b", "name": "B", "pin": "D7", "load": "none"},
        ]
        old = {
            "version": 2, "name": "Old",
            "inputs": [{"id": "t", "name": "T", "kind": "commands", "pin": "D0"}],
            "outputs": [{"id": "s", "name": "S", "kind": "solid-state", "pin": "D4"},
                        {"id": "v", "name": "V", "kind": "solenoid", "pin": "D5", "load": "low-voltage"},
                        {"id": "r", "name": "R", "kind": "relay-board", "relays": relays}],
            "firmware": {"readings": {"t": {"kind": "listen"}}},
        }  # fmt: skip
        bench = bench_from_data(old)
        self.assertEqual([channel.loads for channel in bench.channels], [("mains",), ("nothing",), ("heat",), ()])
        self.assertEqual(bench.firmware.serial.ending, "lf", "a typed number used to be heard without an end")
        both = bench_data(bench) | {
            "outputs": [
                {"id": "x", "name": "X", "kind": "lamp", "pin": "D8", "loads": ["nothing", "motion", "mains", "mains"]}
            ]
        }
        self.assertEqual(bench_from_data(both).channels[0].loads, ("mains", "motion"))

    def test_a_document_of_version_3_keeps_what_its_states_were(self) -> None:
        states: list[dict[str, Any]] = [
            {"id": "dark", "name": "Dark", "opens": "late", "remembers": True},
            {"id": "soon", "name": "Soon", "inside": "dark", "entry": [{"do": "draw", "variable": "n", "least": 1, "most": 3}]},
            {"id": "late", "name": "Late", "inside": "dark", "passes": ["boot"]},
        ]  # fmt: skip
        drawn = {"source": "soon", "on": {"kind": "boot"}, "target": "late", "actions": states[1]["entry"]}
        machine = {"id": "m", "name": "M", "initial": "dark", "states": states, "transitions": [drawn]}
        firmware = {"machines": [machine], "variables": [{"id": "n", "name": "N"}]}
        bench = bench_from_data({"version": 3, "name": "Old", "firmware": firmware})
        found = bench.firmware.machines[0]
        self.assertEqual([(state.parent, state.starts_in, state.ignores) for state in found.states], [(None, "late", ()), ("dark", None, ()), ("dark", None, ("boot",))])  # fmt: skip
        self.assertEqual([action.do for _, action in found.actions], ["random", "random"])
        for broken in ({"states": 3}, {"states": [4], "transitions": "x"}):
            with self.assertRaises(DocumentError):
                bench_from_data({"version": 3, "name": "x", "firmware": {"machines": [{**machine, **broken}, 5]}})

    def test_demos_and_the_published_schema(self) -> None:
        for name in ORDER:
            self.assertEqual(bench_from_text(bench_text(demo_bench(name))), demo_bench(name))
        published = json.loads((DOCS / "bench.schema.json").read_text())
        self.assertEqual(published, bench_schema(), "run `make docs`")
        Draft202012Validator.check_schema(published)
        for name in ORDER:
            self.assertEqual(list(PUBLISHED.iter_errors(json.loads(demo_text(name)))), [])

    @settings(max_examples=25 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(benches(), st.data())
    def test_what_the_published_schema_refuses_the_reader_refuses_too(self, made: tuple[Bench, Any], data: Any) -> None:
        document = bench_data(made[0])
        self.assertEqual(list(PUBLISHED.iter_errors(document)), [])
        # One value anywhere becomes another: what the reader takes, the schema takes.
        rows = list(leaves(document))
        holder, key = data.draw(st.sampled_from(rows))
        holder[key] = data.draw(
            st.sampled_from([None, True, -1, 0, 7, 1_000, 10**15, 0.5, "", "off", "D2", "x y", [], {}])
        )
        try:
            bench_from_data(document)
        except DocumentError:
            return
        self.assertEqual(list(PUBLISHED.iter_errors(document)), [])


class Edits(unittest.TestCase):
    def test_words_of_what_is_said_whole_or_taken_back(self) -> None:
        burden = {"supply": "ac", "mv": 230_000, "ua": 1_000_000, "fuse_ua": 2_000_000, "wire_mm2": 0.75}
        bench = TIMER
        for value, said in ((burden, "Focus lamp: burden"), (None, "Focus lamp: burden none")):
            patch = [{"op": "replace", "path": "/outputs/0/burden", "value": value}]
            after = apply_patch(bench, patch)
            self.assertEqual(words(bench, after, patch), said)
            bench = after

    def test_words_say_what_changed(self) -> None:
        replace = "replace"
        for op, path, value, said in (
            (replace, "/firmware/debounce/foot-pedal/interval_us", 18_000, "Foot pedal: interval 2 ms → 18 ms"),
            (replace, "/firmware/debounce/foot-pedal", {"method": "act-ignore", "interval_us": 50_000},
             "Foot pedal: Wait until stable → Lock out after the first edge, interval 2 ms → 50 ms"),
            (replace, "/inputs/0/pin", "D2", "Foot pedal: D4 → D2"),
            (replace, "/inputs/0/name", "Pedal", "Foot pedal is called Pedal"),
            (replace, "/inputs/0/wiring/pull", "none", "Foot pedal: pull internal up → none"),
            (replace, "/outputs/0/active_level", "high", "Focus lamp: on is low → high"),
            (replace, LAMP + "/states/3/drives/beeper/blocking", False, "Lamp mode, Done: Beeper holds the loop → runs beside the loop"),
            (replace, LAMP + "/states/0/drives/focus-lamp", {"kind": "steady", "on": True}, "Lamp mode, Dark: Focus lamp on"),
            ("remove", LAMP + "/transitions/2", None, "Lamp mode: a transition removed"),
            (replace, LAMP + "/transitions/7/guards/0/number", 3, "Lamp mode: Move the card → Done, its conditions"),
            (replace, "/firmware/variables/0/most", 90, "Exposure: most 100 → 90"),
            ("add", "/firmware/limits/focus-lamp", {"longest_us": 5_000_000}, "Focus lamp: 5 s on at most"),
            ("remove", "/firmware/machines/1", None, "machine Safelight follows removed"),
            ("add", "/outputs/-", {"id": "led", "name": "Led", "kind": "lamp", "pin": "D2"}, "part Led added"),
            (replace, "/name", "Timer", "bench: Print timer → Timer"),
            (replace, "/firmware/loop/tail_delay_us", 10_000, "delay at the end of the loop 0 ms → 10 ms"),
            ("remove", "/scenarios/2", None, "scenario Seven weeks on removed"),
            (replace, "/scenarios/0/stimuli/0/at_us", 400_000, "scenario One print: action on Safelight switch, at 120 ms → 400 ms"),
            ("remove", "/scenarios/0/expects/0", None, "scenario One print: a check removed"),
            (replace, LAMP + "/initial", "focus", "Lamp mode begins in Dark → Focus"),
            ("add", LAMP + "/columns/-", "boot", "Lamp mode: a column added"),
            (replace, "/firmware/watchdog/mode", "off", "watchdog: resets the board → off"),
        ):  # fmt: skip
            with self.subTest(path=path):
                patch = [{"op": op, "path": path, **({} if op == "remove" else {"value": value})}]
                after = apply_patch(TIMER, patch)
                self.assertNotEqual(after, TIMER)
                self.assertEqual(words(TIMER, after, patch), said)

    def test_a_patch_that_does_not_fit_is_refused_whole(self) -> None:
        before = bench_data(TIMER)
        for wrong in (
            None, {}, [1], [{"op": "fly", "path": "/name"}], [{"op": "replace", "path": "/nowhere", "value": 1}],
            [{"op": "remove", "path": "/inputs/7"}], [{"path": "/name"}], [{"op": "replace", "path": 5, "value": 1}],
            [{"op": "replace", "path": "/name", "value": "ok"}, {"op": "replace", "path": "/board", "value": "x"}],
            [{"op": "test", "path": "/name", "value": "x"}], [{"op": "remove", "path": "/inputs/0"}],
            [{"op": "copy", "from": "", "path": "/note"}] * 60, [{"op": "copy", "from": "/inputs", "path": "/inputs/-"}] * 60,
            [{"op": "replace", "path": "/name", "value": "x"}] * 501, [{"op": "replace", "path": "", "value": []}],
        ):  # fmt: skip
            with self.subTest(patch=str(wrong)[:80]), self.assertRaises(DocumentError):
                apply_patch(TIMER, patch)
        self.assertEqual(bench_data(TIMER), before)

    def test_a_recipe_refuses_what_it_cannot_use(self) -> None:
        for asked in ({}, {"input": "foot-pedal"}, {"input": "beeper", "output": "beeper"}):
            self.assertRaises(KeyError, machine_from, RECIPES["toggle"], TIMER, asked)
        same = {"input": "foot-pedal", "other": "foot-pedal", "output": "beeper"}
        self.assertRaisesRegex(ValueError, "two different", machine_from, RECIPES["start-stop"], TIMER, same)


if __name__ == "__main__":
    unittest.main()
