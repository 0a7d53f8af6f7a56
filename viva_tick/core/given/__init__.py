"""A program that somebody brought: what is in it, what is wrong with it, and a bench drafted from it. Nothing of it is
run."""

from __future__ import annotations

import io
import zipfile
import zlib

from ..units import counted
from .checks import CHECKS, Check, Edit, Wrong, mended
from .cpp import read_cpp
from .drafted import draft
from .facts import Facts, files_of
from .found import Found, Section, sections
from .nodes import Source
from .placed import Draft
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


def read_brought(data: bytes, name: str) -> Facts:
    """What is in a file, a program or a zip of one. Raises `Unreadable`."""
    if name.endswith(".zip") or data[:4] == b"PK\x03\x04":
        text, name = read_zip(data)
    else:
        if len(data) > 4 * MOST:
            raise Unreadable(f"It has {len(data):,} bytes; {MOST:,} characters are read at most.")
        text = data.decode("utf-8", "replace")
    return read_program(text, name)


def mended_all(text: str, found: list[Wrong]) -> str:
    """The text with every mend that is an edit; of two that touch one place the first."""
    kept: list[Edit] = []
    for one in found:
        apart = all(edit.stop <= other.start or edit.start >= other.stop for edit in one.edits for other in kept)
        same = [edit for edit in one.edits if edit not in kept]
        if apart and same:
            kept += same
    return mended(text, tuple(kept))


def mended_lines(text: str, edits: tuple[Edit, ...]) -> tuple[list[str], list[str]]:
    """(the lines that edits touch, as they are; as they become)."""
    first = min(edit.start for edit in edits)
    last = max(edit.stop for edit in edits)
    begin = text.rfind("\n", 0, first) + 1
    end = text.find("\n", last)
    end = len(text) if end < 0 else end
    within = tuple(Edit(edit.start - begin, edit.stop - begin, edit.text) for edit in edits)
    old, new = text[begin:end].split("\n"), mended(text[begin:end], within).split("\n")
    while old and new and old[-1] == new[-1]:
        old, new = old[:-1], new[:-1]
    while old and new and old[0] == new[0]:
        old, new = old[1:], new[1:]
    return old, new


def reading_lines(facts: Facts, found: list[Wrong], made: Draft) -> list[str]:
    """All of a reading as lines of text."""
    rows = []
    files = files_of(facts.source.text)
    if len(files) > 1:
        told = ", ".join(f"{name} from line {line}" for line, name in files)
        rows += [f"Lines are counted through all files, one after another: {told}.", ""]
    for one in found:
        rows.append(f"line {one.line}: {CHECKS[one.code].title} ({one.code})")
        rows.append(f"    {one.why}")
        old, new = mended_lines(facts.source.text, one.edits) if one.edits else ([], list(one.instead))
        rows += [f"    - {line.strip()}" for line in old] + [f"    + {line}" for line in new]
    rows += [] if found else ["Nothing that is looked for is wrong with it."]
    for section in sections(facts, made):
        rows += ["", section.title]
        for row in section.rows:
            where = f"  line{'s' if len(row.lines) > 1 else ''} {', '.join(map(str, row.lines))}" if row.lines else ""
            rows.append(f"    {row.what}{': ' if row.words else ''}{row.words}{where}")
    if made.unknown:
        rows += ["", f"Not understood, and not on the bench: {counted(len(made.unknown), 'line')}"]
        rows += [f"    {line}: {facts.source.lines[line - 1].strip()}" for line in made.unknown]
    return rows


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
    "mended_all",
    "mended_lines",
    "read_brought",
    "read_program",
    "read_zip",
    "reading_lines",
    "sections",
    "wrongs",
]
