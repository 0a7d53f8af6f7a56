"""Files out and in, and the command line. The VCD is read by another package; the CSV by the standard library."""

from __future__ import annotations

import csv
import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st
from vcdvcd import VCDVCD

from viva_tick.cli import main
from viva_tick.core.document import Edge
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.formats import EdgesError, read_edges, write_edges, write_trace, write_vcd
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
                    wanted = [(at, BITS[v]) for at, v in zip(signal.times_us, signal.values, strict=True)]
                elif signal.kind is Kind.STATE:
                    wanted = [
                        (at, "x" if v is None else format(states[signal.of].index(v), "b"))
                        for at, v in zip(signal.times_us, signal.values, strict=True)
                    ]
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
        trace = SkippingEngine().run(bench, bench.scenarios[0]).trace
        rows = list(csv.DictReader(io.StringIO(write_trace(trace), newline="")))
        self.assertEqual(len(rows), trace.changes)
        self.assertEqual([int(row["time_us"]) for row in rows], sorted(int(row["time_us"]) for row in rows))
        lamp = [int(row["time_us"]) for row in rows if (row["kind"], row["of"]) == ("output", "focus-lamp")]
        self.assertEqual(lamp, trace.signal(Kind.OUTPUT, "focus-lamp").times_us)


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

    @settings(max_examples=100)
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
        self.assertIn("Must fix: Foot pedal counted twice", output)
        code, output, _ = self.call("check", "FILE", "--json")
        self.assertEqual((code, json.loads(output)["findings"][0]["code"]), (1, "clean.counted"))
        code, output, _ = self.call("check", "FILE", text='{"version": 1, "name": "empty"}')
        self.assertEqual((code, output), (0, "empty: nothing stands out.\n"))

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
        code, output, _ = self.call("emit", "FILE", "--target", "sketch")
        self.assertEqual(code, 0)
        self.assertIn("void loop() {", output)

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


if __name__ == "__main__":
    unittest.main()
