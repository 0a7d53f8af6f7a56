"""A program that somebody brought: what is in it, what is wrong with it, and a bench drafted from it. Nothing of it is
run."""

from __future__ import annotations

from .checks import CHECKS, Check, Edit, Wrong, mended
from .cpp import read_cpp
from .facts import Facts
from .nodes import Source
from .python import read_python

MOST = 400_000  # characters


def language_of(text: str, name: str = "") -> str:
    """ "cpp" or "python": by the file's name, else by what stands in it."""
    if name.endswith(".py"):
        return "python"
    if name.endswith((".c", ".cpp", ".h", ".hpp", ".ino", ".cc")):
        return "cpp"
    python = sum(
        line.startswith(("import ", "from ", "def ", "while True:")) or line.rstrip().endswith(":")
        for line in text.split("\n")
    )
    return "cpp" if text.count(";") > python else "python"


def read_program(text: str, name: str = "") -> Facts:
    """What is in a program."""
    text = text.replace("\r\n", "\n").replace("\r", "\n").removeprefix("\ufeff")
    return Facts(read_cpp(text) if language_of(text, name) == "cpp" else read_python(text))


def wrongs(facts: Facts) -> list[Wrong]:
    """All that is wrong, by line."""
    found = [wrong for check in CHECKS.values() for wrong in check.find(facts)]
    seen: dict[tuple[str, int, str], Wrong] = {}
    for one in found:
        seen.setdefault((one.code, one.line, one.pin), one)
    return sorted(seen.values(), key=lambda one: (one.line, one.code))


__all__ = [
    "CHECKS",
    "MOST",
    "Check",
    "Edit",
    "Facts",
    "Source",
    "Wrong",
    "language_of",
    "mended",
    "read_program",
    "wrongs",
]
