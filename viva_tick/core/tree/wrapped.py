"""Lines that are no longer than a reader likes."""

from __future__ import annotations

import re
import textwrap

WIDTH = 100
OPEN = re.compile(
    r"(\s*(?:[\w.\[\]]+ (?:[-+*/|&]|//)?= |return |if |elif |while ))(.+?)(:?)$"
)  # brackets let it be broken


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


def within(text: str, python: bool = False) -> str:
    """A whole text with no line longer than that, as far as its language lets lines be broken: comments at words, code
    within brackets, in C at any space."""
    found: list[str] = []
    for line in text.split("\n"):
        found += [line] if len(line) <= WIDTH else _shorter(line, python)
    return "\n".join(found)


def _shorter(line: str, python: bool) -> list[str]:
    mark = "#" if python else "//"
    said = line.lstrip()
    indent = line[: len(line) - len(said)]
    if said.startswith(mark):
        lead = said[len(mark) :]
        lead = indent + mark + lead[: len(lead) - len(lead.lstrip())]
        words = textwrap.wrap(said[len(mark) :].strip(), WIDTH - len(lead) - 2, break_long_words=False)
        return [lead + words[0], *(f"{lead}{'  ' if lead.endswith('  ') else ''}{one}" for one in words[1:])]
    if said.startswith("#") or line.endswith("\\"):
        return [line]
    behind = re.match(rf"""((?:[^"']|"(?:\\.|[^"\\])*"|'(?:\\.|[^'\\])*')*?)  {mark} (.*)""", line)
    if behind:
        code, note = behind[1], behind[2]
        return within("\n".join(noted(code, note, mark, indent)), python).split("\n")
    if python and said.startswith("global "):
        rows = textwrap.wrap(said.removeprefix("global "), WIDTH - len(indent) - 7)
        return [f"{indent}global {row.rstrip(',')}" for row in rows]
    if python and _space(line, python) == 0 and (whole := OPEN.match(line)):
        line = f"{whole[1]}({whole[2]}){whole[3]}"
    found = folded(line, indent)
    while len(found[-1]) > WIDTH and (place := _space(found[-1], python)):
        last = found.pop()
        found += [last[:place], f"{indent}    {last[place:].lstrip()}"]
    return found


def _space(line: str, python: bool) -> int:
    """The last space within `WIDTH` at which the language takes a line's end for a space; 0 for none."""
    deep, quoted, best = 0, "", 0
    began = len(line) - len(line.lstrip())
    for at, letter in enumerate(line[:WIDTH]):
        if quoted:
            quoted = "" if letter == quoted and line[at - 1] != "\\" else quoted
        elif letter in "\"'":
            quoted = letter
        elif letter == " " and at > began + 8 and (deep > 0 or not python):
            best = at
        else:
            deep += (letter in "([{") - (letter in ")]}")
    return best
