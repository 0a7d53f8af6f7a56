"""The notation in which programs are written down here, read into `nodes`.

It is a small part of C++: types of fields and methods, no inheritance; nothing that changes something stands within an
expression (`n++` is a statement of its own), so that every language can say it. What is not in it is refused with the
line that it stands in: a `NotationError` is a mistake of ours, never of a bench.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator
from dataclasses import replace
from functools import lru_cache
from typing import Any

from .nodes import (
    Block,
    Case,
    Count,
    Declare,
    Do,
    Enum,
    Expression,
    For,
    Function,
    If,
    Leave,
    Maker,
    Module,
    Name,
    Part,
    Pointer,
    Raw,
    Remark,
    Return,
    Set,
    Statement,
    Struct,
    Switch,
    Taken,
    Type,
    Variable,
    While,
)
from .reading_values import SETS, ValueReader
from .simpler import simpler
from .tokens import NotationError

COMMENT = re.compile(r"\s*(//.*)?$")


class StatementReader(ValueReader):
    """Reads statements."""

    def statements(self) -> tuple[Statement, ...]:
        """What stands up to a closing brace, which is taken."""
        found: list[Statement] = []
        while self.now.text != "}":
            if self.now.kind == "end":
                raise self.fail("a closing brace")
            one = self.statement()
            if one is not None:
                found.append(one)
        end = self.take("}")
        if end.above:
            found.append(Remark(above=tuple(end.above)))
        return tuple(found)

    def _body(self) -> tuple[tuple[Statement, ...], bool, str]:
        """(the statements, whether without braces, the note behind the opening brace)."""
        if self.now.text != "{":
            one = self.statement()
            return ((one,) if one is not None else ()), True, ""
        note = self.take("{").note
        self.tokens[self.at - 1].note = ""
        return self.statements(), False, note

    def statement(self) -> Statement | None:
        """One statement; None for one that does nothing."""
        start = self.now
        said: dict[str, Any] = {"above": tuple(start.above), "gap": start.gap}
        made = {
            "if": self._if, "switch": self._switch, "for": self._for, "while": self._while, "do": self._do,
        }.get(start.text)  # fmt: skip
        if made is not None:
            found: Statement = self._with(made(), said)
            return found
        if start.text == "{":
            note = self.take("{").note
            body = self.statements()
            if not body and not start.above and not note and not self._behind():
                return None
            return (
                Block(body=body, **{**said, "note": note or self._behind()})
                if body
                else Remark(**{**said, "above": (*said["above"], *filter(None, (note, self._behind())))})
            )
        if self.takes(";"):
            return None
        one = self._simple()
        return replace(one, **said, note=self._behind())

    @staticmethod
    def _with(one: Any, said: dict[str, Any]) -> Any:
        return replace(one, **said)

    def _simple(self) -> Statement:
        if self.now.text in ("break", "continue"):
            word = self.take().text
            self.take(";")
            return Leave(word=word)
        if self.now.text == "return":
            self.take()
            value = None if self.now.text == ";" else self.expression()
            self.take(";")
            return Return(value=value)
        if self._declares():
            made = self._declaration()
            self.take(";")
            return made
        what = self._doing()
        self.take(";")
        return Do(what=what)

    def _doing(self) -> Expression:
        """An assignment, a count or a call."""
        if sign := self.takes("++", "--"):
            return Count(self._behind_it(self._first()), sign)
        target = self.expression()
        if self.now.text in ("++", "--"):
            return Count(target, self.take().text)
        if self.now.text in SETS:
            sign = self.take().text
            value = self._row() if self.now.text == "{" else self._doing()
            return Set(target, sign, value)
        return target

    def _declaration(self) -> Declare | Pointer:
        kind = self.type()
        if self.now.text == "(":  # a function as a value
            self.take("(")
            self.take("*")
            ident = self.name()
            self.take(")")
            takes = self._parameters()
            if self.takes("="):
                self.take("nullptr")
            return Pointer(gives=kind, ident=ident, takes=takes)
        names = [self._variable()]
        while self.takes(","):
            names.append(self._variable())
        return Declare(type=kind, names=tuple(names))

    def _variable(self) -> Variable:
        ident = self.name()
        placed = self.name() if self.now.kind == "name" else ""
        sizes: list[Expression] = []
        while self.takes("["):
            sizes.append(Name("") if self.now.text == "]" else self.expression())
            self.take("]")
        begins = given = None
        if self.takes("="):
            begins = self._row() if self.now.text == "{" else self.expression()
        elif self.takes("("):
            given = self._given(")")
        return Variable(ident, tuple(sizes), begins, given, placed)

    def _if(self) -> If:
        self.take("if")
        self.take("(")
        asks = self.expression()
        self.take(")")
        yes, short, note = self._body()
        if short and yes:
            note = ""
        no: tuple[Statement, ...] | None = None
        no_note = ""
        if self.now.text == "else" and self.now.kind == "name":
            self.take("else")
            no, _, no_note = self._body()
        return If(asks=asks, yes=yes, no=no, short=short, note=note, no_note=no_note)

    def _switch(self) -> Switch:
        self.take("switch")
        self.take("(")
        value = self.expression()
        self.take(")")
        note = self.take("{").note
        cases: list[Case] = []
        while not self.takes("}"):
            values: list[Expression] = []
            others = False
            while self.now.text in ("case", "default"):
                if self.take().text == "default":
                    others = True
                else:
                    values.append(self.expression())
                self.take(":")
            behind = self._behind()
            body: list[Statement] = []
            while self.now.text not in ("case", "default", "}"):
                one = self.statement()
                if one is not None:
                    body.append(one)
            if len(body) == 1 and isinstance(body[0], Block):
                body = list(body[0].body)
            cases.append(Case(() if others else tuple(values), tuple(body), behind))
        return Switch(value=value, cases=tuple(cases), note=note)

    def _for(self) -> For:
        self.take("for")
        self.take("(")
        first: Declare | Do | None = None
        if self.now.text != ";":
            one = self._declaration() if self._declares() else Do(what=self._doing())
            if isinstance(one, Pointer):
                raise self.fail("a number")
            first = one
        self.take(";")
        asks = None if self.now.text == ";" else self.expression()
        self.take(";")
        step = None if self.now.text == ")" else self._doing()
        self.take(")")
        body, short, note = self._body()
        return For(first=first, asks=asks, step=step, body=body, short=short, note=note)

    def _while(self) -> While:
        self.take("while")
        self.take("(")
        asks = self.expression()
        self.take(")")
        body, short, note = self._body()
        return While(asks=asks, body=body, short=short, note=note)

    def _do(self) -> While:
        self.take("do")
        body, _, note = self._body()
        self.take("while")
        self.take("(")
        asks = self.expression()
        self.take(")")
        self.take(";")
        return While(asks=asks, body=body, after=True, note=note)

    def _parameters(self) -> tuple[Taken, ...]:
        self.take("(")
        found: list[Taken] = []
        while not self.takes(")"):
            kind = self.type()
            if self.now.text == "(":
                raise self.fail("a plain parameter")
            found.append(Taken(kind, self.name() if self.now.kind == "name" else ""))
            if not self.takes(","):
                self.take(")")
                break
        return tuple(found)


class Reader(StatementReader):
    """Reads a whole text."""

    def module(self) -> Module:
        """A whole text."""
        parts: list[Part] = []
        while self.now.kind != "end":
            parts.append(self._part())
        if self.now.above:
            parts.append(Remark(above=tuple(self.now.above)))
        return Module(tuple(parts))

    def _part(self) -> Part:
        start = self.now
        said: dict[str, Any] = {"above": tuple(start.above), "gap": start.gap}
        if start.kind == "raw":
            return Raw(text=self.take().text, **said)
        if start.text == "enum":
            return replace(self._enum(), **said)
        if start.text == "template":
            self.take()
            self.take("<")
            made: list[str] = []
            while not self.takes(">"):
                self.type()
                made.append(self.name())
                self.takes(",")
            return replace(self._struct(tuple(made)), **said)
        if start.text == "struct":
            return replace(self._struct(()), **said)
        return replace(self._global(), **said)

    def _enum(self) -> Enum:
        self.take("enum")
        own = bool(self.takes("class"))
        ident = self.name()
        self.take(":")
        base = self.name()
        self.types.add(ident)
        self.take("{")
        values: list[tuple[str, Expression | None]] = []
        while not self.takes("}"):
            name = self.name()
            values.append((name, self.expression() if self.takes("=") else None))
            self.takes(",")
        self.take(";")
        return Enum(ident=ident, own=own, base=base, values=tuple(values), note=self._behind())

    def _struct(self, made_with: tuple[str, ...]) -> Struct:
        self.take("struct")
        ident = self.name()
        self.types.add(ident)
        self.take("{")
        parts: list[Declare | Pointer | Maker | Function] = []
        while self.now.text != "}":
            start = self.now
            said: dict[str, Any] = {"above": tuple(start.above), "gap": start.gap}
            one = self.takes("explicit")
            if self.now.text == ident and self.ahead().text == "(":
                parts.append(replace(self._maker(bool(one)), **said))
                continue
            method = self._method()
            if method is not None:
                parts.append(replace(method, **said))
                continue
            declared = self._declaration()
            self.take(";")
            parts.append(replace(declared, **said, note=self._behind()))
        self.take("}")
        self.take(";")
        return Struct(ident=ident, made_with=made_with, parts=tuple(parts))

    def _maker(self, one: bool) -> Maker:
        self.name()
        takes = self._parameters()
        fields: list[tuple[str, Expression]] = []
        if self.takes(":"):
            while True:
                name = self.name()
                self.take("(")
                fields.append((name, self.expression()))
                self.take(")")
                if not self.takes(","):
                    break
        self.take("{")
        self.take("}")
        return Maker(takes=takes, fields=tuple(fields), one=one)

    def _method(self) -> Function | None:
        """A function, or None where something else is declared: nothing is taken then."""
        began = self.at
        try:
            plain_c = self.now.text == "extern"
            if plain_c:
                self.take()
                self.take('"C"')
            macro = self.ahead().text == "(" and self.now.text.isupper()
            gives = Type("void") if macro else self.type()
            ident = self.name()
            if macro:
                self.take("(")
                takes: tuple[Taken, ...] = (Taken(Type(self.name())),)
                self.take(")")
            else:
                takes = self._parameters()
            keeps = bool(self.takes("const"))
            if self.now.text != "{":
                raise self.fail("{")
        except NotationError:
            self.at = began
            return None
        opening = self.take("{")
        body = self.statements()
        one_line = self.tokens[self.at - 1].line == opening.line and len(body) == 1
        note = opening.note if not one_line else self._behind()
        return Function(
            gives=gives, ident=ident, takes=takes, body=body, keeps=keeps, macro=macro, plain_c=plain_c,
            one_line=one_line, note=note,
        )  # fmt: skip

    def _global(self) -> Part:
        function = self._method()
        if function is not None:
            return function
        if (placed := self._placed_function()) is not None:
            return placed
        declared = self._declaration()
        self.take(";")
        return replace(declared, note=self._behind())

    def _placed_function(self) -> Raw | None:
        """What is said to one compiler alone on where a function stands."""
        words = [self.ahead(n).text for n in range(6)]
        if words[2:4] != ["(", ")"] or words[5] != ";":
            return None
        self.at += 6
        return Raw(text=f"{words[0]} {words[1]}() {words[4]};")


def read(text: str, types: Collection[str] = ()) -> Module:
    """The text as a module; `NotationError` where it is not in the notation. `types` are known besides."""
    return Reader(text, types).module()


def read_pieces(texts: Iterable[str], types: Collection[str] = ()) -> tuple[Part, ...]:
    """The parts of texts that stand one below the other, each made simpler: what was read before in the same company
    is not read again."""
    known: frozenset[str] = frozenset(types)
    parts: list[Part] = []
    for piece in _pieces(texts):
        found = _piece(piece, known)
        parts += found
        if more := {part.ident for part in found if isinstance(part, Struct | Enum)} - known:
            known |= more
    return tuple(parts)


def _pieces(texts: Iterable[str]) -> Iterator[str]:
    """The texts, each with the comments and empty lines at the end of the one before: they belong to what follows."""
    carried = ""
    for text in texts:
        lines = text.split("\n")
        kept = next((n for n in range(len(lines), 0, -1) if not COMMENT.match(lines[n - 1])), 0)
        before = carried + "\n".join(lines[:kept])
        after = "".join(f"{line}\n" for line in lines[kept:])
        if kept:
            yield before
        carried = f"\n{after}" if kept else before + after
    yield carried


@lru_cache(maxsize=512)
def _piece(text: str, types: frozenset[str]) -> tuple[Part, ...]:
    return simpler(read(text, types)).parts
