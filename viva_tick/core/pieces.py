"""Pieces of C++ that programs are put together from: real files, each beside the Python of the same rule.

A piece compiles by itself once everything in it is wanted (`tests/core/test_pieces.py`). What a program does not need
of one stands between `#if USE_…` and `#endif`; these are answered here, so that none is left in the program.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from functools import cache, lru_cache
from pathlib import Path

ASKS = re.compile(r"#(?:if|elif) (.*\b(?:USE|AT)_.*)")
NAME = re.compile(r"\b(?:USE|AT)_\w+")
INCLUDE = re.compile(r'#include "(\w+\.h)"')
PLACE = re.compile(r"#(define|undef) (AT_\w+)")


def _holds(asked: str, wanted: Collection[str]) -> bool:
    """Whether names joined by `||`, `&&` and `!` hold; each alternative is a row of names that all must."""

    def one(name: str) -> bool:
        name = name.strip()
        return name.lstrip("!") not in wanted if name.startswith("!") else name in wanted

    return any(all(map(one, row.split("&&"))) for row in asked.split("||"))


def resolved(text: str, wanted: Collection[str]) -> str:
    """The text without questions: of each `#if` over such names the branch that holds. Other directives stay."""
    return _resolved(text, frozenset(wanted))


@lru_cache(maxsize=256)
def _resolved(text: str, wanted: frozenset[str]) -> str:
    lines: list[str] = []
    open_: list[tuple[bool, bool, bool]] = []  # (ours, whether this branch is taken, whether one has been)
    for line in text.splitlines(keepends=True):
        word = line.split(" ", 1)[0].rstrip()
        if word in ("#if", "#ifdef", "#ifndef"):
            asks = ASKS.match(line)
            taken = _holds(asks[1], wanted) if asks else True
            open_.append((asks is not None, taken, taken))
            if asks:
                continue
        elif word in ("#elif", "#else") and open_[-1][0]:
            _, _, done = open_[-1]
            asks = ASKS.match(line)
            taken = not done and (_holds(asks[1], wanted) if asks else True)
            open_[-1] = (True, taken, done or taken)
            continue
        elif word == "#endif" and open_.pop()[0]:
            continue
        if all(taken for _, taken, _ in open_):
            lines.append(line)
    return "".join(lines)


def spliced(text: str, wanted: Collection[str], folder: Path) -> str:
    """The text with the files of a folder in the places where it includes them, each as far as it is wanted there: as
    the compiler would, with what is defined at that place."""
    here: set[str] = set()
    lines = []
    for line in text.splitlines(keepends=True):
        if (set_ := PLACE.match(line)) is not None:
            (here.add if set_[1] == "define" else here.discard)(set_[2])
        elif (include := INCLUDE.match(line)) is not None:
            wanted_here = {*wanted, *here}
            lines.append(spliced(resolved(_text_of(folder / include[1]), wanted_here), wanted_here, folder))
        else:
            lines.append(line)
    return "".join(lines)


def piece(beside: str, name: str = "", wanted: Collection[str] = (), words: Mapping[str, str] | None = None) -> str:
    """The piece beside a module (its `__file__`), of its name or another, as far as it is `wanted`; `words` are
    replaced by others, as whole words."""
    path = Path(beside)  # of a compiled module its file's name says of what system it is, too
    text = resolved(_text_of(path.parent / f"{name or path.name.partition('.')[0]}.h"), wanted)
    for word, other in (words or {}).items():
        text = re.sub(rf"\b{word}\b", other, text)
    return text


@cache
def _text_of(path: Path) -> str:
    """A piece as it was when it was asked for first."""
    return path.read_text(encoding="utf-8")
