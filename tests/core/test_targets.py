"""What the other targets make of a bench does what the engine said it would."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path

from hypothesis import HealthCheck, given, settings

from tests.core.on_host import (
    NO_SHRINK,
    AsTheEngine,
    as_the_engine_had_it,
    double,
    loaded,
    merged,
    run_sketch,
    written_by,
)
from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.document import CAUSE_EVENTS, Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.emit import python
from viva_tick.core.emit.c import c_files
from viva_tick.core.emit.tasks import slices
from viva_tick.core.engine import Kind, PlainEngine, Run, SkippingEngine
from viva_tick.core.program import in_its_school
from viva_tick.demo import ORDER, demo_bench

BRIDGE = Path(__file__).parent / "board_python"


@cache
def library() -> Path:
    """The double as a library."""
    made = double() / "double.so"
    sources = [str(double() / "main.cpp"), str(double() / "calls.cpp"), str(BRIDGE / "bridge.cpp")]
    flags = ["-std=c++17", "-O1", "-w", "-fPIC", "-shared", "-Dmain=double_main", f"-I{double()}"]
    subprocess.run(["g++", *flags, *sources, "-o", str(made)], check=True)
    return made


def working(bench: Bench, text: str, call: Callable[[str], str], choose: Callable[[int, int], str], mark: str) -> str:
    """A program whose tasks work as long as the bench says; `mark` begins a comment."""
    for task in in_its_school(bench).firmware.tasks:
        last_us = task.run_us % task.slice_us or task.slice_us
        found, us = f"{mark} Your work goes here;", str(task.run_us)
        if slices(task) > 1:
            found, us = f"{mark} Your work goes here,", choose(last_us, task.slice_us)
        if slices(task) > 1 or task.run_us or not task.talks:
            text = text.replace(found, f"{call(us)}  {mark}", 1)
    return text


def small(bench: Bench) -> Bench:
    """The bench without what a small runtime has not, and its program's head says."""
    bench = off_early(bench)
    firmware = bench.firmware
    untold = {CAUSE_EVENTS["dip"], CAUSE_EVENTS["software"], "watchdog-bark"}
    machines = tuple(
        machine.model_copy(
            update={"transitions": tuple(one for one in machine.transitions if one.on.kind not in untold)}
        )
        for machine in firmware.machines
    )
    mode = "off" if firmware.watchdog.mode.startswith("interrupt") else firmware.watchdog.mode
    watchdog = firmware.watchdog.model_copy(update={"mode": mode, "told_by": "flag"})  # no memory for a mark
    left_out = {"watchdog": watchdog, "machines": machines, "keeps": (), "sleep": None}
    return bench.model_copy(update={"firmware": firmware.model_copy(update=left_out)})


def run_python(
    bench: Bench, scenario: Scenario, folder: Path, layer: python.Layer = python.SMALL
) -> dict[int, list[tuple[int, int]]]:
    """Output changes by pin number, as the Python program makes them, given what the engine was given."""
    for file in python.python_files(bench, (), layer).files:
        text = loaded(file.text, scenario.seed)
        if file.name == "hardware.py" or file.suffix:  # boards whose analogue inputs have names of their own
            text = "A0, A1, A2, A3, A4, A5 = range(14, 20)\n" + text
        if file.suffix:
            text = working(bench, text, "hold({})".format, "{0} if left == 1 else {1}".format, "#")
        (folder / ("program.py" if file.suffix else file.name)).write_text(text)
    program = folder / "program"
    program.write_text(f'#!/bin/sh\nexec {sys.executable} {BRIDGE / "bridge.py"} {folder} {library()} "$@"\n')
    program.chmod(0o755)
    return written_by(program, as_the_engine_had_it(bench, scenario))


C_FLAGS = ["-std=c11", "-Wall", "-Wextra", "-Werror", "-pedantic", "-Dsetup=c_setup", "-Dloop=c_loop"]
KEPT = '-DHW_KEPT=__attribute__((section("noinit")))'
SANE = ["-fsanitize=address,undefined", "-fno-sanitize-recover=all"]


