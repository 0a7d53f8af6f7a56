"""Programs that somebody brought: planted mistakes are found, in clean ones none; what is read is what other parsers
read; mends mend; benches drafted from them do as they do."""

from __future__ import annotations

import ast
import io
import re
import subprocess
import unittest
import zipfile
from collections import Counter
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from pycparser import CParser, c_ast

from tests.core.brought_cases import ALSO, BEFORE, CLEAN, PLANTED, program
from tests.depth import DEPTH
from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.document.parts import Button, ModelledContact
from viva_tick.core.emit import targets_of
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.given import (
    CHECKS,
    Draft,
    Edit,
    Unreadable,
    draft,
    language_of,
    mended,
    mended_all,
    mended_lines,
    read_program,
    read_zip,
    reading_lines,
    sections,
    wrongs,
)
from viva_tick.demo import ORDER, demo_bench

NAMES = ("bool", "size_t", *(f"{sign}int{bits}_t" for sign in ("", "u") for bits in (8, 16, 32, 64)))
TYPES = " ".join(f"typedef int {name};" for name in NAMES) + "\n"


def planted(code: str, name: str, old: str, new: str) -> str:
    text = program(name)
    first = BEFORE.get(code)
    if first and first[0] in text:
        text = text.replace(*first, 1)
    assert old in text, (code, old)
    return text.replace(old, new, 1)


class Corpus(unittest.TestCase):
    def test_nothing_is_found_in_clean_programs(self) -> None:
        for name in CLEAN:
            facts = read_program(program(name), name)
            with self.subTest(name):
                self.assertEqual(facts.source.broken, [])
                self.assertEqual([(one.code, one.line) for one in wrongs(facts)], [])

    def test_each_planted_mistake_is_found_alone_and_its_mend_mends(self) -> None:
        found = Counter()
        for code, name, old, new in PLANTED:
            text = planted(code, name, old, new)
            facts = read_program(text, name)
            all_of_it = wrongs(facts)
            codes = {one.code for one in all_of_it}
            with self.subTest(code, name=name):
                self.assertIn(code, codes)
                self.assertEqual(codes - {code} - ALSO.get(code, set()), set())
                mine = next(one for one in all_of_it if one.code == code)
                self.assertLessEqual(1, mine.line)
                self.assertGreater(len(mine.why), 40)
                self.assertTrue(mine.edits or mine.instead or CHECKS[code].rule)
                if mine.edits:
                    again = read_program(mended(facts.source.text, mine.edits), name)
                    self.assertEqual(again.source.broken, [])
                    left = wrongs(again)
                    self.assertNotIn((code, mine.pin), {(one.code, one.pin) for one in left})
                    self.assertLessEqual({one.code for one in left}, codes)
                found[code] += 1
        self.assertEqual(set(CHECKS), set(found))
        self.assertGreaterEqual(len(CHECKS), 30)

    def test_what_this_program_writes_itself_is_clean(self) -> None:
        many = 0
        for name in ORDER:
            bench = demo_bench(name)
            for target in targets_of(bench):
                for file in target.emit(bench, []).files:
                    ending = file.name or f"bench{file.suffix}"
                    if ending.endswith((".ino", ".c", ".py")):
                        many += 1
                        codes = {one.code for one in wrongs(read_program(file.text, ending))}
                        # The rain barrel's float has a resistor of its own.
                        self.assertLessEqual(codes, {"no-pull"} if name == "rain-barrel" else set(), (name, ending))
        self.assertGreater(many, 12)


