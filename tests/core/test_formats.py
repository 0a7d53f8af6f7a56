"""Files out and in, and the command line. The VCD is read by another package; the CSV by the standard library."""

from __future__ import annotations

import csv
import io
import json
import math
import re
import tempfile
import unittest
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import numpy as np
import pydot
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st
from vcdvcd import VCDVCD

from tests.core import on_host
from tests.core.pace_benches import bench_of
from tests.depth import DEPTH
from viva_tick.cli import main
from viva_tick.core.document import Edge, bench_data, bench_from_data, bench_from_text, bench_text
from viva_tick.core.emit import sketch
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.formats import (
    Asked,
    EdgesError,
    read_capture,
    read_edges,
    read_scxml,
    write_dot,
    write_edges,
    write_scxml,
    write_trace,
    write_vcd,
)
from viva_tick.demo import ORDER, demo_bench, demo_text

BITS = {1: "1", 0: "0", -1: "z", None: "x"}


class Vcd(unittest.TestCase):
    def test_another_package_reads_the_same_changes(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            trace = SkippingEngine().run(bench, bench.scenarios[0]).trace
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "run.vcd"
                path.write_text(write_vcd(bench, trace))
                read = VCDVCD(str(path))
            self.assertEqual(read.timescale["magnitude"], 1)
            self.assertEqual(read.timescale["unit"], "us")
            states = {machine.id: [state.id for state in machine.states] for machine in bench.firmware.machines}
            for signal in trace.signals:
                name_there = f"{signal.kind}.{signal.of.replace('-', '_').replace('.', '__')}"
                if signal.kind in (Kind.CONTACT, Kind.LEVEL, Kind.READING, Kind.CLEANED, Kind.OUTPUT):
                    if any(isinstance(value, str) for value in signal.values):
                        continue  # the names of keys, which that package does not read
                    wanted = [(at, BITS[v]) for at, v in zip(signal.times_us, signal.values, strict=True)]
                elif signal.kind is Kind.STATE:
                    wanted = [
                        (at, "x" if v is None else format(states[signal.of].index(v), "b"))
                        for place, (at, v) in enumerate(zip(signal.times_us, signal.values, strict=True))
                        if not place or signal.values[place - 1] != v  # entered again it is no change of the signal
                    ]
                elif signal.kind is Kind.JOB:
                    ends = [(at, "1") for at in signal.times_us]
                    ends += [(at + v[0], "0") for at, v in zip(signal.times_us, signal.values, strict=True)]
                    wanted = [(0, "0"), *sorted(end for end in ends if end[0] <= trace.length_us)]
                elif signal.kind is Kind.VALUE:
                    wanted = [(at, format(v, "b")) for at, v in zip(signal.times_us, signal.values, strict=True)]
                else:
                    continue
                there = [(at, value) for at, value in read[name_there].tv if (at, value) != (0, "x")]
                self.assertEqual(there, [row for row in wanted if row != (0, "x")], name_there)
            presses = trace.signal(Kind.EVENT, bench.contacts[0].id)
            count = len(read[f"event.{bench.contacts[0].id.replace('-', '_')}_press"].tv)
            self.assertEqual(count, presses.values.count("press"))


class TraceCsv(unittest.TestCase):
    def test_every_change_is_a_row(self) -> None:
        bench = demo_bench("print-timer")
        traces = [SkippingEngine().run(bench, one).trace for one in bench.scenarios]
        trace = next(one for one in traces if one.signal(Kind.BLOCKED).values)
        rows = list(csv.DictReader(io.StringIO(write_trace(trace), newline="")))
        self.assertEqual(len(rows), trace.changes)
        self.assertEqual([int(row["time_us"]) for row in rows], sorted(int(row["time_us"]) for row in rows))
        lamp = [int(row["time_us"]) for row in rows if (row["kind"], row["of"]) == ("output", "focus-lamp")]
        self.assertEqual(lamp, trace.signal(Kind.OUTPUT, "focus-lamp").times_us)
        passes = [row for row in rows if row["kind"] == "pass"]
        ends = [int(row["time_us"]) + math.prod(map(int, row["value"].split(" x "))) for row in passes]
        self.assertEqual(ends[:-1], [int(row["time_us"]) for row in passes[1:]], "each begins where the last ended")
        held = [row["value"] for row in rows if row["kind"] == "blocked"]
        said = [f"{us} {what}" for us, what in trace.signal(Kind.BLOCKED).values]
        self.assertEqual(held, said)


class Names(unittest.TestCase):
    def test_names_in_what_leaves_the_desk(self) -> None:
        keys = ["\t", "\n", "\x00", "=1+1", "-x", "@", "ä", "ö", "??/", "*/", '"', "\\"]
        odd = "??/ */ \u2028 \" =cmd|' /C \\"
        part = {"id": "keys", "name": odd, "kind": "matrix", "rows": ["D2", "D3", "D4"],
                "columns": ["D5", "D6", "D7", "A0"], "keys": keys}  # fmt: skip
        data = bench_data(bench_of())
        data["inputs"] = [part]
        data["outputs"][0]["name"] = odd
        transitions = [
            {"source": f"s{n}", "on": {"kind": "key", "input": "keys", "of": key}, "target": f"s{n + 1}"}
            for n, key in enumerate(keys)
        ]
        states = [{"id": f"s{n}", "name": odd} for n in range(len(keys) + 1)]
        machine = {"id": "m", "name": odd, "initial": "s0", "states": states, "transitions": transitions}
        data["firmware"] = {"machines": [machine], "readings": {"keys": {"kind": "scan"}}}
        held = [
            {"kind": "key", "input": "keys", "at_us": 300_000 * (n + 1), "hold_us": 150_000, "key": key}
            for n, key in enumerate(keys)
        ]
        data["scenarios"] = [{"name": odd, "length_us": 4_500_000, "stimuli": held}]
        bench = bench_from_data(data)
        self.assertEqual(bench_from_text(bench_text(bench)), bench)
        trace = SkippingEngine().run(bench, bench.scenarios[0]).trace
        said = trace.signal(Kind.EVENT, "keys")
        self.assertEqual(said.values, [f"key {key}" for key in keys])
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "run.vcd").write_text(write_vcd(bench, trace))
            read = VCDVCD(str(folder / "run.vcd"))
            events = [signal for signal in read.signals if signal.startswith("event.keys_key_")]
            self.assertEqual(len(events), len(keys))
            at = sorted(time for signal in events for time, _ in read[signal].tv)
            self.assertEqual(at, said.times_us)
            rows = list(csv.DictReader(io.StringIO(write_trace(trace), newline="")))
            self.assertEqual(len(rows), trace.changes)
            for row in rows:
                self.assertRegex(row["value"], r"^(?![=+@\t\r\n])(?!-(?!\d))")
            (folder / "sketch.cpp").write_text('#include "board.h"\n' + sketch(bench))
            on_host.built(folder / "sketch.cpp", folder / "sketch", "-std=c++11", "-Wtrigraphs")
        text = write_scxml(bench.firmware.machines[0], ())
        ET.fromstring(text)
        self.assertEqual(
            [one["on"] for one in read_scxml(text)["machine"]["transitions"]], [one["on"] for one in transitions]
        )
        (graph,) = pydot.graph_from_dot_data(write_dot(bench.firmware.machines[0])) or ()
        self.assertEqual(len(graph.get_edges()), len(keys) + 1)


