"""Every piece of C++ compiles by itself, as it stands in its file, with all that it can have and with each alone."""

from __future__ import annotations

import subprocess
import tempfile
import unittest
from itertools import chain
from pathlib import Path

from tests.core.on_host import FLAGS, double
from viva_tick.core import drives
from viva_tick.core.drives import DRIVES
from viva_tick.core.emit.assembled import assembled, in_one_loop
from viva_tick.core.emit.drives import FORMS
from viva_tick.core.emit.hardware import THINGS
from viva_tick.core.pieces import resolved
from viva_tick.core.tree.reading import read, read_pieces
from viva_tick.core.tree.simpler import simpler
from viva_tick.demo import ORDER, demo_bench

CORE = Path(__file__).parents[2] / "viva_tick" / "core"
LAYERS = CORE / "emit" / "layers"
DRIVE_PIECES = Path(str(drives.__file__)).parent
HEADS = {  # what must stand before a piece: types of the program around it
    "output": "enum DriveKind : uint8_t { STEADY, BLINK, BEAT, PULSE, RAMP, SEQUENCE, RATE, FOLLOW };\n",
    "showing": '#include "Wire.h"\n#define USE_TYPES 1\n#define USE_SAYING 1\n#define USE_SAY 1\n#define USE_NUMBERS 1\n'
    "#define USE_BARS 1\n#define USE_DISPLAYS 1\n#define TEXT_MOST 80\n#define TEXT_COLUMNS 16\n#define HALVES 1\n"
    "#define COMMANDS 1\n#define POWER_ON_MS 1\n#define WIDTH_MS 1\n#define CLEAR_MS 1\n",
    "turning": '#include "Servo.h"\n',
    "dice": "#define AT_TYPES 1\n#define AT_VALUES 1\n#define AT_FUNCTIONS 1\n",
}
WHOLE = ("TABLES", "NOTES", "LEVELS", "WAITS", "AGAIN", "GUARDS", "ENDS", "RAMP_ON")


def defines(names: list[str]) -> str:
    """The same names for the compiler."""
    return "".join(f"#define {name} 1\n" for name in names)


class Pieces(unittest.TestCase):
    def compile(self, piece: Path, wanted: list[str]) -> None:
        edge = '#include "edge.h"\n' if piece.stem != "edge" else ""
        text = f'#include "board.h"\n{edge}{defines(wanted)}{HEADS.get(piece.stem, "")}#include "{piece}"\n'
        with tempfile.TemporaryDirectory() as folder:
            source = Path(folder) / "alone.cpp"
            source.write_text(text)
            folders = [f"-I{one}" for one in (double(), CORE / "emit", DRIVE_PIECES)]
            flags = [*FLAGS, "-Wno-undef", "-fsyntax-only", *folders]
            done = subprocess.run(["g++", *flags, str(source)], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, f"{piece.name} with {wanted}\n{done.stderr}")

    def test_each_alone_with_all_that_it_can_have(self) -> None:
        found = [path for path in CORE.rglob("*.h") if path.parent not in (DRIVE_PIECES, LAYERS)]
        self.assertGreater(len(found), 20)
        for path in found:
            for wanted in ([], ["USE_PRESS"], ["USE_RELEASE"]) if path.stem == "look_again" else ([],):
                if path.stem != "output":
                    with self.subTest(path.stem, wanted=wanted):
                        self.compile(path, wanted)

    def test_an_output_with_each_drive_alone_and_with_all(self) -> None:
        self.assertEqual({path.stem for path in DRIVE_PIECES.glob("*.h")}, {*FORMS, "drives"})
        forms = [f"USE_{form.upper()}" for form in FORMS]
        held = [f"USE_HELD_{form.upper()}" for form in FORMS]
        whole = [f"USE_{name}" for name in WHOLE]
        tables = ["USE_TABLES"]
        cases = [[], whole, [*forms, *tables], [*forms, *held, *whole]]
        cases += [[form, *tables] for form in forms]
        cases += [[form, one, "USE_WAITS", *tables] for form, one in zip(forms, held, strict=True)]
        for wanted in cases:
            with self.subTest(wanted=wanted):
                self.compile(CORE / "emit" / "output.h", wanted)

    def test_every_form_that_a_drive_needs_has_its_piece(self) -> None:
        made = [
            drive.model_validate({"kind": drive.model_fields["kind"].default} | offer.value)
            for drive in DRIVES
            for offer in drive.offered
        ]
        self.assertEqual({one.form for one in made if one.form} | {"beat", "follow", "rate"}, set(FORMS))


class Read(unittest.TestCase):
    def test_one_by_one_or_all_at_once_they_say_the_same(self) -> None:
        texts = ["struct A {\n  int n = 0;\n};\n", "// of no text\n", "", "// above\n\nint one = 1;  // behind\n// under\n",
                 "\n\nA a;\nbool two() { return one == 1; }\n", "\nvoid three() {\n  if (two()) {\n    a.n = 2;\n  }\n}\n// last"]  # fmt: skip
        self.assertEqual(read_pieces(texts), simpler(read("\n".join(texts))).parts)
        for name in ORDER:
            bench = demo_bench(name)
            words = bench.the_board.program
            assert words is not None
            layout = assembled(bench, in_one_loop(bench), words).layout
            for texts in ([*layout.helpers, *layout.helping], [*layout.types, *layout.values, *layout.functions]):
                with self.subTest(name):
                    self.assertEqual(read_pieces(texts, THINGS), simpler(read("\n".join(texts), THINGS)).parts)


class Resolved(unittest.TestCase):
    def test_of_each_question_the_branch_that_holds(self) -> None:
        text = (
            "#ifndef KEPT\n#if USE_A\na\n#elif USE_B && !USE_C\nb\n#else\nnone\n#endif\n#endif\n"
            "#if USE_B || USE_C\none\n#endif\n"
        )
        for wanted, lines in (
            ("", "none"), ("USE_A", "a"), ("USE_B", "b one"), ("USE_B USE_C", "none one"), ("USE_A USE_B", "a one")
        ):  # fmt: skip
            found = resolved(text, wanted.split()).split()
            self.assertEqual(found, [*chain(["#ifndef", "KEPT"], lines.split()[:1], ["#endif"], lines.split()[1:])])


if __name__ == "__main__":
    unittest.main()