@cache
def layer() -> Path:
    """The layer of programs in C over the double, with the double, as one object."""
    folder, made = double(), double() / "layer_double.o"
    flags = ["-std=c++17", "-O1", "-w", f"-I{folder}"]
    subprocess.run(["g++", *flags, "-c", str(folder / "layer.cpp"), "-o", str(folder / "layer.o")], check=True)
    subprocess.run(["g++", "-r", str(folder / "layer.o"), str(folder / "double.o"), "-o", str(made)], check=True)
    return made


def off_early(bench: Bench) -> Bench:
    """The bench with its watchdog off first thing, as each layer has it: the program's head says so."""
    watchdog = bench.firmware.watchdog.model_copy(update={"off_at_start": True})
    return bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"watchdog": watchdog})})


def run_c(
    bench: Bench, scenario: Scenario, folder: Path, flags: Sequence[str] = SANE
) -> dict[int, list[tuple[int, int]]]:
    """The same of the program in C, under the compiler's sanitizers."""
    for file in c_files(bench).files:
        text = loaded(file.text, scenario.seed)
        if file.suffix == ".c":
            text = working(bench, text, "hw_hold({});".format, "left == 1 ? {0} : {1}".format, "//")
            text = text.replace('#include "hardware.h"', '#include "hardware.h"\nvoid hw_hold(int64_t us);', 1)
        (folder / (file.name or "program.c")).write_text(text)
    program = folder / "program"
    subprocess.run(["gcc", *C_FLAGS, KEPT, *flags, "-c", "program.c", "-o", "program.o"], check=True, cwd=folder)
    subprocess.run(["g++", *flags, "program.o", str(layer()), "-o", "program"], check=True, cwd=folder)
    return written_by(program, as_the_engine_had_it(bench, scenario))


class CRunsAsTheEngineDoes(AsTheEngine):
    def test_every_demo(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for scenario in bench.scenarios[:1]:
                with self.subTest(bench=name, scenario=scenario.name):
                    self.assert_same(bench, scenario, program=run_c)

    @settings(max_examples=5 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_random_benches(self, made: tuple[Bench, Scenario]) -> None:
        self.assert_same(off_early(made[0]), made[1], program=run_c)

    @settings(max_examples=5 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(sensed_benches())
    def test_random_benches_with_every_kind_of_input(self, made: tuple[Bench, Scenario]) -> None:
        self.assert_same(off_early(made[0]), made[1], program=run_c)


@cache
def runtime() -> Path:
    """The small runtime itself, as the web has it."""
    found = Path(__file__).parents[2] / "build" / "runtime" / "node_modules" / "@micropython"
    return found / "micropython-webassembly-pyscript"


def replayed(bench: Bench, scenario: Scenario) -> int:
    """How many rows the small runtime asked and was answered in the double's own run of a program."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "wants-log").touch()
        run_python(bench, scenario, folder)
        command = ["node", str(BRIDGE / "replay.mjs"), str(runtime()), str(folder), str(BRIDGE)]
        done = subprocess.run(command, capture_output=True, text=True, check=False, timeout=300)
        rows = [row for row in (folder / "log").read_text().splitlines() if row]
    if done.returncode or not done.stdout.startswith("asked "):
        raise AssertionError(done.stderr[-2000:] + done.stdout[-2000:])
    asked = int(done.stdout.split()[1])
    booted = [place for place, row in enumerate(rows) if row.startswith('["start"')]
    whole = booted[1] if len(booted) > 1 else len(rows)
    if whole - asked > 3:
        raise AssertionError(f"{asked} of {whole}")
    return asked


def run_computer(bench: Bench, scenario: Scenario, folder: Path) -> dict[int, list[tuple[int, int]]]:
    """The same over a computer's layer."""
    return run_python(bench, scenario, folder, python.COMPUTER)


def oddly_named() -> Bench:
    """A bench whose names, as C and Python would have them, are taken already."""
    data = bench_data(demo_bench("quiz-table"))
    for ident, names in (("int8", ("max", "min")), ("input", ("pullup", "class"))):
        states = [{"id": name, "name": f"{name} */"} for name in names]
        after = {"source": names[0], "target": names[1], "on": {"kind": "timeout", "after_us": 5_000}}
        machine = {"id": ident, "name": "def", "initial": names[0], "states": states, "transitions": [after]}
        data["firmware"]["machines"].append(machine)
    return bench_from_data(data)


class OddNames(AsTheEngine):
    def test_they_clash_with_nothing(self) -> None:
        bench = oddly_named()
        for program in (run_c, run_python):
            self.assert_same(bench, bench.scenarios[0], program=program)


def traced(bench: Bench) -> Bench:
    """The bench that says each change on the serial line, at a baud at which that does not hold it for long."""
    serial = bench.firmware.serial.model_copy(update={"traces": True})
    return bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"serial": serial})})