class EdgesCsv(unittest.TestCase):
    def test_units_headers_levels_and_delimiters(self) -> None:
        for text, unit, edges in (
            ("0,1\n0.001,0\n", None, [(0, 1), (1000, 0)]),
            ("time,level\n0,1\n0.002,0\n", None, [(0, 1), (2000, 0)]),
            ("time (ms),level\r\n5,high\r\n7.5,low\r\n", None, [(0, 1), (2500, 0)]),
            ("t_us;v\n10;1\n30;0\n", None, [(0, 1), (20, 0)]),
            ("zeit in µs\tpegel\n10\tH\n30\tL\n", None, [(0, 1), (20, 0)]),
            ("0,1\n5,0\n", "ms", [(0, 1), (5000, 0)]),
            ("time (s),level\n0,1\n5,0\n", "us", [(0, 1), (5, 0)]),
            ('"0","1"\n"1e-3","0"\n', None, [(0, 1), (1000, 0)]),
            ("\ufeff-1,1\n\n0,1\n1,0\n", "ms", [(0, 1), (2000, 0)]),
            ("0;1\n0,5;0\n", "ms", [(0, 1), (500, 0)]),
        ):
            with self.subTest(text=text):
                read = read_edges(text, unit)  # type: ignore[arg-type]
                self.assertEqual([(edge.at_us, edge.level) for edge in read.edges], edges)

    def test_bad_rows_are_named_by_line_and_nothing_is_read(self) -> None:
        for text, said in (
            ("0,1\n1,2\n3,0\n", "Line 2: “2” is not a level"),
            ("time,level\n0,1\nx,0\n3,0\n", "Line 3: “x” is not a time"),
            ("0,1\n2,0\n1,1\n", "Line 3: its time is before the line above it"),
            ("0,1\n1,0,5\n", "Line 2: has 3 columns"),
            ("0,1\nnan,0\n", "Line 2: “nan” is not a time"),
            ("0,1\n1,1\n", "never changes"),
            ("", "never changes"),
            ('0,1\n"1,0\n', "Line"),
            ("0,1\n" + "x,0\n" * 30, "22 lines more"),
            ("x" * 2_000_001, "over 2 MB"),
            ("0,1\n" * 100_001, "more than 100,000 rows"),
            ("\n".join(f"{n},{n % 2}" for n in range(20_002)), "20,000 is the most"),
        ):
            with self.subTest(text=text[:30]), self.assertRaises(EdgesError) as caught:
                read_edges(text)
            self.assertIn(said, str(caught.exception))

    @settings(max_examples=100 * DEPTH)
    @given(st.lists(st.integers(1, 10**9), min_size=1, max_size=50), st.integers(0, 1))
    def test_what_is_written_is_read_back(self, gaps: list[int], level: int) -> None:
        at, edges = 0, [Edge(at_us=0, level=level)]
        for gap in gaps:
            at, level = at + gap, 1 - level
            edges.append(Edge(at_us=at, level=level))
        self.assertEqual(read_edges(write_edges(tuple(edges))).edges, tuple(edges))


