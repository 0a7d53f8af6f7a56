"""The words of our notation, with the comments that stand at them."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

TOKEN = re.compile(
    r"(?P<note>//[^\n]*)|(?P<raw>^[ \t]*#(?:\\\n|[^\n])*)|(?P<words>\"(?:\\.|[^\"\\])*\")|(?P<letter>'(?:\\.|[^'\\])')"
    r"|(?P<number>0[xX][0-9A-Fa-f]+[uUlL]*|\d+[uUlL]*)|(?P<name>[A-Za-z_]\w*)"
    r"|(?P<sign><<=|>>=|\+\+|--|->|::|<<|>>|<=|>=|==|!=|&&|\|\||[-+*/%&|^]=|[-+*/%&|^~!<>=?:;,.(){}\[\]])"
    r"|(?P<line>\n)|(?P<blank>[ \t\r]+)",
    re.MULTILINE,
)


class NotationError(ValueError):
    """Something that is not in the notation."""


@dataclass
class Token:
    """A word of the notation: its kind and text, where it stands, what comments stand above and behind it."""

    kind: str
    text: str
    line: int
    above: list[str] = field(default_factory=list)
    gap: bool = False
    note: str = ""


def tokens_of(text: str) -> list[Token]:
    """All of a text; the last is its end. `NotationError` for what is no word."""
    found: list[Token] = []
    above: list[str] = []
    line, lines_since, gap, place = 1, 0, False, 0
    while place < len(text):
        match = TOKEN.match(text, place)
        if match is None:
            raise NotationError(f"line {line}: {text[place : place + 40]!r}")
        place, kind, said = match.end(), str(match.lastgroup), match[0]
        if kind == "line":
            line += 1
            lines_since += 1
            gap = gap or (lines_since > 1 and not above)
        elif kind == "note":
            if found and found[-1].line == line:
                found[-1].note = said[2:].strip()
            else:
                above.append(said[2:].strip())
                lines_since = 0
        elif kind != "blank":
            token = Token(kind, said, line, above, gap)
            found.append(token)
            line += said.count("\n")
            token.line = line
            above, gap, lines_since = [], False, 0
    found.append(Token("end", "", line, above, gap))
    return found
