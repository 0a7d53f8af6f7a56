"""The layers between programs and boards: each has all that a program may ask, and does it."""

from __future__ import annotations

import re
import subprocess
import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

from tests.core import builder
from viva_tick.core.document import Bench, Style, bench_data, bench_from_data
from viva_tick.core.emit import TARGETS
from viva_tick.core.emit import hardware as names
from viva_tick.core.emit.c import LAYERS, c_files
from viva_tick.core.emit.compiling import compiled
from viva_tick.core.emit.cpp import sketch_files
from viva_tick.core.emit.python import COMPUTER, SMALL, python_files
from viva_tick.core.tree.wrapped import within
from viva_tick.demo import ORDER, demo_bench

STRICT = ["-std=c11", "-Wall", "-Wextra", "-Werror"]
PROTOTYPE = re.compile(r"^[\w* ]+?\b(hw_\w+)\(", re.MULTILINE)

EXERCISE = """
#include "hardware.h"
#include <stdio.h>
static volatile uint8_t came = 0;
static void handler(void) { ++came; }
static void say(const char *text) { for (; *text; ++text) hw_serial_write(*text); }
static void number(const char *name, uint32_t value) {
  char row[32];
  snprintf(row, sizeof row, "%s %lu\\r\\n", name, (unsigned long)value);
  say(row);
}
void setup(void) {
  hw_serial_begin(9600);
  number("cause", hw_cause());
  const uint32_t from = hw_millis(), from_us = hw_micros();
  hw_wait_ms(50);
  number("ms", hw_millis() - from);
  number("us", (hw_micros() - from_us + 500) / 1000);
  hw_write(9, HIGH);
  hw_pin_mode(9, OUTPUT);
  number("high", (uint32_t)hw_read(9));
  hw_write(9, LOW);
  number("low", (uint32_t)hw_read(9));
  hw_pin_mode(2, OUTPUT);
  hw_on_edge(2, handler, RISING);
  hw_write(2, HIGH);
  hw_write(2, LOW);
  hw_lock();
  hw_write(2, HIGH);
  const uint8_t locked = came;
  hw_unlock();
  hw_wait_us(100);
  number("edges", came);
  number("locked", locked);
  hw_store_put(7, 42);
  uint8_t got = 0;
  hw_store_get(7, &got, 1);
  number("store", got);
  number("room", (uint32_t)hw_serial_room());
  say("done\\r\\n");
}
void loop(void) { hw_wait_ms(1); }
"""


def written(bench: Bench, folder: Path) -> str:
    """The C program's files in a folder; the program's name."""
    for file in TARGETS["c"].emit(bench, ()).files:
        (folder / (file.name or "program.c")).write_text(file.text)
    return "program.c"


