"""Places in a program that are the user's own: what stands in them is kept when the program is made again."""

from __future__ import annotations

import re
from collections.abc import Iterable

from .files import Emitted, File

BEGINS, ENDS = "Your lines from here: ", "Your lines to here: "
TOP = "top"
PLACE = re.compile(
    rf"^[ \t]*(?P<mark>//|#) {BEGINS}(?P<name>[\w.-]+)[ \t]*\n(?P<lines>.*?)^[ \t]*(?P=mark) {ENDS}(?P=name)[ \t]*$",
    re.M | re.S,
)
OPEN = re.compile(
    rf"^[ \t]*(?://|#) {BEGINS}(?P<name>[\w.-]+)[ \t]*\n(?P<lines>.*?)(?=^[ \t]*(?://|#) {BEGINS}|\Z)", re.M | re.S
)
OURS = re.compile(r"\s*(//|#) Your (work|\d+ characters).*")  # what stands in a place that nobody has filled
MOST_KEPT = 200_000  # characters of an old file that are looked through


def place(name: str, lines: Iterable[str] = (), deep: str = "") -> list[str]:
    """A place in our notation, and what stands in it at first."""
    return [f"{deep}// {BEGINS}{name}", *lines, f"{deep}// {ENDS}{name}"]


def own_lines(text: str) -> dict[str, str]:
    """What a program has in its places, by their names; places that nobody has filled are left out."""
    found: dict[str, str] = {}
    text = text[:MOST_KEPT].replace("\r\n", "\n")
    for match in PLACE.finditer(text):
        rows = match["lines"].splitlines()
        if any(row.strip() and not OURS.fullmatch(row) for row in rows):
            found[match["name"]] = match["lines"]
    for match in OPEN.finditer(PLACE.sub("", text)):  # its end has gone: what follows may be anybody's
        found[f"{match['name']} (its end is missing)"] = match["lines"]
    return found


def kept(made: Emitted, old: str) -> tuple[Emitted, dict[str, str]]:
    """(the program with the lines of an old one in its places, the lines of places that are there no longer). The
    latter stand at the end of the program as comments, too: nothing is lost."""
    lines = own_lines(old)
    used: set[str] = set()

    def filled(match: re.Match[str]) -> str:
        name = match["name"]
        if name not in lines:
            return match[0]
        used.add(name)
        start, end = match.start("lines") - match.start(), match.end("lines") - match.start()
        return match[0][:start] + lines[name] + match[0][end:]

    files = [File(file.suffix, PLACE.sub(filled, file.text), file.name) for file in made.files]
    left = {name: rows for name, rows in lines.items() if name not in used}
    if left:
        mark = "#" if files[0].suffix == ".py" else "//"
        rows = [f"{mark} Yours, of places that are no longer there:"]
        for name, text in left.items():
            rows += [f"{mark} {name}", *(f"{mark}   {line}".rstrip() for line in text.splitlines())]
        first = files[0]
        files[0] = File(first.suffix, _with_end(first, rows), first.name)
    return Emitted(tuple(files), made.notes), left


def _with_end(file: File, rows: list[str]) -> str:
    """The text with lines at its end; a program in Python, whose end is its loop, has them before that."""
    said = "\n".join(rows) + "\n"
    head, loop, rest = file.text.partition("\n\nsetup()\nwhile True:\n")
    return f"{head}\n\n{said}{loop}{rest}" if loop else f"{file.text.rstrip()}\n\n{said}"
