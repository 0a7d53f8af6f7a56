"""A program built with this system's compiler beside a double of the board, and what the engine says that it does."""

from __future__ import annotations

import atexit
import re
import shutil
import subprocess
import tempfile
import unittest
from bisect import bisect_left
from collections.abc import Callable, Iterable
from functools import cache
from pathlib import Path
from typing import Any

from hypothesis import Phase

from viva_tick.core.courses import active_words, key_course, sent
from viva_tick.core.document import Bench, Channel, Listen, Scenario
from viva_tick.core.document.parts import Analogue, Commands, Encoder, KeyMatrix
from viva_tick.core.electrics import columns_float
from viva_tick.core.emit import sketch
from viva_tick.core.emit.tasks import slices
from viva_tick.core.engine import Kind, Run, SkippingEngine
from viva_tick.core.program import asleep_us, in_its_school, working_pass_us

SHARP = {"kind": "model", "switch": "logic-signal"}

DOUBLE = Path(__file__).parent / "board_double"

NO_SHRINK = [Phase.explicit, Phase.reuse, Phase.generate]  # each example is a compilation

FLAGS = [
    '-DKEPT=__attribute__((section("noinit")))',
    '-DUNTOUCHED=__attribute__((section("noinit")))',
    "-DEARLY=",
    "-std=c++17",
    "-O0",
    "-Wall",
    "-Wextra",
    "-Werror",
    "-Wno-unused-function",
]

LINKER = "-fuse-ld=gold"  # four times as fast

BUILT: dict[tuple[str, int], bytes] = {}  # the last program