class CommandLine(unittest.TestCase):
    def call(self, *arguments: str, text: str | None = None) -> Any:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "bench.json"
            path.write_text(demo_text("print-timer") if text is None else text, encoding="utf-8")
            said = [argument.replace("FILE", str(path)).replace("DIR", folder) for argument in arguments]
            result = CliRunner().invoke(main, said)
            written = {p.name: p.read_text() for p in Path(folder).iterdir() if p.name != "bench.json"}
        return result.exit_code, result.output, written

    def test_check(self) -> None:
        code, output, _ = self.call("check", "FILE")
        self.assertEqual(code, 1)
        self.assertIn("→ Foot pedal: extra presses counted", output)
        code, output, _ = self.call("check", "FILE", "--json")
        self.assertEqual((code, json.loads(output)["findings"][0]["code"]), (1, "wire.hazard"))
        code, output, _ = self.call("check", "FILE", text='{"version": 1, "name": "empty"}')
        self.assertEqual((code, output), (0, "empty: nothing stands out.\n"))

    def test_pace_and_hang(self) -> None:
        code, output, _ = self.call("pace", "FILE", text=demo_text("rain-barrel"))
        self.assertEqual(code, 0)
        for words in ("longest 40.0 ms (works)", "Low float: unread for", "utilisation 0.208", "the loop: response"):
            self.assertIn(words, output)
        code, output, _ = self.call("hang", "FILE", "--instants", "2", "--scenario", "One print")
        self.assertEqual(code, 0)
        self.assertRegex(output, r"^28 runs in")
        self.assertIn("A block never returns: recovered by a reset, 2 of 2 recovered", output)
        self.assertEqual(self.call("hang", "FILE", "--scenario", "None such")[0], 1)

    def test_sweep(self) -> None:
        code, output, _ = self.call("sweep", "FILE", "--presses", "2000")
        self.assertEqual(code, 0)
        self.assertIn("Foot pedal: 2,000 presses", output)
        # It bounces for 10.5 ms at most and rests up to 8 ms in between; the tap is 80 ms.
        found = re.search(r"Lock out after the first edge: (\d+) ms to (\d+) ms", output)
        assert found is not None
        self.assertTrue(10 <= int(found[1]) <= 14 and 100 <= int(found[2]) <= 125, found[0])
        _, slow, _ = self.call("sweep", "FILE", "--presses", "2000", "--pass-us", "60000")
        self.assertIn("Wait until stable: no safe interval", slow)
        code, output, _ = self.call("sweep", "FILE", "--input", "nobody")
        self.assertEqual((code, "foot-pedal" in output), (1, True))

    def test_run_writes_what_it_is_asked_for(self) -> None:
        where = ("--vcd", "DIR/a.vcd", "--csv", "DIR/a.csv")
        code, output, written = self.call("run", "FILE", "--scenario", "One print", "--seed", "5", *where)
        self.assertEqual(code, 0)
        self.assertIn("seed 5", output)
        self.assertTrue(written["a.vcd"].startswith("$comment"))
        self.assertTrue(written["a.csv"].startswith("time_us,kind,of,value"))
        code, output, _ = self.call("run", "FILE", "--json")
        self.assertEqual(json.loads(output)["answers"]["tallies"]["foot-pedal"]["counted"], 3)

    def test_emit(self) -> None:
        for arguments, said in (
            ((), "void loop() {"), (("--target", "cpp"), "void loop() {"), (("--target", "c"), "void loop(void) {"),
        ):  # fmt: skip
            code, output, _ = self.call("emit", "FILE", *arguments)
            self.assertEqual(code, 0)
            self.assertIn(said, output)
        code, output, _ = self.call("emit", "FILE", "--target", "micropython")
        self.assertEqual(code, 1)
        self.assertIn("no small runtime of Python is made for its board", output)
        code, _, written = self.call("emit", "FILE", "--target", "c", "--into", "DIR")
        self.assertEqual(code, 0)
        names = "print-timer.c helpers.h hardware.h layer.c Makefile CMakeLists.txt wiring.txt"
        self.assertEqual({*written}, {*names.split()})
        with tempfile.TemporaryDirectory() as folder:  # one's own lines stay
            old = Path(folder) / "old.c"
            old.write_text(written["print-timer.c"].replace("here: top\n", "here: top\nint mine;\n", 1))
            _, output, _ = self.call("emit", "FILE", "--target", "c", "--keep", str(old))
            self.assertIn("here: top\nint mine;\n", output)

    def test_refusals_are_sentences(self) -> None:
        for arguments, text, code, said in (
            (("check", "FILE"), "{", 2, "this is not JSON: line 1"),
            (("check", "FILE"), '{"version": 9}', 2, "/version: this document is version 9"),
            (("check", "missing.json"), None, 1, "cannot be read"),
            (("run", "FILE", "--scenario", "x"), None, 1, "There is no scenario “x”"),
            (("run", "FILE"), '{"version": 1, "name": "e"}', 1, "no scenario to run"),
            (("run", "FILE", "--vcd", "/nowhere/a"), None, 1, "cannot be written"),
            (("emit", "FILE", "--target", "x"), None, 2, "Invalid value"),
        ):
            with self.subTest(arguments=arguments):
                got, output, _ = self.call(*arguments, text=text)
                self.assertEqual(got, code)
                self.assertIn(said, output)
                self.assertNotIn("Traceback", output)


