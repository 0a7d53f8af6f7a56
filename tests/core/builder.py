"""What the usual builder of `setup()` / `loop()` boards does with a program, and the cross compiler that it calls.

It includes the board's calls and puts prototypes of all functions before the first of them. The device is found among
those that the compiler knows by its memory and registers, which are the board's data.
"""

from __future__ import annotations

import re
import subprocess
from functools import cache
from pathlib import Path

from viva_tick.core.boards import boards
from viva_tick.core.emit import Emitted

CALLS = Path(__file__).parent / "board_calls"
HEADERS = Path("/usr/lib/avr/include/avr")
FLAGS = ["-std=gnu++11", "-Os", "-Wall", "-Wextra", "-Werror", "-ffunction-sections", "-fno-exceptions", "-c"]
OPENS = re.compile(r"^(?!else|return)((?:[A-Za-z_][\w:<>]*[ &*]+)+)(\w+)\s*\(([^;{}]*)\)\s*\{", re.MULTILINE)
# What a board of the class has, and what tells its device from others with as much memory.
KNOWN = {
    "mid-8bit-5v": (r"RAMEND\s+\(?0x0?8FF", r"E2END\s+\(?0x3FF", r"\bPORTD\b", r"\bWDTCSR\b", r"\bPCINT2_vect\b", r"\bTIMSK2\b"),
    "small-8bit-5v": (r"RAMEND\s+\(?0x25F", r"E2END\s+\(?0x1FF", r"\bWDTCR\b", r"\bTIMER0_COMPA_vect\b", r"\bPLLCSR\b"),
}  # fmt: skip


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


@cache
def device(board_id: str) -> str:
    """What the compiler calls the device of a class of board."""
    listed = re.findall(r"((?:defined *\(\w+\)[ |\\\n]*)+)#\s*include <avr/(\w+\.h)>", (HEADERS / "io.h").read_text())
    for names, header in listed:
        text = (HEADERS / header).read_text(errors="replace")
        for other in re.findall(r"#\s*include [<\"](?:avr/)?(io\w+\.h)", text):
            text += (HEADERS / other).read_text(errors="replace")
        if all(re.search(pattern, text) for pattern in KNOWN[board_id]):
            return re.findall(r"__AVR_(\w+)__", names)[-1].lower()
    raise AssertionError(f"The compiler knows no device like {boards()[board_id].name}.")


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
