"""The notation, as its own compiler runs it, against what the writers make of it: functions of every statement, and
expressions at random, in C and in Python."""

from __future__ import annotations

import subprocess
import tempfile
import unittest
from pathlib import Path
from random import Random

from tests.depth import DEPTH
from viva_tick.core.tree.c import CWriter
from viva_tick.core.tree.nodes import Module
from viva_tick.core.tree.python import PythonWriter
from viva_tick.core.tree.reading import read

STATEMENTS = """
int whiles(int n) {
  int k = 0;
  while (k * k < n) {
    k += 1;
  }
  return k;
}

int fors(int n) {
  int sum = 0;
  for (int k = 0; k < n; k++) {
    if (k % 3 == 1) {
      continue;
    }
    if (k > 12) {
      break;
    }
    sum += k;
  }
  for (int k = n; k > 1; k -= 2) {
    sum += 1;
  }
  return sum;
}

int switches(int n) {
  int found = 0;
  switch (n % 5) {
    case 0:
      found = 7;
      break;
    case 1:
    case 2:
      found = n;
      break;
    default:
      found = 1;
      break;
  }
  return found;
}

int ifs(int n) {
  if (n < 3) {
    return 1;
  } else if (n < 9 && n != 5) {
    return n > 6 ? 2 : 3;
  } else {
    int more = n;
    more *= 2;
    return more;
  }
}

int rows[4] = {3, 1, 4, 1};

int indices(int n) {
  int sum = 0;
  for (int k = 0; k < 4; k++) {
    rows[k] += n;
    sum += rows[k] * (k + 1);
  }
  return sum;
}
"""
RISING, COMPARES, BOTH = ("+", "*", "|", "&", "^", "<<"), ("<", "<=", ">", ">=", "==", "!="), ("&&", "||")
MANY, MOST_N = 60 * DEPTH, 23


def number(rng: Random, deep: int) -> str:
    """A number of zero or more."""
    if deep == 0 or rng.random() < 0.15:
        return rng.choice(["n", str(rng.randint(0, 9))])
    one, other = number(rng, deep - 1), number(rng, deep - 1)
    sign = rng.choice(RISING)
    kind = rng.random()
    if kind < 0.2:
        return f"({whether(rng, deep - 1)} ? {one} : {other})"
    if kind < 0.3 or sign == "<<":
        return f"(({one}) % {rng.randint(2, 9)}{' << ' + str(rng.randint(0, 3)) if sign == '<<' else ''})"
    return f"({one} {sign} {other})"


def whether(rng: Random, deep: int) -> str:
    """A condition."""
    if deep <= 0 or rng.random() < 0.4:
        return f"({number(rng, max(deep - 1, 0))} {rng.choice(COMPARES)} {number(rng, max(deep - 1, 0))})"
    if rng.random() < 0.2:
        return f"(!{whether(rng, deep - 1)})"
    return f"({whether(rng, deep - 1)} {rng.choice(BOTH)} {whether(rng, deep - 1)})"


class AsItsCompilerRunsIt(unittest.TestCase):
    def compiled(self, text: str, names: list[str], compiler: str, suffix: str) -> list[int]:
        calls = "\n".join(f'  for (int n = 0; n < {MOST_N}; n++) printf("%d\\n", (int)({one}(n)));' for one in names)
        with tempfile.TemporaryDirectory() as folder:
            source = Path(folder) / f"a{suffix}"
            source.write_text(
                f"#include <stdio.h>\n#include <stdint.h>\n#include <stdbool.h>\n{text}\nint main() {{\n{calls}\n}}\n"
            )
            made = subprocess.run(
                [compiler, "-w", "-o", f"{folder}/a", str(source)], capture_output=True, text=True, check=False
            )
            self.assertEqual(made.returncode, 0, made.stderr[:2_000])
            return [
                int(one)
                for one in subprocess.run([f"{folder}/a"], capture_output=True, text=True, check=True).stdout.split()
            ]

    def test_in_c_and_in_python(self) -> None:
        rng = Random(5)
        made = "".join(f"\nint f{n}(int n) {{ return {number(rng, 4)}; }}\n" for n in range(MANY))
        text = STATEMENTS + made
        names = ["whiles", "fors", "switches", "ifs", "indices", *(f"f{n}" for n in range(MANY))]
        wanted = self.compiled(text, names, "g++", ".cpp")
        module = Module(tuple(read(text).parts))
        self.assertEqual(
            self.compiled(CWriter(module, {}, {}, {}, {}, {}).program(module.parts, ()), names, "gcc", ".c"), wanted
        )
        there: dict[str, object] = {}
        python = PythonWriter(module, {}, {}, {}, {}).text()
        exec(compile(python, "made", "exec"), there)
        found = [int(there[one](n)) for one in names for n in range(MOST_N)]  # type: ignore[operator]
        self.assertEqual(found, wanted)

    def test_notes_behind_what_does_nothing_stay(self) -> None:
        for text, there in (
            ("void f() {\n  {\n  }  // why\n}\n", True), ("void f() {\n  {  // why\n  }\n}\n", True),
            ("void f() {\n  // why\n  {\n  }\n}\n", True), ("void f() {\n  {\n  }\n}\n", False),
        ):  # fmt: skip
            module = Module(tuple(read(text).parts))
            self.assertEqual("why" in CWriter(module, {}, {}, {}, {}, {}).program(module.parts, ()), there, text)


if __name__ == "__main__":
    unittest.main()
