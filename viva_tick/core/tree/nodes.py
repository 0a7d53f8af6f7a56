"""What a program is made of, in no language's words: expressions, statements, declarations.

The notation in which programs and their pieces are written down (`reading`) is read into these; a writer for each
language makes its text of them. Texts of comments stand at what they belong to.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field, fields, is_dataclass
from functools import cached_property
from typing import Any


@dataclass(frozen=True)
class Type:
    """A type: its name, what it is made with (`Median<5>`), how many pointers; `fixed`: it never changes."""

    name: str
    made_with: tuple[str, ...] = ()
    pointers: int = 0
    reference: bool = False
    fixed: bool = False
    volatile: bool = False
    static: bool = False


# Expressions.


@dataclass(frozen=True)
class Number:
    """A whole number as it is written: `20UL`, `0x80000000UL`."""

    text: str

    @property
    def value(self) -> int:
        """The number."""
        return int(self.text.rstrip("ULul"), 0)

    @property
    def bits(self) -> str:
        """What its ending says of its type: "", "UL", "LL", "U"."""
        return self.text[len(self.text.rstrip("ULul")) :].upper()


@dataclass(frozen=True)
class Letter:
    """A character: `'0'`; `text` with its quotes."""

    text: str


@dataclass(frozen=True)
class Words:
    """A text: `"On"`; `text` with its quotes."""

    text: str


@dataclass(frozen=True)
class Name:
    """Something by its name."""

    ident: str


@dataclass(frozen=True)
class Within:
    """A state of a machine, a function of a type: `Mode::Focus`."""

    of: str
    ident: str


@dataclass(frozen=True)
class Member:
    """A field or a method of something."""

    of: Expression
    ident: str
    through: bool = False


@dataclass(frozen=True)
class Index:
    """One of a row."""

    of: Expression
    at: Expression


@dataclass(frozen=True)
class Call:
    """A function's result."""

    of: Expression
    given: tuple[Expression, ...]


@dataclass(frozen=True)
class Cast:
    """A value as one of another type."""

    to: Type
    what: Expression
    how: str = ""


@dataclass(frozen=True)
class Unary:
    """`!`, `-`, `~`, `&`, `*`, `sizeof`."""

    sign: str
    what: Expression


@dataclass(frozen=True)
class Binary:
    """Two values joined by a sign."""

    sign: str
    left: Expression
    right: Expression


@dataclass(frozen=True)
class Choose:
    """One value or another."""

    asks: Expression
    yes: Expression
    no: Expression


@dataclass(frozen=True)
class Set:
    """A value given to something: `=`, `+=`; a statement, or the right side of another."""

    target: Expression
    sign: str
    value: Expression


@dataclass(frozen=True)
class Count:
    """One more or one less of something: a statement."""

    target: Expression
    sign: str


@dataclass(frozen=True)
class Row:
    """Values in braces."""

    values: tuple[Expression, ...]


Expression = (
    Number | Letter | Words | Name | Within | Member | Index | Call | Cast | Unary | Binary | Choose | Set | Count | Row
)


# Statements. `above` are the comments on lines of their own before one, `note` is the one behind it.


@dataclass(frozen=True, kw_only=True)
class Said:
    """What stands round a statement or a declaration: an empty line, comments above, one behind."""

    gap: bool = False
    above: tuple[str, ...] = ()
    note: str = ""

    @cached_property
    def names_read(self) -> Counter[str]:
        """How often each name stands in it, but where it is given a value that costs nothing to work out."""
        found = Counter(node.ident for node in inside(self) if isinstance(node, Name))
        found.subtract(done.target.ident for done in put_aside(self))
        return found

    @cached_property
    def written(self) -> frozenset[str]:
        """Every variable that is declared in it, or given a value that costs nothing to work out."""
        declared = (one.ident for node in inside(self) if isinstance(node, Declare) for one in node.names)
        return frozenset([*declared, *(done.target.ident for done in put_aside(self))])

    @cached_property
    def mentions(self) -> frozenset[str]:
        """Every name and type that stands in it."""
        found = set()
        for node in inside(self):
            if isinstance(node, Name):
                found.add(node.ident)
            elif isinstance(node, Within):
                found.add(node.of)
            for kind in (getattr(node, "type", None), getattr(node, "gives", None)):
                if kind is not None:
                    found.add(kind.name)
        return frozenset(found)


@dataclass(frozen=True)
class Variable:
    """One name of a declaration: its sizes, if it is a row; what it begins with; `given`: what it is made with."""

    ident: str
    sizes: tuple[Expression, ...] = ()
    begins: Expression | None = None
    given: tuple[Expression, ...] | None = None
    placed: str = ""  # a word of the compiler's on where it stands


@dataclass(frozen=True)
class Declare(Said):
    """Variables of one type."""

    type: Type
    names: tuple[Variable, ...]


