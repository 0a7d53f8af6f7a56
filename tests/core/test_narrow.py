"""What we emit, run with the 16-bit `int` of the 8-bit boards: the same program for the host and for the device, which
an instruction-set simulator runs, does the same at the same millisecond."""

from __future__ import annotations

import re
import subprocess
import tempfile
import unittest
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core import builder
from tests.core.on_host import NO_SHRINK, loaded
from tests.core.test_each import lit, panel, transition
from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches, shown_benches
from viva_tick.core.document import CAUSE_EVENTS, Bench, Restart, Scenario
from viva_tick.core.emit import sketch
from viva_tick.demo import ORDER, demo_bench

TINY = Path(__file__).parent / "board_tiny"
BOARD = "mid-8bit-5v"
PASSES = 2_500
NEAR_THE_WRAP = (1 << 32) - 70_000
ROW = re.compile(r"(\d+ \d+ \d+)\.")


def unguarded(bench: Bench) -> Bench:
    """The bench without what needs the device's own registers: those have tests of their own."""
    watchdog = bench.firmware.watchdog.model_copy(update={"mode": "off"})
    told = [event for event in CAUSE_EVENTS.values() if event != "watchdog-reset"]
    machines = []
    for machine in bench.firmware.machines:
        kept = [one for one in machine.transitions if one.on.kind not in told]
        rows = [
            one.model_copy(update={"actions": tuple(a for a in one.actions if not isinstance(a, Restart))})
            for one in kept
        ]
        machines.append(machine.model_copy(update={"transitions": tuple(rows)}))
    left_out = {"watchdog": watchdog, "keeps": (), "sleep": None, "machines": tuple(machines)}
    changed = bench.firmware.model_copy(update=left_out)
    return bench.model_copy(update={"firmware": changed, "board": BOARD})


def both(bench: Bench, start_ms: int) -> tuple[list[str], list[str]]:
    """(host, device): every change of an output, as "millisecond pin value"."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "program.inc").write_text(loaded(sketch(bench), 7))
        common = [f"-DSTART_MS={start_ms}UL", f"-DPASSES={PASSES}", "-std=gnu++11", "-w", f"-I{folder}", f"-I{TINY}"]
        main, device = str(TINY / "main.cpp"), builder.device(BOARD)
        for_device = [f"-mmcu={device}", "-Os", f"-I{builder.CALLS}", main, "-o", str(folder / "device.elf")]
        subprocess.run(["avr-g++", *common, *for_device], check=True)
        subprocess.run(["g++", *common, "-O0", main, "-o", str(folder / "host")], check=True)
        host = subprocess.run([str(folder / "host")], capture_output=True, text=True, check=True, timeout=150)
        run = ["simavr", "-m", device, "-f", "16000000", str(folder / "device.elf")]
        said = subprocess.run(run, capture_output=True, text=True, check=False, timeout=400)
    return host.stdout.splitlines(), ROW.findall(said.stdout + said.stderr)


def drive(kind: str, **more: Any) -> Any:
    """A lamp that begins to do something as the button is let go, and stays at it."""
    states, transitions = lit(
        transition("off", "release", "on"), transition("on", "3600000", "off"), on={"kind": kind, **more}
    )
    return states, transitions


class Narrow(unittest.TestCase):
    def assert_the_same(self, bench: Bench, start_ms: int = 0) -> None:
        host, device = both(unguarded(bench), start_ms)
        self.assertEqual(host, device)
        self.assertTrue(host)

    def test_long_times_and_large_numbers(self) -> None:
        lamps = [
            drive("blink", on_us=70_000_000, off_us=40_000_000),
            drive("ramp", start=0, end=100, time_us=3_600_000_000, curve="square"),
            drive("ramp", start=100, end=3, time_us=90_000_000, curve="smooth"),
            drive("burst", on_us=33_000_000, off_us=1_000_000, times=300, rest_us=66_000_000),
            drive("sequence", steps=[{"percent": 7, "us": 65_536_000}, {"percent": 93, "us": 40_000_000}], rounds=9),
            drive("pulse", length_us=86_400_000_000),
            drive("follow-variable", variable="large"),
        ]
        number = {"id": "large", "name": "Large", "least": -1_000_000, "most": 1_000_000, "begins": 40_000}
        adds = {"do": "add", "variable": "large", "number": 99_999}
        lamps[0][1].append(transition("on", "press", "on", actions=[adds]))
        bench = panel(lamps, [(300, 50)], variables=[{**number, "ends": "wrap"}])
        for start_ms in (0, NEAR_THE_WRAP):
            with self.subTest(start_ms=start_ms):
                self.assert_the_same(bench, start_ms)

    def test_the_demos(self) -> None:
        for name in ORDER:
            with self.subTest(name):
                self.assert_the_same(demo_bench(name), NEAR_THE_WRAP)

    @settings(max_examples=4 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(st.one_of(benches(), sensed_benches(watchdog=False), shown_benches()))
    def test_random_benches(self, made: tuple[Bench, Scenario]) -> None:
        host, device = both(unguarded(made[0]), NEAR_THE_WRAP)
        self.assertEqual(host, device)


if __name__ == "__main__":
    unittest.main()
