"""Lines that are no longer than a reader likes."""

from __future__ import annotations

import textwrap

WIDTH = 100


def noted(line: str, note: str, mark: str, indent: str) -> list[str]:
    """A line with a comment behind it; or above it, where both together are too long. `mark` begins a comment."""
    if not note:
        return folded(line, indent)
    whole = f"{line}  {mark} {note}"
    if len(whole) <= WIDTH:
        return [whole]
    above = textwrap.wrap(note, WIDTH - len(indent) - len(mark) - 1)
    return [*(f"{indent}{mark} {one}" for one in above), *folded(line, indent)]


def folded(line: str, indent: str) -> list[str]:
    """A line in as many as it takes: broken within brackets, between what is joined there."""
    found: list[str] = []
    while len(line) > WIDTH:
        place = _break(line)
        if not place:
            break
        found.append(line[:place].rstrip())
        line = f"{indent}{' ' * (8 if line.endswith((':', '{')) else 4)}{line[place:].lstrip()}"
    return [*found, line]


def _break(line: str) -> int:
    """The last place within `WIDTH` where a line may be broken, and is open in a bracket; 0 for none."""
    deep, quoted, best, shallow = 0, "", 0, 99
    began = len(line) - len(line.lstrip())
    for at, letter in enumerate(line[:WIDTH]):
        if quoted:
            quoted = "" if letter == quoted and line[at - 1] != "\\" else quoted
        elif letter in "\"'":
            quoted = letter
        elif letter in "([{":
            deep += 1
        elif letter in ")]}":
            deep -= 1
        rest = line[at:]
        after = line[max(at - 2, 0) : at]
        joins = rest.startswith((" && ", " || ", " and ", " or ")) or after == ", "
        if deep > 0 and not quoted and joins and at > began + 8 and deep <= shallow:
            best, shallow = at, deep
    return best