class Captures(unittest.TestCase):
    EDGES = ((0, 1), (10_000, 0), (10_700, 1), (11_500, 0), (90_000, 1))

    def samples(self, rate_hz: int, volts: bool) -> tuple[list[float], list[float]]:
        """The same presses, sampled: times in s, levels or volts with a slow slope and a little noise."""
        at = np.arange(0, 120_000, 1e6 / rate_hz)
        level = np.zeros(len(at))
        for when, value in self.EDGES:
            level[at >= when] = value
        if volts:
            level = 3.3 * np.convolve(level, np.ones(5) / 5, mode="same") + 0.03 * np.sin(np.arange(len(at)))
            level[:3], level[-3:] = 3.3, 3.3
        return (at / 1e6).tolist(), level.tolist()

    def test_samples_with_times_without_and_in_volts_give_the_edges(self) -> None:
        for volts in (False, True):
            times, levels = self.samples(20_000, volts)
            rows = [f"{t:.6f},{v:g}" for t, v in zip(times, levels, strict=True)]
            alone = [f"{v:g}" for v in levels]
            for text, asked in (
                ("\n".join(["time (s),v", *rows]), Asked()),
                ("\n".join(row.replace(",", ";").replace(".", ",") for row in rows), Asked(threshold=0.5)),
                ("\n".join(alone), Asked(rate_hz=20_000)),
            ):
                got = read_capture(text, asked).edges
                self.assertEqual([edge.level for edge in got], [level for _, level in self.EDGES])
                for edge, (at, _) in zip(got, self.EDGES, strict=True):
                    self.assertLessEqual(abs(edge.at_us - at), 150)

    def test_a_large_file_is_read_as_the_small_one_is_and_names_its_bad_row(self) -> None:
        rows = [f"{n * 5e-6:.6f},{1 if n % 60_000 < 50_000 else 0}" for n in range(120_000)]
        text = "time (s),level\n" + "\n".join(rows)
        self.assertGreater(len(text), 1_000_000)
        self.assertEqual([edge.at_us for edge in read_capture(text).edges], [0, 250_000, 300_000, 550_000])
        for bad, said in (("x,1", "Line 70002 is not"), ("0.0,1", "Line 70002: its time is before")):
            broken = [*rows[:70_000], bad, *rows[70_000:]]
            with self.assertRaises(EdgesError) as caught:
                read_capture("time (s),level\n" + "\n".join(broken))
            self.assertIn(said, " ".join([caught.exception.sentence, *caught.exception.rows]))

    def test_a_value_change_dump_gives_the_signal_that_is_asked_for(self) -> None:
        bench = demo_bench("print-timer")
        trace = SkippingEngine().run(bench, bench.scenarios[0]).trace
        text = write_vcd(bench, trace)
        with self.assertRaisesRegex(EdgesError, "Which signal.*contact.foot_pedal"):
            read_capture(text)
        read = read_capture(text, Asked(signal="contact.foot_pedal"))
        contact = trace.signal(Kind.CONTACT, "foot-pedal")
        self.assertEqual(
            [(e.at_us, e.level) for e in read.edges], list(zip(contact.times_us, contact.values, strict=True))
        )

    def test_what_cannot_be_read_says_why(self) -> None:
        for text, asked, said in (
            ("0\n1\n0\n", Asked(), "how many a second"),
            ("0,1.5\n1,1.5\n", Asked(), "never changes"),
            ("0,1.5\n1,2.5\n", Asked(threshold=9.0), "no threshold"),
            ("0,1,2.5\n1,2,3.5\n", Asked(threshold=1.0), "3 columns"),
            ("$enddefinitions $end\n#0\n", Asked(), "No signal"),
            ("$scope $enddefinitions", Asked(), "cannot be read|can be read"),
        ):
            with self.subTest(said=said), self.assertRaisesRegex(EdgesError, said):
                read_capture(text, asked)


if __name__ == "__main__":
    unittest.main()