@cache
def double() -> Path:
    """A folder with the double compiled once: its header as the compiler likes it best, what is behind it."""
    folder = Path(tempfile.mkdtemp(prefix="double-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    shutil.copytree(DOUBLE, folder, dirs_exist_ok=True)
    header = ("-x", "c++-header", "board.h", "-o", "board.h.gch")
    for command in (header, ("-c", "main.cpp", "calls.cpp"), ("-r", "main.o", "calls.o", "-o", "double.o")):
        subprocess.run(["g++", *FLAGS, *command], check=True, cwd=folder)
    return folder


def built(source: Path, program: Path, *flags: str) -> None:
    """A sketch on the double, made into a program."""
    made = double()
    command = ["g++", *FLAGS, *flags, LINKER, f"-I{made}", str(source), str(made / "double.o"), "-o", str(program)]
    subprocess.run(command, check=True)


def record(tag: str, head: list[Any], rows: Iterable[Iterable[Any]]) -> str:
    """One record of what the double is given."""
    return " ".join([tag, *map(str, head), *(str(value) for row in rows for value in row)])


def code(pin_id: str) -> int:
    """What the double calls a pin."""
    return 14 + int(pin_id[1:]) if pin_id.startswith("A") else int(pin_id[1:])


def loaded(text: str, seed: int) -> str:
    """A program whose dice fall as the engine's do."""
    text = re.sub(r"(DICE_SEED(?: = | ))1", rf"\g<1>{seed}", text)
    text = re.sub(r"(DICE_MIXES(?: = | ))true", r"\1false", text)
    return text.replace("DICE_MIXES = True", "DICE_MIXES = False")


def compiled(bench: Bench, scenario: Scenario, folder: Path) -> Path:
    """The bench's sketch as a program on the double, its tasks working as long as the bench says."""
    text = sketch(bench)
    for task in in_its_school(bench).firmware.tasks:
        last_us = task.run_us % task.slice_us or task.slice_us
        if slices(task) > 1:
            text = text.replace("  // Your work goes here,", f"  hold(left == 1 ? {last_us} : {task.slice_us});  //", 1)
        elif task.run_us or not task.talks:
            text = text.replace("  // Your work goes here;", f"  hold({task.run_us});  //", 1)
    text = loaded(text, scenario.seed)
    source, program = folder / "sketch.cpp", folder / "sketch"
    key = (text, scenario.seed)
    if key in BUILT:  # the one before, given something else now
        program.write_bytes(BUILT[key])
        program.chmod(0o755)
        return program
    source.write_text('#include "board.h"\n' + text)
    built(source, program)
    BUILT.clear()
    BUILT[key] = program.read_bytes()
    return program


def numbers(bench: Bench, scenario: Scenario, late_us: int = 0) -> str:
    """The first line of what the double is given; each pass of it may come up to `late_us` late."""
    board = bench.the_board
    zero, ready = board.start_up_us, board.start_up_us + board.set_up_us
    found = [zero, ready, scenario.length_us, scenario.counter_start_ms]
    found += [board.cost_us.base, board.cost_us.read, working_pass_us(bench)]
    polled = [part for part in bench.sensed if isinstance(part[1], Encoder) and part[1].read_by == "polling"]
    read = bench.firmware.readings
    found += [board.interrupt_latency_us, len(bench.contacts) + 2 * sum(part.id in read for _, part in polled)]
    found.append(board.analogue.convert_us if board.analogue else 0)
    found.append(board.store.write_us if board.store else 0)
    found += [int(board.loader_clears_cause), late_us]
    return " ".join(map(str, found))


def as_the_engine_had_it(bench: Bench, scenario: Scenario) -> list[str]:
    """Levels, samples, keys, bytes and passes out of the engine's run, for the double."""
    trace = SkippingEngine().run(bench, scenario).trace
    lines = [numbers(bench, scenario)]
    read = bench.firmware.readings
    ends = [line for at, part in bench.encoders if part.id in read for line in part.ends(at)]
    for line in (*bench.contacts, *ends):
        level = trace.signal(Kind.LEVEL, line.id)
        # Afloat before set-up is done: nobody reads it then, unless the double starts a few µs sooner, and has what
        # the engine has as it starts.
        rows: list[tuple[int, int]] = []
        for at, value in zip(reversed(level.times_us), reversed(level.values), strict=True):
            if value >= 0 or rows:
                rows.insert(0, (at, value if value >= 0 else rows[0][1]))
        lines.append(record("L", [code(line.pin), len(rows)], rows))
    for _, part in bench.sensed:
        if part.id not in read:
            continue
        if isinstance(part, Analogue):
            sampled = trace.signal(Kind.SAMPLE, part.id).values
            lines.append(record("A", [code(part.pin), len(sampled)], [sampled]))
        elif isinstance(part, KeyMatrix):
            steps = key_course(part, scenario, scenario.seed, columns_float(part, bench.the_board)).changes
            pins = [code(pin) for pin in (*part.rows, *part.columns)]
            sizes = [len(part.rows), len(part.columns), int(part.diodes)]
            rows = [(at, sum(1 << place for place in touching)) for at, touching in steps]
            lines.append(record("K", [*sizes, *pins, len(rows)], rows))
        elif isinstance(part, Commands):
            rows = [row for one in _sent(bench, part, scenario) for row in one.bytes_us]
            lines.append(record("S", [len(rows)], rows))
    bits = {"off": 0, "pin": 1, "dip": 2}
    upset = sorted((one.at_us, bits[one.kind], 0 if one.kind == "dip" else one.for_us) for one in scenario.upsets)
    lines.append(record("U", [len(upset)], upset))
    passes = trace.signal(Kind.PASS)
    runs = [(at, *run) for at, run in zip(passes.times_us, passes.values, strict=True)]
    return [*lines, record("P", [len(runs)], runs)]


def written_by(program: Path, lines: list[str]) -> dict[int, list[tuple[int, int]]]:
    """Changes by pin number, as a program makes them on the double that is given this."""
    given = program.parent / "given"
    given.write_text("\n".join(lines))
    with given.open() as file:  # a file, for the board reads it anew after a reset
        done = subprocess.run([str(program)], stdin=file, capture_output=True, text=True, check=True, timeout=150)
    written: dict[int, list[tuple[int, int]]] = {}
    for said in done.stdout.splitlines():
        at, number, value = map(int, said.split())
        written.setdefault(number, []).append((at, value))
    return written


def run_sketch(bench: Bench, scenario: Scenario, folder: Path) -> dict[int, list[tuple[int, int]]]:
    """Output changes by pin number, as the compiled sketch makes them, given what the engine was given."""
    return written_by(compiled(bench, scenario, folder), as_the_engine_had_it(bench, scenario))


def merged(rows: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Changes without those that change nothing."""
    found: list[tuple[int, int]] = []
    for at, value in rows:
        if not found or found[-1][1] != value:
            found.append((at, value))
    return found


def _sent(bench: Bench, part: Commands, scenario: Scenario) -> Iterable[Any]:
    reading = bench.firmware.readings[part.id]
    assert isinstance(reading, Listen)
    active = active_words(part, reading) if not part.sets else None
    found = sent(part, scenario, scenario.seed, bench.firmware.serial.ending_codes, active)
    made = SkippingEngine().run(bench, scenario).trace.signal(Kind.MADE, part.id)
    return [one for one, number in zip(found, made.values, strict=True) if number >= 0]


def as_written(bench: Bench, run: Run, part: Channel) -> list[tuple[int, int]]:
    """What the engine's run would have written to a pin: 0 or 1, a duty after 1000, a note after 20000."""
    active, inverted = bench.on_level(part) == "high", bench.inverted(part)
    trace = run.trace
    # A pin that a resistor holds has its level from power-on; the sketch first writes it in set-up.
    ready = bench.the_board.start_up_us + bench.the_board.set_up_us
    levels: dict[int, int] = {}
    signal = trace.signal(Kind.OUTPUT, part.id)
    for at, value in zip(signal.times_us, signal.values, strict=True):
        if value >= 0:
            levels[max(at, ready)] = 100 * value
    for kind, rows in ((Kind.DUTY, levels), (Kind.PITCH, {at: 0 for _, at in run.boots if at < trace.length_us})):
        found = next((one for one in trace.signals if (one.kind, one.of) == (kind, part.id)), None)
        rows |= dict(zip(found.times_us, found.values, strict=True)) if found else {}
        pitches = rows
    level = hertz = 0
    written = []
    if inverted:  # the trace says what the output does, the pin what the firmware asks for
        levels = {at: 100 - level for at, level in levels.items()}
    for at in sorted({*levels, *pitches}):
        level, hertz = levels.get(at, level), pitches.get(at, hertz)
        duty = level * 255 // 100
        if level and hertz:
            value = 20_000 + hertz
        elif 0 < level < 100:
            value = 1_000 + (duty if active else 255 - duty)
        else:
            value = int((level > 0) == active)
        written.append((at, value))
    return merged(written)


Runs = Callable[[Bench, Scenario, Path], dict[int, list[tuple[int, int]]]]


class AsTheEngine(unittest.TestCase):
    def assert_same(self, bench: Bench, scenario: Scenario, more_us: int = 0, program: Runs = run_sketch) -> None:
        with tempfile.TemporaryDirectory() as folder:
            written = program(bench, scenario, Path(folder))
        run = SkippingEngine().run(bench, scenario)
        board = bench.the_board
        # A pass, and what a conversion and a scan add to it, and where in it the two put an output.
        pass_us = working_pass_us(bench) + asleep_us(bench) + bench.firmware.loop.tail_delay_us
        slack_us = pass_us + 10 + more_us  # and a few µs of what is kept
        if bench.firmware.readings:
            slack_us += (board.analogue.convert_us if board.analogue else 0) + 12 * board.cost_us.read + 100
        courses = {code(part.pin): as_written(bench, run, part) for part in bench.channels}
        for servo in bench.servos:
            if (Kind.ANGLE, servo.id) in run.trace:
                angles = run.trace.signal(Kind.ANGLE, servo.id)
                courses[code(servo.pin)] = [
                    (at, 30_000 + v) for at, v in zip(angles.times_us, angles.values, strict=True)
                ]
        boots = [at for one in run.trace.signals if one.kind is Kind.RESET for at in one.times_us]
        for number, kind in ((-1, Kind.BARK), (-2, Kind.RESET)):
            courses[number] = [(at, 1) for one in run.trace.signals if one.kind is kind for at in one.times_us]
        for number, engine in courses.items():
            rows = written.get(number, []) if number < 0 else merged(written[number])
            double = [(at, level) for at, level in rows if at < scenario.length_us]
            longer = max(engine, double, key=len)
            while len(engine) != len(double) and longer[-1][0] > scenario.length_us - slack_us:
                longer.pop()  # what the other does just after the end
            self.assertEqual([level for _, level in engine], [level for _, level in double], number)
            for (wanted, _), (got, _) in zip(engine, double, strict=True):
                # Each boot may begin a little off where the one before it ended.
                self.assertLessEqual(abs(wanted - got), slack_us * (1 + bisect_left(boots, wanted)))


def plainly(bench: Bench) -> Bench:
    """The same, its program with plain functions."""
    return bench.model_copy(update={"style": bench.style.model_copy(update={"helpers": "functions"})})