class AsOthersReadIt(unittest.TestCase):
    """Calls by name and line, branches and loops by line, as other parsers see them."""

    def shape(self, text: str, name: str) -> tuple[Counter[Any], Counter[Any]]:
        facts = read_program(text, name)
        calls = Counter((one.name, one.line) for one in facts.everything if one.kind == "call" and one.name != "cast")
        marks = Counter(
            (one.kind, one.line) for one in facts.everything if one.kind in ("if", "while", "for", "switch")
        )
        return calls, marks

    def test_python(self) -> None:
        for name in (one for one in CLEAN if one.endswith(".py")):
            calls, marks = Counter(), Counter()
            for one in ast.walk(ast.parse(program(name))):
                if isinstance(one, ast.Call):
                    calls[
                        (one.func.attr if isinstance(one.func, ast.Attribute) else ast.unparse(one.func), one.lineno)
                    ] += 1
                if isinstance(one, ast.If | ast.While | ast.For):
                    marks[(type(one).__name__.lower(), one.lineno)] += 1
            marks = Counter({key: many for key, many in marks.items() if key[0] != "while"})  # the one that is the loop
            with self.subTest(name):
                mine = self.shape(program(name), name)
                self.assertEqual(mine[0], calls)
                self.assertEqual(mine[1], marks)

    def test_c(self) -> None:
        texts = [(program("clean_main.c"), "")]
        for name in ("quiz-table", "bicycle-lamp"):
            bench = demo_bench(name)
            files = next(one for one in targets_of(bench) if one.id == "c").emit(bench, []).files
            types = {
                one for file in files if file.name.endswith(".h") for one in re.findall(r"}\s*([A-Z]\w+);", file.text)
            }
            known = "".join(f"typedef int {one};" for one in types)
            texts += [(file.text, known) for file in files if file.suffix == ".c" and not file.name]
        self.assertEqual(len(texts), 3)
        for text, known in texts:
            plain = "\n".join("" if line.startswith("#include") else line for line in text.split("\n"))
            done = subprocess.run(
                ["gcc", "-E", "-x", "c", "-"], input=plain, capture_output=True, text=True, check=True
            )
            tree = CParser().parse(known + TYPES + done.stdout, "a.c")
            calls, marks = Counter(), Counter()

            class Walk(c_ast.NodeVisitor):
                def generic_visit(self, node: Any, calls: Any = calls, marks: Any = marks) -> None:
                    if isinstance(node, c_ast.FuncCall):
                        calls[(node.name.name, node.coord.line)] += 1
                    if isinstance(node, c_ast.If | c_ast.While | c_ast.For | c_ast.Switch):
                        marks[(type(node).__name__.lower(), node.coord.line)] += 1
                    super().generic_visit(node)

            Walk().visit(tree)
            mine = self.shape(text, "a.c")
            self.assertEqual(mine[0], calls)
            self.assertEqual(mine[1], marks)


