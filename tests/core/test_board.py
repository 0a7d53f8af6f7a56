"""The simulated board: as planned it does what the bench does; otherwise it differs by what it was given."""

from __future__ import annotations

import os
import re
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from click.testing import CliRunner
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from vcdvcd import VCDVCD

from tests.core.on_host import NO_SHRINK
from tests.depth import DEPTH
from tests.random_benches import benches
from viva_tick.cli import main
from viva_tick.core.document import Bench, Scenario, bench_text
from viva_tick.core.engine import Fault, Kind
from viva_tick.core.told import Otherness, board_run, compared, pins_vcd, read_lines, trace_lines
from viva_tick.demo import ORDER, demo_bench


class Board(unittest.TestCase):
    def test_what_it_prints_is_read_and_agrees_where_it_is_as_planned(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            scenario = bench.scenarios[0]
            if (
                scenario.answers
                or scenario.repeats
                or any(one.kind not in ("press", "set") for one in scenario.stimuli)
            ):
                continue
            run = board_run(bench, scenario, Otherness(scenario.seed))
            read = read_lines("\n".join(line for _, line in trace_lines(bench, run)), bench)
            self.assertEqual((read.others, read.strangers), ((), ()))
            found = compared(bench, read.rows, "Told")
            assert found is not None
            if (
                name == "quiz-table"
            ):  # the others bounce for longer than they are waited for, or answer what nobody told
                self.assertEqual([one.sentence for one in found.differences], [])
                self.assertEqual(found.agree, len(read.rows))

    def test_its_pins_as_another_library_reads_them(self) -> None:
        bench = demo_bench("quiz-table")
        run = board_run(bench, bench.scenarios[0], Otherness(5))
        with tempfile.NamedTemporaryFile("w", suffix=".vcd") as file:
            file.write(pins_vcd(bench, run, ppm=10_000))
            file.flush()
            read = VCDVCD(file.name)
        for one in bench.channels:
            seen = [(at, int(value)) for at, value in read[f"pins.{one.pin}"].tv]
            signal = run.trace.signal(Kind.OUTPUT, one.id)
            flips = one.active_level == "low"
            wanted = [
                (round(at * 1.01), max(value, 0) ^ flips)
                for at, value in zip(signal.times_us, signal.values, strict=True)
            ]
            self.assertEqual(changes(seen), changes(wanted))

    @settings(max_examples=20 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches(), st.integers(0, 50))
    def test_whatever_it_is_it_can_be_told(self, made: tuple[Bench, Scenario], seed: int) -> None:
        bench, scenario = made
        switches = {bench.contacts[0].id: "worn-button"} if bench.contacts else {}
        run = board_run(bench, scenario, Otherness(seed, switches, slower=2.5))
        read = read_lines("\n".join(line for _, line in trace_lines(bench, run)), bench)
        self.assertEqual((read.others, read.strangers), ((), ()))
        self.assertIn("$enddefinitions", pins_vcd(bench, run))

    def test_a_fault_that_is_planted_shows(self) -> None:
        bench = demo_bench("print-timer")
        scenario = bench.scenario("One print")
        off = board_run(bench, scenario, Otherness(fault=Fault("off", 200_000, "foot-pedal")))
        self.assertNotIn("cleaned,foot-pedal,1", str(trace_lines(bench, off)))
        self.assertIn("cleaned,foot-pedal,1", str(trace_lines(bench, board_run(bench, scenario, Otherness()))))


def changes(rows: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Without what says the same again, and with the last of one instant."""
    last = dict(rows)
    found: list[tuple[int, int]] = []
    for row in sorted(last.items()):
        if not found or row[1] != found[-1][1]:
            found.append(row)
    return found


class Command(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file = self.folder / "bench.json"
        self.file.write_text(bench_text(demo_bench("print-timer")))

    def test_it_prints_or_writes_its_pins(self) -> None:
        said = CliRunner().invoke(main, ["board", str(self.file), "--contact", "foot-pedal=worn-button"])
        self.assertEqual(said.exit_code, 0)
        self.assertIn(",state,lamp-mode,1", said.output)
        out = self.folder / "pins.vcd"
        said = CliRunner().invoke(main, ["board", str(self.file), "--ppm", "4800", "--slower", "2", "--vcd", str(out)])
        self.assertIn("$enddefinitions", out.read_text())
        for wrong in (
            ["--contact", "x=y"],
            ["--fault", "bad@3"],
            ["--fault", "off:foot-pedal"],
            ["--scenario", "None such"],
        ):
            said = CliRunner().invoke(main, ["board", str(self.file), *wrong])
            self.assertEqual((said.exit_code != 0, "Traceback" in said.output), (True, False), said.output)

    def test_it_tells_over_a_socket_and_over_a_serial_line_in_its_own_time(self) -> None:
        for way, pattern in ((["--tcp", "0"], r":(\d+) "), (["--serial"], r"(/dev/\S+)")):
            command = [sys.executable, "-u", "-m", "viva_tick.cli", "board", str(self.file), *way]
            with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as board:
                self.addCleanup(board.kill)
                assert board.stdout is not None
                found = re.search(pattern, board.stdout.readline())
                assert found is not None
                began, text = time.monotonic(), b""
                if way[0] == "--tcp":
                    with socket.create_connection(("127.0.0.1", int(found[1])), timeout=10) as connection:
                        while b"state,lamp-mode,1" not in text and (got := connection.recv(4096)):
                            text += got
                    self.assertGreater(time.monotonic() - began, 0.2)  # the pedal is pressed after 0.26 s
                else:
                    line = os.open(found[1], os.O_RDONLY | os.O_NOCTTY)
                    while b"state,lamp-mode,1" not in text and (got := os.read(line, 4096)):
                        text += got
                    os.close(line)
                self.assertIn(
                    b"cleaned,foot-pedal,1\r\n",
                    text.replace(b"\r\r", b"\r").replace(b"\n\n", b"\n")
                    if way[0] == "--tcp"
                    else text.replace(b"\n\n", b"\r\n"),
                )
                board.kill()


if __name__ == "__main__":
    unittest.main()
