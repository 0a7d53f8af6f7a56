"""The program in C, compiled with what this machine has: its warnings, and how much of the board it fills.

The device of a class of board is found among those that the cross compiler knows, by its memory and its registers.
"""

from __future__ import annotations

import re
import shutil
import subprocess
import tempfile
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

from ..document import Bench
from .c import STRICT, c_files

FOLDERS = ("/usr/lib/avr/include/avr", "/usr/avr/include/avr", "/usr/local/avr/include/avr")
# What a board of the class has, and what tells its device from others with as much memory.
KNOWN = {
    "mid-8bit-5v": (
        r"RAMEND\s+\(?0x0?8FF", r"E2END\s+\(?0x3FF", r"\bPORTD\b", r"\bWDTCSR\b", r"\bPCINT2_vect\b", r"\bTIMSK2\b",
    ),
    "small-8bit-5v": (r"RAMEND\s+\(?0x25F", r"E2END\s+\(?0x1FF", r"\bWDTCR\b", r"\bTIMER0_COMPA_vect\b", r"\bPLLCSR\b"),
}  # fmt: skip
LAYERED = {"mid-8bit-5v"}  # boards whose layer is whole, so that sizes say something
MOST_S = 20.0
PACKAGES = "the packages gcc-avr and avr-libc"


@dataclass(frozen=True)
class Compiled:
    """What came of it: warnings and errors as the compiler says them ("" for none), the bytes that the program takes of
    the board's program memory and of its RAM (0: not known), and how many there are. `why`: it was not compiled."""

    said: str = ""
    flash: int = 0
    flash_most: int = 0
    ram: int = 0
    ram_most: int = 0
    failed: bool = False
    why: str = ""


@cache
def device(board_id: str) -> str:
    """What the cross compiler calls the device of a class of board; empty where there is none, or it knows none."""
    headers = next((Path(one) for one in FOLDERS if (Path(one) / "io.h").exists()), None)
    if headers is None or board_id not in KNOWN:
        return ""
    listed = re.findall(r"((?:defined *\(\w+\)[ |\\\n]*)+)#\s*include <avr/(\w+\.h)>", (headers / "io.h").read_text())
    for names, header in listed:
        text = (headers / header).read_text(errors="replace")
        for other in re.findall(r"#\s*include [<\"](?:avr/)?(io\w+\.h)", text):
            text += (headers / other).read_text(errors="replace")
        if all(re.search(pattern, text) for pattern in KNOWN[board_id]):
            return str(re.findall(r"__AVR_(\w+)__", names)[-1]).lower()
    return ""


def compiled(bench: Bench) -> Compiled:
    """The bench's C program, compiled here."""
    board = bench.the_board
    if board.id in LAYERED:
        if not shutil.which("avr-gcc") or not device(board.id):
            return Compiled(
                why=f"The cross compiler for this board is not on this machine: the packages {PACKAGES} bring it."
            )
        flags = (f"-mmcu={device(board.id)}", f"-DF_CPU={board.clock_hz}UL", "-Os")
        return _cross(_texts(bench), flags, board.ram_bytes)
    compiler = shutil.which("cc") or shutil.which("gcc")
    if not compiler:
        return Compiled(why="There is no C compiler on this machine: the package gcc brings one.")
    return _here(_texts(bench), compiler)


def _texts(bench: Bench) -> tuple[tuple[str, str], ...]:
    return tuple((file.name or "program.c", file.text) for file in c_files(bench).files)


def _run(folder: Path, *command: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False, timeout=MOST_S)  # noqa: S603


@lru_cache(32)
def _cross(texts: tuple[tuple[str, str], ...], flags: tuple[str, ...], ram_most: int) -> Compiled:
    with tempfile.TemporaryDirectory(prefix="viva-tick-build-") as name:
        folder = Path(name)
        for file, text in texts:
            (folder / file).write_text(text)
        try:
            done = _run(folder, "avr-gcc", *flags, *STRICT, "program.c", "layer.c", "-o", "program.elf")
            if done.returncode:
                return Compiled(said=done.stderr, failed=True)
            sizes = _run(folder, "avr-size", "program.elf").stdout.splitlines()[1].split()
            (folder / "ends.c").write_text("#include <avr/io.h>\nFLASHEND\n")
            ends = _run(folder, "avr-gcc", *flags, "-E", "-P", "ends.c").stdout.strip().splitlines()
        except subprocess.TimeoutExpired:
            return Compiled(why=f"The compiler took over {MOST_S:.0f} s and was stopped.")
    code, data, bss = map(int, sizes[:3])
    found = re.search(r"0[xX][0-9A-Fa-f]+", ends[-1]) if ends else None
    most = int(found[0], 16) + 1 if found else 0
    return Compiled(done.stderr, code + data, most, data + bss, ram_most)


@lru_cache(32)
def _here(texts: tuple[tuple[str, str], ...], compiler: str) -> Compiled:
    with tempfile.TemporaryDirectory(prefix="viva-tick-build-") as name:
        folder = Path(name)
        for file, text in texts:
            (folder / file).write_text(text)
        try:
            done = _run(folder, compiler, *STRICT, "-c", "program.c", "-o", "program.o")
        except subprocess.TimeoutExpired:
            return Compiled(why=f"The compiler took over {MOST_S:.0f} s and was stopped.")
    return Compiled(said=done.stderr, failed=bool(done.returncode))
