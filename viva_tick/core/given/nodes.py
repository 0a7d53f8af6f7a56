"""A program that somebody brought, as a tree that is the same for C++ and for Python.

Kinds of node, with what stands below each (`kids`) and what `name` and `value` are:

- name (name), number (value), text (name), call (name; `of` what it is called on; arguments), keyword (name; its
  value), infix (name the operator; left, right), prefix (name; operand), step (name ++ or --; operand), assign (name =,
  += …; target, value), index (array, place), field (name; `of`), choice (test, one, other), list (items), body (a
  function that has no name: its block);
- block (statements), declare (name; `words` its type; its value, or nothing), do (an expression), if (test, block,
  block), while, do-while (test, block), for (init, test, update, block), switch (value, cases), case (value or nothing,
  then statements), return, break, continue, unknown (what is not understood).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field


def finite(made: Callable[[], float | None]) -> float | None:
    """A number that comes of a text; None where none does, or a larger one than there is."""
    try:
        value = made()
    except (ValueError, OverflowError):
        return None
    return value if value is not None and math.isfinite(value) else None


@dataclass(frozen=True, eq=False)
class Node:
    """A node: `line` from 1, `start` and `stop` in the text."""

    kind: str
    line: int
    start: int
    stop: int
    name: str = ""
    kids: tuple[Node, ...] = ()
    value: float | None = None
    of: str = ""
    words: str = ""

    def walk(self) -> Iterator[Node]:
        """It and all below it, from the top."""
        yield self
        for kid in self.kids:
            yield from kid.walk()

    def all(self, *kinds: str) -> list[Node]:
        """Those of some kinds in it."""
        return [one for one in self.walk() if one.kind in kinds]

    def calls(self, *names: str) -> list[Node]:
        """The calls of functions of these names in it."""
        return [one for one in self.walk() if one.kind == "call" and one.name in names]

    def speaks_of(self, name: str) -> bool:
        """Whether a name is used in it."""
        return any(name in (one.name, one.of) and one.kind in ("name", "call", "field") for one in self.walk())


NOTHING = Node("block", 0, 0, 0)


@dataclass(frozen=True)
class Function:
    """A function: what it is called, its parameters, its block."""

    name: str
    params: tuple[str, ...]
    body: Node
    line: int


@dataclass
class Source:
    """A whole program: what stands outside functions in order, the functions, what it brings in, constants, and the
    lines that could not be parsed. `setup` runs once, `loop` again and again."""

    text: str
    language: str
    outside: list[Node] = field(default_factory=list)
    functions: dict[str, Function] = field(default_factory=dict)
    brings: list[tuple[str, int]] = field(default_factory=list)
    constants: dict[str, Node] = field(default_factory=dict)
    broken: list[int] = field(default_factory=list)
    setup: Node = NOTHING
    loop: Node = NOTHING
    more: dict[str, str] = field(default_factory=dict)

    @property
    def lines(self) -> list[str]:
        """Its lines, without their ends."""
        return self.text.split("\n")

    def said(self, node: Node) -> str:
        """The text of a node."""
        return self.text[node.start : node.stop]

    def number(self, node: Node | None, depth: int = 0) -> float | None:
        """What an expression is, where it is constant, and no more than a number can be."""
        return finite(lambda: self._number(node, depth))

    def _number(self, node: Node | None, depth: int) -> float | None:
        if node is None or depth > 12:
            return None
        if node.kind == "number":
            return node.value
        if node.kind == "name" and node.name in self.constants:
            return self.number(self.constants[node.name], depth + 1)
        kids = [self.number(kid, depth + 1) for kid in node.kids]
        if node.kind == "prefix" and node.name == "-" and kids[0] is not None:
            return -kids[0]
        if node.kind == "infix" and None not in kids:
            left, right = (kid or 0.0 for kid in kids)
            known = {"+": left + right, "-": left - right, "*": left * right}
            if node.name in ("/", "//") and right:
                known[node.name] = left / right if "." in self.said(node) else float(int(left / right))
            return known.get(node.name)
        if node.kind == "call" and node.name in ("pdMS_TO_TICKS", "digitalPinToInterrupt", "const") and len(kids) == 1:
            return kids[0]
        return None

    def function_of(self, node: Node) -> Function | None:
        """The function of the program that a call is of."""
        return self.functions.get(node.name) if node.kind == "call" and not node.of else None