class Drafted(unittest.TestCase):
    def draft(self, name: str) -> Draft:
        made = draft(read_program(program(name), name), name)
        self.assertEqual(bench_from_data(bench_data(made.bench)), made.bench)
        return made

    def outputs(self, bench: Bench, presses: list[tuple[str, int]], length_us: int, of: str) -> list[tuple[int, int]]:
        """When an output is on and off (tenths of a second) as contacts are pressed for 200 ms."""
        data = bench_data(bench)
        stimuli = [{"kind": "press", "input": ident, "at_us": at, "hold_us": 200_000} for ident, at in presses]
        data["scenarios"] = [{"name": "a", "length_us": length_us, "stimuli": stimuli}]
        made = bench_from_data(data)
        signal = SkippingEngine().run(made, made.scenarios[0]).trace.signal(Kind.OUTPUT, of)
        rows = [
            (at // 100_000, value)
            for at, value in zip(signal.times_us, signal.values, strict=True)
            if value is not None and value >= 0
        ]
        return rows[1:]

    def test_a_toggle(self) -> None:
        for name in ("clean_flat.cpp", "clean_flat.py"):
            made = self.draft(name)
            self.assertEqual(made.unknown, [])
            self.assertEqual(made.bench.debounce("button").interval_us, 25_000)
            presses = [("button", 1_000_000), ("button", 2_000_000), ("button", 3_000_000)]
            self.assertEqual(self.outputs(made.bench, presses, 4_000_000, "lamp"), [(10, 1), (20, 0), (30, 1)])

    def test_whatever_a_level_is_compared_with_the_lamp_is_on_where_the_program_has_it_on(self) -> None:
        tests = {
            "v == LOW": 0, "v == HIGH": 1, "v != LOW": 1, "v != HIGH": 0, "0 == v": 0, "digitalRead(14) == LOW": 0,
            "digitalRead(14) != HIGH": 0, "HIGH == digitalRead(14)": 1, "!v": 0, "v": 1,
            "w == LOW": 0, "w != HIGH": 0, "w == HIGH": 1,
        }  # fmt: skip
        for mode in ("INPUT", "INPUT_PULLUP", "INPUT_PULLDOWN"):
            for test, on_at in tests.items():
                text = (
                    f"void setup() {{ pinMode(14, {mode}); pinMode(9, OUTPUT); }}\nvoid loop() {{\n"
                    "  int v = digitalRead(14);\n  int w = v;\n"
                    f"  if ({test}) {{ digitalWrite(9, HIGH); }} else {{ digitalWrite(9, LOW); }}\n}}\n"
                )
                bench = draft(read_program(text, "a.cpp"), "a").bench
                (part,) = bench.inputs
                self.assertIsInstance(part, Button)
                assert isinstance(part, Button)
                on = ("two-core-32bit-3v3", "P14") if mode == "INPUT_PULLDOWN" else ("mid-8bit-5v", "A0")
                self.assertEqual((bench.board, part.pin), on)
                # Without a pull on the board the pin is pressed at the level that is asked for.
                pressed = {"INPUT_PULLUP": 0}.get(mode, on_at)
                with self.subTest(mode=mode, test=test):
                    self.assertEqual(part.active_level, ("low", "high")[pressed])
                    if part.wiring.pull == "none" or (mode == "INPUT_PULLDOWN" and not on_at):
                        continue  # it floats, or nothing is low that a pull-down does not make low
                    clean = part.model_copy(update={"contact": ModelledContact(switch="logic-signal")})
                    bench = bench.model_copy(update={"inputs": (clean,)})
                    rows = self.outputs(bench, [(part.id, 1_000_000)], 2_000_000, bench.outputs[0].id)
                    self.assertEqual(rows, [(10, 1), (12, 0)] if pressed == on_at else [(0, 1), (10, 0), (12, 1)])

    def test_it_begins_as_the_program_does_after_a_pass_in_which_nobody_touches_anything(self) -> None:
        level = "  int v = digitalRead(4);\n"
        edge = level + "  static int last = HIGH;\n  if (v != last) { last = v; if (v == %s) %s }\n"
        for setup, loop, on in (
            ("", level + "  if (v == HIGH) digitalWrite(9, HIGH); else digitalWrite(9, LOW);\n", True),
            ("", level + "  if (v == LOW) digitalWrite(9, HIGH); else digitalWrite(9, LOW);\n", False),
            ("digitalWrite(9, HIGH); ", level + "  if (v == LOW) digitalWrite(9, LOW);\n", True),
            ("digitalWrite(9, HIGH); ", level + "  if (v == HIGH) digitalWrite(9, LOW);\n", False),
            ("digitalWrite(9, LOW); ", level + "  if (v == HIGH && count > 3) digitalWrite(9, HIGH);\n", False),
            ("digitalWrite(9, 1); ", edge % ("LOW", "digitalWrite(9, !digitalRead(9));"), True),
            ("", edge % ("LOW", "digitalWrite(9, HIGH);"), False),
            ("", edge % ("HIGH", "digitalWrite(9, HIGH);"), False),
            ("", level + "  if (v == LOW) lit = false; else lit = true;\n  digitalWrite(9, lit);\n", True),
            ("", edge % ("LOW", "lit = !lit;") + "  digitalWrite(9, lit);\n", False),
            ("", edge % ("LOW", "full = !full;") + "  digitalWrite(9, full ? HIGH : LOW);\n", True),
            ("", edge % ("LOW", "other = !other;") + "  digitalWrite(9, other ? HIGH : LOW);\n", False),
        ):
            text = (
                "int count = 0;\nbool lit = false;\nbool full = true;\nbool other = ELSEWHERE;\n"
                f"void setup() {{ pinMode(4, INPUT_PULLUP); pinMode(9, OUTPUT); {setup}}}\nvoid loop() {{\n{loop}}}\n"
            )
            with self.subTest(setup + loop):
                (machine,) = draft(read_program(text, "a.cpp"), "a").bench.firmware.machines
                self.assertEqual({True: "on", False: "off"}[on], machine.initial)

    def test_states_of_a_switch_with_times(self) -> None:
        made = self.draft("clean_parted.cpp")
        machine = made.bench.firmware.machines[0]
        self.assertEqual([one.id for one in machine.states], ["idle", "running", "done"])
        self.assertEqual([made.bench.debounce(one).interval_us for one in ("start", "stop")], [20_000, 20_000])
        presses = [("start", 1_000_000), ("stop", 5_000_000), ("start", 6_000_000), ("start", 7_000_000)]
        self.assertEqual(self.outputs(made.bench, presses, 120_000_000, "valve"), [(10, 1), (50, 0), (70, 1), (970, 0)])
        said = [program("clean_parted.cpp").split("\n")[line - 1].strip() for line in made.unknown]
        self.assertIn("pulses++;", said)
        self.assertNotIn("switch (mode) {", said)

    def test_a_state_that_nobody_begins_is_the_first_that_it_is_given(self) -> None:
        text = (
            "enum Mode { IDLE, RUN };\nMode mode;\nvoid setup() { pinMode(4, INPUT_PULLUP); pinMode(9, OUTPUT); }\n"
            "void loop() {\n  switch (mode) {\n    case RUN:\n      digitalWrite(9, HIGH);\n"
            "      if (digitalRead(4) == HIGH) mode = IDLE;\n      break;\n    case IDLE:\n      digitalWrite(9, LOW);\n"
            "      if (digitalRead(4) == LOW) mode = RUN;\n      break;\n  }\n}\n"
        )
        (machine,) = draft(read_program(text, "a.cpp"), "a").bench.firmware.machines
        self.assertEqual(machine.initial, "idle")

    def test_a_flag_with_a_time(self) -> None:
        made = self.draft("clean_main.c")
        self.assertEqual(self.outputs(made.bench, [("key", 1_000_000)], 5_000_000, "fan"), [(10, 1), (30, 0)])
        made = self.draft("clean_parted.py")
        self.assertEqual(made.bench.board, "two-core-32bit-3v3")
        self.assertIn("Start is not cleaned in the program, so that it is not on the bench.", made.notes)
        self.assertIn(
            "if value > HIGH:", [program("clean_parted.py").split("\n")[line - 1].strip() for line in made.unknown]
        )

    def test_parts_without_a_machine_and_lines_that_are_not_understood(self) -> None:
        made = self.draft("clean_sensed.cpp")
        self.assertEqual([one.kind for one in made.bench.inputs], ["encoder", "potentiometer"])
        self.assertEqual([getattr(one, "pin", "") for one in made.bench.outputs], ["D3", "D5", "D10"])
        lines = program("clean_sensed.cpp").split("\n")
        self.assertIn("level = constrain(atoi(line), 0, 255);", [lines[one - 1].strip() for one in made.unknown])
        titles = {one.title for one in sections(read_program(program("clean_sensed.cpp"), "a.cpp"), made)}
        self.assertLessEqual({"Pins", "Watchdog, serial line, handlers"}, titles)


class WhateverComes(unittest.TestCase):
    def test_languages(self) -> None:
        for name in CLEAN:
            self.assertEqual(language_of(program(name)), "python" if name.endswith(".py") else "cpp", name)

    @settings(max_examples=80 * DEPTH, deadline=None)
    @given(st.sampled_from(CLEAN), st.data())
    def test_programs_cut_up_and_mixed_are_read_or_refused(self, name: str, data: st.DataObject) -> None:
        text = program(name)
        for _ in range(data.draw(st.integers(1, 6))):
            at, to = sorted(data.draw(st.tuples(st.integers(0, len(text)), st.integers(0, len(text)))))
            piece = data.draw(
                st.sampled_from(["", "{", "}", "(", "if (", "\n", "'", '"', "\x00", "=", ";", "é", "while True:\n"])
            )
            text = text[:at] + piece + (text[to:] if to - at < 60 else text[at:])
        try:
            facts = read_program(text, name)
        except Unreadable as error:
            self.assertTrue(str(error).endswith("."))
            return
        for one in wrongs(facts):
            self.assertLessEqual(one.line, len(facts.source.lines))
            mended(facts.source.text, one.edits)
        made = draft(facts, "x")
        self.assertEqual(bench_from_data(bench_data(made.bench)), made.bench)
        sections(facts, made)

    def test_numbers(self) -> None:
        both = {"0x1F": 31, "0b101": 5, "-3": -3, "7.0 / 2": 3.5, "4 * 5": 20, "2.5": 2.5, "1e3": 1_000}
        cpp = {"010": 8, "1'000": 1_000, "20UL": 20, "2.5f": 2.5, "7 / 2": 3}
        python = {"0o10": 8, "1_000": 1_000, "7 // 2": 3}
        for name, text, wanted in (
            ("a.cpp", "const float X = %s;\nvoid setup() { }\nvoid loop() { delay(X); }\n", both | cpp),
            ("a.py", "import time\nX = %s\nwhile True:\n    time.sleep_ms(X)\n", both | python),
        ):
            for said, value in wanted.items():
                with self.subTest(name=name, said=said):
                    source = read_program(text % said, name).source
                    self.assertEqual(source.number(source.constants["X"]), value)

    def test_numbers_that_are_none(self) -> None:
        for said in (
            "1l",
            "0778",
            "1e999",
            "9" * 400,
            "9" * 5_000,
            "1e300 * 1e300",
            "0x" + "f" * 400,
            "1e308 / 1e-308",
        ):
            for name, text in (
                (
                    "a.py",
                    "from machine import Pin\nled = Pin(2, Pin.OUT)\nwait = %s\nwhile True:\n    led.value(wait)\n",
                ),
                (
                    "a.cpp",
                    "const long wait = %s;\nvoid setup() {}\nvoid loop() { digitalWrite(wait, HIGH); delay(%s); }\n",
                ),
            ):
                with self.subTest(name=name, said=said[:20]):
                    facts = read_program(text.replace("%s", said), name)
                    self.assertLess(facts.held(facts.source.loop).us, 1e30)
                    wrongs(facts)
                    draft(facts, "x")

    def test_what_is_no_program(self) -> None:
        for text, said in (
            ("", "nothing in it"),
            ("Dear all,\nthe meeting is on Friday.\n", "Nothing of it is a program"),
            ("x" * 500_000, "are read at most"),
        ):
            with self.subTest(said), self.assertRaisesRegex(Unreadable, said):
                read_program(text)
        deep = "void loop() {" + "if (a) {" * 3000 + "}" * 3000 + "}"
        with self.assertRaisesRegex(Unreadable, "nested"):
            read_program(deep)

    def test_the_lines_for_a_wait_are_in_the_counters_milliseconds(self) -> None:
        for text, wait in (
            ("void setup() {}\nvoid loop() { digitalRead(3); delay(300); }\n", "300"),
            ("void setup() {}\nvoid loop() { digitalRead(3); delayMicroseconds(60000); }\n", "60"),
            (
                "from machine import Pin\nimport time\nb = Pin(3, Pin.IN)\nwhile True:\n    b.value()\n    time.sleep(0.3)\n",
                "300",
            ),
            (
                "from machine import Pin\nimport time\nb = Pin(3, Pin.IN)\nwhile True:\n    b.value()\n    time.sleep_ms(45)\n",
                "45",
            ),
        ):
            found = [one for one in wrongs(read_program(text)) if one.code == "loop-waits"]
            self.assertIn(f">= {wait}", " ".join(found[0].instead), text)

    def test_lines_are_shown_from_where_they_begin(self) -> None:
        self.assertEqual(mended_lines("\nab\ncd\n", (Edit(1, 3, "x"),)), (["ab"], ["x"]))
        self.assertEqual(mended_lines("ab\ncd", (Edit(4, 5, "x"),)), (["cd"], ["cx"]))
        self.assertEqual(mended_lines("a\nb\nc", (Edit(0, 3, "a\nx"),)), (["b"], ["x"]))

    def test_what_is_in_it_is_told_with_its_lines(self) -> None:
        facts = read_program(program("clean_flat.cpp"), "a.cpp")
        told = {one.title: one for one in sections(facts, draft(facts, "a"))}
        times = next(one for title, one in told.items() if "ime" in title and one.rows)
        self.assertIn("25 ms", " ".join(row.how for row in times.rows if hasattr(row, "how")) or str(times.rows))

    def test_a_mend_keeps_the_line_as_it_is_set_in(self) -> None:
        text = (
            "  int hits = 0;\nvoid hit() { hits++; }\nvoid setup() { pinMode(2, INPUT_PULLUP);\n"
            "  attachInterrupt(digitalPinToInterrupt(2), hit, FALLING); }\nvoid loop() { if (hits > 3) hits = 0; }\n"
        )
        found = [one for one in wrongs(read_program(text, "a.cpp")) if one.code == "not-volatile"]
        self.assertIn("\n  volatile int hits = 0;\n", "\n" + mended(text, found[0].edits))

    def test_conditions_within_conditions(self) -> None:
        one = "  if (digitalRead({pin}) == LOW) {{\n    if (millis() - last > 50) {{\n      last = millis();\n      n++;\n    }}\n  }}\n"
        text = (
            "unsigned long last = 0;\nint n = 0;\nvoid setup() { pinMode(4, INPUT_PULLUP); pinMode(5, INPUT_PULLUP); }\n"
            "void loop() {\n" + one.format(pin=4) + one.format(pin=5) + "}\n"
        )
        self.assertIn("shared-last", {each.code for each in wrongs(read_program(text, "a.cpp"))})

    def test_pins_by_other_names_and_what_is_dimmed(self) -> None:
        text = "int sensor = A0;\nvoid setup() {}\nvoid loop() { if (analogRead(sensor) > 500) digitalWrite(9, HIGH); else digitalWrite(9, LOW); }\n"
        made = draft(read_program(text, "a.cpp"), "a").bench
        self.assertEqual([getattr(one, "pin", "") for one in made.inputs], ["A0"])
        text = "from machine import Pin, PWM\nlamp = PWM(Pin(15))\nwhile True:\n    lamp.duty_u16(30000)\n"
        uses = [(one.pin, one.what, one.node.name) for one in read_program(text, "a.py").uses]
        self.assertIn(("15", "dim", "duty_u16"), uses)

    def test_all_mends_at_once(self) -> None:
        text = program("clean_flat.cpp").replace("unsigned long changed = 0;", "int changed = 0;")
        text = text.replace("pinMode(BUTTON, INPUT_PULLUP)", "pinMode(BUTTON, INPUT)")
        found = wrongs(read_program(text, "a.cpp"))
        self.assertGreater(len([one for one in found if one.edits]), 1)
        self.assertEqual(wrongs(read_program(mended_all(text, found), "a.cpp")), [])

    def test_a_mend_calls_what_the_program_calls(self) -> None:
        for before, call in (
            ("import machine\nimport time\nb = machine.Pin(3, machine.Pin.IN)\nbegan = time.ticks_ms()\nwhile True:\n"
             "    b.value()\n    if time.ticks_ms() - began >= 50:\n        began = time.ticks_ms()\n", "time.ticks_diff("),
            ("from machine import Pin\nfrom time import ticks_ms, ticks_diff\nb = Pin(3, Pin.IN)\nbegan = ticks_ms()\n"
             "while True:\n    b.value()\n    if ticks_ms() - began >= 50:\n        began = ticks_ms()\n", " ticks_diff("),
        ):  # fmt: skip
            (found,) = [one for one in wrongs(read_program(before, "a.py")) if one.code == "plain-difference"]
            self.assertIn(call, mended(before, found.edits))

    def test_a_list_that_is_gone_through_to_its_end_is_not_left(self) -> None:
        for many, codes in ((3, []), (4, ["index-beyond"])):
            text = (
                "int a[4];\nint total = 0;\nvoid setup() { pinMode(3, INPUT_PULLUP); }\nvoid loop() {\n"
                f"  for (int n = 1; n <= {many}; n++) total += a[n];\n  digitalRead(3);\n}}\n"
            )
            self.assertEqual([one.code for one in wrongs(read_program(text, "a.cpp")) if "beyond" in one.code], codes)

    def test_zips(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr(
                "a/a.ino", '#include "step.h"\n#include "odd.h"\nvoid loop() { step(); }\nvoid setup() {}\n'
            )
            archive.writestr("a/step.h", "void step() { delay(5); }\n")
            archive.writestr("a/notes.txt", "no")
        text, name = read_zip(out.getvalue())
        self.assertLess(text.index("step.h"), text.index("a.ino"))
        self.assertEqual(read_program(text, name).held(read_program(text, name).source.loop).us, 5000)
        facts = read_program(text, name)
        said = "\n".join(reading_lines(facts, wrongs(facts), draft(facts, "a")))
        self.assertIn("a/step.h from line 1, a/a.ino from line 4", said)
        self.assertIn("odd.h: a library that is not known", said)
        self.assertNotIn("step.h: a library", said)
        for raw in (b"", b"PK\x03\x04 nothing", out.getvalue()[:60]):
            with self.assertRaises(Unreadable):
                read_zip(raw)


if __name__ == "__main__":
    unittest.main()
