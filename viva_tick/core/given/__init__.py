"""A program that somebody brought: what is in it, what is wrong with it, and a bench drafted from it. Nothing of it is
run."""

from __future__ import annotations

import io
import zipfile
import zlib

from .checks import CHECKS, Check, Edit, Wrong, mended
from .cpp import read_cpp
from .drafted import Draft, draft
from .facts import Facts
from .found import Found, Section, sections
from .nodes import Source
from .python import read_python

MOST = 400_000  # characters
ENDINGS = (".c", ".cpp", ".cc", ".h", ".hpp", ".ino", ".py")


def language_of(text: str, name: str = "") -> str:
    """ "cpp" or "python": by the file's name, else by what stands in it."""
    if name.endswith(".py"):
        return "python"
    if name.endswith(ENDINGS):
        return "cpp"
    python = sum(
        line.startswith(("import ", "from ", "def ", "while True:")) or line.rstrip().endswith(":")
        for line in text.split("\n")
    )
    return "cpp" if text.count(";") + text.count("{") > python else "python"


class Unreadable(ValueError):
    """What was brought is no program that can be read; says why."""


def read_program(text: str, name: str = "") -> Facts:
    """What is in a program. Raises `Unreadable`."""
    text = text.replace("\r\n", "\n").replace("\r", "\n").replace("\0", "").removeprefix("\ufeff")
    if len(text) > MOST:
        raise Unreadable(f"It has {len(text):,} characters; {MOST:,} are read at most.")
    if not text.strip():
        raise Unreadable("There is nothing in it yet.")
    try:
        facts = Facts(read_cpp(text) if language_of(text, name) == "cpp" else read_python(text))
    except RecursionError:
        raise Unreadable("It is nested far too deeply to be a program that somebody wrote.") from None
    does = any(one.kind in ("call", "assign", "declare") for one in facts.everything)
    if not facts.source.functions and not does and not facts.source.constants:
        raise Unreadable("Nothing of it is a program in C, C++ or Python.")
    return facts


def read_zip(data: bytes) -> tuple[str, str]:
    """(the text, a name that tells its language) of the programs in a zip, one after another, headers first. Raises
    `Unreadable`."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            rows = [one for one in archive.infolist() if not one.is_dir() and one.filename.endswith(ENDINGS)]
            rows = [one for one in rows if "__MACOSX" not in one.filename]
            if sum(one.file_size for one in rows) > MOST * 4:
                raise Unreadable(f"Its programs have more than {MOST:,} characters.")
            texts = {one.filename: archive.read(one).decode("utf-8", "replace") for one in rows}
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, zlib.error):
        raise Unreadable("This is no zip that can be opened.") from None
    if not texts:
        raise Unreadable("There is no program in C, C++ or Python in this zip.")
    python = sum(name.endswith(".py") for name in texts) * 2 > len(texts)
    mine = [name for name in texts if name.endswith(".py") == python]
    mine.sort(key=lambda name: (not name.endswith((".h", ".hpp")), name.endswith("main.py"), name))
    if len(mine) == 1:
        return texts[mine[0]], mine[0]
    sign = "#" if python else "//"
    return "\n".join(f"{sign} {name}\n{texts[name]}" for name in mine), "main.py" if python else "all.cpp"


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
    "Draft",
    "Edit",
    "Facts",
    "Found",
    "Section",
    "Source",
    "Unreadable",
    "Wrong",
    "draft",
    "language_of",
    "mended",
    "read_program",
    "read_zip",
    "sections",
    "wrongs",
]