@dataclass(frozen=True)
class Pointer(Said):
    """A variable that is a function, or nothing: `bool (*held)(uint32_t now) = nullptr`."""

    gives: Type
    ident: str
    takes: tuple[Taken, ...]


@dataclass(frozen=True)
class Do(Said):
    """An expression for what it does."""

    what: Expression


@dataclass(frozen=True)
class If(Said):
    """One branch or another; `short`: without braces."""

    asks: Expression
    yes: tuple[Statement, ...]
    no: tuple[Statement, ...] | None = None
    short: bool = False
    no_note: str = ""


@dataclass(frozen=True)
class Case:
    """What is done for some values; none: for all others."""

    values: tuple[Expression, ...]
    body: tuple[Statement, ...]
    note: str = ""


@dataclass(frozen=True)
class Switch(Said):
    """One of several branches, by a value."""

    value: Expression
    cases: tuple[Case, ...]


@dataclass(frozen=True)
class For(Said):
    """A loop that counts."""

    first: Declare | Do | None
    asks: Expression | None
    step: Expression | None
    body: tuple[Statement, ...]
    short: bool = False


@dataclass(frozen=True)
class While(Said):
    """A loop that asks first, or (`after`) last."""

    asks: Expression
    body: tuple[Statement, ...]
    after: bool = False
    short: bool = False


@dataclass(frozen=True)
class Return(Said):
    """The end of a function."""

    value: Expression | None = None


@dataclass(frozen=True)
class Leave(Said):
    """`break` or `continue`."""

    word: str


@dataclass(frozen=True)
class Block(Said):
    """Statements in braces."""

    body: tuple[Statement, ...]


@dataclass(frozen=True)
class Remark(Said):
    """Nothing but its comments."""


Statement = Declare | Pointer | Do | If | Switch | For | While | Return | Leave | Block | Remark


# Declarations of a file.


@dataclass(frozen=True)
class Taken:
    """A parameter: without a name, it is not used."""

    type: Type
    ident: str = ""


@dataclass(frozen=True)
class Enum(Said):
    """Names for numbers; `own`: they are said with the type's name before them."""

    ident: str
    own: bool
    base: str
    values: tuple[tuple[str, Expression | None], ...]


@dataclass(frozen=True)
class Function(Said):
    """A function or a method; `keeps`: it changes nothing of what it belongs to. `macro`: it is named by one."""

    gives: Type
    ident: str
    takes: tuple[Taken, ...]
    body: tuple[Statement, ...]
    keeps: bool = False
    macro: bool = False
    plain_c: bool = False
    one_line: bool = False


@dataclass(frozen=True)
class Maker(Said):
    """How something of a type is made: what it takes, and which fields get it."""

    takes: tuple[Taken, ...]
    fields: tuple[tuple[str, Expression], ...]
    one: bool = False


@dataclass(frozen=True)
class Struct(Said):
    """A type of fields and methods. `made_with` are the numbers that it is made with (`Keys<4, 3>`)."""

    ident: str
    made_with: tuple[str, ...]
    parts: tuple[Declare | Pointer | Maker | Function, ...]

    @property
    def maker(self) -> Maker | None:
        """How it is made, if that takes anything."""
        return next((part for part in self.parts if isinstance(part, Maker)), None)

    @property
    def methods(self) -> tuple[Function, ...]:
        """What it does."""
        return tuple(part for part in self.parts if isinstance(part, Function))

    @property
    def fields(self) -> tuple[Declare | Pointer, ...]:
        """What it is made of."""
        return tuple(part for part in self.parts if isinstance(part, Declare | Pointer))


@dataclass(frozen=True)
class Raw(Said):
    """Lines for one compiler alone, as they are."""

    text: str


Part = Enum | Struct | Function | Declare | Pointer | Raw | Remark


@dataclass(frozen=True)
class Module:
    """A whole program, in its order."""

    parts: tuple[Part, ...] = field(default_factory=tuple)

    @property
    def structs(self) -> dict[str, Struct]:
        """Types by name."""
        return {part.ident: part for part in self.parts if isinstance(part, Struct)}

    @property
    def functions(self) -> dict[str, Function]:
        """Functions by name."""
        return {part.ident: part for part in self.parts if isinstance(part, Function)}


def inside(node: Any) -> Iterator[Any]:
    """A node and all nodes in it, from the outside in."""
    yield node
    for one in fields(node):
        held = getattr(node, one.name)
        for part in held if isinstance(held, tuple) else (held,):
            if is_dataclass(part):
                yield from inside(part)
            elif isinstance(part, tuple):
                for deeper in part:
                    if is_dataclass(deeper):
                        yield from inside(deeper)


def put_aside(node: Any) -> list[Any]:
    """Every statement in a node that gives a variable a value that costs nothing to work out."""
    return [
        one.what
        for one in inside(node)
        if isinstance(one, Do)
        and isinstance(one.what, Set)
        and one.what.sign == "="
        and isinstance(one.what.target, Name)
        and isinstance(one.what.value, Number | Name | Within)
    ]
