"""What the usual builder of `setup()` / `loop()` boards does with a program, and the cross compiler that it calls.

It includes the board's calls and puts prototypes of all functions before the first of them.
"""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

from viva_tick.core.emit import Emitted
from viva_tick.core.emit.compiling import device

CALLS = Path(__file__).parent / "board_calls"
FLAGS = ["-std=gnu++11", "-Os", "-Wall", "-Wextra", "-Werror", "-ffunction-sections", "-fno-exceptions", "-c"]
__all__ = ["CALLS", "build", "device", "inserted"]
OPENS = re.compile(r"^(?!else|return)((?:[A-Za-z_][\w:<>]*[ &*]+)+)(\w+)\s*\(([^;{}]*)\)\s*\{", re.MULTILINE)


def _at_the_margin(text: str) -> list[re.Match[str]]:
    """Functions that stand in no brace, and are no template's."""
    found, deep, begun = [], 0, 0
    for line in text.splitlines(keepends=True):
        if deep == 0 and (match := OPENS.match(text, begun)) and "template" not in text[:begun].rsplit(";", 1)[-1]:
            found.append(match)
        deep += line.count("{") - line.count("}")
        begun += len(line)
    return found


def inserted(text: str) -> str:
    """The program as the builder gives it to the compiler."""
    functions = _at_the_margin(text)
    first = functions[0].start()
    made = "".join(f"{one[1]}{one[2]}({one[3]});\n" for one in functions)
    return '#include "calls.h"\n' + text[:first] + made + text[first:]


def build(made: Emitted | str, board_id: str, folder: Path) -> None:
    """Compile a program for a board as its builder does; AssertionError with the compiler's words if it does not."""
    source = folder / "program.cpp"
    source.write_text(inserted(made if isinstance(made, str) else made.text))
    for file in () if isinstance(made, str) else made.files[1:]:
        (folder / file.name).write_text(file.text)
    command = [
        "avr-g++",
        f"-mmcu={device(board_id)}",
        *FLAGS,
        f"-I{CALLS}",
        str(source),
        "-o",
        str(folder / "program.o"),
    ]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    if done.returncode:
        raise AssertionError(f"{done.stderr}\n{source.read_text()}")