class Traces(AsTheEngine):
    """What a program says of its changes is what changed, and costs what the model says it costs."""

    def test_each_change_is_said_once(self) -> None:
        for name in ("quiz-table", "parcel-box"):
            bench = traced(demo_bench(name))
            scenario = bench.scenarios[0]
            run = SkippingEngine().run(bench, scenario)
            for program in (run_sketch, run_c, run_python):
                with self.subTest(name, program=program.__name__):
                    with tempfile.TemporaryDirectory() as folder:
                        written = program(bench, scenario, Path(folder))
                    self.assert_said(bench, run, "".join(chr(code) for _, code in written[-3]))
                    self.assert_same(bench, scenario, program=program)  # and the pass stands still as long

    def assert_said(self, bench: Bench, run: Run, said: str) -> None:
        rows: dict[tuple[str, str], list[tuple[int, int]]] = {}
        for line in said.splitlines()[:-1]:  # the last may be cut off by the end of the run
            at, what, of, value = line.split(",")
            rows.setdefault((what, of), []).append((int(at), int(value)))
        self.assertTrue(rows)
        places = {m.id: [state.id for state in m.states] for m in bench.firmware.machines}
        counter_us = 1000 * run.trace.signal(Kind.PASS).times_us[0] // 1000
        for (what, of), told in rows.items():
            if what == "output":
                continue  # held against the pins below
            signal = run.trace.signal(Kind(what), of)
            seen = [(at, value) for at, value in zip(signal.times_us, signal.values, strict=True) if value is not None]
            wanted = merged((at, places[of].index(value) if what == "state" else value) for at, value in seen)
            wanted = wanted[: len(told)]
            self.assertEqual([value for _, value in told], [value for _, value in wanted], (what, of))
            for (at, _), (engine_us, _) in zip(told[1:], wanted[1:], strict=True):
                self.assertLess(abs(at - (engine_us - counter_us + 1000 * (counter_us // 10**9))), 20_000)

    @settings(max_examples=15 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_both_engines_say_the_same(self, made: tuple[Bench, Scenario]) -> None:
        # Not on the double: it waits letter by letter, and a few µs decide in which pass there is room.
        bench = traced(made[0])
        plain, skipping = (engine.run(bench, made[1]).trace for engine in (PlainEngine(), SkippingEngine()))
        self.assertEqual(
            [(one.kind, one.of, one.times_us, one.values) for one in plain.signals if one.kind is not Kind.PASS],
            [(one.kind, one.of, one.times_us, one.values) for one in skipping.signals if one.kind is not Kind.PASS],
        )


class PythonRunsAsTheEngineDoes(AsTheEngine):
    def test_every_demo(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            with self.subTest(bench=name):
                self.assert_same(bench, bench.scenarios[0], program=run_python)

    @settings(max_examples=5 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_random_benches(self, made: tuple[Bench, Scenario]) -> None:
        self.assert_same(small(made[0]), made[1], program=run_python)

    @settings(max_examples=5 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(sensed_benches())
    def test_random_benches_with_every_kind_of_input(self, made: tuple[Bench, Scenario]) -> None:
        self.assert_same(small(made[0]), made[1], program=run_python)

    @settings(max_examples=3 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_random_benches_over_a_computers_pins(self, made: tuple[Bench, Scenario]) -> None:
        self.assert_same(small(made[0]), made[1], program=run_computer)

    def test_the_runtime_itself_asks_what_was_asked_on_the_double(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            scenario = bench.scenarios[0].model_copy(update={"length_us": 700_000, "expects": ()})
            with self.subTest(bench=name):
                self.assertGreater(replayed(small(bench), scenario), 2_000)