class Layers(unittest.TestCase):
    def run_in(self, folder: Path, *command: str) -> None:
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr[:3000])

    def test_each_has_what_the_header_says_and_the_header_what_is_asked(self) -> None:
        asked = {*PROTOTYPE.findall((LAYERS / "hardware.h").read_text())}
        calls = {one.in_c for one in names.FUNCTIONS if one.in_c.startswith("hw_")}
        calls |= {one.in_c for rows in names.METHODS.values() for one in rows}
        words = names.c_words(demo_bench("print-timer").the_board).model_dump_json()
        calls |= {*re.findall(r"hw_\w+", words)}
        self.assertLessEqual(calls, asked)
        for layer in LAYERS.glob("*.c"):
            self.assertLessEqual(asked, {*PROTOTYPE.findall(layer.read_text())}, layer.name)

    def test_an_empty_one_and_the_one_of_the_dip_board_build(self) -> None:
        for name in ("empty", "dip-8bit-5v"):
            self.run_in(LAYERS, "gcc", *STRICT, "-pedantic", "-c", f"{name}.c", "-o", "/dev/null")

    def test_no_line_of_any_program_is_over_100(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            plain = bench.model_copy(update={"style": Style(helpers="functions")})
            made = [("c", c_files(bench)), ("cpp", sketch_files(bench)), ("plain", sketch_files(plain))]
            made += [(layer.program, python_files(bench, (), layer)) for layer in (SMALL, COMPUTER)]
            for target, emitted in made:
                for file in emitted.files:
                    with self.subTest(name, target=target, file=file.name):
                        self.assertEqual([line for line in file.text.splitlines() if len(line) > 100], [])
        # Texts of the user's stay whole, whatever is in them.
        text = 'say("one  // two", "a rather long text, and (one more) that goes on for as long as it takes to pass  // a hundred");'
        self.assertEqual(re.sub(r"\n +", " ", within(text)), text)
        self.assertIn('"one  // two"', within(text))

    def test_to_fill_in_there_is_what_the_program_calls_and_no_more(self) -> None:
        declared = {*PROTOTYPE.findall((LAYERS / "hardware.h").read_text())}
        for name in ORDER:
            bench = demo_bench(name)
            board = bench.the_board.model_copy(update={"id": "bench-board"})
            made = TARGETS["c"].emit(bench.model_copy(update={"board": "bench-board", "own_board": board}), ())
            with self.subTest(name), tempfile.TemporaryDirectory() as folder:
                for file in made.files:
                    (Path(folder) / (file.name or "program.c")).write_text(file.text)
                texts = {file.name or "program": file.text for file in made.files}
                called = {*re.findall(r"hw_\w+", texts["program"] + texts["helpers.h"])} & declared
                self.assertEqual({*PROTOTYPE.findall(texts["hardware.h"])}, called)
                self.assertEqual({*PROTOTYPE.findall(texts["layer.c"])}, called)
                self.assertIn(f"its {len(called)} functions", " ".join(made.notes))
                for source in ("program.c", "layer.c"):
                    self.run_in(Path(folder), "gcc", *STRICT, "-pedantic", "-c", source)

    def test_the_demos_build_for_the_20_pin_board_and_by_their_project_files(self) -> None:
        part = builder.device("mid-8bit-5v")
        for name in ORDER:
            with self.subTest(name), tempfile.TemporaryDirectory() as made:
                folder = Path(made)
                written(demo_bench(name), folder)
                flags = [f"-mmcu={part}", "-DF_CPU=16000000UL", *STRICT, "-Os"]
                self.run_in(folder, "avr-gcc", *flags, "program.c", "layer.c", "-o", "program.elf")
        with tempfile.TemporaryDirectory() as made:
            folder = Path(made)
            written(demo_bench("quiz-table"), folder)
            (folder / "program.c").rename(folder / "quiz-table.c")
            self.run_in(folder, "make", "-s", "CC=avr-gcc", f"PART=-mmcu={part}")
            self.assertTrue((folder / "quiz-table.elf").exists())

    def test_the_20_pin_boards_layer_does_what_it_says_on_the_simulated_part(self) -> None:
        part = builder.device("mid-8bit-5v")
        with tempfile.TemporaryDirectory() as made:
            folder = Path(made)
            written(demo_bench("quiz-table"), folder)
            (folder / "program.c").write_text(EXERCISE)
            flags = [f"-mmcu={part}", "-DF_CPU=16000000UL", "-std=c11", "-w", "-Os"]
            self.run_in(folder, "avr-gcc", *flags, "program.c", "layer.c", "-o", "program.elf")
            run = ["timeout", "-s", "INT", "20", "simavr", "-m", part, "-f", "16000000", "program.elf"]
            with subprocess.Popen(
                run, cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
            ) as going:
                said: dict[str, str] = {}
                assert going.stdout is not None
                for line in going.stdout:
                    row = re.sub(r"\x1b\[[\d;]*m|\.+$", "", line.strip()).split()
                    if len(row) == 2 and row[1].isdigit():
                        said[row[0]] = row[1]
                    if row[:1] == ["done"]:
                        going.terminate()
                        break
        wanted = {"ms": "50", "us": "50", "high": "1", "low": "0", "edges": "2", "locked": "1", "store": "42"}
        self.assertEqual({name: said.get(name) for name in wanted}, wanted, said)

    def test_build_says_how_much_of_the_board_a_program_fills(self) -> None:
        part = builder.device("mid-8bit-5v")
        for name in ("quiz-table", "club-evening"):
            found = compiled(demo_bench(name))
            self.assertEqual((found.said, found.failed, found.flash_most, found.ram_most), ("", False, 32_768, 2_048))
            # The same by the tool that lists sections, for the whole part.
            with tempfile.TemporaryDirectory() as made:
                folder = Path(made)
                written(demo_bench(name), folder)
                self.run_in(
                    folder,
                    "avr-gcc",
                    f"-mmcu={part}",
                    "-DF_CPU=16000000UL",
                    "-std=c11",
                    "-Os",
                    "program.c",
                    "layer.c",
                    "-o",
                    "p",
                )
                rows = subprocess.run(["avr-size", "-A", "p"], cwd=folder, capture_output=True, text=True, check=True)
            sizes = {row.split()[0]: int(row.split()[1]) for row in rows.stdout.splitlines() if row.startswith(".")}
            self.assertEqual(found.flash, sizes[".text"] + sizes[".data"])
            self.assertEqual(found.ram, sizes[".data"] + sizes[".bss"] + sizes.get(".noinit", 0))
        with patch("shutil.which", return_value=None):
            self.assertIn("gcc-avr and avr-libc bring it", compiled(demo_bench("quiz-table")).why)

    def test_the_same_program_in_other_styles(self) -> None:
        bench = demo_bench("quiz-table")
        plain = TARGETS["cpp"].emit(bench, ())
        other = bench.model_copy(update={"style": Style(indent="tabs", constants="define")})
        made = TARGETS["cpp"].emit(other, ())
        self.assertRegex(made.text, r"#define CY_BUTTON_WAIT_MS 60UL")
        self.assertNotRegex(made.text, r"(?m)^ +\S|^const uint")
        spaces = re.sub(r"(?m)^\t+", lambda tabs: "  " * len(tabs[0]), made.text)
        back = re.sub(r"(?m)^#define (\w+_PIN) (\w+)", r"const uint8_t \1 = \2;", spaces)
        back = re.sub(r"(?m)^#define (\w+) (\w+)", r"const uint32_t \1 = \2;", back)
        self.assertEqual(back.splitlines()[4:], plain.text.splitlines()[4:])
        with tempfile.TemporaryDirectory() as folder:
            builder.build(made, bench.board, Path(folder))

    def test_the_dip_boards_layer_writes_the_registers_that_it_should(self) -> None:
        text = """
#include <stdint.h>
#include <stdio.h>
static uint8_t registers[512];
#define REGISTER(address) (registers[address])
#define HW_NO_MAIN
#include "layer.c"
void setup(void) {}
void loop(void) {}
int main(void) {
  registers[ANALOGUE_PINS] = 0x7F;
  hw_begin();
  printf("%d %d ", registers[ANALOGUE_PINS], registers[OPTIONS] >> 7);
  hw_pin_mode(B1, INPUT_PULLUP);
  printf("%d %d ", registers[OPTIONS] >> 7, registers[INPUTS_B] & 2);
  hw_write(B2, HIGH);
  hw_pin_mode(B2, OUTPUT);
  printf("%d %d ", registers[LEVELS_B], registers[INPUTS_B] & 4);
  hw_write(A3, HIGH);
  hw_write(A3, LOW);
  printf("%d ", registers[LEVELS_A]);
  for (int n = 0; n < 5; ++n) {
    registers[INTERRUPTS] |= TIMER_OVER;
    hw_interrupted();
  }
  printf("%d %d", (int)hw_millis(), registers[INTERRUPTS] & TIMER_OVER);
}
"""
        data = bench_data(demo_bench("bicycle-lamp"))
        data["board"] = "dip-8bit-5v"
        for part, pin in zip((*data["inputs"], *data["outputs"]), ("B1", "B2", "A3"), strict=False):
            part["pin"] = pin
        with tempfile.TemporaryDirectory() as made:
            folder = Path(made)
            written(bench_from_data(data), folder)
            self.run_in(folder, "gcc", *STRICT, "-pedantic", "-c", "program.c", "-o", "program.o")
            (folder / "probe.c").write_text(text)
            self.run_in(folder, "gcc", "-std=c11", "-w", "probe.c", "-o", "probe")
            said = subprocess.run([folder / "probe"], capture_output=True, text=True, check=True).stdout
        # Analogue off; pull-ups off, then on with the first that is asked for (its bit is low); B1 an input; B2 high
        # before it is an output; A3 low again; five milliseconds, their flag cleared.
        self.assertEqual(said, "0 1 0 2 4 0 0 5 0")
